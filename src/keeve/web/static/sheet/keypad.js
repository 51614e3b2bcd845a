// A keypad for measures on a phone: figures, fractions, sums, doubt and units, and on to the next field. It writes what a
// person would type; what it means, the server knows.
document.addEventListener("alpine:init", () => {
  const KEYS = ["7", "8", "9", "½", "⌫", "4", "5", "6", "¼", "±", "1", "2", "3", "/", "×", "0", ".", "␣", "+", "−"];
  const WRITES = { "×": "*", "−": "-", "␣": " " };
  const METRIC = ["mm", "cm", "m"];
  const US = ["in", "ft", "'", "\""];

  Alpine.data("keypad", () => ({
    field: null,
    open: false,
    plain: false,
    keys: KEYS,
    units: [],

    init() {
      this.units = this.$root.dataset.units === "us" ? [...US, ...METRIC.slice(0, 2)] : [...METRIC, "in"];
      if (!window.matchMedia("(max-width: 860px) and (pointer: coarse)").matches) return;
      document.addEventListener("focusin", (event) => this.came(event.target));
      document.addEventListener("click", (event) => { if (event.target === document.activeElement) this.came(event.target); }); // tapped again
      this.$nextTick(() => this.came(document.activeElement)); // tapped before the scripts were there
      document.addEventListener("focusout", () => setTimeout(() => { if (!this.measures(document.activeElement) && !this.$root.contains(document.activeElement)) this.open = false; }, 120));
    },

    measures(field) { return field instanceof HTMLInputElement && field.dataset.unit !== undefined && field.dataset.unit !== "" && field.name !== ""; },

    came(field) {
      if (!this.measures(field) || this.plain || (this.open && Alpine.raw(this.field) === field)) return;
      this.field = field;
      this.open = true;
      if (field.inputMode !== "none") {
        field.inputMode = "none"; // the phone's own keyboard stays down
        field.blur();
        field.focus({ preventScroll: true });
      }
      field.scrollIntoView({ block: "center" });
    },

    press(event) { this.write(event.currentTarget.dataset.key); },

    write(key) {
      const field = Alpine.raw(this.field);
      if (!field) return;
      const [from, to] = [field.selectionStart ?? field.value.length, field.selectionEnd ?? field.value.length];
      if (key === "⌫") field.setRangeText("", from === to ? Math.max(from - 1, 0) : from, to, "end");
      else field.setRangeText(WRITES[key] || key, from, to, "end");
      field.dispatchEvent(new Event("input", { bubbles: true }));
      field.focus({ preventScroll: true });
    },

    next() {
      const field = Alpine.raw(this.field);
      if (field) field.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
    },

    letters() {
      const field = Alpine.raw(this.field);
      this.open = false;
      this.plain = true;
      for (const one of document.querySelectorAll("input[inputmode=none]")) one.inputMode = "text";
      if (field) { field.blur(); field.focus(); }
    },
  }));
});
