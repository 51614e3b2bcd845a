"""What the shapes of a sheet that cannot be planned yet come to: one that is unfinished does not hide the others."""

from typing import Any, NamedTuple

from keeve.core.message.errors import Fault, TradeError
from keeve.core.takeoff.need import Need, take_off
from keeve.core.takeoff.sureness import sureness
from keeve.web.drawings.sketches import drawn
from keeve.web.stations.take_off import named
from keeve.words.reader import Reader


class SoFar(NamedTuple):
    """The shapes that are measured already."""

    need: Need | None
    """Without waste; None where nothing is measured yet."""
    shapes: tuple[Any, ...]
    """Those in `need`, in its order."""
    of: int
    """How many are on the list."""


def shape_faults(typed: Any) -> list[Fault]:
    """Find the shapes whose measures cannot be true together, also where something else keeps the sheet from a plan."""
    shapes = typed.get("shapes") if isinstance(typed, dict) else None
    found: list[Fault] = []
    for index, one in enumerate(drawn(shapes if isinstance(shapes, list) else [], "sand")):
        if not one.wrong or one.shape.off:
            continue
        try:
            one.shape.volume()
        except TradeError as error:
            found += [fault.under(f"shapes.{index}") for fault in error.faults]
    return found


def so_far_values(typed: Any, reader: Reader) -> dict[str, Any]:
    """Return what the answer shows of a sheet that cannot be planned yet."""
    found = so_far(typed)
    return {
        "found": found,
        "sure": sureness(found.shapes) if found.shapes else None,
        "as_loads": lambda _: "",
        "named": lambda doubt: named(found.shapes, doubt, reader),
    }


def so_far(typed: Any) -> SoFar:
    """Add up the shapes of a sheet as typed that can be read and measured."""
    shapes = typed.get("shapes") if isinstance(typed, dict) else None
    listed = shapes if isinstance(shapes, list) else []
    whole = tuple(one.shape for one in drawn(listed, "sand") if one.measured)
    counted = tuple(shape for shape in whole if not shape.off)
    off = len(whole) - len(counted)
    return SoFar(take_off(counted, 0.0, 0.0) if counted else None, counted, len(listed) - off)
