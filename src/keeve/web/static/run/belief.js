// The browser's twin of core/lessons/moisture_filter.py and core/lessons/learning.py: what the loads tell of the heap, so that
// it is told alike with a network and without. Pure: no page, no clock. Reasons and constants stand with the core.

import {
  AHEAD_H, CEILING_SDS, DRAINS_PER_H, EYE_SHARE, FIELD_PERCENT, FIRST_SDS, FORESEEN_PERCENT, FORGETS, GRID, HALVINGS, HARDLY, HEAPS,
  HOUR_MS, KNOTS_PERCENT, LEAST_L, LIMIT_SDS, LOOK_PERCENT, NATURES, NIGHT_H, PAN_PERCENT, PAN_WINDOW_PERCENT, RESCUED_PERCENT,
  RIGHT_SHARE, SAND_LOOKS, SCATTER_PERCENT, SLOPE_LASTS_H, UNSEEN_VAR, WIDE,
} from "./constants.js";

/**
 * @typedef {import("../documents").Ticket} Ticket
 * @typedef {import("../documents").TicketCard} Card
 * @typedef {import("../documents").TicketDose} Dose
 * @typedef {import("../documents").LoadState} LoadState
 * @typedef {import("../documents").Run} Run
 * @typedef {Record<string, Ticket>} Tickets
 * @typedef {{ percent: number, slope: number, var: number, cov: number, slope_var: number }} Track
 * @typedef {{ tracks: Track[], weights: number[] }} Belief
 * @typedef {{ expected_l: number, first_l: number, ceiling_l: number }} NextWater
 * @typedef {import("../documents").HeapWater} HeapWater
 */

const sum = (list) => list.reduce((total, one) => total + one, 0);

// ── the normal distribution ────────────────────────────────────────────────
const TERMS = 60;
// erf by its series, and its complement by the continued fraction where that would cancel: Abramowitz and Stegun 7.1.6, 7.1.14.
/** @type {(x: number) => number} */
const erfc = (x) => {
  const far = Math.abs(x);
  if (far < 2.5) {
    let [term, total] = [far, far];
    for (let n = 1; n < TERMS; n += 1) {
      term *= (2 * far * far) / (2 * n + 1);
      total += term;
    }
    const erf = (2 / Math.sqrt(Math.PI)) * Math.exp(-far * far) * total;
    return x < 0 ? 1 + erf : 1 - erf;
  }
  let fraction = far;
  for (let n = TERMS; n > 0; n -= 1) fraction = far + n / 2 / fraction;
  const tail = Math.exp(-far * far) / Math.sqrt(Math.PI) / fraction;
  return x < 0 ? 2 - tail : tail;
};
/** @type {(x: number) => number} */
const normal = (x) => 0.5 * erfc(-x / Math.SQRT2);

// ── the filter ─────────────────────────────────────────────────────────────
/** @type {(now: Belief) => number} */
const percentOf = (now) => sum(now.tracks.map((one, i) => now.weights[i] * one.percent));
/** @type {(now: Belief) => number} */
const varOf = (now) => {
  const mean = percentOf(now);
  return sum(now.tracks.map((one, i) => now.weights[i] * (Math.max(one.var, 0) + (one.percent - mean) ** 2)));
};
/** @type {(percent: number, sd: number) => Belief} */
const anew = (percent, sd) => ({
  tracks: NATURES.map(([, slope]) => ({ percent, slope: 0, var: sd ** 2, cov: 0, slope_var: slope ** 2 })),
  weights: NATURES.map(() => 1 / NATURES.length),
});
/** @type {(heap: HeapWater) => Belief} */
const begun = ([low, likely, high, seen]) => {
  const wide = high - low;
  return anew(likely, wide === 0 ? PAN_PERCENT : seen ? LOOK_PERCENT : wide / Math.sqrt(12));
};
/** @type {(now: Belief, hours: number) => Belief} */
const later = (now, hours) => ({ ...now, tracks: now.tracks.map((one, i) => laterOne(one, NATURES[i], hours)) });
/** @type {(now: Track, nature: number[], hours: number) => Track} */
const laterOne = (now, [wanders, slope], hours) => {
  const stays = 1 - Math.min((now.percent > FIELD_PERCENT ? DRAINS_PER_H : 0) * hours, 1);
  const carries = Math.exp(-hours / SLOPE_LASTS_H);
  return {
    percent: stays * now.percent + (1 - stays) * FIELD_PERCENT + now.slope * hours,
    slope: carries * now.slope,
    var: stays ** 2 * now.var + 2 * stays * hours * now.cov + hours ** 2 * now.slope_var + wanders ** 2 * hours,
    cov: carries * (stays * now.cov + hours * now.slope_var),
    slope_var: carries ** 2 * now.slope_var + slope ** 2 * (1 - carries ** 2),
  };
};
/** @type {(now: Belief, percent: number) => Belief} */
const weighed = (now, percent) => {
  const logs = now.tracks.map((one, i) => {
    const spread = one.var + FORESEEN_PERCENT ** 2;
    return FORGETS * Math.log(Math.max(now.weights[i], HARDLY)) - 0.5 * ((percent - one.percent) ** 2 / spread + Math.log(spread));
  });
  const shares = logs.map((one) => Math.exp(one - Math.max(...logs)));
  return { ...now, weights: shares.map((one) => one / sum(shares)) };
};
/** @type {(now: Track, percent: number, spread: number, left: number) => Track} */
const learnedOne = (now, percent, spread, left) => {
  const [gain, slopeGain, less] = [now.var / spread, now.cov / spread, spread - left];
  return {
    percent: now.percent + gain * (percent - now.percent),
    slope: now.slope + slopeGain * (percent - now.percent),
    var: now.var - gain ** 2 * less,
    cov: now.cov - gain * slopeGain * less,
    slope_var: now.slope_var - slopeGain ** 2 * less,
  };
};
/** @type {(now: Belief, percent: number, sd: number) => Belief} */
const measured = (now, percent, sd) => {
  const after = weighed(now, percent);
  return { ...after, tracks: after.tracks.map((one) => learnedOne(one, percent, one.var + sd ** 2, 0)) };
};
// How likely a look is with so much too much water, as a share of the free water.
/** @type {(over: number, said: string) => number} */
const likeliness = (over, said) => {
  const wet = 1 - normal((RIGHT_SHARE - over) / EYE_SHARE);
  const dry = normal((-RIGHT_SHARE - over) / EYE_SHARE);
  return Math.max(said === "wet" ? wet : said === "dry" ? dry : 1 - wet - dry, HARDLY);
};
/** @type {(now: Belief, looks: Array<{ percent: number, said: string }>, share: number) => Belief} */
const judged = (now, looks, share) => {
  const right = looks.find((one) => one.said === "right");
  const after = right ? weighed(now, right.percent) : now;
  return { ...after, tracks: after.tracks.map((one) => judgedOne(one, looks, share)) };
};
/** @type {(now: Track, looks: Array<{ percent: number, said: string }>, share: number) => Track} */
const judgedOne = (now, looks, share) => {
  const spread = now.var + SCATTER_PERCENT ** 2;
  const sd = Math.sqrt(spread);
  const found = Array.from({ length: GRID }, (_, n) => now.percent + sd * WIDE * ((2 * n) / (GRID - 1) - 1));
  const weights = found.map((one) => looks.reduce(
    (weight, look) => weight * likeliness((one - look.percent) * share, look.said), Math.exp(-0.5 * ((one - now.percent) / sd) ** 2),
  ));
  const whole = sum(weights);
  const mean = sum(weights.map((weight, i) => weight * found[i])) / whole;
  const left = sum(weights.map((weight, i) => weight * (found[i] - mean) ** 2)) / whole;
  const out = learnedOne(now, mean, spread, left);
  const less = Math.min(1, UNSEEN_VAR / out.var);
  return { ...out, var: out.var * less, cov: out.cov * Math.sqrt(less) };
};

// ── a heap in a load ───────────────────────────────────────────────────────
/** @type {(card: Card) => Dose | null} */
export const heapOf = (card) => {
  const heaps = card.doses.filter((dose) => dose.heap !== null && HEAPS.has(dose.role));
  const most = Math.max(...heaps.map((dose) => dose.dry_kg));
  return heaps.find((dose) => dose.dry_kg === most) ?? null;
};
/** @type {(heap: any, percent: number) => number} */
const dryAt = (heap, percent) => {
  if (percent <= KNOTS_PERCENT[0]) return heap.dry_kg[0];
  const at = KNOTS_PERCENT.findIndex((high) => percent <= high);
  if (at < 0) return heap.dry_kg[heap.dry_kg.length - 1];
  const part = (percent - KNOTS_PERCENT[at - 1]) / (KNOTS_PERCENT[at] - KNOTS_PERCENT[at - 1]);
  return heap.dry_kg[at - 1] * (1 - part) + heap.dry_kg[at] * part;
};
/** @type {(heap: any, percent: number) => number} */
const bringsL = (heap, percent) => (dryAt(heap, percent) * (percent - heap.absorption_percent)) / 100;
/** @type {(heap: any, litres: number) => number} */
const percentFor = (heap, litres) => {
  let [low, high] = [KNOTS_PERCENT[0], KNOTS_PERCENT[KNOTS_PERCENT.length - 1]];
  for (let n = 0; n < HALVINGS; n += 1) {
    const middle = (low + high) / 2;
    if (bringsL(heap, middle) < litres) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
};
/** @type {(card: Card, dose: Dose) => number} */
const others = (card, dose) => sum(card.water.brought.filter((line) => line.key !== dose.key).map((line) => line.litres));
/** @type {(free: number, card: Card, dose: Dose, percent: number) => number} */
const pourL = (free, card, dose, percent) => Math.max(free - others(card, dose) - bringsL(dose.heap, percent), 0);
/** @type {(card: Card, dose: Dose, pour: number) => number} */
const percentAt = (card, dose, pour) => percentFor(dose.heap, card.water.free.target - others(card, dose) - pour);

// What a load is begun with as its sand is believed to be: a ceiling is a ratio, and follows the belief.
/** @type {(card: Card, dose: Dose, belief: Belief) => NextWater} */
const waterOf = (card, dose, belief) => {
  const percent = percentOf(belief);
  const variance = varOf(belief);
  const expected = Math.max(percent, 0);
  const first = Math.round((expected + FIRST_SDS * Math.sqrt(variance + SCATTER_PERCENT ** 2)) * 1e9) / 1e9;
  const ceiling = card.water.limited ? expected + LIMIT_SDS * Math.sqrt(variance) : Math.max(percent - CEILING_SDS * Math.sqrt(variance), 0);
  const wanted = pourL(card.water.free.target, card, dose, expected);
  return {
    expected_l: wanted,
    first_l: pourL(card.water.free.target, card, dose, first),
    ceiling_l: Math.max(pourL(card.water.free.high, card, dose, ceiling), wanted),
  };
};

/** @type {(card: Card) => number} */
const dryOf = (card) => sum(card.doses.map((dose) => dose.dry_kg));
/** @type {(card: Card) => number} */
const once = (card) => sum(card.water.brought.filter((line) => line.by === "admixture" || line.by === "ice").map((line) => line.litres));

// ── what the loads tell ────────────────────────────────────────────────────
// A verdict is a one-sided look, accepted or not.
/** @type {(load: LoadState) => string} */
const saidOf = (load) => {
  if (load.teaches) return "right";
  const last = load.verdicts[load.verdicts.length - 1];
  return (last === "dry" || last === "wet") && load.dry_added_kg === 0 && load.pours && load.question === null ? last : "";
};
/** @type {(load: LoadState, card: Card, dose: Dose, belief: Belief, said: string) => Belief} */
const taught = (load, card, dose, belief, said) => {
  const full = load.water_per_dry * dryOf(card) - once(card);
  const around = percentAt(card, dose, full);
  if (load.how === "rescued") return measured(belief, around, Math.sqrt(SCATTER_PERCENT ** 2 + RESCUED_PERCENT ** 2));
  const looks = [{ percent: around, said }];
  if (load.late_l > 0) {
    const sip = Math.min(card.water.sip_l, load.late_l);
    for (const one of [...new Set([full - sip, full - load.late_l])]) looks.push({ percent: percentAt(card, dose, one), said: "dry" });
  }
  const one = bringsL(dose.heap, around + 0.5) - bringsL(dose.heap, around - 0.5);
  return judged(belief, looks, Math.max(one / Math.max(card.water.free.target, LEAST_L), 1e-3));
};

// Goes through the day in its order.
class HeapReader {
  constructor() {
    /** @type {Belief | null} */
    this.belief = null;
    this.at = 0;
    this.moistureAs = "";
    /** @type {{ ticket: number, water: HeapWater } | null} */
    this.looked = null;
    /** @type {number | null} */
    this.ended = null;
    this.waitedH = 0;
    this.heard = false;
    this.asks = "";
    this.asked = new Set();
  }

  to(at) {
    if (this.belief === null) return;
    const hours = Math.max((at - this.at) / HOUR_MS, 0);
    this.belief = later(this.belief, Math.min(hours, NIGHT_H));
    if (hours >= NIGHT_H) this.reset();
    this.at = Math.max(at, this.at);
  }

  reset() {
    if (this.belief) this.belief = { ...anew(percentOf(this.belief), LOOK_PERCENT), weights: this.belief.weights };
  }

  // A look from beside the mixer: inside what is believed it confirms, else it begins anew.
  look(told) {
    this.to(told.at_ms);
    this.looked = { ticket: told.ticket, water: SAND_LOOKS[told.look] };
    this.asks = "";
    this.asked = new Set();
    this.at = told.at_ms;
    const likely = this.looked.water[1];
    if (this.belief === null || Math.abs(likely - percentOf(this.belief)) > Math.sqrt(varOf(this.belief))) this.belief = begun(this.looked.water);
  }

  // Whether a ticket says of the heap what is younger than all that is believed of it.
  saysAnew(ticket, dose) {
    if (this.belief !== null && this.looked !== null) {
      const { ticket: revision, water } = this.looked;
      if (ticket.revision <= revision || dose.heap.water.every((one, i) => one === water[i])) return false;
    }
    return this.belief === null || ticket.moisture_as !== this.moistureAs;
  }

  event(at) {
    this.to(at);
    this.reset();
  }

  begin(load, dose, ticket) {
    if (this.saysAnew(ticket, dose)) {
      this.belief = begun(dose.heap.water);
      this.asks = "";
      this.asked = new Set();
      this.at = load.begun_ms;
    }
    this.moistureAs = ticket.moisture_as;
    if (this.ended !== null) this.waitedH = Math.max((load.begun_ms - this.ended) / HOUR_MS, 0);
    this.to(load.begun_ms);
  }

  end(load, card, dose) {
    this.ended = load.ended_ms;
    this.to(this.ended);
    const said = saidOf(load);
    if (!said) return;
    this.heard = true;
    this.belief = taught(load, card, dose, this.belief, said);
    this.ask(dose.heap.water);
  }

  // Asks for a look where the belief has left its window: once a side, again after it was back inside.
  ask([low, , high]) {
    const percent = percentOf(this.belief);
    const wide = low === high ? PAN_WINDOW_PERCENT : 0;
    const side = percent > high + wide ? "wetter" : percent < low - wide ? "drier" : "";
    this.asks = this.asked.has(side) ? "" : side;
    this.asked = side ? this.asked.add(side) : new Set();
  }
}

// What a job's loads tell of its heap, with what was told of it in the yard and beside the mixer.
/** @type {(run: Run, tickets: Tickets, events: any[]) => HeapReader} */
export const learn = (run, tickets, events) => {
  const reader = new HeapReader();
  const heap = Object.keys(tickets).map(Number).sort((a, b) => a - b).flatMap((revision) => tickets[revision].cards).map(heapOf).find((dose) => dose !== null);
  const told = [...events, ...run.heap.filter((one) => heap && (one.of === "" || one.of === heap.key))];
  const moments = told.map((one) => ({ at: one.at_ms, number: 0, ends: 0, load: null, told: one }));
  for (const load of run.loads) {
    const ticket = tickets[load.ticket];
    if (!ticket || load.card === null || heapOf(ticket.cards[load.card]) === null) continue;
    moments.push({ at: load.begun_ms, number: load.number, ends: 0, load, told: null });
    if (load.ended_ms !== null && load.ended) moments.push({ at: load.ended_ms, number: load.number, ends: 1, load, told: null });
  }
  moments.sort((a, b) => a.at - b.at || a.number - b.number || a.ends - b.ends);
  for (const { ends, load, told: one } of moments) {
    if (load === null) {
      if (one.look) reader.look(one);
      else reader.event(one.at_ms);
      continue;
    }
    const ticket = tickets[load.ticket];
    const card = ticket.cards[load.card];
    if (ends) reader.end(load, card, heapOf(card));
    else reader.begin(load, heapOf(card), ticket);
  }
  return reader;
};

// What a load of a ticket is begun with as its heap is believed to be; null as long as nobody has told anything.
/** @type {(reader: any, ticket: Ticket, card: Card) => any} */
export const waterFor = (reader, ticket, card) => {
  const dose = heapOf(card);
  if (dose === null || !(reader.heard || reader.looked)) return null;
  // A heap looked at since the last load is believed anew: the ticket says otherwise.
  const again = reader.saysAnew(ticket, dose);
  const now = again ? begun(dose.heap.water) : reader.belief;
  const next_l = waterOf(card, dose, later(now, Math.min(reader.waitedH, AHEAD_H)));
  const believed = { percent: percentOf(now), sd_percent: Math.sqrt(varOf(now)), at_ms: reader.at };
  return { next_l, believed, asks: again ? "" : reader.asks };
};
