#!/usr/bin/env python3
"""Days at a heap drawn by lot: the filter's two figures beside "same as the last load" and the recipe's water.

Run: .keeve/venv/bin/python bench/moisture.py [DAYS]     (1000 days a world; half a minute)
The table is the one of docs/moisture.md.
"""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.worlds import WORLDS, lived


def main() -> None:
    days = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    print(
        "| world | ideal judge: filter / last | with sips: filter / last / recipe | too wet: filter / last | sips: filter / last |"
    )
    print("| --- | --- | --- | --- | --- |")
    for name in WORLDS:
        ideal, real = lived(name, days, ideal=True), lived(name, days, ideal=False)
        known, kept, last, recipe = ideal["filter"], real["filter"], real["last"], real["recipe"]
        better = 1 - known.error_l / ideal["last"].error_l
        also = 1 - kept.error_l / last.error_l
        print(
            f"| {name} | {known.error_l:.2f} / {ideal['last'].error_l:.2f} L, {better:+.0%} "
            f"| {kept.error_l:.2f} / {last.error_l:.2f} / {recipe.error_l:.2f} L, {also:+.0%} "
            f"| {kept.share(kept.wet):.1%} / {last.share(last.wet):.1%} "
            f"| {kept.share(kept.sips):.2f} / {last.share(last.sips):.2f} |"
        )


if __name__ == "__main__":
    main()
