// The day's line: a job is dragged, or moved by keys, to begin later; up puts it first. The form says it all to the server.
(() => {
  const QUARTER_MIN = 15;
  const DAY_MIN = 1440;
  const clock = (minutes) => `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;

  const file = document.querySelector("input[data-forecast]");
  if (file) {
    file.addEventListener("change", async () => {
      const [chosen] = file.files;
      const field = document.getElementById("forecast");
      if (chosen) field.value = (await chosen.text()).slice(0, field.maxLength);
    });
  }

  const line = document.querySelector(".day-line[data-per-min]");
  const form = document.querySelector("form[data-day]");
  if (!line || !form) return;
  const perMin = Number(line.dataset.perMin);

  const later = (row, minutes) => {
    const field = form.querySelector(`[data-after-of="${CSS.escape(row.dataset.job)}"]`);
    const mixed = row.querySelector(".dl-mix");
    const drawnAt = mixed ? Number(line.dataset.from) + (Number(mixed.getAttribute("x")) - Number(line.dataset.left)) / perMin : 0;
    const from = row.dataset.after === "" ? drawnAt : Number(row.dataset.after);
    const to = Math.min(Math.max(Math.round((from + minutes) / QUARTER_MIN) * QUARTER_MIN, 0), DAY_MIN - QUARTER_MIN);
    field.value = clock(to);
    form.requestSubmit();
  };

  for (const row of line.querySelectorAll(".dl-job")) {
    row.addEventListener("keydown", (event) => {
      if (event.key === "ArrowRight") later(row, QUARTER_MIN);
      else if (event.key === "ArrowLeft") later(row, -QUARTER_MIN);
      else if (event.key === "ArrowUp") {
        form.querySelector("input[name=first]").value = row.dataset.job;
        form.requestSubmit();
      } else return;
      event.preventDefault();
    });
    let from = null;
    row.addEventListener("pointerdown", (event) => { from = event.clientX; row.setPointerCapture(event.pointerId); });
    row.addEventListener("pointermove", (event) => {
      if (from !== null) row.setAttribute("transform", `translate(${(event.clientX - from) * (line.viewBox.baseVal.width / line.clientWidth)} 0)`);
    });
    const end = (event) => {
      if (from === null) return;
      const moved = (event.clientX - from) * (line.viewBox.baseVal.width / line.clientWidth) / perMin;
      from = null;
      row.removeAttribute("transform");
      if (event.type === "pointerup" && Math.abs(moved) >= QUARTER_MIN / 2) later(row, moved);
    };
    row.addEventListener("pointerup", end);
    row.addEventListener("pointercancel", end);
  }
})();
