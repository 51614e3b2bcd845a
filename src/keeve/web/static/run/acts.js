// What a person does beside the mixer: each tap becomes an entry of the log. Taps for the component in mixer.js.

import { OVER_L } from "./constants.js";

const PEDALS = new Set(["PageDown", "ArrowRight", "ArrowDown", "Enter"]);
const HOLD_MS = 1200;
const A_MINUTE_MS = 60000;

export const acts = {
  pour(litres, more = {}) { this.ofLoad("poured", { litres: Math.round(litres * 10000) / 10000, ...(this.at.told_by ? { brief: this.at.told_by } : {}), ...more }); },
  type() { this.typing = !this.typing; this.typed = ""; },
  pourTyped() {
    if (!this.typeGoes) return;
    this.pour(this.typedLitres);
    this.typed = "";
    this.typing = false;
  },
  get pedalGoes() {
    if (this.allDone || this.minding || this.judging || this.step.kind === "use") return false;
    return this.group ? this.groupLeft <= OVER_L || this.group.kind === "turned" : this.step.kind !== "water" || this.left <= OVER_L;
  },
  back() { if (this.canGoBack) this.ofLoad("step_back", { step: this.at.step - 1 }); },
  forward() {
    if (this.allDone) { this.lookBack(); return; }
    if (this.minding) { this.mind_(); return; }
    if (this.forwardWaits) return;
    this.heapAnswer = "";
    this.heapOpen = false;
    if (this.group) {
      this.groupDone();
      this.toTop();
      return;
    }
    const { step, poured_l: count } = this.at;
    const kind = this.step.kind;
    if (kind === "water" && this.left > OVER_L) {
      this.pour(this.left, { rest_of: Math.round(count * 10000) / 10000 });
    }
    if (kind === "use") this.ofLoad("accepted");
    else this.ofLoad("step_done", { step });
    this.toTop();
  },
  toTop() {
    window.scrollTo(0, 0);
    this.root.querySelector(".run-grid").scrollTop = 0;
  },
  async lookBack() {
    await this.queue.settled(3000); // the last tap is to be seen there
    location.assign(document.querySelector('[data-station="5"]').href);
  },
  judge(verdict) {
    const step = this.quickJudge ? this.group.to + 1 : this.at.step;
    if (this.quickJudge) this.groupDone();
    this.ofLoad("judged", { verdict });
    if (verdict === "right") this.ofLoad("step_done", { step });
  },
  addDry() {
    const thousandth = (kg) => Math.round(kg * 1000) / 1000;
    const parts = Object.fromEntries(this.proposal.parts.map((part) => [part.key, thousandth(part.batch_kg)]));
    this.ofLoad("dry_added", { dry_kg: Math.round(this.proposal.dry_kg * 1e6) / 1e6, parts });
  },
  useAnyway() { this.ofLoad("accepted"); },
  throwAway() { this.ofLoad("thrown_away"); },
  once() { this.settle(false); },
  twice() { this.settle(true); },
  settle(twice) { this.ofLoad("settled", { about: this.question.about, twice }); },
  oneMore() { this.record("one_more", { ticket: this.state.ticket }); },
  undo() {
    const last = this.lastOwn;
    if (!last) return;
    this.record("undone", { undoes: last.id });
    // A look and what it changed are one tap.
    if (last.kind === "briefed" && last.brief.why === "look" && this.lastOwn && ["looked", "happened"].includes(this.lastOwn.kind)) this.record("undone", { undoes: this.lastOwn.id });
  },
  hold() {
    this.letGo();
    this.holding = setTimeout(() => { this.pour(this.confessLitres, { over: true }); this.typed = ""; }, HOLD_MS);
  },
  letGo() { clearTimeout(this.holding); },
  holdKey(event) { if ((event.key === "Enter" || event.key === " ") && !event.repeat) { event.preventDefault(); this.hold(); } },
  saveAside() {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([JSON.stringify(Alpine.raw(this.aside), null, 2)], { type: "application/json" }));
    link.download = "keeve-entries.json";
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), A_MINUTE_MS); // a busy phone takes its time to fetch it
  },
  clearAside() { this.queue.clearAside(); },
  reload() { location.reload(); },
  toggleSteps() { this.root.querySelector("[data-steps]").showModal(); },
  key(event) {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    // What is typed belongs to its field, Space and Enter to the button that has the focus; a key that is held is one tap.
    const on = event.target instanceof Element ? event.target : null;
    if (event.repeat || (on && on.closest("input, select, textarea"))) return;
    if (on && on.closest("button, a, summary") && (event.key === " " || event.key === "Enter")) return;
    if (event.key === " " && !this.judging) this.forward();
    else if (PEDALS.has(event.key) && this.pedalGoes) this.forward(); // it never pours and never accepts
    else if (event.key.toLowerCase() === "r") this.sayStep();
    else if (event.key.toLowerCase() === "w" && this.mayPour && this.at.may_sip) this.pour(this.jugs[0].litres);
    else return;
    event.preventDefault();
  },
};
