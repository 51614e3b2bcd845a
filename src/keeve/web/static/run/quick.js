// The short run: after a load of this mix that was right today, in this mixer, a load is *in · turned · right*. The same entries
// of the log, marked quick; everything else is one tap away. Getters for the component in mixer.js.

import { OVER_L } from "./constants.js";
import { t } from "../house/words.js";

const SLOW = "keeve_step_by_step";
const dayOf = (ms) => new Date(ms).toDateString();

export const quickRun = {
  slow: false,
  setQuick(event) {
    this.slow = !event.target.checked;
    try { localStorage.setItem(SLOW, this.slow ? "1" : ""); } catch { /* for now */ }
    this.draw();
  },
  readQuick() {
    try { this.slow = localStorage.getItem(SLOW) === "1"; } catch { /* short */ }
  },
  // Whether a load may go the short way: one of its mix was right in its mixer today.
  isShort(at, loads, tickets) {
    const ticket = tickets[at.ticket];
    const day = dayOf(Date.now() + this.queue.skewMs);
    const mixOf = (load) => (tickets[load.ticket] || { mix_key: "" }).mix_key;
    return ticket.stages.length === 0 && loads.some((load) => load.teaches && load.mixer === at.mixer && dayOf(load.ended_ms) === day && mixOf(load) === ticket.mix_key);
  },
  // The steps that one tap does: all that goes in, or all that is turned; null where the load goes step by step.
  get group() {
    if (this.slow || this.minding || this.allDone || !this.at.short) return null;
    const { steps } = Alpine.raw(this.card);
    const look = steps.findIndex((one) => one.kind === "judge");
    const last = steps.findLastIndex((one, i) => i < look && one.kind !== "sips" && (one.parts.length > 0 || one.water_l > 0));
    const { step } = this.at;
    if (step <= last) return { kind: "in", from: step, to: last };
    return step < look ? { kind: "turned", from: step, to: look - 1 } : null;
  },
  get stepSeconds() {
    const { group } = this;
    if (!group) return this.step.seconds;
    return group.kind === "in" ? 0 : this.card.steps.slice(group.from, group.to + 1).reduce((all, one) => all + one.seconds, 0);
  },
  get groupLeft() {
    const due = this.at.steps_l.slice(0, this.group.to + 1).reduce((all, one, i) => all + (this.card.steps[i].kind === "sips" ? 0 : one), 0);
    return Math.max(0, due - this.at.poured_l);
  },
  // A bucket is looked at while it turns: the verdict ends the turning, and saves a tap.
  get quickJudge() { return this.group !== null && this.group.kind === "turned" && this.ticket.mixer.kind === "bucket"; },
  get listed() { return this.group !== null && this.group.kind === "in"; },
  get groupTitle() { return this.group.kind === "in" ? t("Everything in, in this order") : t("Turn it"); },
  get groupForward() {
    if (this.group.kind === "turned") return t("Turned: look at it");
    return this.groupLeft > OVER_L ? t("All in, {water} of water with it", { water: this.litres(this.groupLeft) }) : t("All in");
  },
  groupDone() {
    const { from, to, kind } = this.group;
    const left = Math.round(this.groupLeft * 10000) / 10000;
    const count = Math.round(this.at.poured_l * 10000) / 10000;
    if (kind === "in" && left > OVER_L) this.pour(left, { rest_of: count, quick: true });
    for (let step = from; step <= to; step += 1) this.ofLoad("step_done", { step, quick: true });
  },
};
