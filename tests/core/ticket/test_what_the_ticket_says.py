"""Mixed from what is printed, with the instrument that is named, the water to binder stays what the mix states."""

import math
import re
from collections.abc import Iterator
from typing import Any, NamedTuple

import pytest

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.measure.reading import read_length_mm, read_mass_kg, read_volume_l
from keeve.core.message.errors import TradeError
from keeve.core.planning.plan import plan
from keeve.core.ticket.cards import TicketAdmixture, TicketCard, TicketDose
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticketing import issue
from keeve.core.vessels.instruments import weigh_on
from keeve.core.vessels.vessels import brim_l, volume_l
from keeve.words import measuring, saying
from keeve.words.putting import put
from keeve.words.reader import METRIC, US, Reader

CATALOGUE = load_catalogue()
BINDERS = ("cement", "lime", "supplementary", "plaster", "premix")
KNOWN = {"sand": 4.0, "ballast": 3.0, "stone": 1.0}
LITRES = (0.5, 1.2, 3.7, 11, 48, 130, 610, 5000)
THREE_PERCENT = 0.03
MARKS_L = {
    "fine scale": 0.0001, "5 mL marks": 0.005, "¼ fl oz marks": 3.785411784 / 512, "60 mL syringe": 0.001,
    "10 mL syringe": 0.0005, "5 mL syringe": 0.0002, "1 mL syringe": 0.00001,
}  # fmt: skip
"""What is named for the water, and its smallest mark. NIST SP 811 for the ounce; syringes: common practice."""
_GLYPHS = {"¼": 0.25, "⅓": 1 / 3, "½": 0.5, "⅔": 2 / 3, "¾": 0.75}


def number(text: str) -> float:
    """Read a count as people write it: 2½, ⅓, 12."""
    glyph = next((g for g in _GLYPHS if g in text), "")
    whole = text.replace(glyph, "") if glyph else text
    return float(whole or 0) + _GLYPHS.get(glyph, 0.0)


def first_amount(text: str) -> str:
    """Take the first quantity of a sentence: number and unit."""
    found = re.match(r"[\d.,   ]+ ?(?:kg|g|lb|oz|fl oz|gal|qt|mL|L)\b", text)
    assert found is not None, text
    return re.sub(r"(?<=\d)[   ](?=\d)", "", found[0]).replace(",", "")


def on_scale(role: str, text: str) -> float:
    """Mass a scale of the named kind shows for what is printed [kg]."""
    mass = read_mass_kg(first_amount(text))
    if "ten times as much" in text:
        return on_scale(role, f"{mass * 10} kg") / 10
    step = weigh_on(role, mass).instrument.step
    return round(mass / step) * step


def measured_kg(given: TicketDose, ticket: Ticket, reader: Reader) -> float:
    """Dry mass that goes in when a dose is measured as the ticket says it [kg]."""
    said = saying.dose(given, ticket, reader)
    share = given.dry_kg / given.batch_kg
    packs = saying.bags(given.packs, reader, given.pack_word) if given.packs is not None else ""
    if packs and said == packs:
        assert given.pack_kg is not None
        return number(said.split()[0]) * given.pack_kg * share
    if " to " in said and given.means == "scale":
        return weighed_kg(said, measuring.tare(given, reader)) * share
    if given.fill is None or given.means == "scale":
        return on_scale(given.role, said) * share
    container = ticket.measure(given.fill.container)
    count = number(said.split()[0].rstrip(","))
    if given.means == "counts" and given.count is not None:
        return count * brim_l(ticket.measure(given.count.container).section) / given.gauged_l * given.dry_kg
    if "struck" in said:
        one = brim_l(container.section)
    else:
        down = read_length_mm(said.split(", ")[1].removesuffix(" below rim"))
        one = volume_l(container.section, container.section.depth_mm - down)
    return count * one / given.gauged_l * given.dry_kg


READING = r"([\d.,]+ (?:kg|g|lb|oz))"


def weighed_kg(said: str, tare: str) -> float:
    """Net mass of what is printed as readings: 3 pails to 19.84 kg, the last to 19.86 kg [kg]."""
    found = re.match(rf"(\S+) .*? to {READING}(?: each|, the last to {READING})?$", said)
    assert found is not None, said
    empty = read_mass_kg(tare.split(" of each", maxsplit=1)[0]) if tare else 0.0
    many, each = round(number(found[1])), read_mass_kg(found[2].replace(",", ""))
    last = read_mass_kg(found[3].replace(",", "")) if found[3] else each
    return (many - 1) * (each - empty) + last - empty


def admixed_l(given: TicketAdmixture, ticket: Ticket, reader: Reader) -> float:
    """What of a liquid goes in when it is measured as printed [L]: the sum of its draws, less what thins it."""
    said = saying.admixture(given, ticket, reader)
    thin = re.search(r"1 : (\d+)", said)
    litres = read_volume_l(
        first_amount(said[said.index(":", thin.end()) + 2 if thin and ":" in said[thin.end() :] else 0 :])
    )
    return litres / (1 + int(thin[1])) if thin else litres


def poured_l(card: TicketCard, ticket: Ticket, reader: Reader) -> float:
    """Water that is poured when the first pour and the held back are measured as the ticket says [L]."""
    said = saying.water(card, reader)
    total = read_volume_l(first_amount(said))
    if "up to" in said:
        total += read_volume_l(first_amount(said.split("up to ")[1]))
    total -= card.water.if_dry_l
    step = next((step for name, step in MARKS_L.items() if name in saying.water_by(card, ticket, reader)), None)
    if step is None:
        assert ticket.jug.mark_l is not None
        step = ticket.jug.mark_l
    return round(total / step) * step


def tickets(litres: float, **more: Any) -> list[tuple[str, Ticket]]:
    found = []
    for mix in CATALOGUE.mixes.values():
        heaps = {m.key: KNOWN[m.role] for m in mix.materials() if m.role in KNOWN}
        fields: dict[str, Any] = {"shapes": [{"kind": "known", "volume_l": litres}], "mix": mix.key, "waste_percent": 0}
        fields |= {"moisture_percent": heaps} | {
            key: dict.fromkeys([m.key for m in mix.materials()], value) if key == "measured" else value
            for key, value in more.items()
        }
        if "admixtures" in more and not any(m.role == "cement" for m in mix.materials()):
            continue
        for strategy in ("equal",) if more else ("equal", None):
            try:
                request = resolve(JobSheet.model_validate(fields | {"strategy": strategy}), CATALOGUE)
                found.append((f"{mix.key} {strategy}", issue(request, plan(request))))
            except TradeError:
                continue
    return found


@pytest.mark.parametrize("reader", [METRIC, US], ids=["metric", "us"])
@pytest.mark.parametrize("litres", LITRES)
def test_mixed_as_printed_it_is_the_mix(litres: float, reader: Reader) -> None:
    made = tickets(litres)
    assert made
    for name, ticket in made:
        for card in ticket.cards:
            binder = [d for d in card.doses if d.role in BINDERS]
            if not binder or card.water.pour.target < 0.01 * card.water.free.target:
                continue
            wanted = card.water.free.target / math.fsum(d.dry_kg for d in binder)
            brought = card.water.free.target - card.water.pour.target
            really = (poured_l(card, ticket, reader) + brought) / math.fsum(
                measured_kg(d, ticket, reader) for d in binder
            )
            assert really == pytest.approx(wanted, rel=THREE_PERCENT), (name, saying.water(card, reader))


WAYS: dict[str, dict[str, Any]] = {
    "by the mark": {"measured": "marks", "gauges": ["pail"]},
    "counted": {"measured": "counts", "gauges": ["small-bucket"]},
    "weighed": {"measured": "scale", "scales": ["hanging-50", "kitchen-5"]},
    "with a plasticiser": {"admixtures": [{"admixture": "plasticiser", "dose": "300 mL/100 kg", "acts_percent": 0}]},
}
EXCUSED = 1 / 20
"""So many of the figures may be off where the ticket says so beside them: house ruling."""


class Cell(NamedTuple):
    """One figure of a ticket, measured as it is printed."""

    what: str
    off: float
    """Of what the mix wants [-]."""
    said: str
    beside: str
    """What the ticket says against it."""


def cells(card: TicketCard, ticket: Ticket, reader: Reader) -> Iterator[Cell]:
    """Measure all that one load takes, knowing only what is printed."""
    told = " ".join(measuring.verdicts(card, reader))
    for dose in card.doses:
        off = measured_kg(dose, ticket, reader) / dose.dry_kg - 1
        beside = measuring.off(dose, reader)[0] or (told if put(dose.name, reader) in told else "")
        yield Cell(dose.key, off, saying.dose(dose, ticket, reader), beside)
    for one in card.admixtures:
        if one.volume_l is not None and one.caps is None:
            off = admixed_l(one, ticket, reader) / one.volume_l - 1
            yield Cell(one.key, off, saying.admixture(one, ticket, reader), "")
    water = card.water
    if water.pour.target >= 0.01 * water.free.target:
        free = poured_l(card, ticket, reader) + water.free.target - water.pour.target
        yield Cell("water", free / water.free.target - 1, saying.water(card, reader), "")


@pytest.mark.parametrize("reader", [METRIC, US], ids=["metric", "us"])
@pytest.mark.parametrize("way", WAYS)
def test_each_part_as_printed_is_the_part_or_the_ticket_says_so(way: str, reader: Reader) -> None:
    """Every constituent, admixture and the water come within 3 %, or the ticket says so beside the figure."""
    found = [
        (litres, name, cell)
        for litres in (0.5, 3.7, 48, 610)
        for name, ticket in tickets(litres, **WAYS[way])
        for card in ticket.cards
        for cell in cells(card, ticket, reader)
    ]
    assert len(found) > 300
    off = [one for one in found if abs(one[2].off) > THREE_PERCENT]
    assert [one for one in off if not one[2].beside] == []
    # Who counts has chosen to: there the nearest count stands with its error, wherever a load is small.
    assert len(off) <= EXCUSED * len(found) or way == "counted"
