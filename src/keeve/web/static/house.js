"use strict";
// What every page shares: the keys, finding in a list, and times of day in the reader's own clock.

const typing = (target) => target instanceof Element && target.closest("input, select, textarea, dialog[open]") !== null;

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  const station = document.querySelector(`[data-station="${CSS.escape(event.key)}"]`);
  if (station) {
    station.click();
  } else if (event.key === "?") {
    document.getElementById("keys").showModal();
  } else if (event.key === "/") {
    const found = document.querySelector("#find-mix, .entries input:not([type=hidden]), .new-job input:not([type=hidden])");
    if (found) found.focus();
  } else {
    return;
  }
  event.preventDefault();
});

for (const field of document.querySelectorAll("[data-find]")) {
  const list = document.querySelector(field.dataset.find);
  const find = () => {
    const wanted = field.value.trim().toLowerCase().split(/\s+/);
    let heading = null;
    let shownBelow = 0;
    const close = () => { if (heading) heading.hidden = shownBelow === 0; };
    for (const row of list.children) {
      if ("family" in row.dataset) {
        close();
        heading = row;
        shownBelow = 0;
      } else if ("found" in row.dataset) {
        const words = `${heading.textContent} ${row.textContent}`.toLowerCase();
        row.hidden = !wanted.every((word) => words.includes(word));
        if (!row.hidden) shownBelow += 1;
      }
    }
    close();
  };
  field.addEventListener("input", find);
  if (field.value) find(); // typed before this script was there
}

for (const time of document.querySelectorAll("time[data-local]")) {
  const at = new Date(time.dateTime);
  if (!Number.isNaN(at.valueOf())) time.textContent = at.toLocaleTimeString();
}
