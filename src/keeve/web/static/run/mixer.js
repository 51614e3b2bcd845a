// Station 4: draws the run and takes taps. What a tap does is worked out in fold.js, how it travels in queue.js,
// what the time is in clocks.js, what else runs and is measured in beside.js, what saves a load in rescue.js, what a person
// does in acts.js.

import { many, t } from "../house/words.js";
import { Alarms } from "../house/alarms.js";
import { acts } from "./acts.js";
import { heapOf, learn, waterFor } from "./belief.js";
import { BEGINS, keyOf, runBeside } from "./beside.js";
import { brief } from "./brief.js";
import { runClocks } from "./clocks.js";
import { OVER_L } from "./constants.js";
import { drawJugs, drawRod } from "./drawn.js";
import { Folding } from "./fold.js";
import { heaps } from "./heap.js";
import { Queue } from "./queue.js";
import { quickRun } from "./quick.js";
import { rescue } from "./rescue.js";
import { hear } from "./stream.js";
import { weighing } from "./weighing.js";

const TICK_MS = 250;
const HIDDEN_TICK_MS = 900;
const SAID_LOADS = 20;
const TRY_AGAIN_MS = 3000;
const MINDED = "keeve_minded";
const WAITS = {
  network: (n) => many("No network: {n} entry waits here. Go on mixing.", "No network: {n} entries wait here. Go on mixing.", n),
  server: (n) => many("The server does not answer: {n} entry waits here. Go on mixing.", "The server does not answer: {n} entries wait here. Go on mixing.", n),
  token: () => t("Load this page again: it was open too long. Nothing is lost."),
};

// What was worked out of the log as it stands; outside the component, so that no line of the page waits on it.
/** @type {any} */
const worked = {};
const today = () => new Date().toDateString();

const component = () => ({
  root: null,
  /** @type {import("../documents").RunDocument} */
  run: null,
  events: new Map(),
  /** @type {import("../documents").Run} */
  state: null,
  folding: null,
  whole: true,
  now: Date.now(),
  kept: "",
  trouble: "",
  aside: [],
  stale: false,
  alarms: { on: {} },
  gloves: false,
  chosen: "",
  doubted: "",
  rung: new Set(),
  tickedMs: 0,
  typing: false,
  typed: "",
  unread: {},
  minded: {},
  learned: null, // what the loads tell of the heap

  init() {
    this.root = this.$root;
    this.run = JSON.parse(this.root.querySelector("[data-run]").textContent);
    const { post, stream, worker, job } = this.root.dataset;
    for (const event of this.run.events) this.events.set(event.id, event);
    this.queue = new Queue(job, post, {
      took: (event) => this.take([event], false),
      told: (events) => { if (events.length) this.take(events, true); },
      folded: (events) => this.folded(events),
      sent: (answer) => this.sent(answer),
      waits: (count, why) => { this.kept = count ? WAITS[why](count) : ""; if (!count) this.trouble = ""; },
      aside: (rows, gone) => this.putAside(rows, gone || []),
      trouble: (words) => { this.trouble = words; },
    });
    this.queue.setClock(Number(this.root.dataset.now));
    this.whole = this.run.from_n === 0;
    if (!this.whole) this.readBefore();
    this.refold();
    this.alarms = new Alarms();
    this.gloves = this.alarms.on.gloves;
    this.readQuick();
    try { this.minded = JSON.parse(localStorage.getItem(MINDED) || "{}"); } catch { /* asked again */ }
    for (const one of this.dueList) if (one.at < this.now) this.rung.add(one.id);
    this.queue.begin(this.run.n, this.run.from_n);
    hear(`${stream}?after=${this.run.n}`, worker, (kind, data) => this.heard(kind, data));
    setInterval(() => this.tick(), TICK_MS);
    try {
      new Worker(this.root.dataset.tick).onmessage = () => this.tick();
    } catch { /* the page's own clock has to do */ }
    for (const kind of ["visibilitychange", "resume"]) document.addEventListener(kind, () => this.tick());
    for (const kind of ["focus", "pageshow"]) addEventListener(kind, () => this.tick());
    document.addEventListener("keydown", (event) => this.key(event));
    this.$nextTick(() => this.draw());
  },

  tick() {
    const hidden = document.visibilityState !== "visible";
    if (hidden && Math.abs(Date.now() - this.tickedMs) < HIDDEN_TICK_MS) return; // a page nobody sees saves the battery
    this.tickedMs = Date.now();
    this.now = Date.now() + this.queue.skewMs;
    this.ringDue();
    this.watchScale();
    if (!hidden) this.draw();
  },

  // ── what happened ──────────────────────────────────────────────────────────
  // Reads on from where it was; another word on what is known, or a tap that is gone, begins anew.
  refold(came) {
    this.now = Date.now() + this.queue.skewMs;
    if (!this.whole) { // a very long log is still on its way: what the server made of it stands
      this.state = this.state || { ...Alpine.raw(this.run).stands, standing: [] };
      return;
    }
    this.folding = came && this.folding ? this.folding.take(came) : new Folding(Alpine.raw(this.run).tickets).take(Alpine.raw(this.events).values());
    const state = this.folding.run();
    this.learned = learn(state, Alpine.raw(this.run).tickets, Alpine.raw(this.run).heap_events);
    this.state = state;
  },
  async readBefore() {
    try {
      const known = Alpine.raw(this.events);
      for (const event of await this.queue.before(this.run.from_n)) if (!known.has(event.id)) known.set(event.id, event);
      this.whole = true;
      this.refold();
      this.draw();
    } catch { setTimeout(() => this.readBefore(), TRY_AGAIN_MS); }
  },
  take(events, fromServer) {
    const known = Alpine.raw(this.events);
    const came = events.filter((event) => fromServer || !known.has(event.id));
    const anew = events.length === 0 || came.some((event) => known.has(event.id));
    for (const event of came) known.set(event.id, event);
    this.refold(anew ? null : came);
    this.draw();
  },
  heard(kind, data) {
    if (kind === "tap") { this.take([data], true); this.queue.remember([data]); }
    if (kind === "ticket" && data.revision > this.run.ticket_n) this.newTicket();
  },
  // With the end of a load the page says how it reads the last loads: the server notes where it reads them otherwise.
  folded(events) {
    if (!this.whole || !events.some((event) => event.kind === "accepted" || event.kind === "thrown_away")) return {};
    const loads = this.state.loads.slice(-SAID_LOADS).map((load) => [load.number, load.mixer, load.step, load.ended, load.poured_l, load.made_m3 * 1000]);
    return { folded: { entries: Alpine.raw(this.events).size, loads } };
  },
  sent(answer) {
    this.take(answer.events, true);
    this.queue.remember(answer.events);
    if (answer.ticket_n > this.run.ticket_n) this.newTicket();
  },
  // The taps that wait are kept in the browser; the page for the new ticket finds them there.
  async newTicket() {
    this.stale = true;
    if (document.querySelector("dialog[open]") || this.fetching) return;
    this.fetching = true;
    try {
      await fetch(location.href, { method: "HEAD" }); // a page that cannot be had must not take the place of this one
      location.reload();
    } catch { setTimeout(() => this.newTicket(), TRY_AGAIN_MS); }
    this.fetching = false;
  },
  putAside(rows, gone) {
    const known = Alpine.raw(this.events);
    for (const id of gone) known.delete(id);
    this.aside = rows;
    if (gone.length) this.take([], true);
  },
  record(kind, more) {
    this.queue.add(this.queue.make(kind, more));
  },
  ofLoad(kind, more) {
    const { number, mixer, begun } = this.at;
    if (!begun) {
      const { ticket, slot, brief: told } = this.at;
      this.record("started", { load: number, mixer, ticket, ...(slot === null ? {} : { slot }), brief: JSON.parse(JSON.stringify(told)) }); // a plain one: another tab is told of it
    }
    this.record(kind, { load: number, mixer, ...more });
    if (!begun) this.chosen = keyOf({ number, mixer });
  },

  // ── where the run stands ───────────────────────────────────────────────────
  get openLoads() { return this.state.loads.filter((load) => !load.ended && load.card !== null); },
  get open() {
    if (this.chosen.startsWith(BEGINS)) return null;
    const loads = this.openLoads;
    const mine = loads.find((load) => keyOf(load) === this.chosen) || loads.find((load) => load.mixer === this.run.tickets[this.state.ticket].mixer.key);
    return mine || loads[0] || null;
  },
  // The load whose plaster is watched: the one chosen, or the one at hand once it is in the mould.
  get shownLoad() {
    const chosen = this.state.loads.find((load) => keyOf(load) === this.chosen && load.card !== null);
    return chosen || this.open || this.curing[this.curing.length - 1] || null;
  },
  get curing() { return this.state.loads.filter((load) => load.ended === "accepted" && this.stagesOf(load).some((one) => !one.past)); },
  get watching() {
    const load = this.shownLoad;
    if (!load || this.stagesOf(load).length === 0) return false;
    return load.ended === "accepted" ? keyOf(load) === this.chosen || this.allDone : this.step.kind === "use";
  },
  // Asked for by every line of the page at every tick: worked out once for each state of the log.
  get at() {
    const state = Alpine.raw(this.state);
    if (worked.state !== state || worked.chosen !== this.chosen) {
      const at = this.stands();
      Object.assign(worked, { state, chosen: this.chosen, at: { ...at, short: at.number > 0 && this.isShort(at, state.loads, Alpine.raw(this.run).tickets) } });
    }
    return worked.at;
  },
  stands() {
    const load = this.open;
    if (load) return { ...Alpine.raw(load), begun: true };
    const next = this.chosen.startsWith(BEGINS) && this.state.next ? this.inMixer(this.state.next, this.chosen.slice(BEGINS.length)) : this.state.next;
    const shown = Alpine.raw(next) || { number: 0, mixer: "", ticket: this.state.ticket, slot: null, card: 0, aim_l: 0, taught_by: null, ask_moisture: false };
    const ticket = Alpine.raw(this.run).tickets[shown.ticket];
    const { cards, rescue: { may_take_water: may } } = ticket;
    const card = cards[shown.card];
    const told = brief(card, shown, this.tellsOf(ticket, card), this.run.us);
    const asked = { brief: told, aim_l: told.target_l, first_l: told.first_l, steps_l: told.steps_l, due_l: told.steps_l[0], high_l: told.ceiling_l };
    return { ...shown, ...asked, told_by: "", begun: false, step: 0, since_ms: null, met_ms: null, poured_ms: null, life_ends_ms: null, first_powder_ms: null, poured_l: 0, low_l: card.water.pour.low, verdict: "", over: false, may_sip: may, proposal: null, question: null, dry_added_kg: 0 };
  },
  tellsOf(ticket, card) {
    const [learned, of] = [Alpine.raw(this.learned), Alpine.raw(card)];
    if (worked.learned !== learned || worked.card !== of) Object.assign(worked, { learned, card: of, tells: learned ? waterFor(learned, Alpine.raw(ticket), of) : null });
    return worked.tells;
  },
  // Another mixer has learned nothing yet; the heap is the same.
  inMixer(next, mixer) {
    return mixer === next.mixer ? next : { ...next, mixer, aim_l: this.run.tickets[next.ticket].cards[next.card].water.pour.target, ask_moisture: false, taught_by: null };
  },
  get thrown() {
    const litres = this.state.thrown_m3 * 1000;
    return litres > 0 ? t("Thrown away: {water}.", { water: this.litres(litres) }) : "";
  },
  get allDone() { return !this.open && !this.state.next; },
  get ticket() { return this.run.tickets[this.at.ticket]; },
  get told() { return this.run.told[this.at.ticket]; },
  get card() { return this.ticket.cards[this.at.card]; },
  get shown() { return this.told.cards[this.at.card]; },
  get step() { return this.card.steps[this.at.step]; },
  get left() { return Math.max(0, this.at.due_l - this.at.poured_l); },

  // ── what is shown ──────────────────────────────────────────────────────────
  digits(value, places) { return value.toFixed(places).replace(".", this.run.decimal); },
  litres(amount) {
    const value = amount / this.run.litres.per_unit;
    return `${this.digits(value, value < 10 ? 2 : 1)} ${this.run.litres.unit}`;
  },
  kilos(amount) {
    const whole = amount / this.run.kilos.per_unit >= 1;
    const { unit, per_unit: per } = whole ? this.run.kilos : this.run.kilos.below_one;
    const value = amount / per;
    return `${this.digits(value, value >= 100 ? 0 : value >= 10 || !whole ? 1 : 2)} ${unit}`;
  },
  // Before the first step of a day: what hurts with this product, read once.
  get minding() { return !this.allDone && !this.at.begun && this.minded[this.ticket.mix_key] !== today(); },
  mind_() {
    this.minded = { ...this.minded, [this.ticket.mix_key]: today() };
    try { localStorage.setItem(MINDED, JSON.stringify(this.minded)); } catch { /* asked again */ }
  },
  // Whoever came by a link sees this run and no page after it.
  get goesOn() { return !this.judging && !this.quickJudge && !(this.allDone && "guest" in this.root.dataset); },
  get pictured() { return !this.group && !this.allDone && !this.minding && (this.step.parts.length > 0 || Boolean(this.step.speed)); },
  get canGoBack() { return !this.allDone && this.at.begun && this.at.step > 0; },
  get where() {
    if (this.allDone) return "";
    const total = this.state.loads.length + this.state.to_fill.length;
    if (this.group) return this.group.kind === "in" ? t("Load {number} of {total} · in", { number: this.at.number, total }) : t("Load {number} of {total} · turned", { number: this.at.number, total });
    return t("Load {number} of {total} · step {step} of {steps}", { number: this.at.number, total, step: this.at.step + 1, steps: this.card.steps.length });
  },
  get title() { return this.minding ? t("Before you begin") : this.allDone ? t("All loads are done") : this.group ? this.groupTitle : this.shown.steps[this.at.step].title; },
  get detail() { return this.minding || this.allDone || this.group ? "" : this.shown.steps[this.at.step].detail; },
  get mind() { return this.minding ? this.told.cautions : this.allDone ? [] : this.shown.steps[this.at.step].cautions; },
  // What hurts is told in full before the first load of a day; at its step in a word, the rest one tap away.
  get mindLead() { return this.mind.map((words) => words.split(/[:.]/)[0]).join(" · "); },
  get lines() {
    if (this.allDone || this.minding) return [];
    const { from, to } = this.group || { from: this.at.step, to: this.at.step };
    return this.shown.steps.slice(from, to + 1).flatMap((step, i) => step.lines.map((line) => this.lineOf(line, from + i)));
  },
  lineOf(line, step) {
    const key = `${step} ${line.key}`;
    if (!line.water) return { ...line, key };
    const wanted = this.at.steps_l[step];
    return { ...line, key, exact: this.wayOf(wanted), amount: this.card.steps[step].kind === "sips" ? t("up to {water}", { water: this.litres(wanted) }) : this.litres(wanted) };
  },
  // The crew's own way of water beside the litres: seconds of the hose, or the scale.
  wayOf(litres) {
    const { means, step_l: step } = this.card.water.by;
    if (means === "hose") return t("{seconds} s of the hose", { seconds: Math.round(litres / step) });
    return means === "scale" ? t("{mass} on the scale", { mass: this.kilos(Math.round(litres / step) * step) }) : "";
  },
  get judging() { return !this.allDone && !this.minding && this.step.kind === "judge"; },
  get nextTitle() {
    if (this.allDone) return "";
    if (this.group && this.group.kind === "in") return t("Turn it");
    const next = this.shown.steps[(this.group ? this.group.to : this.at.step) + 1];
    if (next) return next.title;
    return this.state.next && this.at.begun ? t("load {number}", { number: this.state.next.number }) : "";
  },
  get forwardText() {
    if (this.allDone) return t("Look back →");
    if (this.minding) return t("Understood: begin");
    if (this.group) return this.groupForward;
    if (this.step.kind === "water" && this.left > OVER_L) {
      const water = this.litres(this.left);
      return this.at.poured_l > 0 ? t("Poured the rest, {water}", { water }) : t("Poured {water}", { water });
    }
    if (this.step.kind === "water") return t("All water is in: next");
    if (this.step.kind === "sips") return t("Enough water: next");
    if (this.step.kind === "add") return t("It is in: next");
    if (this.step.kind === "use") return t("Load is used up");
    return t("Done: next");
  },
  get forwardWaits() { return !this.allDone && this.question !== null && this.step.kind === "use"; },
  get pouring() {
    if (this.allDone || this.minding) return false;
    const first = this.card.steps.findIndex((s) => s.water_l > 0);
    if (this.verdict === "wet") return false; // no water is offered to what is too wet
    return this.at.step >= first && (this.ticket.rescue.may_take_water || this.step.kind === "water");
  },
  get jugs() { return this.shown.jugs.filter((jug) => this.at.poured_l + jug.litres <= this.at.high_l + OVER_L); },
  get mayPour() { return this.pouring && this.step.kind !== "use" && this.jugs.length > 0 && this.wetText === ""; },
  // Past the highest nothing is proposed; what went in all the same can be said, on purpose.
  get begunPouring() { return !this.allDone && this.at.begun && this.at.poured_l > 0; },
  get mayConfess() { return this.begunPouring && !this.mayPour && this.verdict !== "wet"; },
  get noWater() {
    return !this.allDone && !this.mayPour && !this.ticket.rescue.may_take_water && this.at.step > 0 && !this.judging && this.step.kind !== "use" ? t("No more water from here on.") : "";
  },
  get tooMuch() { return !this.allDone && this.at.over; },
  get countText() { return this.litres(this.at.poured_l); },
  get targetText() { return t("of {water}", { water: this.litres(this.at.aim_l) }); },
  // What the load's figures come from, where they are not the ticket's.
  get carried() {
    if (this.allDone || this.minding || this.judging || this.at.poured_l > 0 || this.step.kind === "use") return "";
    const told = this.at.brief;
    if (told && told.why === "look") return t("By what was told of the heap: {first} first, {all} in all.", { first: this.litres(told.first_l), all: this.litres(told.target_l) });
    if (told && told.leads === "sand") return this.at.step === 0 ? this.sandSays(told) : "";
    if (this.at.ask_moisture) {
      const number = this.at.taught_by;
      return this.ticket.moisture_as
        ? t("Load {number} took less than this mix ever should: look at the heap again and say its moisture.", { number })
        : t("Load {number} took less than this mix ever should: look twice whether it was right.", { number });
    }
    const planned = this.card.water.pour.target;
    if (this.at.taught_by === null || Math.abs(this.at.aim_l - planned) < 0.01 * planned) return "";
    return t("Load {number} was right with {water} for this size: this one begins with that, not with {planned}.", { number: this.at.taught_by, water: this.litres(this.at.aim_l), planned: this.litres(planned) });
  },
  sandSays(told) {
    const { percent, sd_percent: sd } = told.believed || { percent: 0, sd_percent: 0 };
    const heap = heapOf(this.card);
    const tells = this.at.begun ? null : this.tellsOf(this.ticket, this.card);
    const asks = tells ? { wetter: t("The loads say that the sand is wetter than it looked: look at the heap again and say its moisture."), drier: t("The loads say that the sand is drier than it looked: look at the heap again and say its moisture."), "": "" }[tells.asks] : "";
    const now = told.believed && heap && !this.heapAsked ? t("{heap}: about {percent} % of water now, give or take {sd}.", { heap: this.told.names[heap.key], percent: this.digits(Math.max(percent, 0), 1), sd: this.digits(sd, 1) }) : "";
    const says = t("This load wants about {expected}: pour {first} first, then look.", { expected: this.litres(told.target_l), first: this.litres(told.first_l) });
    return [now, this.group || (this.heapAsked && asks) ? "" : says, asks].filter(Boolean).join(" ");
  },

  get lastOwn() {
    const { standing, loads } = this.state;
    for (let i = standing.length - 1; i >= 0; i -= 1) {
      const event = this.events.get(standing[i]);
      if (event && this.queue.mine(event)) {
        const late = event.load !== undefined && loads.some((load) => load.mixer === event.mixer && load.number > event.load);
        return late ? null : event;
      }
    }
    return null;
  },
  get canUndo() { return this.lastOwn !== null; },
  get steps() {
    if (this.allDone) return [];
    return this.shown.steps.map((s, index) => ({
      index,
      title: s.title,
      said: s.lines.map((l) => `${l.name} ${l.amount}`).join("; "),
      done: index < this.at.step,
      now: index === this.at.step,
    }));
  },
  get asideText() { return this.aside.length ? many("{n} entry was not taken: {why}", "{n} entries were not taken: {why}", this.aside.length, { why: this.aside[0].sentence }) : ""; },

  drawWater() {
    const { pour, brought } = this.card.water;
    const told = this.at.brief;
    // A heap that is believed wetter than the ticket has it brings what is not poured.
    const more = told && told.leads !== "ticket" ? pour.target - told.expected_l : 0;
    const inHeap = brought.reduce((all, line) => all + line.litres, 0) + more;
    const { per_unit: unit } = this.run.litres;
    const load = { brought: inHeap, first: this.at.first_l, target: this.at.aim_l, most: this.at.high_l, poured: this.at.poured_l, over: this.tooMuch };
    const tick = (count) => String(Number(count.toFixed(2))).replace(".", this.run.decimal);
    const rod = this.root.querySelector("[data-rod]");
    drawRod(rod, load, { unit, tick, stop: t("stop") });
    rod.setAttribute("aria-label", t("Water of one load: {words}", { words: `${this.countText} ${this.targetText}` }));
  },
  draw() {
    const key = `${this.at.ticket}-${this.at.card}`;
    for (const holder of this.root.querySelectorAll("[data-card]")) holder.hidden = holder.dataset.card !== key;
    for (const holder of this.root.querySelectorAll("[data-ticket]")) holder.hidden = holder.dataset.ticket !== `${this.at.ticket}`;
    this.drawWater();
    const pictured = `${key}-${this.minding || this.allDone || this.group ? "none" : this.at.step}`;
    for (const holder of this.root.querySelectorAll("[data-pictures]")) holder.hidden = holder.dataset.pictures !== pictured;
    for (const layer of this.root.querySelectorAll("[data-card]:not([hidden]) [data-step]")) {
      layer.classList.toggle("yet", Number(layer.dataset.step) > this.at.step);
      layer.classList.toggle("here", Number(layer.dataset.step) === this.at.step);
    }
    const jug = this.root.querySelector("[data-pictures]:not([hidden]) [data-water]");
    const asked = this.at.steps_l[this.at.step];
    const inJugs = asked > 0 && this.card.water.by.means === "jug";
    if (jug) jug.toggleAttribute("hidden", !inJugs);
    if (jug && inJugs) drawJugs(jug, asked, this.told.jug, { litres: (litres) => this.litres(litres), times: (count) => t("× {count}", { count }) });
    const staged = this.watching ? this.shownLoad.ticket : this.at.ticket;
    for (const holder of this.root.querySelectorAll(".stages [data-ticket]")) holder.hidden = holder.dataset.ticket !== `${staged}`;
    this.drawStages(this.root.querySelector(`[data-stages="${staged}"]`));
    const ring = this.root.querySelector("[data-ring]");
    const share = this.timing ? Math.max(0, Math.min(1, this.remaining / this.stepSeconds)) : 0;
    if (ring) ring.setAttribute("stroke-dasharray", `${share * 100} 100`);
  },
});

// Getters stay getters: all parts are one component, and no part hides another's.
const joined = (whole, part) => {
  for (const [name, what] of Object.entries(Object.getOwnPropertyDescriptors(part))) {
    if (name in whole) throw new Error(`two parts of the run page say what ${name} is`);
    Object.defineProperty(whole, name, what);
  }
  return whole;
};
const runComponent = () => [runClocks, runBeside, weighing, rescue, heaps, quickRun, acts].reduce(joined, component());
document.addEventListener("alpine:init", () => { Alpine.data("run", runComponent); });
