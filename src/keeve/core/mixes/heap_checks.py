"""What was said of the heaps and measures of a job: what cannot be, and what nobody looked at."""

from collections.abc import Mapping
from typing import Final

from keeve.core.materials.looks import HeapLook
from keeve.core.materials.material import WET_HEAPS
from keeve.core.materials.moisture import heap_water
from keeve.core.message.errors import Code, Fault
from keeve.core.message.said import Amount, Names, Said, Words, mark, percent
from keeve.core.mixes.mix import Mix
from keeve.core.vessels.vessels import Container, brim_l

LEAST_KG_L: Final = 0.3
MOST_KG_L: Final = 2.0
"""A litre of any binder or heap weighs between these: hydrated lime 0.5, wet sand 1.9; common practice, no source."""

_DESIGNED: Final = mark("Nobody has looked how wet it is: {heaps}. This counts the wettest of {ranges}; look, and say.")
_UNSEEN: Final = mark(
    "Nobody has looked how wet it is: {heaps}. The first water is for the wettest of {ranges}; "
    "more only in sips while it is too dry."
)


def unknown_heaps(mix: Mix, **given: Mapping[str, object]) -> list[Fault]:
    """Find what was said of heaps that a mix does not have: it would count for nothing.

    Parameters
    ----------
    mix : the mix
    given : by the field's name, what was said by material key

    Returns
    -------
    one fault for each

    References
    ----------
    Common practice, no source.
    """
    mine = {material.key for material in mix.materials()}
    return [
        Fault(
            Code.UNKNOWN,
            Said("{mix} has no heap called “{key}”.", mix=mix.name, key=key[:40]),
            Said("It has: {known}.", known=", ".join(sorted(mine))),
            field=f"{field}.{key[:40]}",
        )
        for field, heaps in given.items()
        for key in heaps
        if key not in mine
    ]


def strange_measures(struck_kg: Mapping[str, float], gauges: tuple[Container, ...]) -> list[Fault]:
    """Find weighed measures that cannot be: another measure was weighed, or its own weight was left on.

    Parameters
    ----------
    struck_kg : what the first of the gauges weighs of a material, struck [kg]
    gauges : at hand

    Returns
    -------
    one fault for each

    References
    ----------
    Common practice, no source.
    """
    if not gauges:
        return []
    brim = brim_l(gauges[0].section)
    return [
        Fault(
            Code.OUT_OF_RANGE,
            Said(
                "{measure}: full to the rim with this it cannot weigh {mass}.",
                measure=gauges[0].name,
                mass=Amount(kg, "kg"),
            ),
            "Weigh it struck, and take off what it weighs empty.",
            field=f"struck_kg.{key}",
            value=kg,
        )
        for key, kg in struck_kg.items()
        if not LEAST_KG_L <= kg / brim <= MOST_KG_L
    ]


def heap_warnings(mix: Mix, moisture_percent: Mapping[str, float | HeapLook]) -> list[Words]:
    """Say which heaps nobody looked at and what the plan does about it, and which want a pan test.

    Parameters
    ----------
    mix : the mix
    moisture_percent : by material key, total moisture [%] or what the heap looks like

    Returns
    -------
    a sentence for those nobody looked at, and one for each that drips

    References
    ----------
    House rulings on common practice.
    """
    heaps = [material for material in mix.materials() if material.role in WET_HEAPS]
    water = {material.key: heap_water(material, moisture_percent.get(material.key)) for material in heaps}
    unseen = [material for material in heaps if not water[material.key].seen]
    said: list[Words] = [
        Said("{heap} drips: weigh it, dry it in a pan and weigh it again.", heap=material.name)
        for material in heaps
        if moisture_percent.get(material.key) == "dripping"
    ]
    if not unseen:
        return said
    ranges = tuple(
        Said("{low} to {high}", low=percent(water[m.key].low), high=percent(water[m.key].high)) for m in unseen
    )
    msg = _DESIGNED if mix.basis.designs_water else _UNSEEN
    return [Said(msg, heaps=Names(tuple(m.name for m in unseen)), ranges=Names(ranges)), *said]
