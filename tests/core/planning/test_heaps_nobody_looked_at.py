"""A heap that was only looked at, or not even that: the ticket never pours past what the wettest of its kind allows."""

from itertools import pairwise
from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet
from keeve.core.materials.looks import HeapLook
from keeve.core.materials.moisture import heap_water, sand_moisture_percent
from keeve.core.message.errors import Code, TradeError
from keeve.core.message.said import plain
from keeve.core.planning.plan import Plan
from keeve.words import saying
from keeve.words.reader import METRIC
from tests.conftest import Planner, Ticketer
from tests.prose import PROSE

CATALOGUE = load_catalogue()
HEAPED = [m.key for m in CATALOGUE.mixes.values() if any(x.role in ("sand", "stone", "ballast") for x in m.materials())]
LOOKS: tuple[HeapLook, ...] = get_args(HeapLook)


def tried(sheet: dict[str, Any]) -> Plan | None:
    try:
        return plan_sheet(JobSheet.model_validate(sheet))
    except TradeError as error:
        if error.faults[0].code is not Code.TOO_WET:
            raise
        return None


def heaps_of(mix: str) -> list[str]:
    return [m.key for m in CATALOGUE.mixes[mix].materials() if m.role in ("sand", "stone", "ballast")]


@pytest.mark.parametrize("look", [None, *LOOKS])
@pytest.mark.parametrize("mix", HEAPED)
def test_the_first_target_is_under_the_ceiling_of_every_true_state(mix: str, look: HeapLook | None) -> None:
    keys = heaps_of(mix)
    sheet: dict[str, Any] = {"shapes": [{"kind": "known", "volume_l": 40}], "mix": mix, "strategy": "equal"}
    sheet |= {"mixer": CATALOGUE.usual_mixer(CATALOGUE.mixes[mix]).key}
    said = {} if look is None else dict.fromkeys(keys, look)
    lead = tried(sheet | {"moisture_percent": said})
    ranges = {key: heap_water(CATALOGUE.materials[key], look) for key in keys}
    for part in (0.0, 0.25, 0.5, 0.75, 1.0):
        true = {key: water.low + part * (water.high - water.low) for key, water in ranges.items()}
        truth = tried(sheet | {"moisture_percent": true})
        if truth is None:
            # Too wet for the mix at all: then what leads must refuse too, or pour nothing.
            assert lead is None or lead.cards[0].water.pour.target == pytest.approx(0, abs=1e-6)
        elif lead is not None:
            assert lead.cards[0].water.pour.target <= truth.cards[0].water.pour.high + 1e-9


@given(st.sampled_from(HEAPED), st.sampled_from([None, *LOOKS]), st.floats(0.0, 1.0), st.floats(5.0, 3000.0))
def test_whatever_the_heap_turns_out_to_be(mix: str, look: HeapLook | None, part: float, litres: float) -> None:
    keys = heaps_of(mix)
    sheet: dict[str, Any] = {"shapes": [{"kind": "known", "volume_l": litres}], "mix": mix, "strategy": "equal"}
    ranges = {key: heap_water(CATALOGUE.materials[key], look) for key in keys}
    true = {key: water.low + part * (water.high - water.low) for key, water in ranges.items()}
    said = {} if look is None else dict.fromkeys(keys, look)
    try:
        lead = plan_sheet(JobSheet.model_validate(sheet | {"moisture_percent": said})).cards[0]
        truth = plan_sheet(JobSheet.model_validate(sheet | {"moisture_percent": true})).cards[0]
    except TradeError:
        return
    scale = lead.volume_m3 / truth.volume_m3  # the loads may be divided otherwise: what is dry bulks less
    assert lead.water.pour.target <= truth.water.pour.high * scale * (1 + 1e-9) + 1e-9


def test_the_looks_have_no_gaps() -> None:
    # House ruling: dry to 2, damp to 4, moist to 6, wet to 8, dripping to 10 % of the dry mass.
    sand = CATALOGUE.materials["sharp-sand"]
    ranges = [heap_water(sand, look) for look in LOOKS]
    assert [w[:3] for w in ranges] == [(0, 1, 2), (2, 3, 4), (4, 5, 6), (6, 7, 8), (8, 9, 10)]
    stone = [heap_water(CATALOGUE.materials["gravel-20"], look) for look in LOOKS]
    assert all(before.high == after.low for before, after in pairwise(stone))
    assert (stone[0].low, stone[0].high) == (0.0, 0.5)  # bone dry to what it absorbs
    assert heap_water(CATALOGUE.materials["silica-sand"], None)[:3] == (0, 0.5, 1)  # bagged dry
    # Ballast, 40 % of it sand: that sand holds the water, the stone what it absorbs.
    assert heap_water(CATALOGUE.materials["ballast"], "wet").likely == pytest.approx(0.4 * 7 + 0.6 * 0.8)


def test_a_heap_nobody_looked_at_is_told_on_the_ticket(ticketed: Ticketer) -> None:
    unseen = ticketed(mix="concrete-1-2-4", mixer="drum-site")
    assert PROSE["nobody-has-looked"] in plain(unseen.warnings[0])
    assert "2 % to 8 %" in plain(unseen.warnings[0])
    first = next(step for step in unseen.cards[0].steps if step.water_l > 0)
    assert unseen.warnings[0] in first.cautions  # and beside the mixer, when the water goes in
    seen = ticketed(mix="concrete-1-2-4", mixer="drum-site", moisture_percent={"sharp-sand": "moist", "gravel-20": 1})
    assert not any(PROSE["nobody-has-looked"] in plain(w) for w in seen.warnings)
    assert seen.moisture_as == "sharp-sand=moist gravel-20=1"
    dripping = ticketed(mix="cement-mortar-1-3", moisture_percent={"sharp-sand": "dripping"})
    assert PROSE["weigh-it-dry-it"] in plain(dripping.warnings[0])


def test_the_gauge_of_a_heap_nobody_looked_at_is_a_range(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="concrete-1-2-4", mixer="drum-site")
    sand = next(d for d in ticket.cards[0].doses if d.key == "sharp-sand")
    assert sand.gauged_to_l is not None
    least, most = sand.gauged_to_l
    # Bulking 15 % at 2 % of water, 30 % at 5 % (Indian handbook SP 23, from memory), 28 % at 8 %.
    assert least == pytest.approx(sand.dry_kg / 1600 * 1.15 * 1000)
    assert most == pytest.approx(sand.dry_kg / 1600 * 1.30 * 1000)
    assert "drier sand" in saying.spread(sand, ticket, METRIC)
    mortar = ticketed(mix="cement-mortar-1-3")  # its parts mean damp loose sand: damp is damp
    assert next(d for d in mortar.cards[0].doses if d.key == "sharp-sand").gauged_to_l is None


def test_a_designed_mix_is_never_poured_past_its_ratio(planned: Planner) -> None:
    card = planned(mix="concrete-designed", mixer="drum-site").cards[0]
    assert card.water.pour.high == card.water.pour.target
    assert card.water.if_dry_l == 0
    cement = next(d.dry_kg for d in card.doses if d.role == "cement")
    sand, stone = (next(d.dry_kg for d in card.doses if d.role == role) for role in ("sand", "stone"))
    wettest_l = card.water.pour.high + sand * (0.08 - 0.007) + stone * 0.0125
    # 33.3 MPa mean: 0.49 by ACI 211.1-91 table 6.3.4(a), from memory.
    assert wettest_l / cement == pytest.approx(0.49, abs=0.001)


def test_ballast_bulks_by_its_sand(planned: Planner) -> None:
    fields: dict[str, Any] = {"mix": "ballast-1-6", "mixer": "drum-site", "strategy": "equal"}
    dry = planned(**fields, moisture_percent={"ballast": 0}).cards[0].doses[1]
    # 40 % sand at 5 % of its own, stone at what it absorbs (0.8 %): 2.48 % in all; 40 % of 30 % bulking.
    damp = planned(**fields, moisture_percent={"ballast": 0.4 * 5 + 0.6 * 0.8}).cards[0].doses[1]
    assert damp.gauged_l / damp.dry_kg / (dry.gauged_l / dry.dry_kg) == pytest.approx(1 + 0.4 * 0.30)
    assert sand_moisture_percent(CATALOGUE.materials["ballast"], 0.2) == 0.0


def test_too_wet_is_said_only_above_the_highest_water_and_of_the_heap(planned: Planner) -> None:
    mortar = CATALOGUE.mixes["lime-putty-1-3"]
    card = planned(mix=mortar.key, moisture_percent={"plaster-sand": 6}, strategy="equal").cards[0]
    assert card.water.pour.target == 0  # between the target and the highest: nothing to pour, and no refusal
    assert card.water.pour.high > 0
    with pytest.raises(TradeError) as told:
        planned(mix=mortar.key, moisture_percent={"plaster-sand": 25})
    assert "sand" in plain(told.value.faults[0].sentence).lower()  # not the putty, which is what it is
    assert told.value.faults[0].field == "moisture_percent.plaster-sand"


def test_pervious_parts_by_volume_name_fluffy_cement(planned: Planner) -> None:
    # 3 of rock to 1 of settled cement by volume is 3 × 1520 / 1506 by mass: common practice, no source.
    with pytest.raises(TradeError) as told:
        planned(mix="pervious", changes={"others": [{"material": "gravel-10", "ratio": 1.5}]}, strategy="equal")
    assert any("fluffy cement" in plain(fault.hint) for fault in told.value.faults)
