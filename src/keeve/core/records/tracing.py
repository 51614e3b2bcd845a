"""Which loads, and so which bags, went into which piece of the work."""

from collections.abc import Iterable, Sequence
from datetime import date
from typing import Final, NamedTuple

from keeve.core.message.said import Words

MOST_PIECES: Final = 400
_SHARE: Final = 1e-3
"""Of a piece: so little of a load in it is a rounding, not a load. Own assumption."""


class Piece(NamedTuple):
    """One piece that is cast: a post hole, a slab, a half mould."""

    name: Words
    number: int
    of: int
    litres: float
    """What is mixed for it."""


class Made(NamedTuple):
    """A load that was used."""

    number: int
    litres: float


class Delivery(NamedTuple):
    """Bags of a material that came on a day."""

    material: str
    on: date
    note: str


class Filled(NamedTuple):
    """A piece, and the loads that are in it."""

    piece: Piece
    loads: tuple[int, ...]
    full: bool
    """Whether the loads used so far reach its end."""


def filled_by(pieces: Sequence[Piece], loads: Sequence[Made]) -> tuple[Filled, ...]:
    """Say which loads went into which piece, filled one after the other in the order of the take-off.

    Parameters
    ----------
    pieces : in the order they are filled, with what is mixed for each [L]
    loads : used ones in their order, with what each made [L]

    Returns
    -------
    each piece with its loads; none for one that is not reached yet

    References
    ----------
    Plain arithmetic; that pieces are filled in their order: common practice, no source.

    >>> posts = [Piece("Post", n, 3, 60.0) for n in (1, 2, 3)]
    >>> [one.loads for one in filled_by(posts, [Made(1, 90.0), Made(2, 90.0)])]
    [(1,), (1, 2), (2,)]
    """
    found: list[Filled] = []
    ends, total = [], 0.0
    for load in loads:
        ends.append((total, total + load.litres, load.number))
        total += load.litres
    begin = 0.0
    for piece in pieces[:MOST_PIECES]:
        end, slack = begin + piece.litres, piece.litres * _SHARE
        inside = tuple(number for low, high, number in ends if min(high, end) - max(low, begin) > slack)
        found.append(Filled(piece, inside, total >= end - slack))
        begin = end
    return tuple(found)


def bags_of(deliveries: Iterable[Delivery], materials: Iterable[str], on: date) -> tuple[Delivery, ...]:
    """Return the delivery of each material a load of a day was mixed from: the last that had come by then.

    Common practice, no source.

    >>> came = [Delivery("cement", date(2026, 9, day), "") for day in (1, 10, 20)]
    >>> [one.on.day for one in bags_of(came, ["cement", "sand"], date(2026, 9, 14))]
    [10]
    """
    found = []
    for material in materials:
        came = [one for one in deliveries if one.material == material and one.on <= on]
        if came:
            found.append(max(came, key=lambda one: one.on))
    return tuple(found)
