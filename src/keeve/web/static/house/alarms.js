// What calls a person back to the mixer: a sound, a shake, spoken words, a notice; and a screen that stays on.
// Each can be switched off on this phone. A browser that is closed, or behind a locked screen, makes no sound: what is
// promised is that the clocks are right when it is opened.

const KEPT = "keeve_alarms";
const BEEPS = { done: [880, 880], soon: [660], late: [520, 390, 520, 390] };
const BEEP_S = 0.22;
const SHAKES = { done: [300, 120, 300], soon: [150], late: [500, 150, 500, 150, 500] };

export class Alarms {
  constructor() {
    this.on = { sound: true, spoken: true, shake: true, notices: false, awake: true, gloves: false };
    try { Object.assign(this.on, JSON.parse(localStorage.getItem(KEPT) || "{}")); } catch { /* the usual */ }
    this.audio = null;
    this.lock = null;
    const first = () => this.begin();
    for (const kind of ["pointerdown", "keydown"]) document.addEventListener(kind, first, { once: true });
    document.addEventListener("visibilitychange", () => { if (document.visibilityState === "visible") this.stayAwake(); });
  }

  set(name, value) {
    this.on[name] = value;
    try { localStorage.setItem(KEPT, JSON.stringify(this.on)); } catch { /* this page remembers it */ }
    if (name === "notices" && value && "Notification" in window) Notification.requestPermission();
    if (name === "awake") this.stayAwake();
  }

  // A browser lets a page sound only after the person has touched it.
  begin() {
    const Audio = window.AudioContext || window.webkitAudioContext;
    if (Audio && !this.audio) this.audio = new Audio();
    if (this.audio && this.audio.state === "suspended") this.audio.resume();
    this.stayAwake();
  }

  stayAwake() {
    if (!("wakeLock" in navigator)) return;
    if (this.on.awake && document.visibilityState === "visible") {
      if (this.asked || (this.lock && !this.lock.released)) return; // each tap comes here; the browser lets go when the page is hidden
      this.asked = navigator.wakeLock.request("screen").then((lock) => { this.lock = lock; }, () => {}).finally(() => { this.asked = null; });
    } else if (!this.on.awake && this.lock) {
      this.lock.release().catch(() => {});
      this.lock = null;
    }
  }

  ring(kind, words) {
    if (this.on.sound) this.beep(kind);
    if (this.on.shake && navigator.vibrate) navigator.vibrate(SHAKES[kind]);
    if (this.on.spoken) this.say(words);
    if (this.on.notices && document.visibilityState !== "visible") this.notice(words);
  }

  beep(kind) {
    if (!this.audio || this.audio.state !== "running") return;
    BEEPS[kind].forEach((hertz, place) => {
      const begins = this.audio.currentTime + place * BEEP_S * 1.4;
      const tone = this.audio.createOscillator();
      const loud = this.audio.createGain();
      tone.frequency.value = hertz;
      loud.gain.setValueAtTime(0.4, begins);
      loud.gain.exponentialRampToValueAtTime(0.01, begins + BEEP_S);
      tone.connect(loud).connect(this.audio.destination);
      tone.start(begins);
      tone.stop(begins + BEEP_S);
    });
  }

  // Where there is no voice the sound has to do.
  say(words) {
    const speech = window.speechSynthesis;
    if (!speech || speech.getVoices().length === 0) return;
    const said = new SpeechSynthesisUtterance(words);
    said.lang = document.documentElement.lang;
    speech.speak(said);
  }

  notice(words) {
    if (!("Notification" in window) || Notification.permission !== "granted") return;
    const show = (worker) => (worker ? worker.showNotification("Keeve", { body: words, tag: words }) : new Notification("Keeve", { body: words }));
    const ready = navigator.serviceWorker ? navigator.serviceWorker.getRegistration() : Promise.resolve(null);
    ready.then(show).catch(() => {});
  }
}
