"""Outlines from a DXF drawing: closed polylines, circles and hatches by layer; open ones are named with their gap."""

import math
from itertools import chain
from pathlib import Path
from typing import Any, Final

from ezdxf import path as dxf_path
from ezdxf import recover
from ezdxf.lldxf.const import DXFError
from pydantic import Field

from keeve.core.message.errors import Code, Fault, Frozen, TakeoffError
from keeve.core.message.letters import shown
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.takeoff.flat import MapUnit
from keeve.core.takeoff.outline import Corners, apart, inside, own_crossing, signed_area

UNITS: Final[dict[int, MapUnit]] = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}
"""$INSUNITS of the header, from memory of the DXF reference."""
MOST_LOOPS: Final = 300
MOST_CORNERS: Final = 400
_KINDS: Final = "LWPOLYLINE POLYLINE CIRCLE ELLIPSE SPLINE HATCH"


class Loop(Frozen):
    """One closed outline of the drawing, or one that is not closed."""

    layer: str
    corners: Corners
    diameter: float | None = None
    """Of a circle, in the drawing's unit."""
    area: float
    """In the square of the drawing's unit, holes not taken off."""
    hole_in: int | None = None
    """Which other loop it is a hole in."""
    wrong: Words = ""
    """Why it cannot be used."""


class Outlines(Frozen):
    """What a drawing holds."""

    unit: MapUnit | None = Field(description="of the header; None where the header does not say")
    loops: tuple[Loop, ...]
    left_out: int
    """Other things in the drawing: lines, texts, dimensions."""

    def holes_of(self, which: int) -> list[Loop]:
        """Return the loops that are holes in one."""
        return [loop for loop in self.loops if loop.hole_in == which and not loop.wrong]


def read_dxf(path: Path) -> Outlines:
    """Read the outlines of a drawing.

    Parameters
    ----------
    path : of a DXF file, text or binary

    Returns
    -------
    the loops with their layer, holes recognised

    Raises
    ------
    TakeoffError : no DXF, too many outlines, or none
    """
    try:
        # What has no part for what is drawn is no drawing, and searching it for one would take long.
        drawing = recover.readfile(str(path))[0] if b"ENTITIES" in path.read_bytes() else None
    except (DXFError, OSError, ValueError, UnicodeError):
        drawing = None
    if drawing is None:
        raise TakeoffError(
            Fault(Code.UNREADABLE, "This is no DXF drawing that can be read.", "Save it as DXF again, plain 2D.")
        )
    space = drawing.modelspace()
    found: list[Loop] = []
    for entity in space.query(_KINDS):
        found += _loops(entity)
        if len(found) > MOST_LOOPS:
            raise TakeoffError(
                Fault(
                    Code.TOO_MANY,
                    Said("The drawing has more than {n} outlines.", n=Amount(MOST_LOOPS, "whole")),
                    "Save only the layer wanted.",
                )
            )
    if not found:
        raise TakeoffError(
            Fault(
                Code.MISSING,
                "The drawing holds no closed outline.",
                "Join the lines of each floor into one closed polyline.",
            )
        )
    return Outlines(
        unit=UNITS.get(int(drawing.header.get("$INSUNITS", 0))),
        loops=_nested(found),
        left_out=len(space) - len(space.query(_KINDS)),
    )


_NOTHING_IN: Final = mark("It encloses nothing.")


def _loops(entity: Any) -> list[Loop]:
    layer = shown(str(entity.dxf.layer))
    try:
        found = _drawn_loops(entity, layer)
    except (DXFError, TypeError, ValueError, ArithmeticError):
        found = []
    there = [one for one in found if all(map(math.isfinite, (one.area, *chain.from_iterable(one.corners))))]
    return there or [Loop(layer=layer, corners=(), area=0, wrong=mark("This outline cannot be read."))]


def _drawn_loops(entity: Any, layer: str) -> list[Loop]:
    if entity.dxftype() == "CIRCLE":
        radius, (x, y, _) = float(entity.dxf.radius), entity.dxf.center
        around = tuple(
            (x + radius * math.cos(i * math.pi / 36), y + radius * math.sin(i * math.pi / 36)) for i in range(72)
        )
        return [Loop(layer=layer, corners=around, diameter=2 * radius, area=math.pi * radius**2)]
    paths = dxf_path.from_hatch(entity) if entity.dxftype() == "HATCH" else [dxf_path.make_path(entity)]
    return [_loop(layer, one) for one in paths if len(one)]


def _loop(layer: str, path: Any) -> Loop:
    points = [(float(p.x), float(p.y)) for p in path.control_vertices()]
    wide = max(max(v) - min(v) for v in zip(*points, strict=True))
    corners = tuple((float(p.x), float(p.y)) for p in path.flattening(distance=max(wide, 1e-9) / 5000))
    ends = math.dist(corners[0], corners[-1])
    if ends > wide * 1e-6:
        (ax, ay), (bx, by) = corners[0], corners[-1]
        return Loop(
            layer=layer,
            corners=corners[:MOST_CORNERS],
            area=0,
            wrong=Said(
                "It is not closed: a gap of {gap} between {start} and {end}.",
                gap=f"{ends:.4g}",
                start=f"{ax:.4g}, {ay:.4g}",
                end=f"{bx:.4g}, {by:.4g}",
            ),
        )
    kept = [p for i, p in enumerate(corners) if i == 0 or math.dist(p, corners[i - 1]) > wide * 1e-9]
    if len(kept) > 1 and math.dist(kept[0], kept[-1]) <= wide * 1e-6:
        kept.pop()
    ring = tuple(kept)
    if len(ring) < 3:
        return Loop(layer=layer, corners=ring, area=0, wrong=_NOTHING_IN)
    if len(ring) > MOST_CORNERS:
        return Loop(
            layer=layer,
            corners=ring[:MOST_CORNERS],
            area=0,
            wrong=Said("It has more than {n} corners.", n=Amount(MOST_CORNERS, "whole")),
        )
    met = own_crossing(ring)
    if met:
        x, y = ring[met[0] - 1]
        return Loop(
            layer=layer, corners=ring, area=0, wrong=Said("It crosses itself, near {where}.", where=f"{x:.4g}, {y:.4g}")
        )
    area = abs(signed_area(ring))
    return Loop(layer=layer, corners=ring, area=area, wrong="" if area else _NOTHING_IN)


def _within(one: Loop, other: Loop) -> bool:
    """Whether one loop lies wholly in another."""
    small = one.area < other.area and inside(other.corners, one.corners[0])
    return small and apart(one.corners, other.corners)


def _nested(found: list[Loop]) -> tuple[Loop, ...]:
    """Recognise holes: a loop directly inside another is its hole, a loop inside a hole is a floor again."""
    good = [i for i, loop in enumerate(found) if not loop.wrong]
    around = {i: [k for k in good if k != i and _within(found[i], found[k])] for i in good}
    hole_in: dict[int, int] = {}
    for i in good:
        if len(around[i]) % 2:
            hole_in[i] = min(around[i], key=lambda k: found[k].area)
    return tuple(loop.model_copy(update={"hole_in": hole_in.get(i)}) for i, loop in enumerate(found))


def row_of(outlines: Outlines, which: int, unit: MapUnit, depth: str) -> dict[str, str]:
    """Write one loop as a row of a list: a floor with its holes, or a round column for a circle without any.

    Parameters
    ----------
    outlines : the drawing
    which : number of the loop
    unit : of the drawing
    depth : as typed

    Returns
    -------
    a row as `shape_list` reads it

    References
    ----------
    Plain arithmetic.
    """
    loop = outlines.loops[which]
    note = loop.layer if loop.layer != "0" else ""
    holes = outlines.holes_of(which)
    if loop.diameter is not None and not holes:
        return {"kind": "cylinder", "note": note, "diameter_mm": f"{loop.diameter:.9g} {unit}", "height_mm": depth}
    row = {"kind": "floor", "note": note, "corners": _written(loop.corners), "unit": unit, "depth_mm": depth}
    return row | ({"holes": " / ".join(_written(hole.corners) for hole in holes)} if holes else {})


def _written(ring: Corners) -> str:
    return "; ".join(f"{x:.7g} {y:.7g}" for x, y in ring)
