"use strict";
// A tap on a button before the page's scripts are there is kept, and done when they are.
(() => {
  const early = [];
  const keep = (event) => {
    const button = event.target instanceof Element ? event.target.closest("button[x-on\\:click]") : null;
    if (button) early.push(button);
  };
  document.addEventListener("click", keep, true);
  document.addEventListener("alpine:initialized", () => {
    document.removeEventListener("click", keep, true);
    for (const button of early) if (button.isConnected) button.click();
  });
})();
