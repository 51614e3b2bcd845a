"""What is too little for a jug: syringes, dilution, and sips in the marks of what is at hand."""

import math
import re
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.vessels.instruments import draw
from keeve.words import saying
from keeve.words.reader import METRIC, US
from tests.conftest import Planner, Ticketer

KNOWN = {"sharp-sand": 4.0, "gravel-20": 1.0}


def small(litres: float, **more: Any) -> dict[str, Any]:
    return {
        "shapes": [{"kind": "known", "volume_l": litres}], "waste_percent": 0, "mixer": "bowl", "strategy": "equal",
        "moisture_percent": {"sharp-sand": 4},
    } | more  # fmt: skip


@given(st.floats(0.00002, 20.0))
def test_a_liquid_is_read_within_its_tolerance(volume_l: float) -> None:
    """ASTM C94, from memory: 3 % of an admixture. Half a mark is half a mark, however often it is drawn up."""
    found = draw("admixture", volume_l)
    assert found.good
    assert found.fills <= 4 or found.by == "jug"
    neat = found.read_l / (1 + found.diluted)
    assert neat == pytest.approx(volume_l, rel=0.03)
    marks = found.last_l / found.step_l
    assert marks == pytest.approx(round(marks), abs=1e-6)


def test_it_is_diluted_only_where_no_syringe_reads_it() -> None:
    assert [draw("admixture", ml / 1000).diluted for ml in (0.15, 0.17, 2, 50)] == [9, 0, 0, 0]


@pytest.mark.parametrize("litres", [0.05, 0.2, 1.0])
def test_what_dilutes_an_admixture_is_taken_out_of_the_first_water(litres: float, planned: Planner) -> None:
    """Counted by hand: what is poured, what the sand brings, and all that is drawn up are the free water."""
    card = planned(
        **small(litres, mix="cement-mortar-1-3", admixtures=[{"admixture": "plasticiser", "dose": "250 mL/100 kg"}])
    ).cards[0]
    (given_,) = card.admixtures
    assert given_.drawn is not None
    thin_l = given_.drawn.read_l if given_.drawn.diluted else 0.0
    sand = next(d for d in card.doses if d.role == "sand")
    neat_water_l = given_.mass_kg * (1 - given_.solids_percent / 100)
    with_it_l = thin_l - thin_l / 10
    free_l = card.water.pour.target + sand.dry_kg * (0.04 - 0.007) + neat_water_l + with_it_l
    assert free_l == pytest.approx(card.water.free.target, rel=0.002)
    assert (given_.drawn.diluted > 0) == ((given_.volume_l or 0) < 0.005 / 0.03 / 1000)


@pytest.mark.parametrize("mix", ["cement-mortar-1-3", "concrete-1-2-4", "thin-panel", "lime-pointing-1-2-5"])
@pytest.mark.parametrize("litres", [0.5, 1.0, 4.0, 20.0, 60.0])
def test_a_sip_is_three_percent_down_to_a_mark_of_what_is_named(mix: str, litres: float, ticketed: Ticketer) -> None:
    """House ruling; a mark is never over 5 % of the free water, so no sip is."""
    ticket = ticketed(
        shapes=[{"kind": "known", "volume_l": litres}], waste_percent=0, mix=mix, mixer=None, strategy="equal"
    )
    for card in ticket.cards:
        water, free = card.water, card.water.free.target
        assert water.sip_l <= max(0.03 * free, water.by.step_l) * (1 + 1e-9)
        assert water.by.step_l <= 0.05 * free
        for sip, step in ((water.sip_l, water.by.step_l), (water.sip_us_l, water.by.us_step_l or water.by.step_l)):
            assert sip / step == pytest.approx(round(sip / step))
        assert water.sip_l > 0.03 * free - water.by.step_l or water.by_drops
        for reader in (METRIC, US):
            said = saying.water(card, reader)
            assert ("sips" in said) is (
                not water.by_drops and water.hold_back_l + water.if_dry_l > saying.sip_l(card, reader)
            )


def test_a_syringe_says_each_draw(ticketed: Ticketer) -> None:
    ticket = ticketed(
        **small(1.0, mix="cement-mortar-1-3", admixtures=[{"admixture": "plasticiser", "dose": "250 mL/100 kg"}])
    )
    drawn = ticket.cards[0].admixtures[0].drawn
    assert drawn is not None
    words = saying.drawn(drawn, "", METRIC)
    shares = words.partition(": ")[2].split(" + ")
    total = float(words.split(" mL")[0])
    assert math.fsum(map(float, shares)) == pytest.approx(total) if shares != [""] else drawn.fills == 1


def test_what_stands_on_a_mark_is_not_drawn_up() -> None:
    """75 mL are fifteen marks of a jug with 5 mL marks, and need no syringe; 72 mL lie between two."""
    assert (draw("admixture", 0.075).by, draw("admixture", 0.072).by) == ("fine jug", "syringe-60")


def test_no_dose_is_weighed_on_a_scale_too_coarse_for_it(ticketed: Ticketer) -> None:
    hanging = {"key": "own-h", "name": "Beam scale", "kind": "hanging", "most_kg": 50, "step_kg": 0.02, "unit": "kg"}
    kitchen = hanging | {"key": "own-k", "name": "Counter scale", "kind": "kitchen", "most_kg": 5, "step_kg": 0.001}
    panel: dict[str, Any] = {"mix": "thin-panel", "mixer": None, "shapes": [{"kind": "known", "volume_l": 6}]}
    panel |= {"moisture_percent": {"silica-sand": 0.3}, "strategy": "equal"}
    keys = ("portland-cement", "admixture-powder-thin", "polycarboxylate-powder")
    alone = ticketed(**panel, scales=[hanging], measured=dict.fromkeys(keys[:1], "scale"))
    powder = next(d for d in alone.cards[0].doses if d.role == "powder" and d.batch_kg < 0.1)
    assert "on the fine scale" in saying.dose(powder, alone, METRIC)
    both = ticketed(**panel, scales=[hanging, kitchen], measured={"water": "scale"})
    small = next(d for d in both.cards[0].doses if d.key == powder.key)
    assert small.weighing is not None
    assert small.weighing.scale == "own-k"


def test_water_is_never_read_past_what_the_scale_carries(ticketed: Ticketer) -> None:
    kitchen = {"key": "own-k", "name": "Counter scale", "kind": "kitchen", "most_kg": 5, "step_kg": 0.001, "unit": "g"}
    ticket = ticketed(mix="concrete-1-2-4", mixer="drum-site", scales=[kitchen], measured={"water": "scale"})
    card = ticket.cards[0]
    said = saying.water_by(card, ticket, METRIC)
    found = re.search(r"(\d+) times (\d+) g$", said)
    assert found is not None, said
    assert int(found[2]) <= 5000
    assert int(found[1]) * int(found[2]) == pytest.approx(card.water.pour.target * 1000, abs=int(found[1]))
