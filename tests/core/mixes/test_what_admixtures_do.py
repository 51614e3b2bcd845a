"""A reducer cuts water, an entrainer sets air, latex takes up room: and the account still adds up."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from keeve.core.planning.plan import Plan
from tests.conftest import Planner
from tests.prose import PROSE

CATALOGUE = load_catalogue()
DAMP = {"sharp-sand": 4, "gravel-20": 1, "plaster-sand": 4}
# Middle of each label's range, common practice, no source: reducer 5 to 10 %, high-range 12 to 30 %, entrainer 4 to 7 %
# of air, mortar plasticiser 8 to 18 %.


def dosed(planned: Planner, mix: str, key: str | None, dose: str = "", **more: Any) -> Plan:
    acts = {"acts_percent": more.pop("acts")} if "acts" in more else {}
    fields: dict[str, Any] = {"mix": mix, "mixer": "drum-site", "strategy": "equal", "moisture_percent": DAMP}
    fields["moisture_percent"] = {
        k: v for k, v in DAMP.items() if k in [m.key for m in CATALOGUE.mixes[mix].materials()]
    }
    if key is not None:
        fields["admixtures"] = [{"admixture": key, "dose": dose} | acts]
    return planned(**fields | more)


def ratio(plan: Plan) -> float:
    cement = sum(c.dry_kg_m3 for c in plan.proportions.constituents if c.material.role in ("cement", "supplementary"))
    return plan.proportions.water.target / cement


def test_a_reducer_lowers_the_ratio_of_a_mix_by_parts(planned: Planner) -> None:
    without = dosed(planned, "concrete-1-2-4", None)
    cut = dosed(planned, "concrete-1-2-4", "plasticiser", "300 mL/100 kg")
    assert ratio(cut) == pytest.approx(ratio(without) * 0.925)  # 7.5 % less, the parts held
    parts = [c.dry_kg_m3 / cut.proportions.constituents[0].dry_kg_m3 for c in cut.proportions.constituents]
    before = [c.dry_kg_m3 / without.proportions.constituents[0].dry_kg_m3 for c in without.proportions.constituents]
    assert parts == pytest.approx(before)
    assert any(PROSE["cuts-the-water-by"] in plain(w) for w in cut.warnings)
    assert cut.proportions.volume_m3() == pytest.approx(1.0)


def test_a_reducer_saves_cement_in_a_design(planned: Planner) -> None:
    without = dosed(planned, "concrete-designed", None)
    cut = dosed(planned, "concrete-designed", "polycarboxylate", "600 mL/100 kg", acts=20)
    assert ratio(cut) == pytest.approx(ratio(without))  # w/c is what a design states
    cement, before = (p.proportions.constituents[0].dry_kg_m3 for p in (cut, without))
    assert cement == pytest.approx(0.8 * before)
    assert cut.proportions.water.target == pytest.approx(0.8 * without.proportions.water.target)
    assert cut.proportions.volume_m3() == pytest.approx(1.0)


def test_it_acts_as_told_and_not_where_the_mix_counts_on_it(planned: Planner) -> None:
    none = dosed(planned, "concrete-1-2-4", "plasticiser", "300 mL/100 kg", acts=0)
    assert ratio(none) == pytest.approx(ratio(dosed(planned, "concrete-1-2-4", None)))
    panel = {"mix": "thin-panel", "moisture_percent": {"silica-sand": 0.3}, "mixer": None, "strategy": "equal"}
    small = {"shapes": [{"kind": "known", "volume_l": 8}]}
    plain_panel = planned(**panel, **small)
    with_it = planned(**panel, **small, admixtures=[{"admixture": "polycarboxylate-powder", "dose": "0.2 %"}])
    assert with_it.proportions.water == plain_panel.proportions.water


def test_an_entrainer_sets_the_air(planned: Planner) -> None:
    air = dosed(planned, "concrete-1-2-4", "air-entrainer", "60 mL/100 kg")
    assert air.proportions.air == pytest.approx(0.055)
    assert air.proportions.volume_m3() == pytest.approx(1.0)
    before = dosed(planned, "concrete-1-2-4", None)
    # 2 % became 5.5 %: all else shrinks by 94.5/98, plain arithmetic.
    assert air.proportions.dry_kg_m3 == pytest.approx(before.proportions.dry_kg_m3 * 0.945 / 0.98)
    mortar = planned(
        mix="bricklaying-mortar-1-4", admixtures=[{"admixture": "mortar-plasticiser", "dose": "300 mL/100 kg"}]
    )
    assert mortar.proportions.air == pytest.approx(0.13)


def test_latex_takes_up_room(planned: Planner) -> None:
    with_it = dosed(planned, "concrete-1-2-4", "latex", "20 %")
    cement = with_it.proportions.constituents[0].dry_kg_m3
    polymer_kg = 0.20 * cement * 0.47  # 47 % solids, by its label
    assert with_it.proportions.admixture_m3 == pytest.approx(polymer_kg / 1050)
    assert with_it.proportions.volume_m3() == pytest.approx(1.0)


@given(
    st.sampled_from(["concrete-1-2-4", "concrete-designed", "ballast-1-6", "c270-n", "cement-mortar-1-3", "pervious"]),
    st.sampled_from(["plasticiser", "polycarboxylate", "air-entrainer", "mortar-plasticiser", "latex"]),
    st.floats(0, 30),
    st.floats(0, 8),
)
def test_the_account_adds_up_whatever_acts(mix: str, key: str, acts: float, wet: float) -> None:
    label = CATALOGUE.admixtures[key]
    heaps = {m.key: wet for m in CATALOGUE.mixes[mix].materials() if m.role in ("sand", "ballast", "stone")}
    entry = {"admixture": key, "dose": f"{(label.least + label.most) / 2} {label.unit}"}
    entry |= {"acts_percent": acts} if label.acts else {}  # type: ignore[dict-item]
    sheet = {"shapes": [{"kind": "known", "volume_l": 60}], "mix": mix, "admixtures": [entry], "unusual_ok": True}
    try:
        plan = plan_sheet(JobSheet.model_validate(sheet | {"moisture_percent": heaps, "strategy": "equal"}))
    except TradeError:
        return
    assert plan.proportions.volume_m3() == pytest.approx(1.0, abs=1e-9)
    for card in plan.cards:
        there = card.water.pour.target + sum(line.litres for line in card.water.lines)
        if card.water.pour.target > 0:
            assert there == pytest.approx(card.water.free.target)
        assert card.water.free.target == pytest.approx(plan.proportions.water.target * card.volume_m3)


def by_key(plan: Plan) -> dict[str, float]:
    return {c.material.key: c.dry_kg_m3 for c in plan.proportions.constituents}


def test_a_reducer_in_a_design_keeps_the_stone_and_may_keep_the_cement(planned: Planner) -> None:
    """ACI 211.1, from memory: the stone stays, the sand takes the room; by hand from the densities of the catalogue."""
    before = dosed(planned, "concrete-designed", None)
    sand, stone, cement = "sharp-sand", "gravel-20", "portland-cement"
    density = {m.key: m.particle_density_kg_m3 for m in CATALOGUE.mixes["concrete-designed"].materials()}
    entry: dict[str, Any] = {"admixture": "polycarboxylate", "dose": "600 mL/100 kg", "acts_percent": 20}
    for holds in (False, True):
        cut = planned(mix="concrete-designed", admixtures=[entry | {"hold_cement": holds}], unusual_ok=True)
        was, now = by_key(before), by_key(cut)
        water = 0.2 * before.proportions.water.target
        saved = 0.0 if holds else 0.2 * was[cement]
        assert now[stone] == pytest.approx(was[stone])
        assert now[cement] == pytest.approx(was[cement] - saved)
        room_m3 = water / 1000 + saved / density[cement]
        assert now[sand] == pytest.approx(was[sand] + room_m3 * density[sand], rel=2e-3)  # water of 4 °C, not of 20
        assert ratio(cut) == pytest.approx(ratio(before) * (0.8 if holds else 1.0))


def test_stated_ratios_stay_and_w_c_falls(planned: Planner) -> None:
    """House ruling: only a design saves cement."""
    before = dosed(planned, "pervious", None)
    cut = dosed(planned, "pervious", "plasticiser", "300 mL/100 kg", acts=20)
    was, now = by_key(before), by_key(cut)
    keys = list(was)
    assert [now[k] / now[keys[0]] for k in keys] == pytest.approx([was[k] / was[keys[0]] for k in keys])
    assert ratio(cut) == pytest.approx(0.8 * ratio(before))


@pytest.mark.parametrize(
    ("mix", "key", "dose"),
    [
        ("cement-mortar-1-3", "mortar-plasticiser", "250 mL/100 kg"),
        ("bricklaying-mortar-1-4", "mortar-plasticiser", "500 mL/100 kg"),
        ("c270-s", "mortar-plasticiser", "200 mL/100 kg"),
        ("concrete-designed", "polycarboxylate", "800 mL/100 kg"),
        ("concrete-1-2-4", "polycarboxylate", "1300 mL/100 kg"),
        ("stucco-base", "plasticiser", "400 mL/100 kg"),
        ("concrete-1-2-4", "air-entrainer", "60 mL/100 kg"),
    ],
)
def test_a_dose_of_its_label_makes_no_mix_unusual(planned: Planner, mix: str, key: str, dose: str) -> None:
    assert planned(mix=mix, admixtures=[{"admixture": key, "dose": dose}]).cards


def test_a_trial_load_corrects_water_and_stone_by_its_yield(planned: Planner) -> None:
    """ACI 211.1, section 6.3.9, from memory: what the batch held over what it made, ± 6 kg for 25 mm of slump."""
    before = planned(mix="concrete-designed")
    asked = {"trial_fresh_kg_m3": "2390", "trial_slump_mm": "65 mm"}
    after = planned(mix="concrete-designed", changes=asked)
    made = before.proportions.fresh_kg_m3 / 2390  # m³ of a batch meant for one
    slump_mm = before_slump(before)
    water = before.proportions.water.target / made + 6 * (slump_mm - 65) / 25
    assert after.proportions.water.target == pytest.approx(water)
    assert by_key(after)["gravel-20"] == pytest.approx(by_key(before)["gravel-20"] / made)
    assert ratio(after) == pytest.approx(ratio(before))
    assert after.proportions.volume_m3() == pytest.approx(1.0)


def before_slump(plan: Plan) -> float:
    return next(g.value for w in plan.proportions.workings for g in w.given if plain(g.name) == "slump")
