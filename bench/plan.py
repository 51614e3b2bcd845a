#!/usr/bin/env python3
"""How long plan() and its ticket take for ten shapes and twenty loads, beside the same arithmetic straight-line.

Run: .keeve/venv/bin/python bench/plan.py
"""

import math
import statistics
import time
from collections.abc import Callable

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.planning.plan import plan
from keeve.core.planning.request import PlanRequest
from keeve.core.ticket.ticket_past import open_ticket
from keeve.core.ticket.ticketing import issue

ROUNDS = 400
SHAPES = [
    *({"kind": "slab", "length_mm": 2000 + 37 * i, "width_mm": 900, "depth_mm": 98} for i in range(4)),
    *(
        {"kind": "bored_hole", "diameter_mm": 300 + i, "depth_mm": 600, "post": "square", "post_mm": 100}
        for i in range(4)
    ),
    *({"kind": "cylinder", "diameter_mm": 400, "height_mm": 700 + i} for i in range(2)),
]


def request() -> PlanRequest:
    sheet = {
        "shapes": SHAPES,
        "mix": "concrete-1-2-4",
        "mixer": "drum-small",
        "strategy": "equal",
        "moisture_percent": {"sharp-sand": 5, "gravel-20": 1},
    }
    return resolve(JobSheet.model_validate(sheet), load_catalogue())


def straight() -> list[tuple[float, ...]]:
    """The same job without models, workings, steps or words."""
    net = 0.0
    for s in SHAPES:
        if s["kind"] == "slab":
            net += s["length_mm"] * s["width_mm"] * s["depth_mm"] * 1e-9 * 1.10
        elif s["kind"] == "bored_hole":
            net += (math.pi / 4 * s["diameter_mm"] ** 2 - s["post_mm"] ** 2) * s["depth_mm"] * 1e-9 * 1.15
        else:
            net += math.pi / 4 * s["diameter_mm"] ** 2 * s["height_mm"] * 1e-9 * 1.10
    masses = (1440.0, 3200.0, 6000.0)
    solids = masses[0] / 3150 + masses[1] / 2650 + masses[2] / 2680
    scale = (1 - 0.02 - 0.18) / solids
    cement, sand, stone = (m * scale for m in masses)
    pour = 180 - sand * (0.05 - 0.007) - stone * (0.01 - 0.005)
    loose = cement / 1440 + sand / (1600 / 1.30) + stone / 1500
    largest = min(0.065, 0.1037 * 0.9 / loose, 160 / (cement + sand + stone + 180))
    count = math.ceil(net / largest - 1e-6)
    each = net / count
    loads = []
    for _ in range(count):
        brim = 22.73
        fills = math.ceil(sand * each / (1600 / 1.30) * 1000 / brim)
        loads.append(
            (cement * each, sand * each * 1.05, stone * each * 1.01, pour * each, pour * each * 0.8, float(fills))
        )
    return loads


def median_ms(work: Callable[[], object]) -> float:
    times = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        work()
        times.append((time.perf_counter() - began) * 1000)
    return statistics.median(times)


def main() -> None:
    given = request()
    result = plan(given)
    ours, bare = median_ms(lambda: plan(given)), median_ms(straight)
    ticket = median_ms(lambda: issue(given, result))
    stored = issue(given, result).model_dump(mode="json")
    read = median_ms(lambda: open_ticket(stored))
    same = sum(load[1] for load in straight()) / next(t.batch_kg for t in result.totals if t.role == "sand")
    print(f"{len(given.shapes)} shapes, {len(result.loads)} loads, {ROUNDS} rounds")
    print(f"plan()           {ours:7.3f} ms median   (must stay under 2)")
    print(f"straight-line    {bare:7.3f} ms median   sand agrees to {abs(same - 1):.1e}")
    print(f"ratio            {ours / bare:7.1f}")
    print(f"ticket of it     {ticket:7.3f} ms median   (must stay under 1)")
    print(f"read back        {read:7.3f} ms median")
    times = {}
    for key in load_catalogue().mixes:
        sheet = JobSheet.model_validate({"shapes": [{"kind": "known", "volume_l": 60}], "mix": key})
        one = resolve(sheet, load_catalogue())
        times[key] = median_ms(lambda one=one: plan(one))
    slowest = max(times, key=lambda key: times[key])
    print(
        f"{len(times)} mixes: median {statistics.median(times.values()):.3f} ms, slowest {slowest} {times[slowest]:.3f} ms"
    )


if __name__ == "__main__":
    main()
