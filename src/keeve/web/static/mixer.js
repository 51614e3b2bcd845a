"use strict";
// Station 4: steps, timer and water count, from the ticket the page already holds.
// Every tap is an event with an id made here; it waits in this browser until the server has it.

(() => {
  const TICK_MS = 250;
  const SEND_AGAIN_MS = 4000;

  const newId = () => {
    if (crypto.randomUUID) return crypto.randomUUID();
    const bytes = [...crypto.getRandomValues(new Uint8Array(16))];
    return bytes.map((b) => b.toString(16).padStart(2, "0")).join("");
  };
  const clock = (seconds) => {
    const s = Math.max(0, Math.round(Math.abs(seconds)));
    return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
  };

  const runComponent = () => ({
    root: null,
    run: null,
    events: {},
    queue: [],
    now: Date.now(),
    kept: "",

    init() {
      this.root = this.$root;
      this.run = JSON.parse(this.root.querySelector("[data-run]").textContent);
      this.address = this.root.dataset.post;
      this.box = `keeve-events ${this.address}`;
      this.events = this.run.events;
      this.queue = JSON.parse(localStorage.getItem(this.box) || "[]");
      for (const waiting of this.queue) this.take(waiting.number, waiting.event);
      setInterval(() => { this.now = Date.now(); this.draw(); }, TICK_MS);
      window.addEventListener("online", () => this.send());
      document.addEventListener("keydown", (event) => this.key(event));
      this.$nextTick(() => this.draw());
      this.send();
    },

    // ── what happened ──────────────────────────────────────────────────────────
    take(number, event) {
      const log = this.events[number] || [];
      if (log.some((e) => e.id === event.id)) return;
      this.events = { ...this.events, [number]: [...log, event] };
    },
    record(kind, more) {
      const number = this.load.number;
      const last = (this.events[number] || []).reduce((t, e) => Math.max(t, Date.parse(e.at)), 0);
      const event = { id: newId(), at: new Date(Math.max(Date.now(), last + 1)).toISOString(), kind, ...more };
      this.now = Date.now();
      this.take(number, event);
      this.queue = [...this.queue, { number, event }];
      localStorage.setItem(this.box, JSON.stringify(this.queue));
      this.draw();
      this.send();
    },
    async send() {
      if (this.sending || this.queue.length === 0) return;
      this.sending = true;
      const number = this.queue[0].number;
      const batch = this.queue.filter((q) => q.number === number).slice(0, 100);
      try {
        const answer = await fetch(this.address.replace("/loads/0/", `/loads/${number}/`), {
          method: "POST",
          headers: { "content-type": "application/json", "x-keeve-token": document.querySelector("meta[name=token]").content },
          body: JSON.stringify(batch.map((q) => q.event)),
        });
        if (!answer.ok) throw new Error(String(answer.status));
        const sent = new Set(batch.map((q) => q.event.id));
        this.queue = this.queue.filter((q) => !sent.has(q.event.id));
        localStorage.setItem(this.box, JSON.stringify(this.queue));
        this.kept = "";
      } catch (error) {
        this.kept = error.message === "403"
          ? "Load this page again: it was open too long. Nothing is lost."
          : `No network: ${this.queue.length} ${this.queue.length === 1 ? "entry waits" : "entries wait"} here. Go on mixing.`;
        setTimeout(() => this.send(), SEND_AGAIN_MS);
        return;
      } finally {
        this.sending = false;
      }
      if (this.queue.length > 0) this.send();
    },

    live(number) {
      const log = this.events[number] || [];
      const undone = new Set(log.filter((e) => e.kind === "undone").map((e) => e.undoes));
      return log.filter((e) => e.kind !== "undone" && !undone.has(e.id)).sort((a, b) => Date.parse(a.at) - Date.parse(b.at));
    },
    pouredIn(number) {
      return this.live(number).reduce((sum, e) => sum + (e.kind === "water" ? e.litres || 0 : 0), 0);
    },
    endOf(number) {
      return this.live(number).find((e) => e.kind === "accepted" || e.kind === "thrown_away");
    },

    // ── where the run stands ───────────────────────────────────────────────────
    get load() { return this.run.loads.find((l) => !this.endOf(l.number)) || this.run.loads[this.run.loads.length - 1]; },
    get allDone() { return this.run.loads.every((l) => this.endOf(l.number)); },
    get card() { return this.run.cards[this.load.card]; },
    get log() { return this.live(this.load.number); },
    get poured() { return this.pouredIn(this.load.number); },
    get stepIndex() {
      const moves = this.log.filter((e) => e.kind === "step_done" || e.kind === "step_back");
      if (moves.length === 0) return 0;
      const last = moves[moves.length - 1];
      const at = (last.step || 0) + (last.kind === "step_done" ? 1 : 0);
      return Math.min(at, this.card.steps.length - 1);
    },
    get step() { return this.card.steps[this.stepIndex]; },
    get stepSince() {
      const moves = this.log.filter((e) => e.kind === "step_done" || e.kind === "step_back" || e.kind === "started");
      return moves.length ? Date.parse(moves[moves.length - 1].at) : null;
    },

    // What the last accepted load really took is where the next one begins, never past the highest.
    get aim() {
      const pour = this.card.pour;
      const done = this.run.loads.filter((l) => l.number < this.load.number && (this.endOf(l.number) || {}).kind === "accepted");
      if (done.length === 0) return pour.target;
      const last = done[done.length - 1];
      return Math.min(this.pouredIn(last.number) * this.card.volume_l / this.run.cards[last.card].volume_l, pour.high);
    },
    get factor() { return this.card.pour.target > 0 ? this.aim / this.card.pour.target : 1; },
    get due() {
      const steps = this.card.steps.slice(0, this.stepIndex + 1);
      return steps.reduce((sum, s) => sum + s.water_l, 0) * this.factor;
    },
    get left() { return Math.max(0, this.due - this.poured); },

    // ── what is shown ──────────────────────────────────────────────────────────
    litres(amount) {
      const value = amount / this.run.litres.per_unit;
      return `${value.toFixed(value < 10 ? 2 : 1)} ${this.run.litres.unit}`;
    },
    get where() { return `Load ${this.load.number} of ${this.run.loads.length} · step ${this.stepIndex + 1} of ${this.card.steps.length}`; },
    get title() { return this.allDone ? "All loads are done" : this.step.title; },
    get detail() { return this.allDone ? "Clean the mixer before it sets." : this.step.detail; },
    get lines() {
      if (this.allDone) return [];
      return this.step.lines.map((line) => {
        if (line.name !== "Water") return line;
        const wanted = this.step.water_l * this.factor;
        return { ...line, amount: this.step.kind === "sips" ? `up to ${this.litres(wanted)}` : this.litres(wanted) };
      });
    },
    // Judging a reading needs the server: without a network the exact amount beside it has to do.
    async weighed(wanted, event) {
      const field = event.target;
      const said = field.closest(".weigh").querySelector("output");
      const text = field.value.trim();
      if (!text) { said.textContent = ""; return; }
      const bare = /^[\d.,]+$/.test(text);
      try {
        const answer = await fetch(this.$root.dataset.weighed, {
          method: "POST",
          headers: { "content-type": "application/json" },
          body: JSON.stringify({ ...wanted, weighed: bare ? `${text} ${field.dataset.unit}` : text }),
        });
        const found = await answer.json();
        if (field.value.trim() !== text) return; // a later reading is on its way
        said.textContent = answer.ok ? found.words : `${found.faults[0].sentence} ${found.faults[0].hint}`;
        said.className = answer.ok && found.good ? "" : "off-mark";
      } catch {
        said.textContent = "No connection: compare it with the amount above.";
      }
    },
    get judging() { return !this.allDone && this.step.kind === "judge"; },
    get nextTitle() {
      if (this.allDone) return "";
      const next = this.card.steps[this.stepIndex + 1];
      return next ? next.title : this.load.number < this.run.loads.length ? `load ${this.load.number + 1}` : "";
    },
    get forwardText() {
      if (this.allDone) return "Look back →";
      if (this.step.kind === "water" && this.left > 0.005) return `Poured ${this.poured > 0 ? "the rest, " : ""}${this.litres(this.left)}`;
      if (this.step.kind === "water") return "All water is in: next";
      if (this.step.kind === "sips") return "Enough water: next";
      if (this.step.kind === "add") return "It is in: next";
      if (this.step.kind === "use") return "Load is used up";
      return "Done: next";
    },
    get mayPour() {
      if (this.allDone) return false;
      const first = this.card.steps.findIndex((s) => s.water_l > 0);
      if (this.stepIndex < first) return false;
      return !this.tooMuch && (this.run.correction.may_take_water || this.step.kind === "water");
    },
    get noWater() {
      return !this.allDone && !this.mayPour && !this.run.correction.may_take_water && this.stepIndex > 0 && !this.judging ? "No more water from here on." : "";
    },
    get jugs() { return this.card.jugs; },
    get tooMuch() { return this.poured > this.card.pour.high + 0.005; },
    get countText() { return this.litres(this.poured); },
    get targetText() { return `of ${this.litres(this.aim)}`; },
    get carried() {
      const planned = this.card.pour.target;
      if (this.allDone || this.poured > 0 || Math.abs(this.aim - planned) < 0.01 * planned) return "";
      return `The last load took ${this.litres(this.aim)} for this size: this one begins with that, not with ${this.litres(planned)}.`;
    },

    get timing() { return !this.allDone && this.step.seconds > 0 && this.stepSince !== null; },
    get remaining() { return this.step.seconds - (this.now - this.stepSince) / 1000; },
    get timerOver() { return this.timing && this.remaining < 0; },
    get timerText() { return this.timing ? (this.remaining < 0 ? "+" : "") + clock(this.remaining) : ""; },
    get timerOf() { return this.timing ? (this.remaining < 0 ? "past the time" : `of ${clock(this.step.seconds)}`) : ""; },

    get lifeLeft() {
      const met = this.log.find((e) => e.kind === "step_done" && (e.step || 0) === this.card.meets);
      return met ? this.run.life_s - (this.now - Date.parse(met.at)) / 1000 : null;
    },
    get lifeLate() { return this.lifeLeft !== null && this.lifeLeft < 0; },
    get lifeText() {
      if (this.allDone || this.lifeLeft === null) return "";
      return this.lifeLate ? `${clock(this.lifeLeft)} past its life` : `${clock(this.lifeLeft)} to use it up`;
    },

    get lastVerdict() {
      const judged = this.log.filter((e) => e.kind === "judged");
      return this.judging && judged.length ? judged[judged.length - 1].verdict : "";
    },
    get dryKg() {
      const over = Math.max(0, this.poured - this.aim);
      return (this.run.correction.dry_kg_per_litre_over || 0) * over;
    },
    get dryAdvice() { return this.lastVerdict === "wet" && this.dryKg > 0 && this.dryKg <= this.card.dry_room_kg; },
    get throwable() {
      return this.lastVerdict === "wet" || (this.lastVerdict === "dry" && !this.run.correction.may_take_water);
    },
    get advice() {
      if (this.lastVerdict === "dry") return this.run.correction.too_dry;
      if (this.lastVerdict !== "wet") return "";
      const amount = this.dryKg / this.run.kilos.per_unit;
      const said = `${amount.toFixed(amount < 10 ? 1 : 0)} ${this.run.kilos.unit} of dry mix`;
      if (this.dryKg > this.card.dry_room_kg) return `By the count it would take ${said}, more than this mixer still holds: throw it away.`;
      return this.run.correction.too_wet + (this.dryAdvice ? ` By the count, about ${said}.` : "");
    },
    get canUndo() { return !this.allDone && this.log.length > 0; },
    get steps() {
      return this.card.steps.map((s, index) => ({
        index,
        title: s.title,
        said: s.lines.map((l) => `${l.name} ${l.amount}`).join("; "),
        done: index < this.stepIndex,
        now: index === this.stepIndex,
      }));
    },

    draw() {
      for (const holder of this.root.querySelectorAll("[data-card]")) {
        holder.hidden = holder.dataset.card !== String(this.load.card);
      }
      for (const svg of this.root.querySelectorAll("[data-card]:not([hidden]) .counting")) {
        const from = Number(svg.dataset.from);
        const high = Math.min(this.poured * Number(svg.dataset.perL), from - 4);
        svg.querySelector(".count").setAttribute("y", from - high);
        svg.querySelector(".count").setAttribute("height", high);
        svg.querySelector(".now").setAttribute("transform", `translate(0 ${from - high})`);
        svg.classList.toggle("too-much", this.tooMuch);
      }
      for (const layer of this.root.querySelectorAll("[data-card]:not([hidden]) [data-step]")) {
        layer.classList.toggle("yet", Number(layer.dataset.step) > this.stepIndex);
        layer.classList.toggle("here", Number(layer.dataset.step) === this.stepIndex);
      }
      const ring = this.root.querySelector("[data-ring]");
      const share = this.timing ? Math.max(0, Math.min(1, this.remaining / this.step.seconds)) : 0;
      if (ring) ring.setAttribute("stroke-dasharray", `${share * 100} 100`);
    },

    // ── what a person does ─────────────────────────────────────────────────────
    begun() { if (!this.log.some((e) => e.kind === "started")) this.record("started"); },
    pour(litres) {
      this.begun();
      this.record("water", { litres: Math.round(litres * 10000) / 10000 });
    },
    forward() {
      if (this.allDone) { location.assign(document.querySelector('[data-station="5"]').href); return; }
      this.begun();
      if (this.step.kind === "water" && this.left > 0.005) this.pour(this.left);
      if (this.step.kind === "use") this.record("accepted");
      else this.record("step_done", { step: this.stepIndex });
      window.scrollTo(0, 0);
    },
    judge(verdict) {
      this.begun();
      const step = this.stepIndex;
      this.record("judged", { verdict });
      if (verdict === "right") this.record("step_done", { step });
    },
    addDry() { this.record("dry_added", { dry_kg: Math.round(this.dryKg * 1000) / 1000 }); },
    throwAway() { this.record("thrown_away"); },
    undo() {
      const last = this.log[this.log.length - 1];
      if (last) this.record("undone", { undoes: last.id });
    },
    toggleSteps() { this.root.querySelector("[data-steps]").showModal(); },
    key(event) {
      if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
      if (event.target instanceof Element && event.target.closest("input, select, button, a")) {
        if (event.key === " ") return; // Space belongs to the button that has the focus
      }
      if (event.key === " " && !this.judging) this.forward();
      else if (event.key.toLowerCase() === "w" && this.mayPour) this.pour(this.card.sip_l);
      else return;
      event.preventDefault();
    },
  });

  document.addEventListener("alpine:init", () => { Alpine.data("run", runComponent); });
})();
