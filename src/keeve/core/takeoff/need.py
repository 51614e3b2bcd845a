"""Adds the shapes up and puts the waste allowance on, once."""

from typing import Final

from keeve.core.message.errors import Code, Fault, Frozen, TakeoffError
from keeve.core.message.said import Amount, Said, Words, mark, percent, verbatim
from keeve.core.message.working import ARITHMETIC, Given, Working
from keeve.core.takeoff.shapes import Shape


class NeedItem(Frozen):
    """One line of the take-off."""

    kind: str
    note: str
    count: int
    each_m3: float
    net_m3: float
    waste_percent: float
    order_m3: float
    working: Working
    # Plans kept before these were known read back without them.
    shape: int = 0
    """Which shape of the list it is, from 0: those switched off have no line."""
    group: str = ""


class Need(Frozen):
    """What must be filled, and what must be mixed to fill it."""

    items: tuple[NeedItem, ...]
    net_m3: float
    order_m3: float
    residue_m3: float = 0.0
    """What stays in mixer and pump, in the order."""

    def groups(self) -> dict[str, tuple[float, float]]:
        """Add up each group that has a name: net and order volume [m³]. Plain arithmetic."""
        found: dict[str, tuple[float, float]] = {}
        for item in self.items:
            if item.group:
                net, order = found.get(item.group, (0.0, 0.0))
                found[item.group] = (net + item.net_m3, order + item.order_m3)
        return found


NOTHING: Final = mark("There is nothing to fill yet: add a shape, or say what is at hand.")


def take_off(
    shapes: tuple[Shape, ...], waste_percent: float | None, mix_waste_percent: float, residue_l: float = 0.0
) -> Need:
    """Add the shapes up.

    Parameters
    ----------
    shapes : things to fill, at least one of them switched on
    waste_percent : the job's waste allowance [%], or None for the usual one
    mix_waste_percent : the usual allowance of the mix [%]
    residue_l : what stays in mixer and pump [L]

    Returns
    -------
    the take-off, each line with its working

    Raises
    ------
    TakeoffError : one fault for each shape that cannot be, its field led by `shapes.N`

    Notes
    -----
    Order volume = Σ count × net × (1 + waste) + residue. A shape's own allowance comes first, then the job's, then
    the larger of the mix's and the shape's usual ones (work against earth loses more than formwork).

    References
    ----------
    Common practice, no source.
    """
    items: list[NeedItem] = []
    faults: list[Fault] = []
    for index, shape in enumerate(shapes):
        if shape.off:
            continue
        try:
            each_m3, formula, given = shape.volume()
        except TakeoffError as error:
            faults += [fault.under(f"shapes.{index}") for fault in error.faults]
            continue
        waste = shape.waste_percent if shape.waste_percent is not None else waste_percent
        if waste is None:
            waste = max(mix_waste_percent, shape.default_waste_percent or 0.0)
        items.append(_item(index, shape, waste, each_m3, formula, given))
    if not shapes:
        faults.append(Fault(Code.MISSING, NOTHING, "", field="shapes"))
    elif not items and not faults:
        faults.append(Fault(Code.MISSING, "Everything on the list is switched off.", "Switch one on.", field="shapes"))
    if faults:
        raise TakeoffError(*faults)
    return Need(
        items=tuple(items),
        net_m3=sum(i.net_m3 for i in items),
        order_m3=sum(i.order_m3 for i in items) + residue_l / 1000,
        residue_m3=residue_l / 1000,
    )


def _item(
    index: int, shape: Shape, waste_percent: float, each_m3: float, formula: Words, given: tuple[Given, ...]
) -> NeedItem:
    net_m3 = each_m3 * shape.count
    return NeedItem(
        shape=index,
        kind=shape.kind,
        note=shape.note,
        group=shape.group,
        count=shape.count,
        each_m3=each_m3,
        net_m3=net_m3,
        waste_percent=waste_percent,
        order_m3=net_m3 * (1 + waste_percent / 100),
        working=Working(
            figure=Said(
                "Volume of one of shape {number}" if shape.count > 1 else "Volume of shape {number}",
                number=Amount(index + 1, "whole"),
            ),
            formula=formula,
            given=given,
            result=each_m3,
            unit="m³",
            source=ARITHMETIC,
        ),
    )


def order_working(need: Need) -> Working:
    """Explain the order volume [m³] of a take-off. Common practice, no source."""
    given = tuple(
        Given(
            Said("{shape}, {waste} waste", shape=verbatim(i.note), waste=percent(i.waste_percent))
            if i.note
            else Said(
                "shape {number}, {waste} waste", number=Amount(i.shape + 1, "whole"), waste=percent(i.waste_percent)
            ),
            i.net_m3,
            "m³",
        )
        for i in need.items
    )
    left = (Given("left in mixer and pump", need.residue_m3, "m³"),) if need.residue_m3 > 0 else ()
    return Working(
        figure="To mix",
        formula=mark("Σ net × (1 + waste) + what is left") if left else mark("Σ net × (1 + waste)"),
        given=given + left,
        result=need.order_m3,
        unit="m³",
        source="common practice, no source",
    )
