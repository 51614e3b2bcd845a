// Stations 1 to 3: sends the sheet as typed, shows the answer the server gives, and keeps the sheet.
// Nothing about mixes is worked out here.

import { t } from "../house/words.js";
import { again } from "./again.js";
import { asking } from "./asking.js";
import { put } from "./put.js";

const KEEP_AFTER_MS = 300;
const TRY_AGAIN_MS = 3000;
const shown = (field) => field.type === "hidden" || field.type === "radio" || field.offsetParent !== null || field.closest("details:not([open])") !== null;

// What was typed and the unit beside it, parted by an invisible separator: what they mean together, the server knows.
const typed = (field) => {
  const text = field.value.trim();
  return text && field.dataset.unit ? `${text}\u2063${field.dataset.unit}` : text;
};

const place = (root, path, value) => {
  const keys = path.split(".");
  let at = root;
  for (const [i, key] of keys.slice(0, -1).entries()) {
    if (typeof at[key] !== "object" || at[key] === null) {
      if (value === "" && /^\d+$/.test(keys[i + 1])) return; // an empty entry begins no list
      at[key] = /^\d+$/.test(keys[i + 1]) ? [] : {};
    }
    at = at[key];
  }
  const last = keys[keys.length - 1];
  if (value !== "") at[last] = value;
  else if (Array.isArray(at)) at.splice(Number(last), 1);
  else delete at[last];
};

const touched = (field) => {
  if (field.matches("select")) {
    const began = [...field.options].find((one) => one.defaultSelected) || field.options[0];
    return began !== undefined && field.value !== began.value;
  }
  if (field.type === "radio") return field.checked && !field.defaultChecked;
  return field.value !== field.defaultValue || field.checked !== field.defaultChecked;
};

const sheetComponent = () => ({
  kept: "",
  meanwhile: [], // what somebody else's changes did
  reloadSoon: false,
  leaving: false,
  stale: false,
  removed: false,
  root: null,
  sheet: {},
  dirty: false,
  ask: null, // asks what comes of a sheet
  timer: 0,
  gone: null,
  forms: null,

  init() {
    this.root = this.$root; // from inside a nested part $root is that part
    this.sheet = JSON.parse(this.root.querySelector("[data-sheet]").textContent);
    this.version = Number(this.root.dataset.version);
    this.base = structuredClone(Alpine.raw(this.sheet));
    this.form = this.root.querySelector("form.entries");
    this.meanwhile = again.takeOver(this.form);
    this.ask = asking(this.root.dataset, (said) => this.answered(said), () => this.noAnswer());
    this.lists = [...this.form.querySelectorAll("[data-rows]")];
    this.fetchForms();
    this.showFaults(JSON.parse(this.root.querySelector("[data-faults]").textContent));
    const early = this.root.querySelector("#find-kind");
    if (early && early.value) this.findKind({ target: early }); // typed before this script was there
    const chosen = this.form.querySelector(".mixes input:checked");
    if (chosen) {
      const row = chosen.closest("label");
      row.parentElement.scrollTop = row.offsetTop - row.parentElement.offsetTop - row.offsetHeight;
    }
    document.addEventListener("click", (event) => this.leave(event), true);
    this.form.addEventListener("click", (event) => this.toField(event));
    this.form.addEventListener("focusin", (event) => this.toLetter(event));
    this.form.addEventListener("keydown", (event) => this.next(event));
    const kinds = this.form.querySelector("[data-kinds]");
    if (kinds && window.matchMedia("(max-width: 860px)").matches && this.form.querySelector("[data-shape]")) kinds.open = false;
    document.addEventListener("keeve:shape", (event) => this.addFilled(/** @type {CustomEvent} */ (event).detail));
    const begin = document.getElementById("begin");
    if (begin) begin.addEventListener("submit", (event) => this.beforeBegin(event));
    // Somebody may have typed before this script was there.
    const field = [...this.form.querySelectorAll("input, select")].find(touched);
    if (field) this.$nextTick(() => this.changed({ target: field }));
    window.addEventListener("pagehide", () => {
      const handed = this.leaving ? again.handOver(this.form, this.meanwhile, this.dirty) : "";
      const rows = (sheet) => (sheet.shapes || []).length; // a row that was just added goes by itself
      if (this.dirty && !(handed && rows(this.sheet) === rows(this.base))) this.put(true);
    });
  },

  collect() {
    const sheet = structuredClone(Alpine.raw(this.sheet));
    for (const list of this.lists) place(sheet, list.dataset.rows, []);
    for (const field of this.form.querySelectorAll("[name]")) {
      if (!shown(field) || (field.type === "radio" && !field.checked)) continue;
      place(sheet, field.name, typed(field));
    }
    if (Array.isArray(sheet.admixtures)) sheet.admixtures = sheet.admixtures.filter((one) => one && one.admixture);
    if (sheet.gauges && sheet.gauges.length === 0) delete sheet.gauges;
    for (const key of Object.keys(sheet)) if (sheet[key] === null) delete sheet[key];
    return sheet;
  },

  // A look at a heap holds for a day's work: when it was is kept with it.
  looked(field) {
    if (!field || !field.name || !field.name.startsWith("moisture_percent.")) return;
    const at = this.form.querySelector(`[name="${CSS.escape(field.name.replace("moisture_percent.", "looked_at."))}"]`);
    if (at) at.value = field.value ? new Date().toISOString() : "";
  },

  changed(event) {
    // A choice fires both events, and its page has answered it at the second; a blur fires the second without one.
    const choice = event && event.target && event.target.matches && event.target.matches("select, [type=radio], [type=checkbox]");
    if (event && (event.type === "input" ? choice : event.type === "change" && !choice)) return;
    if (event) this.looked(event.target);
    if (event && event.target && event.target.matches("input:not([name])")) return; // the field that finds
    this.sheet = this.collect();
    this.dirty = true;
    this.kept = ""; // what was said is of what stood here before
    if (event && event.target && event.target.dataset && "reload" in event.target.dataset) {
      // Another mix has other entries: keep the choice, then show its page. What only fitted the old mix goes.
      this.sheet.changes = {};
      if (!event.target.dataset.suits.split(" ").includes(this.sheet.mixer)) delete this.sheet.mixer;
      this.reloadSoon = true;
      this.keepNow();
      return;
    }
    this.ask(this.sheet);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.keepNow(), KEEP_AFTER_MS);
  },

  answered(said) {
    if (said.answer !== undefined) put.text(this.root.querySelector("[data-answer]"), said.answer);
    if (said.drawn !== undefined) this.draw(said.drawn);
    this.showFaults(said.faults);
    this.stale = said.answer === undefined && said.faults.length > 0;
  },
  noAnswer() {
    this.kept = t("No answer just now. What you entered stays; it tries again.");
    setTimeout(() => this.ask(this.sheet), TRY_AGAIN_MS);
  },

  // Every shape is drawn as typed, also where the sheet is refused: a slip must be seen.
  draw(text) {
    const drawn = document.createElement("template");
    drawn.innerHTML = text;
    const slots = this.form.querySelectorAll("[data-slot]");
    drawn.content.querySelectorAll("[data-drawing]").forEach((one, i) => { if (slots[i]) put.nodes(slots[i], one); });
    if (this.form.contains(document.activeElement)) this.toLetter({ target: document.activeElement });
  },

  showFaults(faults) {
    for (const spot of this.root.querySelectorAll("[data-fault-for]")) {
      spot.hidden = true;
      spot.textContent = "";
    }
    for (const field of this.form.querySelectorAll("[aria-invalid]")) field.removeAttribute("aria-invalid");
    const rest = [];
    for (const fault of faults) {
      const spot = this.root.querySelector(`[data-fault-for="${CSS.escape(fault.field)}"]`);
      const words = `${fault.sentence} ${fault.hint}`.trim();
      if (!spot) {
        rest.push(fault.station ? `${fault.station}: ${words}` : words);
        continue;
      }
      spot.hidden = false;
      spot.textContent = words;
      const folded = spot.closest("details:not([open])");
      if (folded) folded.open = true; // what is wrong must be seen
      const shape = /^shapes\.(\d+)/.exec(fault.field);
      if (shape && Number(shape[1]) > 0 && fault.code !== "missing") rest.push(t("Shape {number}: {words}", { number: Number(shape[1]) + 1, words }));
      spot.classList.toggle("missing", fault.code === "missing");
      const field = this.form.querySelector(`[name="${CSS.escape(fault.field)}"]`);
      if (field && fault.code !== "missing") field.setAttribute("aria-invalid", "true");
    }
    const box = this.root.querySelector("[data-fault-rest]");
    box.hidden = rest.length === 0;
    box.replaceChildren(...[...new Set(rest)].map((words) => Object.assign(document.createElement("p"), { textContent: words })));
  },

  // What a page may still send while it is left is bounded: then what it began from stays behind.
  written(leaving) {
    const text = JSON.stringify({ sheet: this.sheet, base: this.base, version: this.version });
    return leaving && text.length > 50000 ? JSON.stringify({ sheet: this.sheet, version: this.version }) : text;
  },

  put(leaving) {
    return fetch(this.root.dataset.keep, {
      method: "PUT",
      keepalive: leaving,
      headers: {
        "content-type": "application/json",
        "x-keeve-token": document.querySelector("meta[name=token]").content,
      },
      body: this.written(leaving),
    });
  },

  // One after another: an earlier state must not arrive after a later one.
  keepNow() {
    clearTimeout(this.timer);
    this.keeping = (this.keeping || Promise.resolve()).then(() => this.keepOnce());
    return this.keeping;
  },

  async keepOnce() {
    const sent = Alpine.raw(this.sheet);
    try {
      const answer = await this.put(false);
      const found = await answer.json();
      if (!answer.ok) throw new Error(found.faults[0].sentence);
      if (Alpine.raw(this.sheet) === sent) this.dirty = false;
      // After a merge the page still stands on the older version, until it is loaded again.
      if (!found.sheet) this.version = found.version;
      this.base = structuredClone(sent);
      this.kept = t("Kept.");
      if (found.sheet) this.merge(found);
      else if (this.reloadSoon && !this.dirty) this.again();
    } catch (error) {
      this.kept = error instanceof TypeError ? t("Not kept yet: no connection. It tries again.") : error.message;
      this.timer = setTimeout(() => this.keepNow(), TRY_AGAIN_MS);
    }
  },

  // Somebody else wrote the same sheet: both changes are kept, and the form shows them.
  merge(found) {
    const label = (path) => {
      const field = this.form.querySelector(`[name="${CSS.escape(path)}"]`);
      const words = field && field.id ? this.form.querySelector(`label[for="${CSS.escape(field.id)}"]`) : null;
      return words ? words.textContent.trim() : path;
    };
    const said = (value) => (value === null || value === undefined || value === "" ? t("nothing") : typeof value === "object" ? t("another entry") : String(value));
    const lines = [t("Somebody else changed this sheet meanwhile. What only one of you changed is all here.")];
    const told = found.clashes.filter((clash) => !clash.path.startsWith("looked_at.")); // goes with what was looked at
    for (const clash of told) lines.push(t("{field}: yours, {mine}, stands; theirs was {theirs}.", { field: label(clash.path), mine: said(clash.mine), theirs: said(clash.theirs) }));
    this.meanwhile = lines;
    if (!this.dirty) this.again();
    else this.reloadSoon = true; // what is being typed goes first
  },

  // The page is asked for anew, and stays usable until it comes: the field in hand goes on in the new one as it was left.
  again() {
    this.leaving = true;
    location.reload();
  },
  async leave(event) {
    const link = event.target instanceof Element ? event.target.closest("a[href]") : null;
    if (!link || !this.dirty || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    await this.keepNow();
    location.assign(link.href);
  },

  async beforeBegin(event) {
    if (!this.dirty) return;
    event.preventDefault();
    await this.keepNow();
    event.target.submit();
  },

  set(event) {
    const button = event.currentTarget;
    const field = this.form.querySelector(`[name="${CSS.escape(button.dataset.set)}"]`);
    field.value = button.dataset.value;
    this.looked(field);
    for (const other of document.querySelectorAll(`[data-set="${CSS.escape(button.dataset.set)}"][aria-pressed]`)) {
      other.setAttribute("aria-pressed", String(other === button));
    }
    this.changed();
  },

  // The empty forms of all shapes come once, by an address the browser keeps; not with every page.
  fetchForms() {
    const list = this.lists.find((one) => one.dataset.forms);
    if (!list) return Promise.resolve();
    this.forms = fetch(list.dataset.forms)
      .then((answer) => { if (!answer.ok) throw new TypeError(String(answer.status)); return answer.text(); })
      .then((text) => { this.form.insertAdjacentHTML("beforeend", text); })
      .catch(() => { this.forms = null; });
    return this.forms;
  },
  async formOf(kind) {
    const find = () => this.form.querySelector(`template[data-template="${kind}"]`);
    if (!find()) await (this.forms || this.fetchForms());
    return find();
  },

  async add(event) {
    const { add: kind, to } = event.currentTarget.dataset;
    const list = this.lists.find((one) => one.dataset.rows === (to || "shapes"));
    const form = await this.formOf(kind);
    if (!form) { this.kept = t("No connection: the form of this shape is not here yet. Press it again."); return; }
    const count = list.querySelectorAll("[data-row]").length;
    const text = form.innerHTML.replaceAll("__i__", String(count));
    list.insertAdjacentHTML("beforeend", text);
    const empty = this.form.querySelector("[data-empty]");
    if (empty) empty.remove();
    const first = list.lastElementChild.querySelector("input:not([type=hidden]), select");
    // Wait for Alpine to hide the parts that do not belong to the form chosen first.
    requestAnimationFrame(() => { if (first) first.focus(); this.changed(); });
  },

  // A shape that was read from a file comes with its measures.
  async addFilled({ kind, fields }) {
    await this.add({ currentTarget: { dataset: { add: kind } } });
    const block = this.form.querySelector("[data-rows=shapes]").lastElementChild;
    for (const [name, value] of Object.entries(fields)) block.querySelector(`[name$=".${name}"]`).value = value;
    block.scrollIntoView({ block: "center" });
  },

  async drawOutline(event) {
    const block = event.currentTarget.closest("[data-shape]");
    (await import("./outline.js")).drawOutline(block);
  },

  // "One more hole": the count of a shape, in one move.
  oneMore(event) {
    const field = event.currentTarget.parentElement.querySelector("input");
    field.value = String((Number.parseInt(field.value, 10) || 0) + 1);
    field.dispatchEvent(new Event("input", { bubbles: true }));
  },

  findKind(event) {
    const words = event.target.value.trim().toLowerCase();
    for (const button of this.form.querySelectorAll(".kind")) button.hidden = words !== "" && !button.textContent.toLowerCase().includes(words);
  },

  // A letter or a measure in the drawing leads to its field; a field shows its letter.
  toField(event) {
    const word = event.target.closest("[data-letter-for]");
    const block = word && word.closest("[data-shape]");
    const field = block && [...block.querySelectorAll(`[name$=".${word.dataset.letterFor}"]`)].find(shown);
    if (field) { field.focus(); if (field.select) field.select(); }
  },
  toLetter(event) {
    const block = event.target.closest("[data-shape]");
    for (const word of this.form.querySelectorAll(".here")) word.classList.remove("here");
    if (!block || !event.target.name) return;
    for (const word of block.querySelectorAll("[data-letter-for]")) word.classList.toggle("here", event.target.name.endsWith(`.${word.dataset.letterFor}`));
  },
  // Enter goes on to the next field.
  next(event) {
    if (event.key !== "Enter" || !event.target.matches("input") || event.target.type === "file") return;
    const fields = [...this.form.querySelectorAll("input:not([type=hidden]), select")].filter((field) => field.offsetParent !== null);
    const after = fields[fields.indexOf(event.target) + 1];
    if (after) { event.preventDefault(); after.focus(); if (after.select) after.select(); }
  },

  remove(event) {
    const row = event.currentTarget.closest("[data-row]");
    this.gone = { row, list: row.parentElement, before: row.nextElementSibling };
    row.remove();
    this.removed = true;
    this.renumber();
    this.changed();
  },

  undo() {
    const { row, list, before } = Alpine.raw(this.gone);
    list.insertBefore(row, before && before.parentNode === list ? before : null);
    this.removed = false;
    this.renumber();
    requestAnimationFrame(() => this.changed());
  },

  renumber() {
    for (const list of this.lists) {
      const path = list.dataset.rows;
      const moved = (name, i) => (name.startsWith(`${path}.`) ? name.replace(/\d+/, String(i)) : name);
      [...list.querySelectorAll("[data-row]")].forEach((row, i) => {
        for (const field of row.querySelectorAll("[name]")) field.name = moved(field.name, i);
        for (const spot of row.querySelectorAll("[data-fault-for]")) spot.dataset.faultFor = moved(spot.dataset.faultFor, i);
      });
    }
  },
});

document.addEventListener("alpine:init", () => {
  Alpine.data("sheet", sheetComponent);
  Alpine.data("body", (form) => ({ form }));
  // What stands in the yard asks for other things by what it is for.
  Alpine.data("thing", (form) => ({
    form,
    get isScale() { return this.form.startsWith("scale"); },
    get isScoop() { return this.form === "scoop"; },
    get isHollow() { return !this.isScale && !this.isScoop; },
    get isMeasure() { return ["measure", "scoop", "jug"].includes(this.form); },
    get isMixer() { return !this.isScale && !this.isMeasure; },
  }));
  Alpine.data("shaped", (sides) => ({ sides }));
});
