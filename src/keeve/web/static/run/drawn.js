// Draws what is poured into the load in hand, from its brief alone: the rod, and the water in the jug. Works without a network.

const SVG = "http://www.w3.org/2000/svg";
const ROD = { x: 30, wide: 34, top: 18, high: 430 };
const TICKS = [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200];
const MOST_TICKS = 9;
const ROOM = 1.06;
const MOST_DRAWN = 8;
const SOME_DRAWN = 3;
const NO_DROP = 1e-3;
const GAP = 8;
const LABEL = 18;
const LETTER = 8.4;
const SMALLEST = 1e-6;

const node = (name, attributes, text = "") => {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, typeof value === "number" ? Math.round(value * 100) / 100 : value);
  made.textContent = text;
  return made;
};
// A tick asks for the same drawing again: only another one is made.
const drawnAs = new WeakMap();
const isDrawn = (svg, as) => {
  const told = JSON.stringify(as);
  if (drawnAs.get(svg) === told) return true;
  drawnAs.set(svg, told);
  return false;
};
const fillOf = (svg, what) => `url(#${svg.dataset.hatch}-${what})`;

/**
 * The rod of a load: what its heap brings, what was poured of what is asked, and where it stops.
 * @param {SVGElement} svg
 * @param {{ brought: number, first: number, target: number, most: number, poured: number, over: boolean }} load litres
 * @param {{ unit: number, tick: (litres: number) => string, stop: string }} words litres in one unit of the ticks
 */
export const drawRod = (svg, load, words) => {
  if (isDrawn(svg, load)) return;
  const { x, wide, top, high } = ROD;
  const drunk = Math.max(-load.brought, 0);
  const upto = load.brought + Math.max(load.most, load.poured, load.target);
  const perL = high / Math.max((upto + drunk) * ROOM, SMALLEST);
  const y = (litres) => top + high - (drunk + litres) * perL;
  const from = load.brought;
  const bar = (kind, fill, low, up) => node("rect", { x, width: wide, y: y(up), height: Math.max((up - low) * perL, 0), fill, class: kind });
  const parts = [];
  if (from > SMALLEST) parts.push(bar("part brought", fillOf(svg, "sand"), 0, from));
  if (from < -SMALLEST) parts.push(bar("part drunk", "none", from, 0));
  parts.push(bar("part first", fillOf(svg, "held"), from, from + load.first));
  if (load.target - load.first > SMALLEST) parts.push(bar("part held", fillOf(svg, "held"), from + load.first, from + load.target));
  parts.push(bar("count", fillOf(svg, "water"), from, from + load.poured), node("rect", { x, y: top, width: wide, height: high, class: "rod" }));
  const span = (upto + drunk) * ROOM / words.unit;
  const step = TICKS.find((one) => span / one <= MOST_TICKS) || TICKS[TICKS.length - 1];
  for (let n = 0; n * step * words.unit <= upto - from + SMALLEST; n += 1) {
    const at = y(from + n * step * words.unit);
    parts.push(node("line", { x1: x - 7, x2: x, y1: at, y2: at, class: "tick" }), node("text", { x: x - 9, y: at + 4, "text-anchor": "end", class: "tick-word" }, words.tick(n * step)));
  }
  const [aim, never, now] = [y(from + load.target), y(from + load.most), y(from + load.poured)];
  parts.push(
    node("line", { x1: x - 3, x2: x + wide + 8, y1: aim, y2: aim, class: "target" }), node("path", { d: `M${x + wide},${aim} l9,-5 v10 z`, class: "target-notch" }),
    node("line", { x1: x - 8, x2: x + wide + 12, y1: never, y2: never, class: "never" }), node("text", { x: x + wide + 14, y: never - 4, class: "s-word never", ...(words.stop.length > 6 ? { textLength: 52, lengthAdjust: "spacingAndGlyphs" } : {}) }, words.stop),
    node("path", { d: `M${x + wide + 3},${now} l12,-7 v14 z`, class: "now" }),
  );
  svg.classList.toggle("too-much", load.over);
  svg.replaceChildren(...parts);
};

// Where the water stands in a jug with so much in it: between two levels it goes straight.
const levelOf = (levels, litres) => {
  const at = Math.max(levels.findIndex(([holds]) => holds >= litres), 1);
  const [low, up] = [levels[at - 1], levels[at]];
  const part = Math.min(Math.max((litres - low[0]) / (up[0] - low[0]), 0), 1);
  return { below: levels.slice(0, at), level: low.map((one, i) => one + (up[i] - one) * part) };
};

/**
 * Water in the jug: so many full, and the last to its mark.
 * @param {SVGElement} svg
 * @param {number} litres
 * @param {import("../documents").JugTold} jug
 * @param {{ litres: (litres: number) => string, times: (count: number) => string }} words
 */
export const drawJugs = (svg, litres, jug, words) => {
  if (isDrawn(svg, litres)) return;
  const full = Math.floor(litres / jug.full_l + NO_DROP);
  const rest = litres - full * jug.full_l;
  const part = rest > NO_DROP * jug.full_l ? [rest] : [];
  const count = full + part.length;
  const all = [...Array(Math.min(full, MOST_DRAWN)).fill(jug.full_l), ...part];
  const drawn = count > MOST_DRAWN ? all.slice(0, SOME_DRAWN) : all;
  const ground = jug.high + 6;
  let x = 3;
  const shapes = drawn.flatMap((one) => {
    const label = words.litres(one);
    const wide = Math.max(jug.width, LETTER * label.length + 4);
    const [dx, middle] = [x + (wide - jug.width) / 2, x + wide / 2];
    x += wide + GAP;
    const { below, level: [, at, left, right] } = levelOf(jug.levels, one);
    const sides = [...below.map(([, up, l]) => [l, up]), [left, at], [right, at], ...below.map(([, up, , r]) => [r, up]).reverse()];
    const put = (points) => points.map(([px, py]) => `${(px + dx).toFixed(1)},${(py + ground).toFixed(1)}`).join(" ");
    return [
      node("polygon", { points: put(sides), fill: fillOf(svg, "water"), class: "gauge-fill" }),
      node("polyline", { points: put(jug.outline.split(" ").map((pair) => pair.split(",").map(Number))), class: "wall thin" }),
      node("line", { x1: left + dx - 4, x2: right + dx + 4, y1: at + ground, y2: at + ground, class: "gauge-mark" }),
      node("text", { x: middle, y: ground + LABEL - 3, "text-anchor": "middle", class: "gauge-label" }, label),
    ];
  });
  const more = count > drawn.length ? words.times(count) : "";
  if (more) shapes.push(node("text", { x: x + 30, y: ground - 24, "text-anchor": "end", class: "gauge-more" }, more));
  const [wide, high] = [x + (more ? 34 : 0), ground + LABEL];
  for (const [key, value] of [["viewBox", `0 0 ${wide.toFixed(1)} ${high.toFixed(1)}`], ["width", wide.toFixed(1)], ["height", high.toFixed(1)]]) svg.setAttribute(key, value);
  svg.replaceChildren(...shapes);
};
