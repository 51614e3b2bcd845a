"""Counts and readings in the words of the person who measures: 4 tins, three pails to 2.74 kg each."""

import math
from typing import Final

from keeve.core.dosing.rounded import Rounded
from keeve.core.message.said import Amount, Said, Words, many, mark
from keeve.core.ticket.cards import TicketCard, TicketDose
from keeve.core.ticket.ticket import Ticket
from keeve.core.vessels.scales import UNIT_KG, ScaleUnit, Weighing
from keeve.core.vessels.tools import Count
from keeve.core.vessels.vessels import people_count
from keeve.core.yard.buying import BuyLine
from keeve.words.putting import put, t
from keeve.words.reader import Reader, decimal_mark
from keeve.words.showing import counted, say, show, show_mass

_NOTHING_PERCENT: Final = 0.5
"""An error that nobody needs to be told [%]."""


_COUNTED: Final = {
    "tin": many("{count} tin", "{count} tins", 1, count=""),
    "shovel": many("{count} shovel", "{count} shovels", 1, count=""),
    "trowel": many("{count} trowel", "{count} trowels", 1, count=""),
    "spoon": many("{count} spoon", "{count} spoons", 1, count=""),
    "cap": many("{count} cap", "{count} caps", 1, count=""),
    "weighing": many("{count} weighing", "{count} weighings", 1, count=""),
    "bag": many("{count} bag", "{count} bags", 1, count=""),
    "pail": many("{count} pail", "{count} pails", 1, count=""),
    "bucket": many("{count} bucket", "{count} buckets", 1, count=""),
    "small bucket": many("{count} small bucket", "{count} small buckets", 1, count=""),
    "tub": many("{count} tub", "{count} tubs", 1, count=""),
    "vial": many("{count} vial", "{count} vials", 1, count=""),
    "box": many("{count} box", "{count} boxes", 1, count=""),
    "kit": many("{count} kit", "{count} kits", 1, count=""),
}
"""Packs and measures of the catalogue by their word: how one is said, and how many."""


def counted_words(count: str, value: float, word: Words) -> Words:
    """Say how many [-] of a pack or a measure; a word of one's own is not bent. Common practice, no source."""
    n = 1 if value <= 1 else 2
    known = _COUNTED.get(word) if isinstance(word, str) else None
    if known is not None:
        return Said(known.msg, n=Amount(n, "whole"), count=count)
    return (
        Said("{count} {word}", count=count, word=word) if n == 1 else Said("{count} × {word}", count=count, word=word)
    )


def counts(given: Count, ticket: Ticket, reader: Reader, share: float = 1.0) -> str:
    """Say a dose, or a share [-] of it, as a count of measures: 4 tins, 12 shovels. Common practice, no source."""
    measure = ticket.measure(given.container)
    said = people_count(given.count * share)
    near = abs(said.value - given.count * share) < 0.02
    number = said.words if near else counted(given.count * share, reader)
    words = put(counted_words(number, said.value, measure.short), reader)
    return t(reader, "{count}, heaped", count=words) if measure.heaped else words


def on_scale(mass_kg: float, step_kg: float, unit: ScaleUnit, reader: Reader) -> str:
    """Say what a scale shows [kg], in the scale's own unit and steps. Common practice, no source.

    >>> from keeve.words.reader import METRIC
    >>> on_scale(2.74, 0.02, "kg", METRIC), on_scale(0.0125, 0.0001, "g", METRIC)
    ('2.74 kg', '12.5 g')
    """
    size = UNIT_KG[unit]
    places = max(0, -math.floor(math.log10(step_kg / size) + 1e-9))
    return f"{mass_kg / size:.{places}f} {unit}".replace(".", decimal_mark(reader.language))


def readings(given: Weighing, ticket: Ticket, reader: Reader) -> str:
    """Say a dose as what the scale shows for each vessel, tare and all. Common practice, no source."""
    shows, last = (on_scale(kg, given.step_kg, given.unit, reader) for kg in (given.reading_kg, given.last_kg))
    short = ticket.measure(given.vessel).short if given.vessel else None
    if given.vessels == 1:
        one = counted_words("1", 1, short) if short else ""
        return last if short is None else t(reader, "{vessel} to {reading}", vessel=one, reading=last)
    count = counted_words(str(given.vessels), given.vessels, short or mark("weighing"))
    if abs(given.last_kg - given.reading_kg) < given.step_kg / 2:
        return t(reader, "{count} to {reading} each", count=count, reading=shows)
    return t(reader, "{count} to {reading}, the last to {last}", count=count, reading=shows, last=last)


def tare(given: TicketDose, reader: Reader) -> str:
    """Say what of a reading is the vessel; empty where none is. Common practice, no source."""
    weighing = given.weighing
    if weighing is None or given.means != "scale" or weighing.tare_kg <= 0:
        return ""
    empty = on_scale(weighing.tare_kg, weighing.step_kg, weighing.unit, reader)
    return t(reader, "{tare} of each is the vessel", tare=empty)


def off(given: TicketDose, reader: Reader) -> tuple[str, bool]:
    """Say what the chosen measure does to a dose, and whether that is close enough. ASTM C685 and C94, from memory.

    Returns
    -------
    words, empty where it is under half a percent; and whether the tolerance holds
    """
    error = given.error_percent
    if abs(error) < _NOTHING_PERCENT:
        return "", True
    share = f"{abs(error):.1f}"
    words = t(reader, "{off} % too much", off=share) if error > 0 else t(reader, "{off} % too little", off=share)
    return words, given.keeps


def verdicts(card: TicketCard, reader: Reader) -> list[str]:
    """Say what of a load is further off than it may be, worst first, and what would be nearer; nothing of what holds.

    ASTM C94 and C685, from memory; the ratio within 3 %: house ruling.
    """
    if card.rounded is None:
        return []
    doses = {one.key: one for one in card.doses}
    return [
        _failing(doses[one.key], one.percent, reader) if one.key in doses else _ratio_off(card.rounded, reader)
        for one in card.rounded.failing
        if one.key in doses or one.key == "ratio"
    ]


def _ratio_off(real: Rounded, reader: Reader) -> str:
    ratio, wanted = (show(value, "ratio", reader) for value in (real.ratio, real.ratio_wanted))
    return t(
        reader,
        "{name} comes to {ratio} in place of {wanted}: measure binder and water closer.",
        name=real.ratio_name,
        ratio=ratio,
        wanted=wanted,
    )


def _failing(given: TicketDose, percent: float, reader: Reader) -> str:
    off_by = f"{abs(percent):.1f}"
    way = mark("take a smaller measure, or the scale.")
    if given.means != "scale" and given.weighing is not None and given.weighing.good:
        way = mark("on the scale it comes out.")
    elif given.means == "counts" and given.fill is not None:
        way = mark("filled to a mark it comes out.")
    elif given.means == "scale":
        way = mark("take a finer scale, or bigger loads.")
    more, less = mark("{material}: {off} % too much, {way}"), mark("{material}: {off} % too little, {way}")
    return t(reader, more if percent > 0 else less, material=given.name, off=off_by, way=put(way, reader))


def to_buy(line: BuyLine, reader: Reader) -> str:
    """Say what to buy of one material.

    Common practice, no source.
    """
    if line.buy_kg <= 0:
        return t(reader, "nothing")
    if line.pack_kg:
        return t(reader, "{count} × {mass}", count=str(line.packs), mass=say(show_mass(line.pack_kg, reader)))
    return say(show_mass(line.buy_kg, reader))
