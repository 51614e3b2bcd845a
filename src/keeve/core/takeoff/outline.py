"""Outlines by their corners: reading them, areas, and where they cannot be."""

import re
from typing import Annotated, Any, Final

from pydantic import BeforeValidator, WithJsonSchema

from keeve.core.errors import Code, Fault, TakeoffError, UnitError
from keeve.core.reading import read_number
from keeve.core.said import Amount, Said, mark

Point = tuple[float, float]
Ring = tuple[Point, ...]
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


def read_ring(given: Any) -> Ring:
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
        found = [_corner(text) for text in re.split(r"[;\n]", given) if text.strip()]
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


def read_rings(given: Any) -> tuple[Ring, ...]:
    """Read several outlines; in text they stand between slashes. Common practice, no source.

    >>> len(read_rings("0 0; 1 0; 1 1 / 2 2; 3 2; 3 3"))
    2
    """
    if isinstance(given, str):
        return tuple(read_ring(text) for text in given.split("/") if text.strip())
    if isinstance(given, (list, tuple)):
        return tuple(read_ring(ring) for ring in given)
    raise UnitError(Fault(Code.UNREADABLE, "These are no corners.", "Write them like 0 0; 4.2 0; 4.2 3.1."))


_RING_SCHEMA = {"anyOf": [{"type": "array"}, {"type": "string"}], "description": "pairs of numbers, or text"}
Outline = Annotated[Ring, BeforeValidator(read_ring), WithJsonSchema(_RING_SCHEMA, mode="validation")]
Outlines = Annotated[tuple[Ring, ...], BeforeValidator(read_rings), WithJsonSchema(_RING_SCHEMA, mode="validation")]


def signed_area(ring: Ring) -> float:
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


def _turn(a: Point, b: Point, c: Point) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _on(a: Point, b: Point, p: Point) -> bool:
    return min(a[0], b[0]) <= p[0] <= max(a[0], b[0]) and min(a[1], b[1]) <= p[1] <= max(a[1], b[1])


def cross(a: Point, b: Point, c: Point, d: Point) -> bool:
    """Say whether two edges a–b and c–d meet, touching included. Plain arithmetic by the signs of areas.

    >>> cross((0, 0), (2, 2), (0, 2), (2, 0)), cross((0, 0), (1, 0), (0, 1), (1, 1))
    (True, False)
    """
    t1, t2, t3, t4 = _turn(c, d, a), _turn(c, d, b), _turn(a, b, c), _turn(a, b, d)
    if ((t1 > 0) != (t2 > 0)) and ((t3 > 0) != (t4 > 0)) and 0 not in (t1, t2, t3, t4):
        return True
    return (
        (t1 == 0 and _on(c, d, a))
        or (t2 == 0 and _on(c, d, b))
        or (t3 == 0 and _on(a, b, c))
        or (t4 == 0 and _on(a, b, d))
    )


def _edges(ring: Ring) -> list[tuple[Point, Point]]:
    return list(zip(ring, (*ring[1:], ring[0]), strict=True))


def own_crossing(ring: Ring) -> tuple[int, int] | None:
    """Find two edges of an outline that meet without being neighbours: the numbers of the corners they start from.

    Parameters
    ----------
    ring : corners

    Returns
    -------
    two corner numbers, counted from 1, or None; an edge that runs back over its neighbour counts as well

    References
    ----------
    Plain arithmetic.

    >>> own_crossing(((0, 0), (2, 2), (2, 0), (0, 2)))
    (1, 3)
    """
    edges, n = _edges(ring), len(ring)
    boxes = [(min(a[0], b[0]), max(a[0], b[0]), min(a[1], b[1]), max(a[1], b[1])) for a, b in edges]
    for i in range(n):
        (a, b), (low_x, high_x, low_y, high_y) = edges[i], boxes[i]
        c = edges[(i + 1) % n][1]
        if _turn(a, b, c) == 0 and (b[0] - a[0]) * (c[0] - b[0]) + (b[1] - a[1]) * (c[1] - b[1]) < 0:
            return i + 1, (i + 1) % n + 1
        for j in range(i + 2, n - (i == 0)):
            box = boxes[j]
            if box[0] > high_x or box[1] < low_x or box[2] > high_y or box[3] < low_y:
                continue
            if cross(a, b, *edges[j]):
                return i + 1, j + 1
    return None


def inside(ring: Ring, point: Point) -> bool:
    """Say whether a point lies inside an outline. Plain arithmetic: a ray crosses the outline an odd number of times.

    >>> inside(((0, 0), (4, 0), (4, 3), (0, 3)), (1, 1)), inside(((0, 0), (4, 0), (4, 3), (0, 3)), (5, 1))
    (True, False)
    """
    x, y = point
    odd = False
    for (ax, ay), (bx, by) in _edges(ring):
        if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
            odd = not odd
    return odd


def check_outline(outline: Ring, holes: tuple[Ring, ...]) -> None:
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
                    field,
                )
            )
        if all(_turn(ring[0], ring[1], point) == 0 for point in ring):
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said("{what}: it encloses nothing.", what=what),
                    "Its corners lie on one line.",
                    field,
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
                    field,
                )
            )
    for number, hole in enumerate(holes, 1):
        _check_hole(number, hole, outline, holes[: number - 1])


def _check_hole(number: int, hole: Ring, outline: Ring, before: tuple[Ring, ...]) -> None:
    for name, ring in (
        (mark("the outline"), outline),
        *((Said("hole {number}", number=str(k)), h) for k, h in enumerate(before, 1)),
    ):
        if any(cross(*one, *two) for one in _edges(hole) for two in _edges(ring)):
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said("Hole {number} runs into {other}.", number=str(number), other=name),
                    "A hole lies wholly inside.",
                    "holes",
                )
            )
    if not inside(outline, hole[0]):
        raise TakeoffError(
            Fault(
                Code.DOES_NOT_FIT,
                Said("Hole {number} lies outside the outline.", number=str(number)),
                "Check its corners.",
                "holes",
            )
        )
    for k, ring in enumerate(before, 1):
        if inside(ring, hole[0]) or inside(hole, ring[0]):
            raise TakeoffError(
                Fault(
                    Code.DOES_NOT_FIT,
                    Said("Hole {number} and hole {other} lie in one another.", number=str(number), other=str(k)),
                    "Take one out.",
                    "holes",
                )
            )
