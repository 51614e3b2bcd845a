#!/usr/bin/env python3
"""From a keystroke to its answer on the page, in Chromium on loopback, against the running demo.

Run ./keeve demo in one shell and .keeve/venv/bin/python bench/edit_to_answer.py in another.
"""

import statistics

from playwright.sync_api import sync_playwright

from keeve.cli import chromium

ADDRESS = "http://127.0.0.1:8765"
EDITS = 120
EDITED = (
    ("measure", "shapes.0.depth_mm", 600),
    ("mix", "moisture_percent.sharp-sand", 4),
    ("loads", "place_l_min", 20),
)

MEASURE = """
async ([edits, name, begin]) => {
  const { put: puts } = await import(document.querySelector('link[href$="/sheet/put.js"]').href);
  return new Promise((done) => {
  const field = document.querySelector(`[name="${name}"]`);
  const times = [];
  let began = 0;
  const next = () => {
    if (times.length === edits) { done(times); return; }
    field.value = String(begin + times.length * begin / 1000);
    began = performance.now();
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const put = puts.text;
  puts.text = (...given) => {
    put(...given);
    const there = performance.now() - began;
    // After the next frame the answer is on the screen, not only in the document: half a frame later in the mean.
    requestAnimationFrame(() => { times.push([there, performance.now() - began]); setTimeout(next, 40 + Math.random() * 17); });
  };
  next();
  });
}
"""


FLOOR = """
async (many) => {
  const times = [];
  for (let i = 0; i < many; i++) {
    const began = performance.now();
    await (await fetch("/healthz")).text();
    times.push(performance.now() - began);
    await new Promise((done) => setTimeout(done, 40));
  }
  return times;
}
"""


def main() -> None:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=chromium(), args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True).new_page()
        page.goto(ADDRESS)
        floor = statistics.median(page.evaluate(FLOOR, EDITS))
        print(f"an empty answer of the same server, asked for by the same browser: median {floor:.1f} ms")
        for station, name, begin in EDITED:
            page.goto(ADDRESS)
            href = page.get_by_role("link", name="Gate-post holes").first.get_attribute("href") or ""
            page.goto(ADDRESS + href.rsplit("/", 1)[0] + "/" + station)
            page.wait_for_load_state("networkidle")
            pairs = page.evaluate(MEASURE, [EDITS, name, begin])
            for where, times in (
                ("in the page", [one for one, _ in pairs]),
                ("at the frame", [two for _, two in pairs]),
            ):
                p95 = sorted(times)[int(len(times) * 0.95)]
                middle = statistics.median(times)
                print(
                    f"{station:8} {where:12} {EDITS} edits: median {middle:5.1f} ms, 95th percentile {p95:5.1f} ms  (at most 16 and 33)"
                )
        browser.close()


main()
