"""What a hostile file makes of a reader: it hangs, swells, dies, or talks nonsense. Run as `bounded` runs readers."""

import json
import sys
import time

what = open(sys.argv[2]).read().strip()  # noqa: SIM115, PTH123
held = []
if what == "hang":
    time.sleep(600)
elif what == "swell":
    while True:
        held.append(bytearray(200_000_000))
elif what == "die":
    sys.exit(3)
elif what == "nonsense":
    sys.stdout.write("{not json\n" + json.dumps({"stage": "reading", "share": 0.5}) + "\n")
