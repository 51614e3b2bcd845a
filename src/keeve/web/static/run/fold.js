// The browser's twin of core/run.py: the same log folded over the same tickets, for the time without a network.
// Pure: no page, no clock. Golden vectors written by the Python tests hold the two together.

import { firstOf, stepsL } from "./brief.js";
import { DAY_MS, NEAR, OF_LOAD, OVER_L, PACE_LEAST, PACE_MOST, PLASTER_FASTEST_C, PLASTER_REF_C, ROOM, SAME_TAP_MS, SMALLEST_SHARE, VERSION } from "./constants.js";
import { TapOrder, less } from "./taps.js";

/**
 * @typedef {import("../documents").Ticket} Ticket
 * @typedef {import("../documents").TicketCard} Card
 * @typedef {import("../documents").LoadState} LoadState
 * @typedef {import("../documents").NextLoad} NextLoad
 * @typedef {import("../documents").Run} Run
 * @typedef {Record<string, Ticket>} Tickets
 */

const sum = (list) => list.reduce((total, one) => total + one, 0);

// ── taps to loads ──────────────────────────────────────────────────────────
/** @type {(load: any, tickets: Tickets) => Ticket | undefined} */
const ticketOf = (load, tickets) => (load.ticket === null ? undefined : tickets[load.ticket]);
/** @type {(load: any, ticket: Ticket) => number} */
const cardIndex = (load, ticket) => (load.slot !== null && load.slot < ticket.loads.length ? ticket.loads[load.slot].card : 0);
/** @type {(load: any, tickets: Tickets) => Card | null} */
const cardOf = (load, tickets) => {
  const ticket = ticketOf(load, tickets);
  return ticket ? weighedCard(ticket.cards[cardIndex(load, ticket)], load.weighed, ticket.by_dry_mass) : null;
};
// What lay on the scale over what was planned; null where nobody weighed it. A vessel nobody read is as planned.
/** @type {(dose: any, weighed: Map<string, any>) => number | null} */
const weighedShare = (dose, weighed) => {
  const read = [...weighed.values()].filter((one) => one.part === dose.key).map((one) => one.kg);
  if (!read.length || dose.batch_kg <= 0) return null;
  const vessels = dose.means === "scale" && dose.weighing ? dose.weighing.vessels : 1;
  return sum(read) / dose.batch_kg + Math.max(vessels - read.length, 0) / vessels;
};
/** @type {(card: Card, weighed: Map<string, any>, byDryMass: boolean) => Card} */
const weighedCard = (card, weighed, byDryMass) => {
  if (!weighed.size) return card;
  const shares = card.doses.map((dose) => weighedShare(dose, weighed));
  if (shares.every((share) => share === null)) return card;
  const doses = card.doses.map((dose, i) => (shares[i] === null ? dose
    : { ...dose, dry_kg: dose.dry_kg * shares[i], batch_kg: dose.batch_kg * shares[i], solid_l: dose.solid_l * shares[i] }));
  const more = sum(doses.map((dose, i) => dose.solid_l - card.doses[i].solid_l));
  const made = byDryMass ? (card.volume_m3 * sum(doses.map((dose) => dose.dry_kg))) / dryOf(card) : card.volume_m3 + more / 1000;
  return { ...card, doses, volume_m3: Math.max(made, 0) };
};
/** @type {(card: Card) => number} */
const dryOf = (card) => sum(card.doses.map((dose) => dose.dry_kg));
/** @type {(card: Card) => number} */
const onceOf = (card) => sum(card.water.brought.filter((line) => line.by === "admixture" || line.by === "ice").map((line) => line.litres));

const firstPowder = (load, at, tickets) => {
  const card = cardOf(load, tickets);
  if (card && load.step >= card.meets && load.powder === null) load.powder = at;
};

const step = (load, event, at, tickets) => {
  if (event.kind === "step_back") {
    load.step = event.step;
    load.since = at;
    return;
  }
  const card = cardOf(load, tickets);
  if (card && event.step === card.meets && load.met === null) load.met = at;
  if (event.step >= load.step) {
    load.step = event.step + 1;
    load.since = at;
    firstPowder(load, at, tickets);
  }
};

// ── what was told of it ────────────────────────────────────────────────────
const UNTOLD = { version: VERSION, why: "begin", card: 0, taught_by: null, believed: null, mark_l: 0, ceiling_l: null, steps_l: [] };
const tell = (load, event, index) => load.briefs.push({ index, id: event.id, brief: { ...UNTOLD, ...event.brief } });
// Three figures of an entry of an earlier version.
const ofBefore = (event) => {
  const target = event.ceiling_l == null ? event.expected_l : Math.min(event.expected_l, event.ceiling_l);
  const told = { expected_l: event.expected_l, target_l: target, first_l: Math.min(event.first_l, target), ceiling_l: event.ceiling_l ?? null };
  return { ...UNTOLD, version: 0, leads: "sand", ...told };
};
// The last word before the first pour that counts, or the one that pour names; later ones only take from its highest.
const briefOf = (load) => {
  const { briefs } = load;
  if (!briefs.length) return { id: "", brief: null };
  const [first] = load.water.counted;
  if (!first) return briefs[briefs.length - 1];
  const named = briefs.filter((one) => one.id === first.brief);
  const before = briefs.filter((one) => one.index < first.index);
  const { id, brief } = [briefs[0], ...before, ...named].pop();
  const most = Math.min(...briefs.filter((one) => one.index > first.index && one.brief.ceiling_l !== null).map((one) => one.brief.ceiling_l));
  return { id, brief: brief.ceiling_l !== null && most < brief.ceiling_l ? { ...brief, ceiling_l: most } : brief };
};

const take = (load, tap, index, tickets) => {
  const { event, at } = tap;
  if (event.kind === "started") {
    if (load.ticket === null) {
      load.ticket = event.ticket;
      load.slot = event.slot ?? null;
      load.since = at;
      firstPowder(load, at, tickets);
      if (event.brief) tell(load, event, index);
      else if (event.expected_l != null && event.first_l != null) load.briefs.push({ index, id: event.id, brief: ofBefore(event) });
    }
  } else if (event.kind === "briefed") {
    tell(load, event, index);
  } else if (event.kind === "poured") {
    load.poured.push({ ...tap, index });
    load.fresh = false;
  } else if (event.kind === "step_done" || event.kind === "step_back") {
    step(load, event, at, tickets);
  } else if (event.kind === "judged") {
    load.verdicts.push(event.verdict);
    if (event.verdict !== "wet") load.lastGood = { verdict: event.verdict, index, dry: load.dry };
    load.fresh = true;
    if (load.lookedAt < 0) load.lookedAt = index;
  } else if (event.kind === "dry_added") {
    load.dry += event.dry_kg;
    load.fresh = false;
    for (const [key, kg] of Object.entries(event.parts || {})) load.added[key] = (load.added[key] || 0) + kg;
  } else if (event.kind === "measured") {
    load.measured.push({ at, what: event.what, value: event.value });
  } else if (event.kind === "weighed") {
    load.weighed.set(`${event.part} ${event.vessel || 0}`, { part: event.part, kg: event.kg });
  } else if (event.kind === "stage_seen") {
    load.stages[event.stage] = at;
    load.lastStage = event.stage;
  } else if (event.kind === "settled") {
    load.settled.set(event.about, event.twice);
    load.water = counted(); // what was counted as one may be two
  } else if (event.kind === "accepted" || event.kind === "thrown_away") {
    load.said = { kind: event.kind, at, index };
  }
};

// ── water, pour by pour ────────────────────────────────────────────────────
const near = (litres) => Math.floor(litres / NEAR);
const browserOf = (event) => event.phone.split(".")[0];
const counted = () => ({ poured: 0, late: 0, question: null, asked: -1, pours: 0, read: 0, rests: new Map(), lately: new Map(), counted: [] });
const put = (map, key, make) => {
  if (!map.has(key)) map.set(key, make());
  return map.get(key);
};

// The first that counts and may be the same pour: the rest to the same count, or as much from another browser just now.
const likeOf = (water, tap) => {
  const { event, at } = tap;
  let found = null;
  const better = (one) => { if (!found || one.place < found.place) found = one; };
  if (event.rest_of != null) {
    const bucket = near(event.rest_of);
    for (const key of [bucket - 1, bucket, bucket + 1]) {
      for (const one of water.rests.get(key) || []) if (Math.abs(one.what - event.rest_of) < NEAR) better(one);
    }
  }
  const own = browserOf(event);
  const bucket = near(event.litres);
  for (const key of [bucket - 1, bucket, bucket + 1]) {
    for (const [browser, pours] of water.lately.get(key) || []) {
      while (pours.length && at - pours[0].at > SAME_TAP_MS) pours.shift();
      const one = browser === own ? null : pours.find((pour) => Math.abs(pour.what - event.litres) < NEAR);
      if (one) better(one);
    }
  }
  return found;
};

const countWater = (load) => {
  const { water } = load;
  for (const tap of load.poured.slice(water.read)) {
    const { event } = tap;
    const like = likeOf(water, tap);
    const twice = load.settled.get(event.id);
    if (!like || twice) {
      const kept = { place: water.pours, id: event.id, at: tap.at };
      if (event.rest_of != null) put(water.rests, near(event.rest_of), () => []).push({ ...kept, what: event.rest_of });
      put(put(water.lately, near(event.litres), () => new Map()), browserOf(event), () => []).push({ ...kept, what: event.litres });
      water.pours += 1;
      water.poured += event.litres;
      water.counted.push({ index: tap.index, litres: event.litres, brief: event.brief });
      if (load.lookedAt >= 0 && load.lookedAt < tap.index) water.late += event.litres;
    } else if (twice === undefined && !water.question) {
      water.question = { about: event.id, like: like.id, litres: event.litres };
      water.asked = tap.index;
    }
  }
  water.read = load.poured.length;
  const { kind, at, index } = load.said;
  load.waits = water.question !== null && kind === "accepted" && index > water.asked;
  Object.assign(load, load.waits ? { ended: "", endedMs: null, endAt: -1 } : { ended: kind, endedMs: at, endAt: index });
  Object.assign(load, { pouredL: water.poured, lateL: water.late, pours: water.pours, question: water.question });
  Object.assign(load, { taughtBy: null, perDry: null, pace: 1 });
};

const readInto = (found, taps, since, tickets) => {
  for (let index = since; index < taps.length; index += 1) {
    const { event, at } = taps[index];
    if (!OF_LOAD.has(event.kind)) continue;
    const key = `${event.load} ${event.mixer}`;
    if (!found.has(key)) {
      found.set(key, {
        number: event.load, mixer: event.mixer, first: index, begun: at, ticket: null, slot: null,
        met: null, powder: null, measured: [], weighed: new Map(), stages: {}, lastStage: "", step: 0, since: at, poured: [], verdicts: [], fresh: false, lookedAt: -1, dry: 0, added: {},
        said: { kind: "", at: null, index: -1 }, settled: new Map(), water: counted(), briefs: [], lastGood: null,
      });
    }
    take(found.get(key), taps[index], index, tickets);
  }
};

// ── clocks ─────────────────────────────────────────────────────────────────
/** @type {(ticket: Ticket, celsius: number) => number} */
const feltC = (ticket, celsius) => (ticket.life_ref_c === PLASTER_REF_C ? Math.min(celsius, PLASTER_FASTEST_C) : celsius);
/** @type {(ticket: Ticket, celsius: number) => number} */
const lifeAt = (ticket, celsius) => ticket.life_min * 2 ** ((ticket.life_ref_c - feltC(ticket, celsius)) / 10);
/** @type {(load: any, ticket: Ticket) => number | null} */
const lifeEnds = (load, ticket) => {
  if (load.met === null) return null;
  let at = load.met;
  let used = 0;
  let celsius = ticket.batch_c ?? ticket.air_c ?? ticket.life_ref_c;
  for (const look of load.measured) {
    if (look.what !== "temperature") continue;
    if (look.at > at) {
      const share = (look.at - at) / (lifeAt(ticket, celsius) * 60000);
      if (used + share >= 1) break;
      used += share;
      at = look.at;
    }
    celsius = look.value;
  }
  return at + Math.floor((1 - used) * lifeAt(ticket, celsius) * 60000 + 0.5);
};
const ownPace = (load, tickets) => {
  const ticket = ticketOf(load, tickets);
  const stage = ticket ? ticket.stages.find((one) => one.key === load.lastStage) : undefined;
  if (!stage || load.powder === null || stage.from_min <= 0) return null;
  const pace = (load.stages[load.lastStage] - load.powder) / (stage.from_min * 60000);
  return pace >= PACE_LEAST && pace <= PACE_MOST ? pace : null;
};
const setPace = (load, loads, tickets) => {
  const own = ownPace(load, tickets);
  const ticket = ticketOf(load, tickets);
  if (own !== null) { load.pace = own; return; }
  if (!ticket || load.powder === null) return;
  const seen = loads
    .filter((other) => ticketOf(other, tickets) && ticketOf(other, tickets).mix_key === ticket.mix_key && other.powder !== null
      && load.powder - DAY_MS <= other.powder && other.powder < load.powder)
    .map((other) => ownPace(other, tickets))
    .filter((pace) => pace !== null);
  if (seen.length) load.pace = sum(seen) / seen.length;
};

// ── what teaches ───────────────────────────────────────────────────────────
const revisions = (tickets) => Object.keys(tickets).map(Number).sort((a, b) => a - b);
/** @type {(tickets: Tickets) => Record<string, number>} */
const erasOf = (tickets) => {
  const eras = /** @type {Record<string, number>} */ ({});
  let before = null;
  let era = 0;
  for (const revision of revisions(tickets)) {
    if (before && tickets[revision].moisture_as !== before.moisture_as) era += 1;
    eras[revision] = era;
    before = tickets[revision];
  }
  return eras;
};
const teaches = (load, tickets) => {
  const card = cardOf(load, tickets);
  if (!card || load.ended !== "accepted" || load.question) return false;
  const counted = load.pours > 0 || card.water.pour.target <= 0;
  return counted && (load.verdicts.length === 0 || load.verdicts[load.verdicts.length - 1] === "right");
};
const perDryOf = (load, card) => (load.pouredL + onceOf(card)) / (dryOf(card) + load.dry);
// `teachers` the latest first.
const teacherOf = (ticket, revision, mixer, before, teachers, tickets, eras) => {
  const same = (load) => load.mixer === mixer && ticketOf(load, tickets).mix_as === ticket.mix_as && eras[load.ticket] === eras[revision];
  return teachers.find((load) => load.endAt < before && same(load)) || null;
};
/** @type {(card: Card, value: number, more: number) => number} */
const limit = (card, value, more) => {
  const once = onceOf(card);
  return Math.max((value + once) * (1 + more / dryOf(card)) - once, 0);
};
/** @type {(card: Card, perDry: number | null, more: number, told: any) => [number, boolean]} */
const aimOf = (card, perDry, more, told) => {
  const { pour } = card.water;
  const taught = perDry === null ? null : Math.max(perDry * (dryOf(card) + more) - onceOf(card), 0);
  const below = taught !== null && taught < limit(card, pour.low, more) - NEAR;
  if (told) return [limit(card, Math.min(told.target_l, told.ceiling_l ?? pour.high), more), below];
  if (taught === null) return [limit(card, pour.target, more), below];
  return [Math.min(taught, limit(card, pour.high, more)), below];
};

/** @type {(card: Card, aim: number, told: any) => [number, number[]]} */
const askedL = (card, aim, told) => {
  if (!told || told.target_l <= 0 || told.steps_l.length !== card.steps.length) {
    const first = firstOf(card, aim, told ? told.first_l : null);
    return [first, stepsL(card, aim, first, 0)];
  }
  const more = aim / told.target_l;
  return [told.first_l * more, told.steps_l.map((one) => one * more)];
};

// ── a load as it stands ────────────────────────────────────────────────────
/** @type {(load: any, card: Card, ticket: Ticket) => number} */
const madeL = (load, card, ticket) => {
  const more = load.dry / dryOf(card);
  const whole = card.volume_m3 * 1000 * (1 + more);
  if (ticket.by_dry_mass) return whole;
  const lacked = Math.min(Math.max(load.pouredL - card.water.pour.target, 0), card.water.if_dry_l);
  return whole + load.pouredL - lacked + onceOf(card) - (card.water.pour.target + onceOf(card)) * (1 + more);
};

// What a load is brought back to: the water per dry mass it had when it was last right, half the way where it was too dry.
/** @type {(load: any, card: Card) => [number, number]} */
const backOf = (load, card) => {
  const good = load.lastGood;
  const until = good && sum(load.water.counted.filter((one) => one.index < good.index).map((one) => one.litres));
  if (good) return [(until + onceOf(card)) / (dryOf(card) + good.dry), good.verdict === "dry" ? 0.5 : 1];
  if (load.perDry !== null) return [load.perDry, 1];
  return [(card.water.pour.target + card.water.if_dry_l + onceOf(card)) / dryOf(card), 1];
};

/** @type {(load: any, ticket: Ticket, card: Card) => LoadState["proposal"]} */
const proposalOf = (load, ticket, card) => {
  const once = onceOf(card);
  const dry = dryOf(card);
  const [back, share] = backOf(load, card);
  if (back <= 0) return null;
  const byCount = (load.pouredL + once) / back - dry - load.dry;
  const counts = byCount > SMALLEST_SHARE * (dry + load.dry);
  const dryKg = counts ? byCount * share : card.water.sip_l / back;
  const litresPerKg = (card.volume_m3 * 1000 - (ticket.by_dry_mass ? 0 : card.water.pour.target + once)) / dry;
  const room = Math.max(ticket.full_m3 * 1000 * ROOM - madeL(load, card, ticket), 0) / litresPerKg;
  return {
    by: counts ? "count" : "step",
    dry_kg: dryKg,
    parts: card.doses.map((d) => ({ key: d.key, dry_kg: (dryKg * d.dry_kg) / dry, batch_kg: (dryKg * d.batch_kg) / dry })),
    fits: dryKg <= room,
    room_kg: room,
  };
};

// What went in of each constituent that was weighed.
/** @type {(load: any, card: Card | null) => Record<string, number>} */
const weighedKg = (load, card) => {
  const wentIn = Object.fromEntries((card ? card.doses : []).map((dose) => [dose.key, dose.batch_kg]));
  const found = /** @type {Record<string, number>} */ ({});
  for (const one of load.weighed.values()) found[one.part] = one.part in wentIn ? wentIn[one.part] : (found[one.part] || 0) + one.kg;
  return found;
};

/** @type {(load: any, tickets: Tickets) => LoadState} */
const stateOf = (load, tickets) => {
  const ticket = ticketOf(load, tickets);
  const card = cardOf(load, tickets);
  const verdict = load.verdicts.length && load.fresh ? load.verdicts[load.verdicts.length - 1] : "";
  const taught = teaches(load, tickets);
  const { id: toldBy, brief: told } = briefOf(load);
  const state = {
    number: load.number, mixer: load.mixer, ticket: load.ticket || 0, slot: load.slot, card: ticket ? cardIndex(load, ticket) : null,
    volume_m3: card ? card.volume_m3 : 0, begun_ms: load.begun, ended_ms: load.endedMs, met_ms: load.met,
    step: card ? Math.min(load.step, card.steps.length - 1) : load.step, since_ms: load.since,
    first_powder_ms: load.powder, life_ends_ms: ticket ? lifeEnds(load, ticket) : null,
    poured_ms: load.poured.length ? load.poured[load.poured.length - 1].at : null,
    measured: Object.fromEntries(load.measured.map((one) => [one.what, one.value])), stages: load.stages, pace: load.pace,
    weighed_kg: weighedKg(load, card),
    poured_l: load.pouredL, late_l: load.lateL, pours: load.pours, dry_added_kg: load.dry, added_kg: load.added,
    verdicts: load.verdicts, verdict, ended: load.ended, accept_waits: load.waits, taught_by: load.taughtBy,
    teaches: taught, how: /** @type {LoadState["how"]} */ (!taught ? "" : load.dry > 0 ? "rescued" : load.lateL > 0 ? "sipped" : "poured"),
    water_per_dry: card ? perDryOf(load, card) : 0, question: load.question,
    aim_l: 0, due_l: 0, steps_l: [], first_l: 0, brief: told, told_by: toldBy, ask_moisture: false, low_l: 0, high_l: 0, over: false, may_sip: false, made_m3: 0, proposal: null,
  };
  if (!card) return state;
  [state.aim_l, state.ask_moisture] = aimOf(card, load.perDry, load.dry, told);
  [state.first_l, state.steps_l] = askedL(card, state.aim_l, told);
  state.due_l = sum(state.steps_l.slice(0, load.step + 1));
  state.low_l = limit(card, card.water.pour.low, load.dry);
  state.high_l = limit(card, (told && told.ceiling_l) ?? card.water.pour.high, load.dry);
  state.over = load.pouredL > state.high_l + OVER_L;
  state.may_sip = ticket.rescue.may_take_water && load.pouredL + card.water.sip_l <= state.high_l + NEAR;
  state.made_m3 = Math.max(madeL(load, card, ticket), 0) / 1000;
  if (verdict === "wet" && ticket.rescue.may_take_dry) state.proposal = proposalOf(load, ticket, card);
  return state;
};

// ── what is still to make ──────────────────────────────────────────────────
const toFill = (tickets, now, loads, taps) => {
  if (now === null) return [];
  const ticket = tickets[now];
  const counted = new Set(ticket.counted.map((key) => `${key.number} ${key.mixer}`));
  const used = new Set();
  let extra = 0;
  for (const load of loads) {
    const lost = load.ended === "thrown_away";
    const other = ticketOf(load, tickets);
    const mine = other && other.round === ticket.round;
    if (counted.has(`${load.number} ${load.mixer}`)) {
      if (lost && mine) extra += 1;
    } else if (!mine || lost) {
      continue;
    } else if (load.ticket === now && load.slot !== null && load.slot < ticket.loads.length && !used.has(load.slot)) {
      used.add(load.slot);
    } else {
      extra -= 1;
    }
  }
  extra += taps.filter((tap) => tap.event.kind === "one_more" && tap.event.ticket === now).length;
  const free = ticket.loads.map((one, i) => ({ slot: i, card: one.card })).filter((one) => !used.has(one.slot));
  if (extra < 0) return free.slice(-extra);
  return [...free, ...Array.from({ length: extra }, () => ({ slot: null, card: 0 }))];
};

/** @type {(tickets: Tickets, now: number | null, loads: any[], teachers: any[], eras: Record<string, number>, slots: any[]) => NextLoad | null} */
const nextOf = (tickets, now, loads, teachers, eras, slots) => {
  if (now === null || slots.length === 0) return null;
  const ticket = tickets[now];
  const { slot, card: index } = slots[0];
  const card = ticket.cards[index];
  const teacher = teacherOf(ticket, now, ticket.mixer.key, Infinity, teachers, tickets, eras);
  const [aim, ask] = aimOf(card, teacher ? perDryOf(teacher, cardOf(teacher, tickets)) : null, 0, null);
  return {
    number: loads.reduce((most, load) => Math.max(most, load.number), 0) + 1, mixer: ticket.mixer.key, ticket: now, slot,
    card: index, volume_m3: card.volume_m3, aim_l: aim, taught_by: teacher ? teacher.number : null, ask_moisture: ask,
  };
};

const heapTold = (taps) => taps.filter(({ event }) => event.kind === "looked" || (event.kind === "happened" && event.what !== "bags")).map(({ event, at }) => (
  event.kind === "looked" ? { at_ms: at, of: event.of, what: "look", look: event.look, ticket: event.ticket } : { at_ms: at, of: event.of ?? "", what: event.what, look: null, ticket: 0 }
));

const usedOf = (states, tickets) => {
  const used = /** @type {Record<string, number>} */ ({});
  for (const state of states) {
    const ticket = tickets[state.ticket];
    if (!ticket || state.card === null) continue;
    for (const dose of ticket.cards[state.card].doses) used[dose.key] = (used[dose.key] || 0) + (state.weighed_kg[dose.key] ?? dose.batch_kg);
    for (const [key, kg] of Object.entries(state.added_kg)) used[key] = (used[key] || 0) + kg;
  }
  return used;
};

// The log of a job as it is read: what comes later is read on from there.
export class Folding {
  /** @param {Tickets} tickets */
  constructor(tickets) {
    this.tickets = tickets;
    this.order = new TapOrder();
    this.loads = new Map();
  }

  take(events) {
    const stood = this.order.take(events);
    if (stood === 0) this.loads = new Map();
    readInto(this.loads, this.order.standing, stood, this.tickets);
    return this;
  }

  run() { return runOf(this.tickets, [...this.loads.values()], this.order.standing); }
}

/** @type {(tickets: Tickets, loads: any[], taps: any[]) => Run} */
const runOf = (tickets, loads, taps) => {
  for (const load of loads) countWater(load);
  const eras = erasOf(tickets);
  const teachers = loads.filter((load) => teaches(load, tickets)).sort((a, b) => b.endAt - a.endAt);
  for (const load of loads) {
    const ticket = ticketOf(load, tickets);
    const teacher = ticket ? teacherOf(ticket, load.ticket, load.mixer, load.first, teachers, tickets, eras) : null;
    const own = cardOf(load, tickets);
    const { brief: told } = briefOf(load);
    if (own && told) {
      load.taughtBy = told.taught_by;
      load.perDry = told.leads === "ticket" ? null : (told.expected_l + onceOf(own)) / dryOf(own);
    } else if (teacher) {
      load.taughtBy = teacher.number;
      load.perDry = perDryOf(teacher, cardOf(teacher, tickets));
    }
  }
  for (const load of loads) setPace(load, loads, tickets);
  const ordered = [...loads].sort((a, b) => less(a.number, b.number) || less(a.first, b.first));
  const states = ordered.map((load) => stateOf(load, tickets));
  const all = revisions(tickets);
  const now = all.length ? all[all.length - 1] : null;
  const slots = toFill(tickets, now, loads, taps);
  const inRound = states.filter((s) => now !== null && tickets[s.ticket] && tickets[s.ticket].round === tickets[now].round);
  return {
    ticket: now,
    loads: states,
    to_fill: slots.map((one) => one.card),
    made_m3: sum(inRound.filter((s) => s.ended === "accepted").map((s) => s.made_m3)),
    thrown_m3: sum(inRound.filter((s) => s.ended === "thrown_away").map((s) => s.made_m3)),
    to_make_m3: now === null ? 0 : sum(slots.map((one) => tickets[now].cards[one.card].volume_m3)),
    next: nextOf(tickets, now, loads, teachers, eras, slots),
    used_kg: usedOf(states, tickets),
    poured_l: sum(states.map((s) => s.poured_l)),
    heap: heapTold(taps),
    done: states.length > 0 && slots.length === 0 && states.every((s) => s.ended !== ""),
    standing: taps.map((tap) => tap.event.id),
  };
};

export const fold = (tickets, events) => new Folding(tickets).take(events).run();
