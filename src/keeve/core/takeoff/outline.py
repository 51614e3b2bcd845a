"""Outlines by their corners: reading them, areas, and where they cannot be."""

import re
from typing import Annotated, Any, Final

from pydantic import BeforeValidator, WithJsonSchema
from shapely import LinearRing, LineString, Polygon, STRtree, contains_xy

from keeve.core.measure.reading import MOST_LIST_LETTERS, read_number, within
from keeve.core.message.errors import Code, Fault, TakeoffError, UnitError
from keeve.core.message.said import Amount, Said, mark

Point = tuple[float, float]
Corners = tuple[Point, ...]
MOST_CORNERS: Final = 2000
_FARTHEST: Final = 1e6


def _corner(text: str) -> Point:
    words = [word for word in re.split(r"\s+", text.strip()) if word]
    if len(words) == 1:
        words = text.split(",")
    words = [word.strip().rstrip(",") for word in words]
    if len(words) != 2:
        raise UnitError(
            Fault(
                Code.UNREADABLE,
                Said("“{typed}” is not a corner.", typed=text.strip()[:30]),
                "Write each corner as two numbers: 4.2 3.1.",
            )
        )
    x, y = (read_number(word) for word in words)
    return x, y


def read_ring(given: Any) -> Corners:
    """Read corners: pairs of numbers, or text such as `0 0; 4.2 0; 4.2 3.1`.

    Returns
    -------
    the corners in the order given; a last corner that repeats the first is dropped

    Raises
    ------
    UnitError : text that holds no corners, or too many of them

    References
    ----------
    Common practice, no source.

    >>> read_ring("0 0; 4,2 0; 4.2, 3")
    ((0.0, 0.0), (4.2, 0.0), (4.2, 3.0))
    """
    if isinstance(given, str):
        typed = within(given, MOST_LIST_LETTERS)
        found = [_corner(text) for text in re.split(r"[;\n]", typed) if text.strip()]
    elif isinstance(given, (list, tuple)):
        try:
            found = [(float(x), float(y)) for x, y in given]
        except (TypeError, ValueError, OverflowError):
            raise UnitError(Fault(Code.UNREADABLE, "A corner is two numbers.", "Write it like [4.2, 3.1].")) from None
    else:
        raise UnitError(Fault(Code.UNREADABLE, "These are no corners.", "Write them like 0 0; 4.2 0; 4.2 3.1."))
    if len(found) > MOST_CORNERS:
        raise UnitError(
            Fault(
                Code.TOO_MANY,
                Said("An outline may have {n} corners.", n=Amount(MOST_CORNERS, "whole")),
                "Simplify it first.",
            )
        )
    if not all(-_FARTHEST <= v <= _FARTHEST for point in found for v in point):  # catches nan too
        raise UnitError(Fault(Code.OUT_OF_RANGE, "A corner lies far off the map.", "Check its unit."))
    kept = [p for i, p in enumerate(found) if i == 0 or p != found[i - 1]]
    if len(kept) > 1 and kept[0] == kept[-1]:
        kept.pop()
    return tuple(kept)


def read_rings(given: Any) -> tuple[Corners, ...]:
    """Read several outlines; in text they stand between slashes. Common practice, no source.

    >>> len(read_rings("0 0; 1 0; 1 1 / 2 2; 3 2; 3 3"))
    2
    """
    if isinstance(given, str):
        return tuple(read_ring(text) for text in within(given, MOST_LIST_LETTERS).split("/") if text.strip())
    if isinstance(given, (list, tuple)):
        return tuple(read_ring(ring) for ring in given)
    raise UnitError(Fault(Code.UNREADABLE, "These are no corners.", "Write them like 0 0; 4.2 0; 4.2 3.1."))


_RING_SCHEMA = {"anyOf": [{"type": "array"}, {"type": "string"}], "description": "pairs of numbers, or text"}
Outline = Annotated[Corners, BeforeValidator(read_ring), WithJsonSchema(_RING_SCHEMA, mode="validation")]
Holes = Annotated[tuple[Corners, ...], BeforeValidator(read_rings), WithJsonSchema(_RING_SCHEMA, mode="validation")]


def signed_area(ring: Corners) -> float:
    """Area inside an outline, positive where the corners run anticlockwise.

    Parameters
    ----------
    ring : corners, any unit

    Returns
    -------
    area in the square of that unit

    References
    ----------
    Plain arithmetic: A = ½ Σ (xᵢ yᵢ₊₁ − xᵢ₊₁ yᵢ).

    >>> signed_area(((0, 0), (4, 0), (4, 3), (0, 3)))
    12.0
    """
    x0, y0 = ring[0]  # taken from the first corner: far from the origin the products would eat the digits
    pairs = zip(ring, (*ring[1:], ring[0]), strict=True)
    return sum((ax - x0) * (by - y0) - (bx - x0) * (ay - y0) for (ax, ay), (bx, by) in pairs) / 2


def apart(one: Corners, other: Corners) -> bool:
    """Say whether the lines of two outlines nowhere meet, touching included. OGC simple features, by shapely.

    >>> big = ((0, 0), (4, 0), (4, 4))
    >>> apart(big, ((3, 1), (3.5, 1), (3.5, 2))), apart(big, ((0, 0), (1, 5), (0, 5)))
    (True, False)
    """
    return not LinearRing(one).intersects(LinearRing(other))


def own_crossing(ring: Corners) -> tuple[int, int] | None:
    """Find two edges of an outline that meet without being neighbours: the numbers of the corners they start from.

    Parameters
    ----------
    ring : corners

    Returns
    -------
    two corner numbers, counted from 1, or None; an edge that runs back over its neighbour counts as well

    References
    ----------
    OGC simple features, by shapely.

    >>> own_crossing(((0, 0), (2, 2), (2, 0), (0, 2)))
    (1, 3)
    """
    if Polygon(ring).is_valid:
        return None
    count = len(ring)
    edges = [LineString((ring[i], ring[(i + 1) % count])) for i in range(count)]
    met = STRtree(edges).query(edges, predicate="intersects").T.tolist()
    for i, j in sorted((i, j) for i, j in met if i < j):
        neighbours = j - i in (1, count - 1)
        if not neighbours or edges[i].intersection(edges[j]).length > 0:
            return i + 1, j + 1
    return 1, 1  # not valid for another reason: it encloses nothing


def inside(ring: Corners, point: Point) -> bool:
    """Say whether a point [same unit] lies inside an outline, and not on it. OGC simple features, by shapely.

    >>> inside(((0, 0), (4, 0), (4, 3), (0, 3)), (1, 1)), inside(((0, 0), (4, 0), (4, 3), (0, 3)), (5, 1))
    (True, False)
    """
    return bool(contains_xy(Polygon(ring), *point))


def check_outline(outline: Corners, holes: tuple[Corners, ...]) -> None:
    """Refuse an outline that crosses itself, and holes that do not lie in it.

    Parameters
    ----------
    outline, holes : corners

    Raises
    ------
    TakeoffError : says which corners; field `corners` or `holes`

    References
    ----------
    Plain arithmetic.
    """
    for number, ring in enumerate((outline, *holes)):
        field, what = (
            ("holes", Said("Hole {number}", number=str(number))) if number else ("corners", mark("The outline"))
        )
        if len(ring) < 3:
            raise TakeoffError(
                Fault(
                    Code.MISSING,
                    Said("{what}: it needs at least three corners.", what=what),
                    "Go round and write each.",
                    field=field,
                )
            )
        if Polygon(ring).convex_hull.area == 0:
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said("{what}: it encloses nothing.", what=what),
                    "Its corners lie on one line.",
                    field=field,
                )
            )
        met = own_crossing(ring)
        if met:
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said(
                        "{what}: it crosses itself, the sides from corner {first} and from corner {second} meet.",
                        what=what,
                        first=str(met[0]),
                        second=str(met[1]),
                    ),
                    "Write the corners in the order one walks round.",
                    field=field,
                )
            )
    for number, hole in enumerate(holes, 1):
        _check_hole(number, hole, outline, holes[: number - 1])


def _check_hole(number: int, hole: Corners, outline: Corners, before: tuple[Corners, ...]) -> None:
    for name, ring in (
        (mark("the outline"), outline),
        *((Said("hole {number}", number=str(k)), h) for k, h in enumerate(before, 1)),
    ):
        if not apart(hole, ring):
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said("Hole {number} runs into {other}.", number=str(number), other=name),
                    "A hole lies wholly inside.",
                    field="holes",
                )
            )
    if not inside(outline, hole[0]):
        raise TakeoffError(
            Fault(
                Code.DOES_NOT_FIT,
                Said("Hole {number} lies outside the outline.", number=str(number)),
                "Check its corners.",
                field="holes",
            )
        )
    for k, ring in enumerate(before, 1):
        if inside(ring, hole[0]) or inside(hole, ring[0]):
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said("Hole {number} and hole {other} lie in one another.", number=str(number), other=str(k)),
                    "Take one out.",
                    field="holes",
                )
            )
