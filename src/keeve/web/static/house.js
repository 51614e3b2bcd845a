"use strict";
// What every page shares: the keys, and times of day in the reader's own clock.

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

for (const time of document.querySelectorAll("time[data-local]")) {
  const at = new Date(time.dateTime);
  if (!Number.isNaN(at.valueOf())) time.textContent = at.toLocaleTimeString();
}
