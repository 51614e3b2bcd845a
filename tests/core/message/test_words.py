"""Doses in people's words."""

import re

import pytest

from keeve.core.message.errors import Code, Fault
from keeve.core.message.said import measured, plain
from keeve.core.vessels.vessels import people_count
from keeve.words import saying
from keeve.words.putting import put
from keeve.words.reader import METRIC, US
from tests.conftest import Ticketer


@pytest.mark.parametrize(("packs", "words"), [(1, "1 bag"), (3, "3 bags"), (0.5, "½ bag"), (2.5, "2½ bags"), (0.8, "")])
def test_bags_are_counted_in_wholes_and_halves_only(packs: float, words: str) -> None:
    assert saying.bags(packs, METRIC) == words


def test_a_dose_is_said_the_way_it_is_measured(ticketed: Ticketer) -> None:
    shapes = [{"kind": "known", "volume_l": 85}]
    ticket = ticketed(shapes=shapes, mix="stucco-base", mixer="drum-site", moisture_percent={"plaster-sand": 5})
    card = ticket.cards[0]
    said = {d.role: saying.dose(d, ticket, METRIC) for d in card.doses}
    assert said["cement"] == "1 bag"
    assert re.fullmatch(r"\d pails?, \d+ mm below rim", said["sand"])
    assert re.fullmatch(r"[\d.]+ L, then up to [\d.]+ L more in sips of \d+ mL", saying.water(card, METRIC))
    assert " in below rim" in saying.dose(card.doses[2], ticket, US)


def test_struck_fills_stand_beside_the_mark_and_are_judged(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="concrete-1-2-4", mixer="drum-site", strategy="equal")
    for dose in ticket.cards[0].doses:
        words, close = saying.struck(dose, ticket, METRIC)
        if words:
            assert "struck" in words
            assert dose.fill is not None
            off = (people_count(dose.fill.struck_exact).value / dose.fill.struck_exact - 1) * 100
            bound = (0, 4) if dose.role == "cement" else (-2, 2)  # ASTM C685, from memory
            assert close is (bound[0] <= off <= bound[1])


def test_half_of_one_pail_is_said_as_half_of_the_pail(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="lime-pointing-1-2-5", mixer="drum-small")
    card = ticket.cards[0]
    step = next(s for s in card.steps if plain(s.title).startswith("Half the sand"))
    lines = saying.step_lines(step, card, ticket, METRIC)
    assert any("½ of the" in amount or "bag" in amount for _, amount, _ in lines)


def test_plaster_too_wet_is_never_thickened(ticketed: Ticketer) -> None:
    rescue = ticketed(mix="casting-plaster-70", shapes=[{"kind": "known", "volume_l": 5}]).rescue
    assert rescue.dry_kg_per_litre is None
    assert not rescue.may_take_dry
    assert not rescue.may_take_water


def test_dry_mix_as_wet_as_the_target_is_no_help(ticketed: Ticketer) -> None:
    # At 21 % the sand alone brings over nine tenths of the water the mortar may have: more of it dries nothing.
    assert ticketed(mix="cement-mortar-1-3", moisture_percent={"sharp-sand": 21}).rescue.dry_kg_per_litre is None
    # Saturated surface-dry it brings none: a litre takes 1 / 0.155 kg, the mix's own water rule.
    at_rest = {"sharp-sand": 0.7}
    mortar = ticketed(mix="cement-mortar-1-3", moisture_percent=at_rest)
    assert mortar.rescue.dry_kg_per_litre == pytest.approx(1 / 0.155)


def test_a_fault_says_its_measures_in_the_readers_units() -> None:
    fault = Fault(Code.TOO_WET, measured("It is {value} too much, {limit} is right.", 3.785411784, 0.5, "L"))
    assert put(fault.sentence, US) == "It is 1.00 gal too much, 16.9 fl oz is right."
    assert put(fault.sentence, METRIC) == "It is 3.79 L too much, 500 mL is right."
