// The clocks of the run page: timers of steps, working life, waiting for water to show, the stages of plaster; and what
// rings when. Getters for the component in mixer.js.

import { clock, ofDay, spell } from "../house/time.js";
import { t } from "../house/words.js";
import { OVER_L } from "./constants.js";

const SOON_S = 10;
const SHORT = 0.8;
const STAGE_WIDE = 72;
const RINGS_LATE_MS = 10 * 60000;
const MINUTE_MS = 60000;

export const runClocks = {
  get timing() { return !this.allDone && !this.minding && this.stepSeconds > 0 && this.at.since_ms !== null; },
  get remaining() { return this.stepSeconds - (this.now - this.at.since_ms) / 1000; },
  get timerOver() { return this.timing && this.remaining < 0; },
  get timerText() { return this.timing ? (this.remaining < 0 ? "+" : "") + spell(this.remaining) : ""; },
  get timerOf() { return this.timing ? (this.remaining < 0 ? t("past the time") : t("of {time}", { time: spell(this.stepSeconds) })) : ""; },

  // Looked at before its time: what was skipped is said where it is judged.
  get shortText() {
    if (!this.judging || this.verdict || this.at.met_ms === null) return "";
    const look = this.card.steps.findIndex((one) => one.kind === "judge");
    const asked = this.card.steps.slice(this.card.meets + 1, look).reduce((all, one) => all + one.seconds, 0);
    const spent = (this.now - this.at.met_ms) / 1000;
    return spent < asked * SHORT ? t("Load {number}: turned {time} of {asked}", { number: this.at.number, time: spell(spent), asked: spell(asked) }) : "";
  },

  get lifeLeft() { return this.at.life_ends_ms === null ? null : (this.at.life_ends_ms - this.now) / 1000; },
  get lifeLate() { return this.lifeLeft !== null && this.lifeLeft < 0; },
  get lifeText() {
    if (this.allDone || this.lifeLeft === null) return "";
    return this.lifeLate ? t("{time} past its life", { time: spell(this.lifeLeft) }) : t("{time} to use it up", { time: spell(this.lifeLeft) });
  },

  // What may be done to it once it stiffens stands where it is used.
  get keepText() {
    if (this.allDone || this.minding || this.step.kind !== "use") return "";
    const every = this.ticket.turn_again_min;
    const turn = every > 0 ? ` ${t("Give what waits a turn every {minutes} min.", { minutes: every })}` : "";
    return `${this.told.stiffened}${turn}`;
  },

  // Water takes a while to show: from the window's low end on no more of it is offered before that.
  get wetLeft() {
    if (this.allDone || !this.at.begun || this.at.poured_ms === null || !["sips", "judge"].includes(this.step.kind)) return 0;
    if (this.step.kind === "sips" && this.at.poured_l < this.at.low_l - OVER_L) return 0;
    return Math.max(0, this.ticket.wet_out_s - (this.now - this.at.poured_ms) / 1000);
  },
  get wetText() {
    if (this.wetLeft <= 0 || !this.ticket.rescue.may_take_water || this.verdict === "wet") return "";
    return t("Wait: it is still wetting out. {time}", { time: clock(this.wetLeft) });
  },

  // ── plaster goes on after the pour ────────────────────────────────────────
  stagesOf(load) {
    const ticket = this.run.tickets[load.ticket];
    if (!ticket || ticket.stages.length === 0 || load.first_powder_ms === null || load.ended === "thrown_away") return [];
    const told = this.run.told[load.ticket].stages;
    return ticket.stages.map((stage, i) => {
      const from = load.stages[stage.key] || load.first_powder_ms + stage.from_min * load.pace * MINUTE_MS;
      const to = load.first_powder_ms + stage.to_min * load.pace * MINUTE_MS;
      const ms = this.now;
      return { ...told[i], key: stage.key, from, to, seen: stage.key in load.stages, past: ms >= to, is: ms >= from && ms < to };
    });
  },
  get staged() {
    const load = this.shownLoad;
    return load ? this.stagesOf(load) : [];
  },
  get stageNow() { return [...this.staged].reverse().find((one) => this.now >= one.from) || null; },
  get stageNext() { return this.staged.find((one) => this.now < one.from) || null; },
  get stageRows() {
    return this.staged.map((one) => ({
      ...one,
      when: one.is ? t("now") : one.past || this.now >= one.from ? ofDay(one.from)
        : one.from - this.now < 3600000 ? t("in {time}", { time: spell((one.from - this.now) / 1000) })
        : one.from - this.now < 86400000 ? ofDay(one.from) : t("in {time}", { time: spell((one.from - this.now) / 1000) }),
    }));
  },
  // The cursor stands in the column of its stage, as far as its time is gone.
  drawStages(svg) {
    if (!svg || !this.watching) return;
    const stages = this.staged;
    const i = stages.findLastIndex((one) => this.now >= one.from);
    if (i < 0) return;
    const to = i + 1 < stages.length ? stages[i + 1].from : stages[i].to;
    const gone = Math.min(1, (this.now - stages[i].from) / Math.max(1, to - stages[i].from));
    svg.querySelector(".stage-cursor").setAttribute("transform", `translate(${(i + gone) * STAGE_WIDE} 0)`);
    for (const field of svg.querySelectorAll("[data-stage]")) field.classList.toggle("is", field.dataset.stage === stages[i].key);
    if (svg.dataset.at !== stages[i].key) { // brought into sight once a stage
      svg.dataset.at = stages[i].key;
      const holder = svg.parentElement;
      holder.scrollLeft = (svg.clientWidth / stages.length) * (i - 1);
    }
  },
  get stageTitle() { return this.stageNow ? this.stageNow.name : ""; },
  get stageGood() { return this.stageNow ? this.stageNow.good_for : ""; },
  get stageLook() { return this.stageNow ? this.stageNow.look : ""; },
  get stageThen() {
    const next = this.stageNext;
    return next ? t("{stage} in {time}", { stage: next.name, time: spell((next.from - this.now) / 1000) }) : "";
  },
  get paceText() {
    const load = this.shownLoad;
    if (!load || Math.abs(load.pace - 1) < 0.03) return "";
    const percent = Math.round(Math.abs(load.pace - 1) * 100);
    return load.pace > 1 ? t("{percent} % slower than the table, by what was seen.", { percent }) : t("{percent} % faster than the table, by what was seen.", { percent });
  },

  // ── what rings ────────────────────────────────────────────────────────────
  get dueList() {
    const due = [];
    for (const load of this.state.loads) {
      const ticket = this.run.tickets[load.ticket];
      if (!ticket || load.card === null || load.ended === "thrown_away") continue;
      const id = `${load.number} ${load.mixer}`;
      const step = ticket.cards[load.card].steps[load.step];
      const told = this.run.told[load.ticket].cards[load.card].steps[load.step];
      if (!load.ended && step.seconds > 0) {
        due.push({ id: `${id} step ${load.step} ${load.since_ms}`, at: load.since_ms + step.seconds * 1000, kind: "done", words: t("Load {number}: {step} is over.", { number: load.number, step: told.title }) });
      }
      if (!load.ended && load.life_ends_ms !== null) {
        due.push({ id: `${id} life`, at: load.life_ends_ms, kind: "late", words: t("Load {number} is past its life.", { number: load.number }) });
      }
      // What waits in the mixer is turned now and then, as long as it lives.
      if (!load.ended && step.kind === "use" && ticket.turn_again_min > 0) {
        const turns = Math.floor((this.now - load.since_ms) / (ticket.turn_again_min * MINUTE_MS));
        const at = load.since_ms + turns * ticket.turn_again_min * MINUTE_MS;
        if (turns > 0 && (load.life_ends_ms === null || at < load.life_ends_ms)) {
          due.push({ id: `${id} turn ${turns}`, at, kind: "soon", words: t("Load {number}: give what waits a turn.", { number: load.number }) });
        }
      }
      for (const stage of this.stagesOf(load)) {
        if (stage.seen || stage.from <= load.first_powder_ms || stage.key === "dry") continue;
        due.push({ id: `${id} ${stage.key}`, at: stage.from - SOON_S * 1000, kind: "soon", words: t("Load {number}: {stage} in ten seconds.", { number: load.number, stage: stage.name }) });
      }
    }
    return due;
  },
  // Rings each once; of what passed long ago the page only shows that it did.
  ringDue() {
    for (const one of this.dueList) {
      if (this.now < one.at || this.rung.has(one.id)) continue;
      this.rung.add(one.id);
      if (this.now - one.at < RINGS_LATE_MS) this.alarms.ring(one.kind, one.words);
    }
  },
};
