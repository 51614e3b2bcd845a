// Too dry, too wet, told twice: what may be done to a load that is not right. Getters for the component in mixer.js.

import { t } from "../house/words.js";

/** @type {Array<[number, string]>} */
const PEOPLE = [[0.25, "¼"], [1 / 3, "⅓"], [0.5, "½"], [2 / 3, "⅔"], [0.75, "¾"], [1, "1"]];

// A count of struck gauges as people say it; below a quarter it goes by the scale.
const gauges = (exact, [one, other]) => {
  if (exact < 0.2) return "";
  const whole = Math.floor(exact + 0.125);
  const rest = exact - whole;
  const part = rest > 0.125 ? PEOPLE.reduce((best, one) => (Math.abs(one[0] - rest) < Math.abs(best[0] - rest) ? one : best))[1] : "";
  const count = `${whole || ""}${part || (whole ? "" : "¼")}`;
  return (whole > 1 || (whole === 1 && part) ? other : one).replace("{count}", count);
};

export const rescue = {
  get verdict() { return this.judging ? this.at.verdict : ""; },
  get proposal() { return this.verdict === "wet" ? this.at.proposal : null; },
  get dryAdvice() { return this.proposal !== null && this.proposal.fits && !this.lifeLate; },
  get dryLines() {
    if (!this.dryAdvice) return [];
    return this.proposal.parts.map((part) => {
      const scoop = this.shown.scoops[part.key];
      const counted = scoop ? gauges(part.batch_kg / scoop.kg, scoop.said) : "";
      return { key: part.key, name: this.told.names[part.key], amount: this.kilos(part.batch_kg), gauges: counted };
    });
  },
  get throwable() { return this.verdict === "wet" || (this.verdict === "dry" && !this.at.may_sip); },
  get advice() {
    if (this.verdict === "dry") {
      if (this.ticket.rescue.may_take_water && !this.at.may_sip) return t("The water is at its highest: no more. Use it where it may be stiff, or throw it away.");
      return this.told.too_dry;
    }
    if (this.verdict !== "wet") return "";
    if (this.lifeLate) return t("It is past its life: nothing more goes in. Throw it away.");
    if (!this.proposal) return this.told.too_wet;
    const all = this.kilos(this.proposal.parts.reduce((sum, part) => sum + part.batch_kg, 0));
    if (!this.proposal.fits) {
      const room = this.kilos(this.proposal.room_kg);
      return t("It would take {all} of dry mix, and there is room for {room}: use it where it may be wet, or throw it away.", { all, room });
    }
    const much = this.proposal.by === "count" ? t("By the count: {all} as it lies.", { all }) : t("One step: {all} as it lies.", { all });
    return `${this.told.too_wet} ${much}`;
  },
  get question() { return this.allDone ? null : this.at.question; },
  get questionText() {
    return this.question === null ? "" : t("{water} were tapped twice on the same count. Was it poured once or twice?", { water: this.litres(this.question.litres) });
  },
};
