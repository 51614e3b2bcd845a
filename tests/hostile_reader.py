"""What a hostile file makes of a reader: it hangs, swells, dies, or talks nonsense. Run as `bounded` runs readers."""

import json
import sys
import time
from pathlib import Path


def misbehave(what: str) -> None:
    held = []
    if what == "hang":
        time.sleep(600)
    while what == "swell":
        held.append(bytearray(200_000_000))
    if what == "die":
        sys.exit(3)
    sys.stdout.write("{not json\n" + json.dumps({"stage": "reading", "share": 0.5}) + "\n")


if __name__ == "__main__":
    misbehave(Path(sys.argv[2]).read_text().strip())
