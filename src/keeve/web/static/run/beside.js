// What stands beside the step on the run page: everything that runs at once, numbers that are measured, water that is
// typed, and how this phone calls. Getters and taps for the component in mixer.js.

import { MOST_AT_ONCE_L, OVER_L, PACE_LEAST, PACE_MOST } from "./constants.js";
import { amountOf } from "./amounts.js";
import { clock, spell } from "../house/time.js";
import { t } from "../house/words.js";

const MOST_AT_ONCE = 4;
export const BEGINS = "begin ";
const HANDS_FREE = new Set(["mix", "wait", "use"]);
export const keyOf = (load) => `${load.number} ${load.mixer}`;

export const runBeside = {
  // Everything that runs at once: loads in mixers, plaster that sets, and the next load in this mixer or another.
  get sides() {
    const next = this.state.next;
    const shown = this.shownLoad && this.watching ? keyOf(this.shownLoad) : this.open ? keyOf(this.open) : this.chosen;
    const open = this.openLoads.map((load) => ({ key: keyOf(load), words: t("Load {number}", { number: load.number }), more: this.sideText(load) }));
    const curing = this.curing.map((load) => {
      const is = [...this.stagesOf(load)].reverse().find((one) => this.now >= one.from);
      return { key: keyOf(load), words: t("Load {number}", { number: load.number }), more: is ? is.name : "" };
    });
    const may = [];
    if (next && this.openLoads.length > 0 && this.openLoads.length < MOST_AT_ONCE && (this.openLoads.length > 1 || HANDS_FREE.has(this.step.kind))) {
      const used = new Set(this.openLoads.map((load) => load.mixer));
      const free = [next.mixer, ...Array.from({ length: MOST_AT_ONCE - 1 }, (_, i) => `${next.mixer.slice(0, 70)}#${i + 2}`)].find((mixer) => !used.has(mixer));
      may.push({ key: `${BEGINS}${free}`, words: t("+ load {number} now", { number: next.number }), more: free === next.mixer ? "" : t("second mixer") });
    }
    const all = [...open, ...curing, ...may];
    return all.length > 1 || curing.length > 0 ? all.map((one) => ({ ...one, now: one.key === shown })) : [];
  },
  sideText(load) {
    const ticket = this.run.tickets[load.ticket];
    const seconds = ticket.cards[load.card].steps[load.step].seconds;
    if (seconds > 0) return clock(Math.max(0, seconds - (this.now - load.since_ms) / 1000));
    return load.life_ends_ms === null ? "" : spell(Math.max(0, load.life_ends_ms - this.now) / 1000);
  },
  doubts(stage) { return Boolean(this.shownLoad) && this.doubted === `${this.shownLoad.number} ${stage}`; },
  choose(key) { this.chosen = key; this.toTop(); this.draw(); },
  // A stage marked far off its time is asked about: the second tap is meant.
  seen(stage) {
    const load = this.shownLoad;
    const at = this.run.tickets[load.ticket].stages.find((one) => one.key === stage);
    const pace = at && at.from_min > 0 && load.first_powder_ms !== null ? (this.now - load.first_powder_ms) / (at.from_min * 60000) : 1;
    if ((pace < PACE_LEAST || pace > PACE_MOST) && this.doubted !== `${load.number} ${stage}`) {
      this.doubted = `${load.number} ${stage}`;
      return;
    }
    this.doubted = "";
    this.record("stage_seen", { load: load.number, mixer: load.mixer, stage });
  },
  get confessLitres() { return (this.typedLitres <= MOST_AT_ONCE_L && this.typedLitres) || this.shown.jugs[0].litres; },
  get confessText() { return this.allDone ? "" : t("I did pour {water} more (hold)", { water: this.typedLitres && this.typedLitres <= MOST_AT_ONCE_L ? this.litres(this.typedLitres) : this.shown.jugs[0].label.replace("+ ", "") }); },
  get typedLitres() {
    const value = amountOf(this.typed, { ...this.run.amounts.water, ...this.told.vessels }, this.run.litres.per_unit);
    return value !== null && value > 0 ? Math.round(value * 10000) / 10000 : 0;
  },
  get typedOver() { return !this.allDone && this.typedLitres > 0 && this.typedLitres <= MOST_AT_ONCE_L && this.at.poured_l + this.typedLitres > this.at.high_l + OVER_L; },
  get typedWords() {
    if (!this.typed.trim()) return "";
    if (!this.typedLitres) return t("A figure with its unit is wanted: 2.5 {unit}, 6 oz, half a bucket.", { unit: this.run.litres.unit });
    if (this.typedLitres > MOST_AT_ONCE_L) return t("That is more than a mixer takes at once: look at the figure and its unit.");
    if (this.typedOver) return t("That goes past the highest. If it is in, hold the line below.");
    return /^[\d.,\s]*$/.test(this.typed) ? "" : `= ${this.litres(this.typedLitres)}`;
  },
  get mayType() { return this.typing && this.mayPour; },
  get typeGoes() { return this.typedLitres > 0 && this.typedLitres <= MOST_AT_ONCE_L && !this.typedOver; },
  // Numbers may be entered at the look: each is judged against what this mix should come to.
  measured(want, event) {
    const field = event.target;
    const plain = Number(field.value.trim().replace(",", "."));
    const value = Number.isFinite(plain) ? plain : amountOf(field.value, {}, 1) ?? NaN; // 3 1/2 in
    const si = value * want.per_unit + want.from;
    const read = Number.isFinite(value) && si >= want.least && si <= want.most;
    const wrong = t("This cannot be: a figure in {unit}, from {least} to {most}.", {
      unit: want.unit, least: Math.round((want.least - want.from) / want.per_unit), most: Math.round((want.most - want.from) / want.per_unit),
    });
    this.unread = { ...this.unread, [want.what]: field.value.trim() && !read ? wrong : "" };
    if (!field.value.trim() || !read) return;
    this.ofLoad("measured", { what: want.what, value: Math.round(si * 1000) / 1000 });
  },
  get wants() {
    if (!this.judging) return [];
    return this.told.wants.map((want) => {
      const value = this.at.measured ? this.at.measured[want.what] : undefined;
      return { ...want, said: this.unread[want.what] || (value === undefined ? "" : this.found(want, value)) };
    });
  },
  found(want, value) {
    const rounded = want.round ? Math.round(value / want.round) * want.round : value;
    const named = want.classes.filter(([from]) => rounded >= from).pop();
    const words = want.beyond.length && value > want.beyond[0] ? want.beyond[1] : want.low === null ? t("noted") : rounded < want.low ? want.under : rounded > want.high ? want.over : t("as it should be");
    const shown = this.digits((value - want.from) / want.per_unit, want.places);
    return `${shown} ${want.unit}${named ? ` · ${named[1]}` : ""} · ${words}`;
  },
  set(name, event) { this.alarms.set(name, event.target.checked); this.gloves = this.alarms.on.gloves; },
  // Read aloud on request: the step, its amounts and what to mind, in the reader's language where the browser has a voice.
  sayStep() { this.alarms.say([this.title, ...this.lines.map((line) => `${line.name}: ${line.amount}`), this.detail].filter(Boolean).join(". ")); },
  ringOnce() { this.alarms.begin(); this.alarms.ring("done", t("This is how it calls you.")); },
};
