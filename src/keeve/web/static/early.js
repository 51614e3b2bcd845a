"use strict";
// A tap on a button, or a choice made, before the page's scripts are there is kept, and done when they are.
(() => {
  const early = [];
  const changed = new Set();
  const keep = (event) => {
    const button = event.target instanceof Element ? event.target.closest("button[x-on\\:click]") : null;
    if (button) early.push(button);
  };
  const note = (event) => {
    if (event.target instanceof Element && "reload" in event.target.dataset) changed.add(event.target);
  };
  document.addEventListener("click", keep, true);
  document.addEventListener("change", note, true);
  document.addEventListener("alpine:initialized", () => {
    document.removeEventListener("click", keep, true);
    document.removeEventListener("change", note, true);
    for (const button of early) if (button.isConnected) button.click();
    for (const field of changed) {
      for (const kind of ["input", "change"]) field.dispatchEvent(new Event(kind, { bubbles: true }));
    }
  });
})();
