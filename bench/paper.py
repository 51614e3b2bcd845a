#!/usr/bin/env python3
"""The ticket of twenty loads on paper beside a bare page of as many drawings; 500 loads of twelve constituents beside sums.

Run: .keeve/venv/bin/python bench/paper.py
"""

import statistics
import time
from collections.abc import Callable

from weasyprint import HTML

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.dividing.dividing import Bounds, splits
from keeve.core.dosing.rounded import Measure, as_measured
from keeve.core.planning.plan import plan
from keeve.core.ticket.ticketing import issue
from keeve.core.vessels.scales import Scale, Weighed, weigh
from keeve.formats.writing.pdf import as_pdf
from keeve.web.drawings.common import code as qr_of
from keeve.web.edge.static_files import STATIC
from keeve.web.pages.press import drawing_style
from keeve.web.pages.render import rendered
from keeve.words.reader import METRIC
from keeve.words.showing import runs_of

ROUNDS = 5
SHAPES = [{"kind": "cylinder", "diameter_mm": 380 + 7 * i, "height_mm": 600 + 9 * i} for i in range(20)]


def median_s(work: Callable[[], object], rounds: int = ROUNDS) -> float:
    times = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def paper(strategy: str) -> None:
    sheet = {"shapes": SHAPES, "mix": "concrete-1-2-4", "mixer": "drum-site", "strategy": strategy,
             "moisture_percent": {"sharp-sand": 5, "gravel-20": 1}}  # fmt: skip
    request = resolve(JobSheet.model_validate(sheet), load_catalogue())
    ticket = issue(request, plan(request))
    values = {
        "ticket": ticket, "job_name": "Columns", "place": "", "paper": "a4", "qr": qr_of("http://127.0.0.1/x"),
        "numbers": [ticket.numbers(at) for at in range(len(ticket.cards))], "runs_of": runs_of,
    }  # fmt: skip
    ours = median_s(lambda: as_pdf(rendered("paper/ticket.html", METRIC, **values), "a4", STATIC, drawing_style()))
    box = '<svg width="80" height="90"><defs><pattern id="p" width="8" height="8" patternUnits="userSpaceOnUse"><circle cx="2" cy="2" r="1"/></pattern></defs><polygon points="4,4 70,4 64,84 10,84" fill="url(#p)" stroke="#000"/></svg>'
    bare_page = (
        "<html><body>"
        + "".join(f"<p>{box * 9} some words beside it</p><ol>{'<li>a step</li>' * 9}</ol>" for _ in ticket.cards)
        + "</body></html>"
    )
    bare = median_s(lambda: HTML(string=bare_page).write_pdf())
    print(
        f"{ticket.count} loads, {len(ticket.cards)} cards: ticket {ours:.2f} s, bare page of as many drawings {bare:.2f} s, ratio {ours / bare:.2f}  (ticket at most 2 s)"
    )


def loads() -> None:
    scale = Scale(key="s", name="Scale", kind="bench", most_kg=60, step_kg=0.02)
    roles = ["cement", "sand", "stone", "lime"] * 3

    def ours() -> float:
        (split,) = [one for one in splits(Bounds(50.0, 0.1, None, divide="any")) if one.strategy == "equal"]
        known: dict[float, float] = {}
        for volume in split.volumes_m3:  # loads of one size share what is worked out for it
            if volume not in known:
                doses = {}
                for i, role in enumerate(roles):
                    kg = 180.0 * volume * (i + 1)
                    found = weigh(Weighed(role, kg, kg / 1.5), scale)
                    doses[str(i)] = Measure(role, "scale", kg, found.net_kg, kg / 2.6, 0.0)
                known[volume] = as_measured(doses, volume, 18.0, 15.0, 15.0).volume_m3
        return sum(known[volume] for volume in split.volumes_m3)

    def bare() -> float:
        return sum(sum(round(180.0 * 0.1 * (i + 1) / 0.02) * 0.02 for i in range(12)) for _ in range(500))

    ours_ms, bare_ms = median_s(ours, 30) * 1000, median_s(bare, 30) * 1000
    print(
        f"500 loads of 12 constituents: {ours_ms:.2f} ms, the sums alone {bare_ms:.2f} ms, ratio {ours_ms / bare_ms:.2f}  (at most 10 ms)"
    )


if __name__ == "__main__":
    paper("equal")
    paper("each_pour")
    loads()
