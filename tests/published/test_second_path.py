"""One whole plan for each family, recomputed here by hand arithmetic: none of the core's functions, only its answer.

Densities and water rules are written out again on purpose; they are the catalogue's, so that a slip on either side shows.
Common practice and ASTM C270/C926 values from memory, as their records say.
"""

import math
from typing import Any

import pytest

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet
from keeve.core.planning.plan import Plan

LB, GAL, FT3 = 0.45359237, 3.785411784, 0.028316846592  # NIST SP 811


def planned(mix: str, litres: float, waste: float, **more: Any) -> Plan:
    sheet = {"shapes": [{"kind": "known", "volume_l": litres}], "mix": mix, "waste_percent": waste, **more}
    return plan_sheet(JobSheet.model_validate(sheet))


def dry(plan: Plan) -> dict[str, float]:
    return {total.material_key: total.dry_kg for total in plan.totals}


def by_water_per_dry(masses: dict[str, float], density: dict[str, float], rule: float, air: float) -> float:
    """Volume that these masses make with their water and air [m³]."""
    water = rule * sum(masses.values())
    return (sum(m / density[k] for k, m in masses.items()) + water / 1000) / (1 - air)


def test_cement_mortar_by_the_pail() -> None:
    # 1 part at 1506, 3 parts damp loose at 1281; water 0.155 per kg dry; 4 % air; sand at 6 % holds 5.3 % free water.
    one = {"portland-cement": 1506.0, "sharp-sand": 3 * 1281.0}
    volume = by_water_per_dry(one, {"portland-cement": 3150, "sharp-sand": 2650}, 0.155, 0.04)
    scale = 0.100 / volume
    plan = planned("cement-mortar-1-3", 100, 0, moisture_percent={"sharp-sand": 6}, strategy="equal")
    assert dry(plan) == pytest.approx({k: m * scale for k, m in one.items()})
    pour = (0.155 * sum(one.values()) - one["sharp-sand"] * 0.053) * scale
    assert plan.water_l.target == pytest.approx(pour)
    assert sum(t.batch_kg for t in plan.totals) == pytest.approx(scale * (1506 + 3 * 1281 * 1.06))


def test_lime_mortar_with_dry_counted_sand() -> None:
    # NHL 650, 2.5 parts of sand at 1600 dry loose; 0.17 per kg dry.
    one = {"hydraulic-lime-3-5": 650.0, "sharp-sand": 2.5 * 1600.0}
    volume = by_water_per_dry(one, {"hydraulic-lime-3-5": 2600, "sharp-sand": 2650}, 0.17, 0.04)
    plan = planned("lime-pointing-1-2-5", 95, 10, moisture_percent={"sharp-sand": 4}, strategy="equal")
    scale = 0.1045 / volume
    assert dry(plan) == pytest.approx({k: m * scale for k, m in one.items()})
    # bulking 25 % at 4 % moisture: the heap holds 1280 kg dry in a cubic metre of gauge
    gauged = sum(plan.cards[load.card].doses[1].gauged_l for load in plan.loads)
    assert gauged == pytest.approx(one["sharp-sand"] * scale / 1280 * 1000)


@pytest.mark.parametrize(
    ("key", "lime", "sand"), [("c270-m", 0.25, 3.75), ("c270-s", 0.5, 4.5), ("c270-n", 1, 6), ("c270-o", 2, 9)]
)
def test_masonry_mortars_of_c270(key: str, lime: float, sand: float) -> None:
    # ASTM C270, from memory: 94, 40 and 80 lb to the cubic foot, sand 3 times the sum of binders.
    kg = {"portland-cement": 94 * LB / FT3, "hydrated-lime": lime * 40 * LB / FT3, "plaster-sand": sand * 80 * LB / FT3}
    density: dict[str, float] = {"portland-cement": 3150, "hydrated-lime": 2240, "plaster-sand": 2650}
    volume = by_water_per_dry(kg, density, 0.155, 0.04)
    assert sand == pytest.approx(3 * (1 + lime))
    plan = planned(key, 60, 0, strategy="equal")
    assert dry(plan) == pytest.approx({k: m * 0.060 / volume for k, m in kg.items()}, rel=1e-3)  # lb/ft³ are rounded


@pytest.mark.parametrize(("key", "ballast"), [("ballast-1-4", 4), ("ballast-1-6", 6), ("ballast-1-8", 8)])
def test_ballast_concretes(key: str, ballast: float) -> None:
    solids = 1440 / 3150 + ballast * 1750 / 2660
    scale = (1 - 0.02 - 0.180) / solids
    plan = planned(key, 200, 10, moisture_percent={"ballast": 4}, strategy="equal")
    assert dry(plan)["portland-cement"] == pytest.approx(1440 * scale * 0.22)
    assert plan.water_l.target == pytest.approx((180 - ballast * 1750 * scale * (0.04 - 0.008)) * 0.22)


def test_premix_by_its_label() -> None:
    # 60 lb make 0.45 ft³ with 4 pt: 160 L and 10 % take 14 bags of 12.74 L.
    plan = planned("concrete-bag-60lb", 160, 10)
    bags = math.ceil(176 / (0.45 * FT3 * 1000))
    assert plan.split.bags_opened == bags == 14
    assert dry(plan)["concrete-premix"] == pytest.approx(bags * 60 * LB)
    assert plan.water_l.target == pytest.approx(bags * GAL / 2)
    assert plan.water_l.high == pytest.approx(bags * GAL * 7 / 8)


@pytest.mark.parametrize(
    ("key", "ratio", "density"),
    [("casting-plaster-65", 0.65, 2650), ("hard-plaster-32", 0.32, 2750), ("finish-plaster", 0.46, 2600)],
)
def test_plasters(key: str, ratio: float, density: float) -> None:
    powder = 0.010 * 0.99 / (1 / density + ratio / 1000)
    plan = planned(key, 10, 0)
    assert sum(dry(plan).values()) == pytest.approx(powder)
    assert plan.water_l.target == pytest.approx(powder * ratio)


def test_screed() -> None:
    room = 1 / 3150 + 4 / 2650 + 5 * 0.08 / 1000
    cement = 0.300 * 0.88 / room
    plan = planned("screed-semi-dry", 300, 0, moisture_percent={"screed-sand": 5}, strategy="equal")
    got = dry(plan)
    assert got["portland-cement"] == pytest.approx(cement)
    assert got["screed-sand"] == pytest.approx(4 * cement)
    assert got["polypropylene-fibre"] == pytest.approx(0.270)
    assert plan.water_l.target == pytest.approx(5 * cement * 0.08 - 4 * cement * (0.05 - 0.007))


def test_pervious_and_thin_panel() -> None:
    cement = 0.720 * 0.80 / (1 / 3150 + 4.25 / 2650 + 0.30 / 1000)
    path = planned("pervious", 720, 0, moisture_percent={"gravel-10": 2}, strategy="equal", mixer="drum-site")
    assert dry(path) == pytest.approx({"portland-cement": cement, "gravel-10": 4.25 * cement})
    assert path.water_l.target == pytest.approx(0.30 * cement - 4.25 * cement * 0.01)
    room = 0.9 / 3150 + 0.1 / 2200 + 1 / 2650 + 0.045 / 1300 + 0.24 / 1000
    binder = 0.0108 * 0.98 / room
    panel = planned("thin-panel", 10.8, 0, strategy="equal", moisture_percent={"silica-sand": 0.3})
    assert dry(panel)["silica-fume"] == pytest.approx(0.1 * binder)
    assert panel.water_l.target == pytest.approx(0.24 * binder)


def test_kit_and_hemp() -> None:
    kit_l = ((80 * LB / 2650 + 20 * LB / 2600) * 1000 + 1.5 * GAL) / 0.92
    carved = planned("carving-mix", 60, 0, strategy="whole_bags")
    kits = math.ceil(60 / kit_l)
    assert dry(carved) == pytest.approx({"mortar-premix": kits * 80 * LB, "carving-additive": kits * 20 * LB})
    wall = planned("hemp-lime-wall", 792, 0, strategy="equal", moisture_percent={"sharp-sand": 0.7})
    hemp = 110 * 0.792
    assert dry(wall) == pytest.approx({"hemp-shiv": hemp, "hemp-binder": 1.6 * hemp, "sharp-sand": 1.5 * hemp})
    assert wall.water_l.target == pytest.approx(1.15 * 2.6 * hemp)


def test_designed_concrete_with_air_and_a_cap() -> None:
    # ACI 211.1-91, tables from memory: 20 mm stone, 25–50 mm slump with air 168, severe 6 %, FM 2.8 bulk 0.62;
    # 30 MPa with air allows 0.45, below the cap of 0.50 for severe exposure.
    cement = 168 / 0.45
    stone = 0.62 * 1600
    sand = (1 - 0.168 - cement / 3150 - stone / 2680 - 0.06) * 2650
    changes = {"slump_mm": 40, "air_entrained": True, "exposure": "severe", "mean_mpa": 30}
    plan = planned("concrete-designed", 1000, 0, changes=changes, strategy="equal", mixer="drum-site")
    assert dry(plan) == pytest.approx({"portland-cement": cement, "sharp-sand": sand, "gravel-20": stone})


@pytest.mark.parametrize(
    ("key", "cement", "bulk_lb", "sand", "air"),
    [
        ("c270-m-masonry", "masonry-cement-m", 80, 3, 0.08),
        ("c270-s-masonry", "masonry-cement-s", 75, 3, 0.08),
        ("c270-n-masonry", "masonry-cement-n", 70, 3, 0.08),
    ],
)
def test_masonry_cement_mortars(key: str, cement: str, bulk_lb: float, sand: float, air: float) -> None:
    # ASTM C270, from memory: 80, 75 and 70 lb to the cubic foot of masonry cement; sand 3 times, damp loose.
    kg = {cement: bulk_lb * LB / FT3, "plaster-sand": sand * 80 * LB / FT3}
    volume = by_water_per_dry(kg, {cement: 2950, "plaster-sand": 2650}, 0.155, air)
    plan = planned(key, 60, 0, strategy="equal")
    assert dry(plan) == pytest.approx({k: m * 0.060 / volume for k, m in kg.items()}, rel=1e-3)


def test_fine_grout() -> None:
    kg = {"portland-cement": 1506.0, "sharp-sand": 2.5 * 1281.0}
    volume = by_water_per_dry(kg, {"portland-cement": 3150, "sharp-sand": 2650}, 0.205, 0.02)
    plan = planned("c476-fine", 190, 10, moisture_percent={"sharp-sand": 5}, strategy="equal")
    assert dry(plan) == pytest.approx({k: m * 0.209 / volume for k, m in kg.items()})


def test_gypsum_and_sand_by_the_bag() -> None:
    # ASTM C842, from memory: 2 ft³ of sand to 100 lb; 2 ft³ at 1520 kg/m³ are 86.1 kg, 1.9 times the plaster.
    assert pytest.approx(1.90, abs=0.005) == 2 * FT3 * 1520 / (100 * LB)
    kg = {"gypsum-plaster": 100.0, "plaster-sand": 190.0}
    volume = by_water_per_dry(kg, {"gypsum-plaster": 2650, "plaster-sand": 2650}, 0.25, 0.04)
    plan = planned("gypsum-sand-scratch", 73, 10, strategy="equal")
    assert dry(plan) == pytest.approx({k: m * 0.0803 / volume for k, m in kg.items()})


def test_the_water_of_lime_putty_counts() -> None:
    # A cubic metre of putty at 1281 kg, 40 % of it lime: 512.4 kg of lime and 768.6 kg of water.
    kg = {"lime-putty": 512.4, "plaster-sand": 3 * 1281.0}
    volume = by_water_per_dry(kg, {"lime-putty": 2240, "plaster-sand": 2650}, 0.215, 0.04)
    scale = 0.022 / volume
    plan = planned("lime-putty-1-3", 22, 0, moisture_percent={"plaster-sand": 3}, strategy="equal")
    assert dry(plan) == pytest.approx({k: m * scale for k, m in kg.items()})
    wet = 0.215 * (512.4 + 3843) - 768.6 - 3843 * (0.03 - 0.008)
    assert plan.water_l.target == pytest.approx(wet * scale)
    putty = next(d for d in plan.cards[0].doses if d.material_key == "lime-putty")
    assert putty.batch_kg == pytest.approx(1281 * scale)
    assert putty.gauged_l == pytest.approx(scale * 1000)  # one part of it, as it lies in the tub


def test_a_pail_and_cement_kit_counts_what_the_pail_holds() -> None:
    # One pail of 29.5 kg holds 29.5/1.333 kg dry; 60 lb of cement; 1 L added; 5 % of air.
    base = 29.5 / 1.333
    made_l = (base / 2.0 + 60 * LB / 3.15 + (29.5 - base) + 1.0) / 0.95
    plan = planned("wet-base-kit", made_l, 0)
    card = plan.cards[0]
    assert card.doses[0].packs == pytest.approx(1.0)
    assert card.doses[0].batch_kg == pytest.approx(29.5)
    assert card.doses[1].dry_kg == pytest.approx(60 * LB)
    assert card.water.pour.target == pytest.approx(1.0)
    assert card.water.pour.high == pytest.approx(2.0)


def test_every_family_is_recomputed_somewhere() -> None:
    families = {mix.family for mix in load_catalogue().mixes.values()}
    here = {
        "cement mortar", "hydraulic lime mortar", "cement-lime mortar", "concrete", "plaster", "screed", "pervious",
        "high-strength", "kit", "hemp-lime", "grout", "gypsum-sand", "lime putty",
    }  # fmt: skip
    # Dry-pack is cement mortar with less water and more air; bagged coats are a label like bagged concrete.
    assert families - here == {"dry-pack", "premix coat"}
