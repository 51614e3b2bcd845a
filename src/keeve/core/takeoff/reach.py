"""Coverage the other way round: how far the material at hand goes."""

from keeve.core.message.errors import Frozen
from keeve.core.takeoff.need import Need
from keeve.core.takeoff.shapes import Kerb, Pointing, Shape, Strip


class ReachRow(Frozen):
    """How far it goes on one item, if all of it goes there."""

    shape: int
    note: str
    whole: int
    """How many of them it fills wholly."""
    share: float
    """Of all of the item, 1 where it is enough."""
    area_m2: float | None
    """At the item's own thickness."""
    run_mm: float | None
    """Along a strip, a kerb or joints."""


class Reach(Frozen):
    """How far the material at hand goes."""

    made_m3: float
    """Fresh mix it makes."""
    enough: bool
    """For the whole list."""
    rows: tuple[ReachRow, ...]


def reach(shapes: tuple[Shape, ...], need: Need, made_m3: float) -> Reach:
    """Say how far an amount of fresh mix goes.

    Parameters
    ----------
    shapes : the list
    need : its take-off
    made_m3 : fresh mix [m³], >= 0

    Returns
    -------
    for each item: pieces, area at its own thickness, run; its waste allowance taken off first

    Notes
    -----
    Placed volume = made / (1 + waste). Area = placed / (volume of one / its face), run likewise.

    References
    ----------
    Plain arithmetic.
    """
    rows = []
    for item in need.items:
        shape = shapes[item.shape]
        placed = made_m3 / (1 + item.waste_percent / 100)
        ones = placed / item.each_m3
        face = shape.face_m2()
        run = _run_mm(shape)
        rows.append(
            ReachRow(
                shape=item.shape,
                note=item.note,
                whole=int(ones + 1e-9),
                share=min(ones / item.count, 1.0),
                area_m2=ones * face if face is not None else None,
                run_mm=ones * run if run is not None else None,
            )
        )
    return Reach(made_m3=made_m3, enough=made_m3 >= need.order_m3 * (1 - 1e-9), rows=tuple(rows))


def _run_mm(shape: Shape) -> float | None:
    if isinstance(shape, Strip | Kerb):
        return shape.length_mm
    return shape.joints_mm if isinstance(shape, Pointing) and shape.by == "joints" else None
