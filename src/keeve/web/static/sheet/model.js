// Sends a model, shows how far its reading is, stops it, and asks in which unit it was drawn.

import { t } from "../house/words.js";

const ASK_MS = 250;
const WORDS = { waiting: t("Waiting"), reading: t("Reading the triangles"), checking: t("Looking for holes"), measuring: t("Measuring"), drawing: t("Drawing it") };

const modelComponent = () => ({
  busy: false,
  words: "",
  percent: 0,
  choices: [],
  repaired: "",
  sorry: "",
  key: "",
  sending: null,

  init() {
    const field = this.$root.querySelector("input[type=file]");
    if (field.files.length) this.pick({ target: field }); // chosen before this script was there
  },

  pick(event) {
    const file = event.target.files[0];
    event.target.value = "";
    if (!file) return;
    this.busy = true;
    this.sorry = "";
    this.choices = [];
    this.words = t("Sending");
    this.percent = 0;
    const sending = new XMLHttpRequest();
    this.sending = sending;
    sending.open("PUT", `${this.$root.dataset.send}?name=${encodeURIComponent(file.name)}`);
    sending.setRequestHeader("x-keeve-token", document.querySelector("meta[name=token]").content);
    sending.upload.addEventListener("progress", (sent) => { this.percent = Math.round((sent.loaded / sent.total) * 50); });
    sending.addEventListener("load", () => {
      if (sending.status === 413) { this.fail(t("This file is larger than 300 MB. Export it coarser.")); return; }
      const answer = JSON.parse(sending.responseText);
      if (sending.status !== 202) { this.fail(`${answer.faults[0].sentence} ${answer.faults[0].hint}`); return; }
      this.key = answer.key;
      this.follow();
    });
    sending.addEventListener("error", () => this.fail(t("The line broke, or the file is larger than 300 MB. Nothing was taken in.")));
    sending.addEventListener("abort", () => this.fail(t("Stopped. Nothing was taken in.")));
    sending.send(file);
  },

  fail(words) {
    this.busy = false;
    this.sorry = words;
  },

  async follow() {
    try {
      const answer = await (await fetch(`${this.$root.dataset.models}/${this.key}`)).json();
      if (!this.busy) return;
      this.words = WORDS[answer.stage] || answer.stage;
      this.percent = 50 + Math.round((answer.share || 0) * 50);
      if (!answer.done) { setTimeout(() => this.follow(), ASK_MS); return; }
      if (answer.faults) { this.fail(answer.faults.map((f) => `${f.sentence} ${f.hint}`).join(" ")); return; }
      this.busy = false;
      this.repaired = answer.repaired;
      this.choices = answer.choices.filter((choice) => choice.fits);
    } catch {
      setTimeout(() => this.follow(), ASK_MS * 8);
    }
  },

  async stop() {
    if (this.key) {
      await fetch(`${this.$root.dataset.models}/${this.key}`, { method: "DELETE", headers: { "x-keeve-token": document.querySelector("meta[name=token]").content } });
      this.fail(t("Stopped. Nothing was taken in."));
    } else {
      this.sending.abort();
    }
    this.key = "";
  },

  take(choice) {
    this.choices = [];
    document.dispatchEvent(new CustomEvent("keeve:shape", { detail: { kind: "scan", fields: Alpine.raw(choice).fields } }));
  },
});

document.addEventListener("alpine:init", () => Alpine.data("model", modelComponent));
