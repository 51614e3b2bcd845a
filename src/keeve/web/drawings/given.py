"""What templates draw with: lent to them by whoever builds the app."""

from typing import Any, Final

from keeve.web.drawings import common, gauges, mixes, shapes, vessels
from keeve.web.drawings.sketches import letters, sketch

DRAWINGS: Final[dict[str, Any]] = {
    "drawing": common,
    "drawing_gauges": gauges,
    "drawing_mix": mixes,
    "drawing_shapes": shapes,
    "drawing_vessels": vessels,
    "letters_of": lambda kind: letters(kind) if isinstance(kind, str) else {},
    "sketched": lambda kind: sketch({"kind": kind}),
}
