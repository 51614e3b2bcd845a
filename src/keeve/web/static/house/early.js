"use strict";
// A tap on a button before the page's scripts are there is kept, and done when they are; and so is one on a link of a page
// with entries, for what was entered before it has to be kept first.
(() => {
  const early = [];
  const keep = (event) => {
    if (!(event.target instanceof Element)) return;
    const button = event.target.closest("button[x-on\\:click]");
    const link = document.querySelector("form.entries") ? event.target.closest("a[href]:not([target])") : null;
    if (button) early.push(button);
    else if (link && !event.ctrlKey && !event.metaKey && !event.shiftKey) {
      event.preventDefault();
      early.push(link);
    }
  };
  document.addEventListener("click", keep, true);
  document.addEventListener("alpine:initialized", () => {
    document.removeEventListener("click", keep, true);
    // The page takes in what was entered early at its next tick: after that.
    setTimeout(() => setTimeout(() => { for (const one of early) if (one.isConnected) one.click(); }));
  });
})();
