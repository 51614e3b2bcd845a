#!/usr/bin/env python3
"""Two hundred loads laid out over a day with rests and rain, beside the same loads laid end to end without asking anything.

Run: .keeve/venv/bin/python bench/day.py
"""

import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "src"))
from keeve.core.day.day import Closed, Laid, Task, lay_out

AIRS = ((600.0, 30.0), (720.0, 20.0), (900.0, 40.0))
TASKS = tuple(Task("a", number, "drum", 6, 2, 4, 40, airs=AIRS) for number in range(200))
CLOSED = (*(Closed(begin, begin + 15, "rest") for begin in range(120, 2000, 180)), Closed(700, 760, "weather"))


def bare() -> list[Laid]:
    at, found = 0.0, []
    for task in TASKS:
        found.append(Laid(task, at, at + task.mix_min, at + task.mix_min + task.place_min))
        at += task.mix_min
    return found


def median_ms(work: Callable[[], object]) -> float:
    times = []
    for _ in range(30):
        begin = time.perf_counter()
        work()
        times.append((time.perf_counter() - begin) * 1000)
    return statistics.median(times)


def main() -> None:
    line = lay_out(TASKS, {"drum": 2}, 0, 2400, CLOSED)
    laid, plain = median_ms(lambda: lay_out(TASKS, {"drum": 2}, 0, 2400, CLOSED)), median_ms(bare)
    print(
        f"{len(line.loads)} loads laid out in {laid:.1f} ms; end to end without asking {plain:.2f} ms, {laid / plain:.0f} times"
    )


if __name__ == "__main__":
    main()
