"""Mixed from what is printed, with the instrument that is named, the water to binder stays what the mix states."""

import math
import re
from typing import Any

import pytest

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.measure.reading import read_length_mm, read_mass_kg, read_volume_l
from keeve.core.message.errors import TradeError
from keeve.core.planning.plan import plan
from keeve.core.ticket.cards import TicketCard, TicketDose
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticketing import issue
from keeve.core.vessels.instruments import weigh_on
from keeve.core.vessels.vessels import brim_l, volume_l
from keeve.words import saying
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
    if given.fill is None:
        return on_scale(given.role, said) * share
    container = ticket.measure(given.fill.container)
    count = number(said.split()[0].rstrip(","))
    if "struck" in said:
        one = brim_l(container.section)
    else:
        down = read_length_mm(said.split(", ")[1].removesuffix(" below rim"))
        one = volume_l(container.section, container.section.depth_mm - down)
    return count * one / given.gauged_l * given.dry_kg


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


def tickets(litres: float) -> list[tuple[str, Ticket]]:
    found = []
    for mix in CATALOGUE.mixes.values():
        heaps = {m.key: KNOWN[m.role] for m in mix.materials() if m.role in KNOWN}
        fields: dict[str, Any] = {"shapes": [{"kind": "known", "volume_l": litres}], "mix": mix.key, "waste_percent": 0}
        for strategy in ("equal", None):
            try:
                request = resolve(
                    JobSheet.model_validate(fields | {"moisture_percent": heaps, "strategy": strategy}), CATALOGUE
                )
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
