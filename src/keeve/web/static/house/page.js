// What every page shares: the keys, finding in a list, and times of day in the reader's own clock.

import "./clocks.js";
import "./kept_runs.js";

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

// A file of lines is read into its field, where it can be looked at before it is sent.
document.addEventListener("change", async (event) => {
  const into = event.target instanceof Element && event.target.dataset.readsInto;
  const field = into ? document.getElementById(into) : null;
  if (!field || !event.target.files.length) return;
  field.value = (await event.target.files[0].text()).slice(0, field.maxLength);
});

// Singular and plural, British and US: posts find post, moulds find mold.
const stem = (word) => word.replace(/ies$/, "y").replace(/(ch|sh|x|ss)es$/, "$1").replace(/([^s])s$/, "$1").replace(/ou/g, "o");
const stems = (text) => text.toLowerCase().split(/[^\p{L}\p{N}½¼¾]+/u).filter(Boolean).map(stem);

// How many letters apart two words are.
function apart(one, other) {
  let row = Array.from({ length: other.length + 1 }, (_, i) => i);
  for (let i = 1; i <= one.length; i += 1) {
    const next = [i];
    for (let j = 1; j <= other.length; j += 1) {
      next.push(Math.min(row[j] + 1, next[j - 1] + 1, row[j - 1] + (one[i - 1] === other[j - 1] ? 0 : 1)));
    }
    row = next;
  }
  return row[other.length];
}

for (const field of document.querySelectorAll("[data-find]")) {
  const list = document.querySelector(field.dataset.find);
  if (!list) continue;
  const told = field.closest(".find").querySelector("[data-nearest]");
  const rows = [];
  let heading = "";
  for (const row of list.children) {
    if ("family" in row.dataset) heading = row.textContent;
    if (!("found" in row.dataset)) continue;
    const said = row.dataset.words ? row.dataset.words.split("|") : [];
    rows.push({ row, words: stems(`${heading} ${row.textContent} ${said.join(" ")}`), said });
  }
  const known = [...new Set(rows.flatMap(({ said }) => said))];
  const nearest = (typed) => {
    const wanted = stems(typed).join(" ");
    const ranked = known.map((word) => [apart(wanted, stems(word).join(" ")) / Math.max(wanted.length, word.length), word]);
    return ranked.sort((x, y) => x[0] - y[0] || x[1].localeCompare(y[1])).slice(0, 3).map(([, word]) => word);
  };
  const find = () => {
    const wanted = stems(field.value);
    const empty = wanted.length === 0;
    let any = false;
    for (const { row, words } of rows) {
      row.hidden = !empty && !wanted.every((part) => words.some((word) => word.startsWith(part)));
      any = any || !row.hidden;
    }
    let below = null;
    for (const row of list.children) {
      if ("family" in row.dataset) { below = row; below.hidden = true; }
      else if (below && "found" in row.dataset && !row.hidden) below.hidden = false;
    }
    told.hidden = any;
    if (!any) told.textContent = told.dataset.nearest.replace("{words}", nearest(field.value).join(", "));
  };
  field.addEventListener("input", find);
  if (field.value) find(); // typed before this script was there
}

for (const time of document.querySelectorAll("time[data-local]")) {
  const at = new Date(time.dateTime);
  if (!Number.isNaN(at.valueOf())) time.textContent = at.toLocaleTimeString();
}

// A part of a page that is worked out by itself, so that the page need not wait for it; an empty one stays hidden.
for (const part of document.querySelectorAll("[data-load]")) {
  fetch(part.dataset.load).then((answer) => (answer.ok ? answer.text() : "")).then((html) => {
    part.innerHTML = html;
    part.hidden = part.children.length === 0;
  }, () => {});
}
