// The strip of clocks on every page: what runs in other mixers, and what sets meanwhile. Without a network the last
// answer runs on.

import { spell } from "./time.js";
import { t } from "./words.js";

const ASK_MS = 30000;
const KEPT = "keeve_clocks";
const strip = document.querySelector("[data-clocks]");
let held = { now_ms: Date.now(), clocks: [] };
let skewMs = 0;

const words = (clock, now) => {
  const next = clock.due.find((one) => one.at_ms > now);
  if (next) return t("{what} in {time}", { what: next.what, time: spell((next.at_ms - now) / 1000) });
  const last = clock.due[clock.due.length - 1];
  return last ? t("{what} since {time}", { what: last.what, time: spell((now - last.at_ms) / 1000) }) : clock.now;
};
const draw = () => {
  const now = Date.now() + skewMs;
  const shown = held.clocks.filter((clock) => clock.job !== strip.dataset.job);
  strip.hidden = shown.length === 0;
  shown.forEach((clock, i) => {
    let link = strip.children[i];
    if (!link) {
      link = strip.appendChild(document.createElement("a"));
      link.append(document.createElement("strong"), document.createElement("span"));
    }
    const late = clock.due.length > 0 && clock.due.every((one) => one.at_ms <= now);
    if (link.getAttribute("href") !== clock.href) link.href = clock.href;
    link.className = late ? "late" : "";
    const said = [t("{job}, load {number}", { job: clock.title, number: clock.load }), words(clock, now)];
    [...link.children].forEach((part, n) => { if (part.textContent !== said[n]) part.textContent = said[n]; });
  });
  while (strip.children.length > shown.length) strip.lastElementChild.remove();
};
const ask = async () => {
  if (document.visibilityState !== "visible") return;
  try {
    const answer = await fetch(strip.dataset.clocks, { headers: { accept: "application/json" } });
    if (!answer.ok) return;
    held = await answer.json();
    skewMs = held.now_ms - Date.now();
    try { localStorage.setItem(KEPT, JSON.stringify(held)); } catch { /* asked again on the next page */ }
  } catch { /* no network: what is known runs on */ }
  draw();
};

if (strip) {
  try { held = JSON.parse(localStorage.getItem(KEPT)) || held; } catch { /* nothing known yet */ }
  draw();
  ask();
  setInterval(draw, 1000);
  setInterval(ask, ASK_MS);
  document.addEventListener("visibilitychange", ask);
}
