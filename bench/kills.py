#!/usr/bin/env python3
"""Server and database killed again and again while three people tap; whether each acknowledged tap is there once.

Run: .keeve/venv/bin/python bench/kills.py [HOW MANY]     (fifty kills; a few seconds each)
"""

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.fire import kept, under_fire


def main() -> None:
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    with tempfile.TemporaryDirectory(prefix="keeve-kills-") as name:
        home = Path(name)
        home.chmod(0o755)
        with under_fire(home, kills=many, seed=13) as (demo, writers):
            ids = [one["id"] for one in kept(demo.address, writers.job)]
    lost = set(writers.acked) - set(ids)
    print(f"{many} kills, {len(writers.acked)} taps acknowledged, {len(lost)} lost, {len(ids) - len(set(ids))} twice")
    sys.exit(1 if lost or len(ids) != len(set(ids)) else 0)


if __name__ == "__main__":
    main()
