#!/usr/bin/env python3
"""Sixty prints at once, each of another ticket, from five visitors: how long a page takes meanwhile.

Run: .keeve/venv/bin/python bench/prints.py [HOW MANY]
"""

import statistics
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections import Counter
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.fire import Demo, Writers

PAPERS = ("a4", "a5", "letter", "roll")


def took_ms(address: str) -> float:
    began = time.perf_counter()
    urllib.request.urlopen(address, timeout=60).read()
    return (time.perf_counter() - began) * 1000


def main() -> None:
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    found: Counter[int] = Counter()
    with tempfile.TemporaryDirectory(prefix="keeve-prints-") as name:
        home = Path(name)
        home.chmod(0o755)
        demo = Demo(home).start()
        try:
            job = Writers(demo.address, 0).job
            idle = statistics.median(took_ms(demo.address) for _ in range(30))

            def print_one(n: int) -> None:
                units = f"{demo.address}{job}/ticket.pdf?paper={PAPERS[n % 4]}&revision=1&copy={n}"
                try:
                    found[urllib.request.urlopen(units, timeout=120).status] += 1
                except urllib.error.HTTPError as error:
                    found[error.code] += 1

            threads = [threading.Thread(target=print_one, args=(n,)) for n in range(many)]
            began = time.perf_counter()
            for thread in threads:
                thread.start()
            times = []
            while any(thread.is_alive() for thread in threads):
                times.append(took_ms(demo.address))
                time.sleep(0.05)
            whole_s = time.perf_counter() - began
        finally:
            demo.stop()
    times.sort()
    late = times[int(len(times) * 0.95)] if times else 0.0
    print(f"{many} prints in {whole_s:.1f} s, answers {dict(found)}")
    print(
        f"list of jobs: idle {idle:.1f} ms, meanwhile {statistics.median(times):.1f} ms, 95th percentile {late:.1f} ms"
    )
    print(f"{statistics.median(times) / idle:.1f} times idle, {late / idle:.1f} at the 95th percentile")


if __name__ == "__main__":
    main()
