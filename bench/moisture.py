#!/usr/bin/env python3
"""Days at a heap drawn by lot, mixed as the program tells, beside "same as the last load" and the morning's recipe.

Run: .keeve/venv/bin/python bench/moisture.py [DAYS [WORLD ...]]     (1000 days a world; some five minutes)
The table is the one of docs/moisture.md.
"""

import math
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.worlds import WORLDS, Tally, lived

HEAD = (
    "world", "ideal judge: told / last", "with sips: told / last / recipe", "best possible",
    "too wet: last / told", "sips: last / told",
)  # fmt: skip


def better(found: dict[str, Tally]) -> str:
    return f"{1 - found['told'].error_l / found['last'].error_l:+.1%}"


def main() -> None:
    days = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    print("| " + " | ".join(HEAD) + " |")
    print("| --- " * len(HEAD) + "|")
    for name in sys.argv[2:] or WORLDS:
        ideal, real = lived(name, days, ideal=True), lived(name, days, ideal=False)
        told, last, recipe = real["told"], real["last"], real["recipe"]
        # Who knew each load's heap, and only not the one load's grab of it: the mean distance of a normal.
        best = WORLDS[name].grab_percent * math.sqrt(2 / math.pi)
        row = (
            name,
            f"{ideal['told'].error_l:.2f} / {ideal['last'].error_l:.2f} L, {better(ideal)}",
            f"{told.error_l:.2f} / {last.error_l:.2f} / {recipe.error_l:.2f} L, {better(real)}",
            f"{best:.2f} L",
            f"{last.share(last.wet):.0%} / {told.share(told.wet):.0%}",
            f"{last.share(last.sips):.2f} / {told.share(told.sips):.2f}",
        )
        print("| " + " | ".join(row) + " |", flush=True)


if __name__ == "__main__":
    main()
