// What is told of the heap beside the mixer: how it looks, and what happened to it; the load in hand follows as long as its
// water is not poured, else the next. Getters and taps for the component in mixer.js.

import { heapOf } from "./belief.js";
import { brief } from "./brief.js";
import { t } from "../house/words.js";

export const heaps = {
  heapOpen: false,
  heapAnswer: "",

  get heap() { return this.allDone ? null : heapOf(Alpine.raw(this.card)); },
  get heapName() { return this.heap ? this.told.names[this.heap.key] : ""; },
  // The step that asks to look shows the looks, and the first step where the loads ask; on every other they are one tap away.
  get heapStep() {
    if (this.heap === null || this.minding || this.group || this.at.poured_l > 0) return false;
    const tells = this.at.begun ? null : this.tellsOf(this.ticket, this.card);
    return (this.step.kind === "prepare" && this.step.drawn === "snowball") || Boolean(tells && tells.asks);
  },
  get heapAsked() { return this.heap !== null && !this.minding && !this.judging && !this.watching && (this.heapOpen || this.heapStep); },
  get heapSeen() {
    const looks = this.state.heap.filter((one) => one.what === "look" && this.heap && one.of === this.heap.key);
    const last = looks[looks.length - 1];
    return last ? last.look : "";
  },
  openHeap() {
    this.heapOpen = !this.heapOpen;
    this.heapAnswer = "";
  },
  sawHeap(look) { this.toldOfHeap(() => this.record("looked", { of: this.heap.key, look, ticket: this.state.ticket })); },
  heapChanged(what) {
    if (what === "bags") { // no heap's matter: it is kept, and nothing of the load is told anew
      this.record("happened", { what });
      this.heapOpen = false;
      return;
    }
    this.toldOfHeap(() => this.record("happened", { what, of: this.heap.key }));
  },
  toldOfHeap(tell) {
    const before = this.at;
    tell();
    if (before.begun && before.pours === 0) {
      const tells = this.tellsOf(this.ticket, this.card);
      if (tells) {
        const told = brief(Alpine.raw(this.card), { card: before.card, taught_by: null, aim_l: before.aim_l }, tells, this.run.us);
        this.ofLoad("briefed", { brief: JSON.parse(JSON.stringify({ ...told, why: "look" })) });
      }
    }
    this.heapOpen = false;
    this.heapAnswer = before.begun && before.pours > 0 ? t("Kept. This load goes on as it was begun; the next one follows.") : "";
    this.draw();
  },
};
