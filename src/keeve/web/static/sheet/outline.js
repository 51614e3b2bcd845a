// Draws an outline on a grid with the finger or the mouse, and writes its corners into the form as text.
// The text stays the truth: what is typed is drawn, what is drawn is typed.

import { t } from "../house/words.js";

const CELLS_X = 24;
const CELLS_Y = 18;
const SIDE = 24;
const MARGIN = 14; // so that a finger finds the outermost lines too
const STEP = { m: 0.25, cm: 25, mm: 250, ft: 1, in: 6 };

const svg = (name, attributes) => {
  const made = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  return made;
};

const read = (text) => text.split("/").map((ring) => ring.split(/[;\n]/).map((corner) => {
  const words = corner.trim().split(/[\s]+|,(?=\s)/).filter(Boolean).map((word) => Number(word.replace(",", ".")));
  return words.length === 2 && words.every(Number.isFinite) ? words : null;
}).filter(Boolean)).filter((ring) => ring.length);

const number = (value) => String(Math.round(value * 1000) / 1000);
const write = (ring) => ring.map(([x, y]) => `${number(x)} ${number(y)}`).join("; ");

class Board {
  constructor(block) {
    this.block = block;
    this.corners = block.querySelector("[name$='.corners']");
    this.holes = block.querySelector("[name$='.holes']");
    this.unit = block.querySelector("[name$='.unit']").value;
    this.step = STEP[this.unit];
    this.rings = [...read(this.corners.value), ...read(this.holes.value)];
    if (!this.rings.length) this.rings.push([]);
    this.current = this.rings.length - 1;
    this.closed = this.ring.length > 2; // one that is there already
    const widest = Math.max(1, ...this.rings.flat().map(([x]) => x / CELLS_X / this.step), ...this.rings.flat().map(([, y]) => y / CELLS_Y / this.step));
    this.step *= 2 ** Math.ceil(Math.log2(widest));
    this.build();
    this.show();
  }

  build() {
    this.dialog = document.createElement("dialog");
    this.dialog.className = "board";
    this.dialog.innerHTML = `<h2>${t("Draw the floor")}</h2>
      <p class="hint">${t("Tap corner by corner, walking round; tap the first again to close. Drag a corner to move it.")} ${t("One square is:")} <span data-step></span></p>
      <div data-grid></div>
      <p class="board-acts"><button type="button" class="act quiet" data-do="undo">${t("Take the last back")}</button>
      <button type="button" class="act quiet" data-do="hole">${t("Add a hole")}</button>
      <button type="button" class="act quiet" data-do="finer">${t("Finer grid")}</button>
      <button type="button" class="act quiet" data-do="coarser">${t("Coarser grid")}</button>
      <button type="button" class="act quiet" data-do="clear">${t("Begin anew")}</button>
      <button type="button" class="act" data-do="done">${t("Done")}</button></p>`;
    this.grid = svg("svg", { viewBox: `${-MARGIN} ${-MARGIN} ${CELLS_X * SIDE + 2 * MARGIN} ${CELLS_Y * SIDE + 2 * MARGIN}`, class: "board-grid", role: "img", "aria-label": t("Grid to draw on; the corners can also be typed in the form") });
    this.dialog.querySelector("[data-grid]").append(this.grid);
    document.body.append(this.dialog);
    this.grid.addEventListener("pointerdown", (event) => this.down(event));
    this.grid.addEventListener("pointermove", (event) => this.move(event));
    for (const end of ["pointerup", "pointercancel"]) this.grid.addEventListener(end, () => { this.dragged = null; });
    this.dialog.addEventListener("click", (event) => {
      const act = event.target.dataset && event.target.dataset.do;
      if (act) this[act]();
    });
    this.dialog.addEventListener("close", () => this.dialog.remove());
    this.dialog.showModal();
  }

  at(event) {
    const box = this.grid.getBoundingClientRect();
    const side = (box.width / (CELLS_X * SIDE + 2 * MARGIN)) * SIDE;
    const x = Math.round((event.clientX - box.left) / side - MARGIN / SIDE);
    const y = CELLS_Y - Math.round((event.clientY - box.top) / side - MARGIN / SIDE);
    return [Math.min(Math.max(x, 0), CELLS_X) * this.step, Math.min(Math.max(y, 0), CELLS_Y) * this.step];
  }

  get ring() { return this.rings[this.current]; }

  down(event) {
    event.preventDefault();
    const [x, y] = this.at(event);
    for (const ring of this.rings) {
      const found = ring.find((corner) => Math.abs(corner[0] - x) < this.step / 2 && Math.abs(corner[1] - y) < this.step / 2);
      if (!found) continue;
      if (ring === this.ring && found === ring[0] && ring.length > 2) { this.closed = true; this.show(); return; }
      this.dragged = found;
      return;
    }
    if (this.closed) return;
    this.ring.push([x, y]);
    this.show();
  }

  move(event) {
    if (!this.dragged) return;
    [this.dragged[0], this.dragged[1]] = this.at(event);
    this.show();
  }

  undo() {
    this.closed = false;
    this.ring.pop();
    if (!this.ring.length && this.current) {
      this.rings.pop();
      this.current -= 1;
      this.closed = true;
    }
    this.show();
  }

  hole() {
    if (this.rings[0].length < 3) return;
    if (this.ring.length) { this.rings.push([]); this.current = this.rings.length - 1; }
    this.closed = false;
    this.show();
  }

  finer() { if (this.fits(this.step / 2)) { this.step /= 2; this.show(); } }
  coarser() { this.step *= 2; this.show(); }
  fits(step) { return this.rings.flat().every(([x, y]) => x <= CELLS_X * step && y <= CELLS_Y * step); }
  clear() { this.rings = [[]]; this.current = 0; this.closed = false; this.show(); }

  done() {
    this.rings = this.rings.filter((ring) => ring.length);
    this.corners.value = this.rings.length ? write(this.rings[0]) : "";
    this.holes.value = this.rings.slice(1).map(write).join(" / ");
    this.dialog.close();
    this.corners.dispatchEvent(new Event("input", { bubbles: true }));
  }

  show() {
    this.dialog.querySelector("[data-step]").textContent = `${number(this.step)} ${this.unit}`;
    this.grid.replaceChildren();
    for (let i = 0; i <= CELLS_X; i += 1) this.grid.append(svg("line", { x1: i * SIDE, x2: i * SIDE, y1: 0, y2: CELLS_Y * SIDE, class: i % 4 ? "thin" : "thick" }));
    for (let i = 0; i <= CELLS_Y; i += 1) this.grid.append(svg("line", { y1: i * SIDE, y2: i * SIDE, x1: 0, x2: CELLS_X * SIDE, class: (CELLS_Y - i) % 4 ? "thin" : "thick" }));
    const place = ([x, y]) => [(x / this.step) * SIDE, (CELLS_Y - y / this.step) * SIDE];
    this.rings.forEach((ring, at) => {
      const open = at === this.current && !this.closed;
      const points = ring.map((corner) => place(corner).join(",")).join(" ");
      this.grid.append(svg(open ? "polyline" : "polygon", { points, class: at ? "hole" : "floor" }));
      ring.forEach((corner, i) => {
        const [cx, cy] = place(corner);
        this.grid.append(svg("circle", { cx, cy, r: i === 0 && open ? 9 : 6, class: "corner" }));
        const next = ring[i + 1] || (open ? null : ring[0]);
        if (!next) return;
        const [nx, ny] = place(next);
        const words = svg("text", { x: (cx + nx) / 2, y: (cy + ny) / 2 + 5 });
        words.textContent = number(Math.hypot(next[0] - corner[0], next[1] - corner[1]));
        this.grid.append(words);
      });
    });
  }
}

export const drawOutline = (block) => new Board(block);
