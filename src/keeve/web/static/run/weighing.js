// The weigh view: a scale or a water meter read live, its target with tare and tolerance, vessel after vessel. Getters
// and taps for the component in mixer.js. What is taken goes into the log.

import { amountsOf } from "./amounts.js";
import { OVER_L } from "./constants.js";
import { t } from "../house/words.js";

const TENFOLD = 5; // a slip of the point, as the core has it
const ZEROED = "keeve_zeroed";
const SILENT_MS = 1000;
const AGAIN_MS = 2000;
const SHOWN_PAST = 1.25;
const FULL_IN_S = 6;
const LOW_PERCENT = 15;

export const weighing = {
  otherWay: "", // the dose whose reading fits with the vessel where it was taken without, or the other way
  otherNets: null,
  scale: null, // what is weighed: {part, name, vessels, at, tared, …}
  reading: null,
  heardMs: 0,
  wire: null,
  callAgain: 0,
  kinds: [],

  async openScale(kindWanted, view) {
    try {
      if (!this.kinds.length) this.kinds = await (await fetch(this.$root.dataset.devices)).json();
    } catch { /* no network, no scale: the figure beside it has to do */ }
    const mine = this.kinds.filter((one) => (one.kind === "water meter") === (kindWanted === "water meter"));
    let chosen = "";
    try { chosen = localStorage.getItem(`keeve_device ${kindWanted}`) || ""; } catch { /* the first */ }
    this.scale = { ...view, at: 0, tared: kindWanted === "water meter", taken: [], wanted: kindWanted, device: (mine.find((one) => one.key === chosen) || mine[0] || { key: "" }).key };
    this.root.querySelector("[data-scale]").showModal();
    this.connect();
  },
  weigh(line) { this.openScale("scale", { ...line.weigh, name: line.name }); },
  meter() { this.openScale("water meter", this.waterLeft); },
  weighWater() { this.openScale("scale", this.waterLeft); },
  // ── a reading that is typed ──────────────────────────────────────────────────
  // With the vessel on the scale or zeroed with it: the crew's scale is read one way, and that is remembered.
  get zeroed() {
    try { return localStorage.getItem(ZEROED) === "1"; } catch { return false; }
  },
  netsOf(wanted, text, zeroed) {
    const read = amountsOf(text, this.run.amounts.mass, this.run.amounts.mass[wanted.unit]);
    if (read === null) return null;
    const nets = read.map((kg) => kg - (zeroed ? 0 : wanted.tare_kg));
    // More vessels than the ticket has are the last one in parts: what went in is all of them.
    const rest = nets.slice(wanted.vessels - 1).reduce((all, kg) => all + kg, 0);
    return nets.length > wanted.vessels ? [...nets.slice(0, wanted.vessels - 1), rest] : nets;
  },
  fits(wanted, nets) {
    return nets.every((kg, i) => Math.abs(kg - wanted.readings[i]) <= (wanted.allowed / 100) * wanted.wanted_kg * 1.5);
  },
  readOtherWay(wanted, text) {
    const [nets, other] = [this.zeroed, !this.zeroed].map((zeroed) => this.netsOf(wanted, text, zeroed));
    return wanted.tare_kg > 0 && nets !== null && !this.fits(wanted, nets) && this.fits(wanted, other);
  },
  // Verdict while it is typed; without a network the exact amount beside it has to do.
  async weighed(wanted, event) {
    const field = event.target;
    const said = field.closest(".weigh").querySelector("output");
    const text = field.value.trim();
    this.otherWay = "";
    if (!text) { said.textContent = ""; return; }
    const nets = this.netsOf(wanted, text, this.zeroed);
    if (nets === null) { said.textContent = t("A reading is wanted, vessel after vessel: 12.4 + 12.6 {unit}.", { unit: wanted.unit }); said.className = "off-mark"; return; }
    if (this.readOtherWay(wanted, text)) {
      [this.otherWay, this.otherNets] = [wanted.part, { wanted, nets: this.netsOf(wanted, text, !this.zeroed), said }];
      said.textContent = this.zeroed ? t("That fits with the vessel on the scale: is it read so?") : t("That fits without the vessel: is the scale zeroed with it on?");
      said.className = "off-mark";
      return;
    }
    const whole = nets.reduce((all, kg) => all + kg, 0);
    const due = nets.reduce((all, kg, i) => all + wanted.readings[i], 0);
    try {
      const answer = await fetch(this.root.dataset.weighed, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ role: wanted.role, wanted_kg: due, tare_kg: 0, weighed: `${Math.round(whole * 1e6) / 1e6}\u2063kg` }),
      });
      const found = await answer.json();
      if (field.value.trim() !== text) return; // a later reading is on its way
      said.textContent = `${text.includes("+") ? `= ${this.kilos(whole)}. ` : ""}${answer.ok ? found.words : `${found.faults[0].sentence} ${found.faults[0].hint}`}`;
      said.className = answer.ok && found.good ? "" : "off-mark";
    } catch {
      said.textContent = t("No connection: compare it with the amount above.");
    }
  },
  keepWeighed(wanted, event) {
    const text = event.target.value.trim();
    const nets = this.netsOf(wanted, text, this.zeroed);
    // What cannot be is not kept: its verdict stands beside the field.
    if (nets !== null && !this.readOtherWay(wanted, text) && nets.every((kg) => kg > 0 && kg <= TENFOLD * wanted.wanted_kg)) this.keepNets(wanted, nets);
  },
  keepNets(wanted, nets) { nets.forEach((kg, vessel) => this.ofLoad("weighed", { part: wanted.part, vessel, kg: Math.round(kg * 10000) / 10000 })); },
  weighTheOtherWay() {
    const { wanted, nets, said } = this.otherNets;
    try { localStorage.setItem(ZEROED, this.zeroed ? "0" : "1"); } catch { /* asked again */ }
    this.otherWay = "";
    this.keepNets(wanted, nets);
    said.textContent = t("Kept: {amount}.", { amount: this.kilos(nets.reduce((all, kg) => all + kg, 0)) });
    said.className = "";
  },

  // A litre of it weighs a kilogram.
  get waterLeft() {
    const left = Math.max(0, Math.round(this.left * 10000) / 10000) || this.shown.jugs[0].litres;
    return { part: "water", name: t("Water"), vessels: 1, tare_kg: 0, readings: [left], allowed: 1 };
  },
  get choices() { return this.scale ? this.kinds.filter((one) => (one.kind === "water meter") === (this.scale.wanted === "water meter")) : []; },
  get device() { return this.scale ? this.kinds.find((one) => one.key === this.scale.device) || null : null; },
  get standIn() { return this.device !== null && this.device.stand_in; },
  choose_(event) {
    this.scale.device = event.target.value;
    try { localStorage.setItem(`keeve_device ${this.scale.wanted}`, this.scale.device); } catch { /* for now */ }
    this.connect();
  },

  connect() {
    this.hangUp();
    if (!this.scale || !this.scale.device) return;
    const line = new WebSocket(`${location.protocol === "https:" ? "wss" : "ws"}://${location.host}${this.$root.dataset.devices}/${this.scale.device}`);
    this.wire = line;
    line.onmessage = (message) => { this.reading = JSON.parse(message.data); this.heardMs = performance.now(); this.drawScale(); };
    line.onclose = () => { if (this.wire === line && this.scale) this.callAgain = setTimeout(() => this.connect(), AGAIN_MS); };
  },
  hangUp() {
    clearTimeout(this.callAgain);
    this.reading = null;
    const line = this.wire;
    this.wire = null;
    if (line) line.close();
  },
  tell(words) { const wire = this.wire; if (wire && wire.readyState === 1) wire.send(JSON.stringify(words)); },
  closeScale() {
    this.hangUp();
    this.scale = null;
    this.root.querySelector("[data-scale]").close();
  },
  // A number that stands still may be an old one: after a second of silence there is none.
  watchScale() {
    if (this.scale && this.reading && performance.now() - this.heardMs > SILENT_MS) { this.reading = null; this.drawScale(); }
  },

  get metering() { return this.scale !== null && this.scale.wanted === "water meter"; },
  get netWanted() { return this.scale ? this.scale.readings[this.scale.at] : 0; },
  get target() { return this.scale ? this.netWanted + (this.scale.tared ? 0 : this.scale.tare_kg) : 0; },
  get band() { return this.scale ? Math.max(this.netWanted * this.scale.allowed / 100, this.device ? this.device.step / 2 : 0) : 0; },
  get net() { return this.reading ? this.reading.value - (this.scale.tared ? 0 : this.scale.tare_kg) : 0; },
  // One unit through a weighing: a figure that turns from grams to kilograms on the way is misread.
  said(amount) {
    if (this.metering) return this.litres(amount);
    const { unit, per_unit: per } = this.run.kilos;
    return this.target >= per ? `${this.digits(amount / per, 2)} ${unit}` : this.kilos(amount);
  },
  get readingText() { return this.reading ? this.said(this.reading.value) : "– – –"; },
  get targetText_() { return this.scale ? (this.scale.tared || this.metering || !this.scale.tare_kg ? t("to {amount}", { amount: this.said(this.target) }) : t("to {amount}, vessel and all", { amount: this.said(this.target) })) : ""; },
  get off() { return this.reading ? this.net - this.netWanted : 0; },
  get inBand() { return this.reading !== null && Math.abs(this.off) <= this.band; },
  get scaleWords() {
    if (!this.scale) return "";
    if (!this.device) return t("No scale answers here: read yours and compare it with the amount.");
    if (!this.reading) return t("No reading: look at the plug, the battery and the network.");
    if (this.reading.overload) return t("Too much for this scale: take some off.");
    if (this.inBand) return this.reading.stable ? t("As it should be.") : t("Let it come to rest.");
    return this.off < 0 ? t("{amount} to go", { amount: this.said(-this.off) }) : t("{amount} too much", { amount: this.said(this.off) });
  },
  get batteryWords() { return this.reading && this.reading.battery_percent !== null && this.reading.battery_percent < LOW_PERCENT ? t("Battery low: {percent} %", { percent: this.reading.battery_percent }) : ""; },
  get vesselWords() { return this.scale && this.scale.vessels > 1 ? t("Vessel {number} of {count}", { number: this.scale.at + 1, count: this.scale.vessels }) : ""; },
  get takenWords() {
    if (!this.scale || this.scale.taken.length === 0) return "";
    return `${this.scale.taken.map((kg) => this.said(kg)).join(" + ")} = ${this.said(this.scale.taken.reduce((all, kg) => all + kg, 0))}`;
  },
  get mayTake() { return this.reading !== null && this.reading.stable && !this.reading.overload && this.net > 0; },
  get takeText() { return this.mayTake ? (this.inBand ? t("Take {amount}", { amount: this.said(this.net) }) : t("Take {amount} all the same", { amount: this.said(this.net) })) : t("Not yet"); },

  tare() { this.scale.tared = true; this.tell({ do: "tare" }); },
  takeReading() {
    if (!this.mayTake) return;
    const kg = Math.round(this.net * 10000) / 10000;
    if (this.scale.part === "water") {
      this.pour(kg, this.at.poured_l + kg > this.at.high_l + OVER_L ? { over: true } : {});
      this.closeScale();
      return;
    }
    this.ofLoad("weighed", { part: this.scale.part, vessel: this.scale.at, kg, device: this.scale.device });
    this.scale.taken = [...this.scale.taken, kg];
    if (this.scale.at + 1 < this.scale.vessels) {
      this.scale.at += 1;
      if (this.scale.tared) this.scale.tared = false;
      this.tell({ do: "take off" });
      this.tell({ do: "zero" });
    } else this.closeScale();
  },

  // A stand-in has no hand: these are its hands.
  practise(what) {
    const words = {
      vessel: { do: "pour", much: this.scale.tare_kg },
      pour: { do: "pour", per_s: Math.min(20, this.netWanted / FULL_IN_S) },
      trickle: { do: "pour", per_s: Math.min(20, Math.max(this.netWanted / FULL_IN_S / 8, this.device.step / 2)) },
    };
    this.tell(words[what] || { do: what });
  },
  drawScale() {
    const svg = this.root.querySelector("[data-scale] svg");
    if (!svg || !this.scale || !this.target) return;
    const per = 300 / (this.target * SHOWN_PAST);
    const x = (value) => Math.max(0, Math.min(300, value * per));
    svg.querySelector(".scale-band").setAttribute("x", x(this.target - this.band));
    svg.querySelector(".scale-band").setAttribute("width", Math.max(2, x(this.target + this.band) - x(this.target - this.band)));
    svg.querySelector(".scale-on").setAttribute("width", this.reading ? x(this.reading.value) : 0);
    svg.classList.toggle("good", this.inBand);
  },
};
