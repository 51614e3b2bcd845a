#!/usr/bin/env python3
"""Twenty first starts, each killed at another moment, and whether the next start finishes what it began.

Run: .keeve/venv/bin/python bench/first_starts.py [HOW MANY]     (about six seconds each)
"""

import signal
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.fire import Demo

LONGEST_S = 4.0


def main() -> None:
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 20
    for n in range(many):
        moment_s = LONGEST_S * (n + 1) / many
        with tempfile.TemporaryDirectory(prefix="keeve-first-") as name:
            home = Path(name)
            home.chmod(0o755)
            demo = Demo(home)
            demo.launch()
            time.sleep(moment_s)
            demo.stop(signal.SIGKILL)
            left = sorted(path.name for path in home.iterdir())
            good = "Lantern Yard" in demo.start().get()
            demo.stop()
            print(
                f"killed after {moment_s:.1f} s, with {', '.join(left) or 'nothing'} there: {'starts' if good else 'LOST'}"
            )
            assert good


main()
