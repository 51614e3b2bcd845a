#!/usr/bin/env python3
"""Fifteen thousand made-up requests over all routes: no failure of the server's own, none over two seconds.

Run: .keeve/venv/bin/python bench/schema_fire.py [A ROUTE]     (some minutes; starts a demo of its own)
"""

import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.fire import Demo
from tests.schema_fire import Yard, attack


def main() -> None:
    examples = int(sys.argv[1]) if len(sys.argv) > 1 else 250
    with tempfile.TemporaryDirectory(prefix="keeve-schema-") as name:
        home = Path(name)
        home.chmod(0o755)
        demo = Demo(home).start()
        began = time.monotonic()
        try:
            found = attack(Yard(demo.address), examples)
        finally:
            demo.stop()
    print(f"{found.total()} requests in {time.monotonic() - began:.0f} s: {dict(sorted(found.items()))}")


main()
