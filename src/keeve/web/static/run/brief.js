// The browser's twin of core/run/brief.py and core/lessons/briefing.py: what is told of a load's water, and in which marks.
// Pure: no page, no clock.

import { MARK_SLACK, VERSION } from "./constants.js";

/**
 * @typedef {import("../documents").TicketCard} Card
 * @typedef {import("../documents").Brief} Brief
 */

const sum = (list) => list.reduce((total, one) => total + one, 0);

/** @type {(litres: number, mark: number) => number} */
export const downTo = (litres, mark) => (mark <= 0 ? litres : Math.floor(litres / mark + MARK_SLACK) * mark);
/** @type {(litres: number, mark: number) => number} */
export const nearest = (litres, mark) => downTo(litres + mark / 2, mark);
/** @type {(card: Card) => number} */
const beforeSips = (card) => sum(card.steps.filter((one) => one.kind !== "sips").map((one) => one.water_l));

// A load's water parted over its steps: the first water as the ticket parts its own, each pour ending on a mark.
/** @type {(card: Card, target: number, first: number, mark: number) => number[]} */
export const stepsL = (card, target, first, mark) => {
  const before = beforeSips(card);
  const share = before > 0 ? first / before : 0;
  let [asked, told, held] = [0, 0, Math.max(target - first, 0)];
  return card.steps.map((step) => {
    if (step.kind === "sips") {
      const now = held;
      held = 0;
      return now;
    }
    asked += step.water_l * share;
    const upto = asked >= first - MARK_SLACK ? asked : downTo(asked, mark);
    const now = upto - told;
    told = upto;
    return now;
  });
};

// What goes in before the sips; where nobody said, the ticket's share of it.
/** @type {(card: Card, target: number, first: number | null) => number} */
export const firstOf = (card, target, first) => {
  if (first !== null) return beforeSips(card) > 0 ? Math.min(first, target) : 0;
  return card.water.pour.target > 0 ? (beforeSips(card) * target) / card.water.pour.target : target;
};

// The smallest mark of what a load's water is measured with, as its reader reads it.
/** @type {(card: Card, us: boolean) => number} */
export const markOf = (card, us) => (us && card.water.by.us_step_l > 0 ? card.water.by.us_step_l : card.water.by.step_l);

/** @type {(card: Card, lead: any, wanted: number) => Brief} */
export const written = (card, lead, wanted) => {
  const mark = lead.leads === "ticket" ? 0 : wanted;
  const near = nearest(Math.min(lead.expected_l, lead.ceiling_l), mark);
  const target = near <= lead.ceiling_l + MARK_SLACK ? near : downTo(lead.ceiling_l, mark);
  const exact = firstOf(card, target, lead.first_l);
  const sipped = card.steps.some((one) => one.kind === "sips");
  const first = lead.first_l === null && !sipped ? exact : downTo(exact, mark);
  return {
    version: VERSION, why: "begin", card: 0, leads: lead.leads, taught_by: lead.taught_by, believed: null, mark_l: mark,
    expected_l: lead.expected_l, target_l: target, first_l: first, ceiling_l: Math.max(downTo(lead.ceiling_l, mark), target),
    steps_l: stepsL(card, target, first, mark),
  };
};

// What is told of the next load: led by the sand where the loads told of it, by the last load that was right, else by the ticket.
/** @type {(card: Card, next: any, learned: any, us: boolean) => Brief} */
export const brief = (card, next, learned, us) => {
  const { target, high } = card.water.pour;
  let lead = { leads: "ticket", expected_l: target, first_l: null, ceiling_l: high, taught_by: null };
  if (learned) lead = { leads: "sand", ...learned.next_l, taught_by: null };
  else if (next.taught_by !== null) lead = { leads: "load", expected_l: next.aim_l, first_l: null, ceiling_l: high, taught_by: next.taught_by };
  return { ...written(card, lead, markOf(card, us)), card: next.card, believed: learned ? learned.believed : null };
};
