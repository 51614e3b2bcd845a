"""An engineer's own sheet, limits of exposure classes, voids, heat and water of admixtures, against what is published."""

from typing import Any

import pytest

from keeve.catalogue import load_catalogue
from keeve.core.conditions.temperature import MaterialTemperatures, batch_c, plaster_peak_c
from keeve.core.dosing.water import account
from keeve.core.materials.field_tests import gravimetric_air_percent, yield_m3
from keeve.core.mixes.admixture_doses import dose
from keeve.core.mixes.admixtures import Admixture, water_in_l
from keeve.core.proportions.aim import EN_CLASSES, required_mean_mpa
from keeve.core.proportions.bases.designed import Designed
from tests.conftest import BY_JUG, Planner
from tests.prose import PROSE

MATERIALS = load_catalogue().materials
MIXES = load_catalogue().mixes


def designed(**changes: Any) -> Designed:
    fields: dict[str, Any] = {
        "cement": MATERIALS["portland-cement"], "sand": MATERIALS["sharp-sand"], "stone": MATERIALS["gravel-20"],
        "fume": MATERIALS["silica-fume"], "ash": MATERIALS["fly-ash"], "slag": MATERIALS["slag"],
        "slump_mm": 75, "stone_mm": 25, "fineness_modulus": 2.8, "rodded_kg_m3": 1600,
    }  # fmt: skip
    return Designed(**fields | changes)


def pca(**changes: Any) -> Designed:
    """PCA, Design and Control of Concrete Mixtures, metric example 1, from memory: w/c 0.31, water 135, air 7 %."""
    cement = MATERIALS["portland-cement"].model_copy(update={"particle_density_kg_m3": 3000.0})
    stone = MATERIALS["gravel-20"].model_copy(update={"particle_density_kg_m3": 2680.0, "absorption_percent": 0.5})
    sand = MATERIALS["sharp-sand"].model_copy(update={"particle_density_kg_m3": 2640.0, "absorption_percent": 0.7})
    given = {"given_ratio": 0.31, "given_water_kg_m3": 135, "given_air_percent": 7, "exposure": "severe"}
    return designed(cement=cement, stone=stone, sand=sand, air_entrained=True, **given | changes)


def test_an_engineers_own_sheet_by_pca() -> None:
    # The same, from memory: cement 435, stone 1072 (bulk volume 0.67), sand 660 kg/m³.
    made = pca().proportions()
    cement, sand, stone = (c.dry_kg_m3 for c in made.constituents)
    assert cement == pytest.approx(435, abs=1)
    assert stone == pytest.approx(1072, abs=1)
    assert sand == pytest.approx(660, abs=3)
    assert made.air == pytest.approx(0.07)
    assert made.volume_m3() == pytest.approx(1.0)
    # Field moisture, stone 2 %, sand 6 %: 1093 and 700 kg, and 84 kg of water to add.
    assert stone * 1.02 == pytest.approx(1093, abs=1)
    assert sand * 1.06 == pytest.approx(700, abs=3)
    water = account(made, 1.0, {"gravel-20": 2, "sharp-sand": 6}, 0.0, BY_JUG)
    assert water.pour.target == pytest.approx(84, abs=1)
    assert water.pour.high == pytest.approx(water.pour.target)  # never past its w/c


def test_what_is_given_is_marked_given() -> None:
    workings = {str(w.figure): w for w in pca(given_stone_bulk=0.67).proportions().workings}
    for figure in ("Mixing water", "Air", "w/c", "Stone, dry"):
        assert workings[figure].formula == "given"
        assert workings[figure].source == PROSE["given-not-worked-out"]


# EN 206, table F.1, from memory: highest w/c and least cement [kg/m³] by exposure class.
EN_206_F1 = {
    "XC1": (0.65, 260), "XC2": (0.60, 280), "XC3": (0.55, 280), "XC4": (0.50, 300), "XS1": (0.50, 300),
    "XS2": (0.45, 320), "XS3": (0.45, 340), "XD1": (0.55, 300), "XD2": (0.55, 300), "XD3": (0.45, 320),
    "XF1": (0.55, 300), "XF2": (0.55, 300), "XF3": (0.50, 320), "XF4": (0.45, 340), "XA1": (0.55, 300),
    "XA2": (0.50, 320), "XA3": (0.45, 360),
}  # fmt: skip


@pytest.mark.parametrize("exposure", list(EN_206_F1))
def test_a_limit_of_en_206_put_in_is_kept(exposure: str, planned: Planner) -> None:
    ratio, cement_kg = EN_206_F1[exposure]
    changes = {"given_ratio": ratio, "given_cementitious_kg_m3": cement_kg}
    plan = planned(mix="concrete-designed", changes=changes, unusual_ok=True, moisture_percent={"sharp-sand": 3})
    assert plan.proportions.constituents[0].dry_kg_m3 == pytest.approx(cement_kg)
    assert plan.proportions.water.high == pytest.approx(ratio * cement_kg)
    card = plan.cards[0]
    cement = next(d.dry_kg for d in card.doses if d.role == "cement")
    assert (card.water.free.high) / cement == pytest.approx(ratio)


@pytest.mark.parametrize(
    ("name", "cylinder"),
    [("C8/10", 8), ("C12/15", 12), ("C16/20", 16), ("C20/25", 20), ("C25/30", 25), ("C30/37", 30), ("C35/45", 35),
     ("C40/50", 40), ("C45/55", 45), ("C50/60", 50)],
)  # fmt: skip
def test_the_mean_of_a_class_is_eight_over_it(name: str, cylinder: float) -> None:
    # EN 206 table 12 and annex A (6 to 12 MPa over); EN 1992-1-1 table 3.1: fcm = fck + 8; from memory.
    assert EN_CLASSES[name] == cylinder
    assert designed(en_class=name).aim_mpa() == cylinder + 8
    assert designed(en_class=name, en_margin_mpa=12).aim_mpa() == cylinder + 12


@pytest.mark.parametrize(("specified", "mean"), [(17, 24), (20, 27), (21, 29.3), (28, 36.3), (35, 43.3), (40, 49)])
def test_the_mean_for_a_specified_strength(specified: float, mean: float) -> None:
    # ACI 318-11, table 5.3.2.2, from memory.
    assert required_mean_mpa(specified) == pytest.approx(mean)


@pytest.mark.parametrize("voids", [0.15, 0.18, 0.20, 0.25])
@pytest.mark.parametrize(("rock", "ratio"), [(4.0, 0.30), (4.25, 0.28), (4.5, 0.34)])
def test_pervious_concrete_by_its_voids(planned: Planner, voids: float, rock: float, ratio: float) -> None:
    # cement = (1 − v) / (1/ρc + (a/c)/ρa + (w/c)/1000): absolute volumes, arithmetic.
    wanted = (1 - voids) / (1 / 3150 + rock / 2650 + ratio / 1000)
    changes = {
        "air_percent": voids * 100,
        "water_target": ratio,
        "others": [{"material": "gravel-10", "ratio": rock}],
    }
    plan = planned(mix="pervious", changes=changes, unusual_ok=True, moisture_percent={"gravel-10": 1})
    assert plan.proportions.constituents[0].dry_kg_m3 == pytest.approx(wanted)
    assert plan.proportions.volume_m3() == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("ratio", "heat", "rise"),
    # ΔT = H / (1.186 · 1.09 + (w/p − 0.186) · 4.18), worked out by hand; heats of hydration from memory.
    [(0.30, 118, 66.7), (0.32, 118, 63.7), (0.40, 118, 54.0), (0.50, 133, 51.0), (0.60, 133, 44.0), (0.65, 133, 41.2),
     (0.70, 133, 38.6), (0.80, 133, 34.5)],
)  # fmt: skip
def test_heat_of_setting_gypsum(ratio: float, heat: float, rise: float) -> None:
    assert plaster_peak_c(ratio, heat) - 21 == pytest.approx(rise, abs=0.15)


@pytest.mark.parametrize(
    ("batch_kg", "density", "cubic_metres"), [(2312, 2312, 1.0), (2400, 2350, 1.0213), (1856, 2320, 0.8)]
)
def test_yield_by_unit_weight(batch_kg: float, density: float, cubic_metres: float) -> None:
    # ASTM C138: yield = mass of the batch / unit weight; from memory.
    assert yield_m3(batch_kg, density) == pytest.approx(cubic_metres, abs=1e-4)


@pytest.mark.parametrize(("without_air", "density", "air"), [(2420, 2274.8, 6.0), (2450, 2401, 2.0), (2400, 2400, 0.0)])
def test_air_by_unit_weight(without_air: float, density: float, air: float) -> None:
    # ASTM C138: A = (T − D) / T × 100; from memory.
    assert gravimetric_air_percent(without_air, density) == pytest.approx(air, abs=1e-9)


@pytest.mark.parametrize("percent", [20, 40, 47, 93])
def test_water_of_an_admixture_both_ways(percent: float) -> None:
    # By volume × water share, as many do, and by mass × (1 − solids): they differ by the density. Arithmetic.
    label = Admixture(
        key="x", name="x", form="liquid", density_kg_l=1.2, solids_percent=percent, least=1, most=900,
        unit="mL/100 kg", when="last", source="given by the test",
    )  # fmt: skip
    given = dose(label, 500, "mL/100 kg", 300, None)
    assert given.volume_l == pytest.approx(1.5)
    assert water_in_l(1.5, label, by="volume") == pytest.approx(1.5 * (1 - percent / 100))
    assert given.water_l == pytest.approx(1.8 * (1 - percent / 100))


@pytest.mark.parametrize(
    ("water_c", "aggregate_c", "ice_kg", "batch"),
    # ACI 305R, from memory: of 1 °C in the concrete, 2 °C of the aggregate, 4 °C of the water, 9 °C of the cement.
    [(24, 24, 0, 24.0), (20, 24, 0, 23.0), (24, 22, 0, 22.9)],
)
def test_what_cools_concrete_by_a_degree(water_c: float, aggregate_c: float, ice_kg: float, batch: float) -> None:
    given = MaterialTemperatures(water_c=water_c, aggregate_c=aggregate_c, binder_c=24)
    assert batch_c(given, 1850, 335, 165 - ice_kg, 0, ice_kg) == pytest.approx(batch, abs=0.35)


@pytest.mark.parametrize("key", [key for key, mix in MIXES.items() if key.startswith("c270")])
def test_c270_by_its_table(key: str) -> None:
    # ASTM C270, table 1, from memory: sand 2¼ to 3 times the sum of the cementitious; lime as the type has it.
    basis: Any = MIXES[key].basis
    parts = {p.material.role: 0.0 for p in basis.parts}
    for p in basis.parts:
        parts[p.material.role] += p.parts
    binders = sum(parts.get(role, 0.0) for role in ("cement", "lime"))
    assert 2.25 <= parts["sand"] / binders <= 3.0
    lime = {"c270-m": (0, 0.25), "c270-s": (0.25, 0.5), "c270-n": (0.5, 1.25), "c270-o": (1.25, 2.5)}.get(key)
    if lime is not None:
        assert lime[0] <= parts["lime"] / parts["cement"] <= lime[1]


@pytest.mark.parametrize(("fume", "ash", "slag"), [(10, 0, 0), (0, 25, 0), (0, 0, 50), (5, 20, 0)])
def test_what_stands_in_for_cement_is_of_the_cementitious(fume: float, ash: float, slag: float) -> None:
    # Mass shares of the cementitious, absolute volumes; arithmetic.
    made = designed(mean_mpa=30, fume_percent=fume, ash_percent=ash, slag_percent=slag).proportions()
    masses = {c.material.key: c.dry_kg_m3 for c in made.constituents}
    binder = sum(masses.get(key, 0.0) for key in ("portland-cement", "silica-fume", "fly-ash", "slag"))
    for key, percent in (("silica-fume", fume), ("fly-ash", ash), ("slag", slag)):
        assert masses.get(key, 0.0) == pytest.approx(binder * percent / 100)
    assert made.water.target / binder == pytest.approx(0.54)  # ACI 211.1-91 table 6.3.4(a), from memory
    assert made.volume_m3() == pytest.approx(1.0)


def test_frost_without_air_is_told_and_air_without_weather_takes_the_mild_row() -> None:
    assert any("Frost" in str(w) for w in designed(mean_mpa=30, exposure="severe").proportions().warnings)
    mild = designed(mean_mpa=30, air_entrained=True).proportions()
    assert mild.air == pytest.approx(0.03)  # 25 mm stone, mild: ACI 211.1-91 table 6.3.3, from memory
    assert any("mild row" in str(w) for w in mild.warnings)
