"""The jug as the page beside the mixer draws it itself: without a network it knows what a brief asks for."""

from typing import Any, Final

from keeve.core.ticket.ticket import Ticket
from keeve.core.vessels.instruments import jug_full_l
from keeve.core.vessels.vessels import brim_l, volume_l
from keeve.web.drawings.gauges import moved, vessel
from keeve.words.reader import Reader

LEVELS: Final = 24
"""Heights between which a script draws water straight: nobody sees the bend."""


def jug_drawn(ticket: Ticket, reader: Reader) -> dict[str, Any]:
    """Give the jug's outline and levels to a script that draws what is poured: at one scale with the other pictures."""
    jug = ticket.jug
    tallest = max((c.section.depth_mm for c in (*ticket.measures, jug)), default=1.0)
    empty = vessel("water", jug, 0.0, tallest)
    levels = []
    for n in range(LEVELS + 1):
        up_mm = jug.section.depth_mm * n / LEVELS
        level = vessel("water", jug, up_mm, tallest, marked=True).level or (0.0, 0.0, 0.0)
        levels.append((round(volume_l(jug.section, up_mm), 6), *(round(one, 2) for one in (level[2], *level[:2]))))
    return {
        "full_l": jug_full_l(brim_l(jug.section), us=reader.us),
        "outline": moved(empty.outline, 0.0, 0.0),
        "width": round(empty.width, 2),
        "high": round(empty.high, 2),
        "levels": levels,
    }
