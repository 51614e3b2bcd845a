"""What must hold for every job, whatever is in it."""

import math
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet
from keeve.core.message.errors import TradeError
from keeve.core.planning.plan import Plan
from keeve.core.proportions.base import Part, WaterRule
from keeve.core.proportions.bases.mass_parts import MassParts
from keeve.core.proportions.bases.volume_parts import VolumeParts
from keeve.core.vessels.vessels import Ring, Section, brim_l, fill_height_mm, volume_l

CATALOGUE = load_catalogue()
MIXES = list(CATALOGUE.mixes)
SANDS = tuple(key for key, m in CATALOGUE.materials.items() if m.role in ("sand", "ballast"))
STONES = tuple(key for key, m in CATALOGUE.materials.items() if m.role == "stone")


@st.composite
def sheets(draw: st.DrawFn) -> dict[str, Any]:
    mix = draw(st.sampled_from(MIXES))
    mixer = draw(st.sampled_from([m.key for m in CATALOGUE.mixers_for(CATALOGUE.mixes[mix])]))
    volumes = draw(st.lists(st.floats(1.0, 400.0), min_size=1, max_size=4))
    sand = draw(st.floats(0.0, 9.0))
    return {
        "shapes": [{"kind": "known", "volume_l": v, "count": draw(st.integers(1, 3))} for v in volumes],
        "mix": mix,
        "mixer": mixer,
        "moisture_percent": dict.fromkeys(SANDS, sand) | dict.fromkeys(STONES, sand / 6),
        "strategy": draw(st.sampled_from([None, "equal", "fewest", "whole_bags", "half_bags"])),
        "waste_percent": draw(st.sampled_from([None, 0.0, 7.5])),
    }


def try_plan(sheet: dict[str, Any]) -> Plan:
    try:
        return plan_sheet(JobSheet.model_validate(sheet))
    except TradeError:
        assume(False)
        raise


@given(sheets())
def test_the_loads_hold_just_what_the_order_needs(sheet: dict[str, Any]) -> None:
    plan = try_plan(sheet)
    made_m3 = math.fsum(load.volume_m3 for load in plan.loads)
    assert made_m3 == pytest.approx(plan.need.order_m3 + plan.split.left_m3, rel=1e-9)
    # House ruling: whole units may miss a fiftieth of one, or half of the waste; what must be filled is filled.
    packs = next((t.packs for t in plan.totals if t.packs), None)
    unit_m3 = made_m3 / packs if packs else max(load.volume_m3 for load in plan.loads)
    waste_m3 = plan.need.order_m3 - plan.need.net_m3
    assert made_m3 >= plan.need.order_m3 * (1 - 1e-6) - max(0.02 * unit_m3, waste_m3 / 2)
    for index, part in enumerate(plan.proportions.constituents):
        in_loads = math.fsum(plan.cards[load.card].doses[index].dry_kg for load in plan.loads)
        assert in_loads == pytest.approx(part.dry_kg_m3 * made_m3, rel=1e-9)
        assert in_loads == pytest.approx(plan.totals[index].dry_kg, rel=1e-9)
    poured = math.fsum(plan.cards[load.card].water.pour.target for load in plan.loads)
    assert poured == pytest.approx(plan.water_l.target, rel=1e-9)


@given(
    sheets(),
    st.sampled_from(["200 mL/100 kg", "350 mL/100 kg", "500 mL/100 kg"]),
    st.sampled_from([None, 10.0, 60.0]),
)
def test_free_water_is_the_target_whatever_brings_it(sheet: dict[str, Any], dose: str, ice: float | None) -> None:
    chosen = CATALOGUE.mixes[sheet["mix"]]
    entries = (
        [{"admixture": "plasticiser", "dose": dose}] if any(m.role == "cement" for m in chosen.materials()) else []
    )
    plan = try_plan(sheet | {"admixtures": entries, "ice_percent": ice})
    for card in plan.cards:
        water = card.water
        # summed here from the doses themselves: what hangs on the grains, what the can and the pails hold, ice, pour
        held = 0.0
        for d in card.doses:
            material = CATALOGUE.materials[d.material_key]
            held += d.batch_kg - d.dry_kg * (1 + material.absorption_percent / 100)
        can = sum((a.volume_l or 0.0) * 1.17 * 0.6 + a.dilution_l for a in card.admixtures)
        there = held + can + water.ice_kg + water.pour.target
        # A heap so wet that nothing is poured may bring more than the target, never more than the highest.
        assert there == pytest.approx(water.free.target, rel=1e-9) or (
            water.pour.target + water.ice_kg == 0 and water.free.target < there <= water.free.high * (1 + 1e-9)
        )
        assert water.free.target == pytest.approx(plan.proportions.water.target * card.volume_m3, rel=1e-9)
        if ice and water.ice_kg:
            assert water.ice_kg / (water.ice_kg + water.pour.target) == pytest.approx(ice / 100)


@given(sheets())
def test_the_volumes_of_a_mix_fill_a_cubic_metre(sheet: dict[str, Any]) -> None:
    assert try_plan(sheet).proportions.volume_m3() == pytest.approx(1.0, abs=1e-9)


@given(sheets())
def test_no_load_is_bigger_than_any_limit(sheet: dict[str, Any]) -> None:
    plan = try_plan(sheet)
    largest = min(limit.volume_m3 for limit in plan.limits)
    assert max(load.volume_m3 for load in plan.loads) <= largest * (1 + 1e-5)


@given(sheets())
def test_the_steps_put_everything_in_once(sheet: dict[str, Any]) -> None:
    for card in try_plan(sheet).cards:
        for dose in card.doses:
            added = math.fsum(
                part.batch_kg for step in card.steps for part in step.doses if part.material_key == dose.material_key
            )
            assert added == pytest.approx(dose.batch_kg, rel=1e-9)
        assert math.fsum(step.water_l for step in card.steps) == pytest.approx(card.water.pour.target, rel=1e-9)
        filled_l = math.fsum(part.solid_l for step in card.steps for part in step.doses)
        solid_share = 1 - try_plan(sheet).proportions.air
        # Where heaps and putty bring more than the target, none is poured, and what is over takes its room too.
        over_l = max(card.water.brought_l - card.water.free.target, 0.0)
        assert filled_l == pytest.approx(card.volume_m3 * 1000 * solid_share + over_l, rel=1e-6)


@given(sheets())
def test_free_water_is_what_was_poured_and_what_the_heap_brought(sheet: dict[str, Any]) -> None:
    card = try_plan(sheet).cards[0]
    there = card.water.pour.target + math.fsum(line.litres for line in card.water.lines)
    # A heap so wet that nothing is poured may bring more than the target, never more than the highest.
    wanted = (
        card.water.free.target
        if card.water.pour.target > 0
        else min(max(there, card.water.free.target), card.water.free.high)
    )
    assert there == pytest.approx(wanted, rel=1e-9)
    assert card.water.first_l + card.water.hold_back_l == pytest.approx(card.water.pour.target, rel=1e-9)
    low, target, high = card.water.free
    assert low <= target <= high


@given(sheets(), st.floats(0.1, 6.0))
def test_more_water_in_the_sand_never_means_more_to_pour(sheet: dict[str, Any], wetter: float) -> None:
    sheet = sheet | {"strategy": "equal"}
    dry = try_plan(sheet)
    assume(dry.strategy == "equal")
    damp = sheet["moisture_percent"] | {key: sheet["moisture_percent"][key] + wetter for key in SANDS}
    # Bulking changes how much dry sand fits the drum, and so the number of loads: compare what the job pours.
    assert try_plan(sheet | {"moisture_percent": damp}).water_l.target <= dry.water_l.target + 1e-9


@given(sheets(), st.integers(2, 5))
def test_a_job_twice_as_big_takes_twice_as_much(sheet: dict[str, Any], times: int) -> None:
    sheet = sheet | {"strategy": "equal"}
    one = try_plan(sheet)
    assume(one.strategy == "equal")
    bigger = [s | {"count": s["count"] * times} for s in sheet["shapes"]]
    many = try_plan(sheet | {"shapes": bigger})
    # Each within a fiftieth of a bag, for which an order takes whole ones.
    bag = 0.02 * (times + 1) / one.totals[0].packs if one.totals[0].packs else 1e-9
    for a, b in zip(one.totals, many.totals, strict=True):
        assert b.dry_kg == pytest.approx(a.dry_kg * times, rel=1e-9, abs=a.dry_kg * bag)
    assert many.water_l.target == pytest.approx(one.water_l.target * times, rel=1e-9, abs=one.water_l.target * bag)


@given(st.floats(50, 600), st.floats(50, 600), st.floats(50, 900), st.floats(0.01, 0.99))
def test_a_fill_mark_holds_the_volume_it_was_worked_out_for(low: float, high: float, deep: float, share: float) -> None:
    pail = Section(rings=(Ring(height_mm=0, width_mm=low), Ring(height_mm=deep, width_mm=high)))
    wanted = brim_l(pail) * share
    assert volume_l(pail, fill_height_mm(pail, wanted)) == pytest.approx(wanted, rel=1e-7)


@given(st.floats(0.5, 6), st.floats(0.05, 2), st.floats(0.10, 0.25), st.floats(0, 12))
def test_a_mix_stated_by_volume_and_by_the_same_masses_is_the_same(
    sand: float, lime: float, water: float, air: float
) -> None:
    rule = WaterRule(per="kg dry solids", low=water * 0.9, target=water, high=water * 1.1, source="given")
    stated = {"portland-cement": 1.0, "hydrated-lime": lime, "sharp-sand": sand}
    materials = CATALOGUE.materials
    by_volume = VolumeParts(
        parts=tuple(Part(material=materials[k], parts=n) for k, n in stated.items()),
        sand_state="dry loose", water=rule, air_percent=air,
    ).proportions()  # fmt: skip
    by_mass = MassParts(
        parts=tuple(
            Part(material=materials[k], parts=n * materials[k].loose_bulk_kg_m3 / 100) for k, n in stated.items()
        ),
        water=rule, air_percent=air,
    ).proportions()  # fmt: skip
    for a, b in zip(by_volume.constituents, by_mass.constituents, strict=True):
        assert a.dry_kg_m3 == pytest.approx(b.dry_kg_m3, rel=1e-9)
    assert by_volume.water == pytest.approx(by_mass.water, rel=1e-9)
