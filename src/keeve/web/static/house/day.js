// The day's line: a job is dragged, or moved by keys, to begin later; up puts it first. The form says it all to the server,
// and the answer takes the place of what is shown: the page does not jump, and the job keeps the focus.
const QUARTER_MIN = 15;
const DAY_MIN = 1440;
const clock = (minutes) => `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;

// Of several moves the last one's answer counts, and none takes away what is being dragged.
let asked = 0;
let dragging = false;
let waiting = null;
const send = async (form, focused) => {
  asked += 1;
  const mine = asked;
  waiting = null;
  try {
    const answer = await fetch(form.action, { method: "POST", body: new URLSearchParams(/** @type {any} */ (new FormData(form))) });
    if (!answer.ok && answer.status !== 422) throw new Error(String(answer.status));
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    if (mine !== asked) return;
    const show = () => {
      waiting = null;
      const along = document.querySelector(".day-scroll")?.scrollLeft || 0;
      document.querySelector("main").replaceWith(page.querySelector("main"));
      wire();
      const line = document.querySelector(".day-scroll");
      if (line) line.scrollLeft = along;
      document.querySelector(`.dl-job[data-job="${CSS.escape(focused)}"]`)?.focus({ preventScroll: true });
    };
    if (dragging) waiting = show;
    else show();
  } catch {
    form.submit(); // the browser's own page says what is the matter
  }
};

const drag = (row, line, form) => {
  const perMin = Number(line.dataset.perMin);
  const later = (minutes) => {
    const field = form.querySelector(`[data-after-of="${CSS.escape(row.dataset.job)}"]`);
    const mixed = row.querySelector(".dl-mix");
    const drawnAt = mixed ? Number(line.dataset.from) + (Number(mixed.getAttribute("x")) - Number(line.dataset.left)) / perMin : 0;
    const from = row.dataset.after === "" ? drawnAt : Number(row.dataset.after);
    const to = Math.min(Math.max(Math.round((from + minutes) / QUARTER_MIN) * QUARTER_MIN, 0), DAY_MIN - QUARTER_MIN);
    field.value = clock(to);
    send(form, row.dataset.job);
  };
  row.addEventListener("keydown", (event) => {
    if (event.key === "ArrowRight") later(QUARTER_MIN);
    else if (event.key === "ArrowLeft") later(-QUARTER_MIN);
    else if (event.key === "ArrowUp") {
      form.querySelector("input[name=first]").value = row.dataset.job;
      send(form, row.dataset.job);
    } else return;
    event.preventDefault();
  });
  let from = null;
  const along = (event) => (event.clientX - from) * (line.viewBox.baseVal.width / line.clientWidth);
  row.addEventListener("pointerdown", (event) => {
    if (event.pointerType === "touch" && !event.target.matches(".dl-hold")) return; // beside its loads a finger scrolls the line
    from = event.clientX;
    dragging = true;
    row.setPointerCapture(event.pointerId);
  });
  // Parts of a drawing are scrolled in spite of touch-action: a finger that holds a job holds the line too.
  row.addEventListener("touchmove", (event) => { if (from !== null) event.preventDefault(); }, { passive: false });
  row.addEventListener("pointermove", (event) => {
    if (from !== null) row.setAttribute("transform", `translate(${along(event)} 0)`);
  });
  const end = (event) => {
    if (from === null) return;
    const moved = along(event) / perMin;
    from = null;
    dragging = false;
    row.removeAttribute("transform");
    if (event.type === "pointerup" && Math.abs(moved) >= QUARTER_MIN / 2) later(moved);
    else if (waiting) waiting();
  };
  row.addEventListener("pointerup", end);
  row.addEventListener("pointercancel", end);
};

// Where the line is wider than the page it begins at the first load, and the names stay beside it.
const scrolls = (box, line) => {
  const labels = line.querySelectorAll(".dl-label");
  const put = () => {
    const along = box.scrollLeft * (line.viewBox.baseVal.width / line.clientWidth);
    for (const label of labels) label.setAttribute("transform", `translate(${along} 0)`);
  };
  box.addEventListener("scroll", put, { passive: true });
  const begins = Math.min(...[...line.querySelectorAll(".dl-hold")].map((hold) => Number(hold.getAttribute("x"))));
  if (Number.isFinite(begins) && box.scrollWidth > box.clientWidth) {
    box.scrollLeft = (begins - Number(line.dataset.left) - 20) * (line.clientWidth / line.viewBox.baseVal.width);
  }
  put();
};

const wire = () => {
  const line = document.querySelector(".day-line[data-per-min]");
  const form = document.querySelector("form[data-day]");
  if (line) scrolls(line.parentElement, line);
  if (line && form) for (const row of line.querySelectorAll(".dl-job")) drag(row, line, form);
};
wire();
