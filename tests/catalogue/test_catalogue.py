"""The shipped data: shape and sums frozen, so that a slip of the finger shows."""

import math
import tomllib
from pathlib import Path

import pytest

import keeve.catalogue
from keeve.catalogue import JobSheet, load_catalogue, plan_sheet, resolve
from keeve.catalogue.loader import _keyed, _look_up, _sourced
from keeve.core.message.errors import MixError, TradeError
from keeve.core.message.said import plain
from keeve.core.planning.plan import plan
from keeve.core.procedures.consistency import TEST_OF_FAMILY
from keeve.core.proportions.bases.designed import Designed
from keeve.core.proportions.family import FAMILIES
from keeve.core.proportions.plausible import outside
from tests.conftest import slab
from tests.prose import PROSE

CATALOGUE = load_catalogue()


def test_the_tables_have_the_shape_they_had_when_they_were_checked() -> None:
    # Regression only: whoever changes a value changes these with it.
    assert len(CATALOGUE.materials) == 39
    assert sum(m.particle_density_kg_m3 for m in CATALOGUE.materials.values()) == 97680
    assert sum(m.loose_bulk_kg_m3 for m in CATALOGUE.materials.values()) == pytest.approx(42118.4)
    assert sum(m.held_water_percent for m in CATALOGUE.materials.values()) == pytest.approx(208.3)
    assert len(CATALOGUE.mixes) == 54
    assert len(CATALOGUE.admixtures) == 14
    assert len(CATALOGUE.mixers) == 9
    assert len(CATALOGUE.gauges()) == 3
    assert len(CATALOGUE.jugs()) == 2


@pytest.mark.parametrize("mix", CATALOGUE.mixes.values(), ids=lambda m: m.key)
def test_every_mix_is_complete(mix) -> None:
    assert mix.source
    assert mix.cautions
    assert mix.consistency.right
    assert {"drum", "tray", "bucket"} <= set(mix.procedures) | set(mix.refused)
    assert not set(mix.procedures) & set(mix.refused)
    for procedure in mix.procedures.values():
        kinds = [step.kind for step in procedure.steps]
        assert kinds.count("judge") == 1
        assert kinds[-1] == "use"
        added = {add.of for step in procedure.steps for add in step.adds}
        assert {m.role for m in mix.materials()} | {"water"} <= added


@pytest.mark.parametrize("mix", CATALOGUE.mixes.values(), ids=lambda m: m.key)
def test_every_mix_is_inside_the_plausible_envelope_and_fills_its_cubic_metre(mix) -> None:
    made = mix.basis.proportions()
    assert made.volume_m3() == pytest.approx(1.0, abs=1e-9)
    if mix.basis.basis != "premix bag":  # a label's rounded yield is the maker's word
        assert outside(mix.kin, made) == ()


@pytest.mark.parametrize("mix", CATALOGUE.mixes.values(), ids=lambda m: m.key)
def test_every_mix_says_when_it_may_be_made_and_where_people_differ(mix) -> None:
    assert mix.temperatures is not None
    assert mix.temperatures.low_c < mix.temperatures.high_c
    assert mix.schools
    for target in mix.targets:
        assert target.low < target.high
        assert target.source


@pytest.mark.parametrize("mix", CATALOGUE.mixes.values(), ids=lambda m: m.key)
def test_the_timers_of_every_mix_keep_to_the_mixing_time_of_its_kind(mix) -> None:
    for kind, time in mix.mixing_times.items():
        steps = mix.procedures[kind].steps
        last = max(i for i, step in enumerate(steps) if any(add.of != "water" for add in step.adds))
        minutes = sum(step.seconds for step in steps[last:] if step.kind in ("mix", "wait", "sips", "add")) / 60
        assert time.low_min <= minutes <= time.high_min, kind


@pytest.mark.parametrize("mix", [m for m in CATALOGUE.mixes.values() if m.standard], ids=lambda m: m.key)
def test_every_mix_of_a_standard_keeps_to_its_row_and_half_as_much_sand_does_not(mix) -> None:
    assert mix.standard.outside(mix.basis.parts_by_volume()) == ()
    thin = tuple(
        p.model_copy(update={"parts": p.parts / 2}) if p.material.role == "sand" else p for p in mix.basis.parts
    )
    (said,) = mix.standard.outside(thin)
    assert PROSE["of-sand-to-the"] in plain(said)


def test_a_lower_bound_that_itself_belongs_to_the_next_type_is_outside() -> None:
    # ASTM C270: type S is over a quarter to a half of lime, so a quarter is type M; from memory.
    mix = CATALOGUE.mixes["c270-s"]
    parts = [p.model_copy(update={"parts": 0.25}) if p.material.role == "lime" else p for p in mix.basis.parts]  # type: ignore[attr-defined]
    said = mix.standard.outside(tuple(parts))  # type: ignore[union-attr]
    assert any("type S" in plain(words) and "0.25 to 0.5" in plain(words) for words in said)


def test_another_school_about_late_water_is_taken_by_its_own_words_only() -> None:
    strict = resolve(sheet(mix="stucco-base"), CATALOGUE).mix.late_water
    other = resolve(sheet(mix="stucco-base", changes={"late_water": "once within 1½ h"}), CATALOGUE).mix.late_water
    assert "Never" in plain(strict.stiffened)
    assert "Once" in plain(other.stiffened)
    with pytest.raises(MixError, match="once within 1½ h") as caught:
        resolve(sheet(mix="stucco-base", changes={"late_water": "whenever"}), CATALOGUE)
    assert caught.value.faults[0].field == "changes.late_water"


def test_an_absurd_mix_is_stopped_with_the_row_it_broke_until_it_is_meant() -> None:
    soup = {"mix": "pervious", "changes": {"water_target": 0.8}}
    with pytest.raises(TradeError, match=PROSE["outside-the-usual-85"]) as caught:
        plan_sheet(sheet(**soup))
    assert caught.value.faults[0].field == "unusual_ok"
    assert plan_sheet(sheet(**soup, unusual_ok=True)).ratios[0].value == pytest.approx(0.8)


def test_the_usual_mixer_takes_a_whole_bag() -> None:
    assert CATALOGUE.usual_mixer(CATALOGUE.mixes["mortar-bag-s"]).key == "paddle-tub"
    assert CATALOGUE.usual_mixer(CATALOGUE.mixes["overlay"]).key == "paddle-bucket"


def test_screed_in_a_falling_drum_is_refused_with_the_reason() -> None:
    with pytest.raises(TradeError, match="balls it"):
        plan_sheet(sheet(mix="screed-semi-dry", mixer="drum-site"))


def sheet(**fields):
    return JobSheet.model_validate({"shapes": [slab()], "mix": "casting-plaster-70"} | fields)


def test_a_jobs_own_number_for_its_plaster_is_used() -> None:
    plan = plan_sheet(sheet(changes={"water_to_powder": "65"}))
    assert plan.ratios[0].value == pytest.approx(0.65)


@pytest.mark.parametrize(("specified", "mean"), [(18, 25), (25, 33.3)])
def test_a_specified_strength_asks_for_a_mean_with_its_margin(specified: float, mean: float) -> None:
    # ACI 318-11, table 5.3.2.2, from memory: + 7 below 21 MPa, + 8.3 to 35.
    by_margin = plan_sheet(sheet(mix="concrete-designed", changes={"specified_mpa": specified}))
    by_mean = plan_sheet(sheet(mix="concrete-designed", changes={"mean_mpa": mean}))
    assert by_margin.proportions == by_mean.proportions
    both = plan_sheet(sheet(mix="concrete-designed", changes={"specified_mpa": specified, "mean_mpa": 20}))
    assert both.ratios[0].value == pytest.approx(0.69)


def test_a_jobs_own_bag_is_used() -> None:
    label = {"bag_kg": "20 kg", "yield_l": "10 L", "water_low_l": 1.2, "water_target_l": "1.4 L", "water_high_l": 2}
    plan = plan_sheet(sheet(mix="concrete-bag-25kg", changes=label))
    assert plan.cards[0].doses[0].pack_kg == 20
    assert plan.cards[0].water.pour.target == pytest.approx(1.4 * plan.cards[0].doses[0].packs)  # type: ignore[operator]


@pytest.mark.parametrize(
    ("fields", "field", "words"),
    [
        ({"mix": "moon-dust"}, "mix", "no mix called"),
        ({"mixer": "drum-of-mystery"}, "mixer", "no mixer called"),
        ({"gauges": ["thimble"]}, "gauges", "no container called"),
        ({"jug": "thimble"}, "jug", "no container called"),
        ({"changes": {"bag_kg": 20}}, "changes.bag_kg", "no such figure"),
        ({"mix": "concrete-bag-25kg", "changes": {"water_target_l": 9}}, "changes.water_target_l", "rise from least"),
        ({"mix": "concrete-bag-25kg", "changes": {"yield_l": 5}}, "changes.yield_l", "label's yield"),
        ({"mix": "concrete-designed", "changes": {"mean_mpa": 60}}, "changes.mean_mpa", "ends at 40"),
        ({"mix": "concrete-designed", "changes": {"slump_mm": 300}}, "changes.slump_mm", "ends at 175"),
        ({"mix": "cement-mortar-1-3", "changes": {"pack_kg": 25, "yield_l": 9}}, "changes.yield_l", "no such figure"),
    ],
)
def test_what_the_catalogue_cannot_do_is_said_beside_its_field(fields, field: str, words: str) -> None:
    with pytest.raises(TradeError, match=words) as caught:
        plan_sheet(sheet(**fields))
    assert caught.value.faults[0].field == field


def test_a_record_without_source_or_with_a_key_used_twice_stops_the_start() -> None:
    with pytest.raises(TradeError, match=PROSE["names-no-source"]):
        _sourced({"key": "x"})
    with pytest.raises(TradeError, match=PROSE["share-one-key"]):
        _keyed([{"key": "x"}, {"key": "x"}])
    with pytest.raises(TradeError, match="no material called x"):
        _look_up({}, "x", "material")


def test_an_own_mixer_and_an_own_pail_need_no_catalogue() -> None:
    rings = [{"height_mm": 0, "width_mm": 300}, {"height_mm": 400, "width_mm": 300}]
    own = {"key": "own", "name": "Own bucket", "kind": "bucket", "mixed_l": 18, "section": {"rings": rings}}
    request = resolve(sheet(mixer=own), CATALOGUE)
    assert request.mixer.name == "Own bucket"


def test_the_inverted_number_is_refused_where_it_was_typed() -> None:
    with pytest.raises(MixError, match=PROSE["did-you-mean-70"]) as caught:
        plan_sheet(sheet(changes={"water_to_powder": "70 plaster : 100 water"}))
    assert caught.value.faults[0].field == "changes.water_to_powder"


def test_changes_that_contradict_each_other_are_a_mix_error() -> None:
    with pytest.raises(MixError, match=PROSE["must-rise-from-least"]):
        plan_sheet(sheet(mix="concrete-bag-25kg", changes={"water_high_l": 1.0}))


def test_a_heap_nobody_has_is_asked_about_and_one_of_another_mix_stays_on_the_sheet() -> None:
    with pytest.raises(TradeError, match=PROSE["no-heap-called-sharp"]) as caught:
        plan_sheet(sheet(mix="cement-mortar-1-3", moisture_percent={"sharp-snad": 5}))
    assert caught.value.faults[0].field == "moisture_percent.sharp-snad"
    assert "sharp-sand" in plain(caught.value.faults[0].hint)
    other = resolve(sheet(mix="cement-mortar-1-3", moisture_percent={"gravel-20": 1, "sharp-sand": 5}), CATALOGUE)
    assert other.moisture_percent == {"sharp-sand": 5}
    with pytest.raises(TradeError, match=PROSE["has-no-heap-called"]):
        plan(other.model_copy(update={"moisture_percent": {"gravel-20": 1.0}}))


@pytest.mark.parametrize(("typed", "mean"), [("4000 psi", 27.579), ("28 MPa", 28.0), ("28", 28.0)])
def test_a_strength_may_be_typed_in_psi(typed: str, mean: float) -> None:
    found = resolve(sheet(mix="concrete-designed", changes={"mean_mpa": typed}), CATALOGUE)
    assert isinstance(found.mix.basis, Designed)
    assert found.mix.basis.aim_mpa() == pytest.approx(mean, rel=1e-4)


@pytest.mark.parametrize(
    ("word", "mix"),
    [
        ("fence", "concrete-bag-60lb"), ("post", "concrete-1-2-4"), ("driveway", "concrete-designed"),
        ("countertop", "thin-panel"), ("worktop", "thin-panel"), ("hempcrete", "hemp-lime-wall"),
        ("skim", "finish-plaster"), ("tuckpoint", "lime-pointing-1-2-5"), ("repoint", "c270-o"),
        ("tile bed", "dry-pack-1-3"), ("mold", "casting-plaster-70"), ("mould", "casting-plaster-70"),
        ("render", "stucco-base"), ("harl", "c926-c-first"), ("screed", "screed-semi-dry"), ("topping", "overlay"),
        ("grout", "c476-fine"), ("chimney", "c270-n"),
    ],
)  # fmt: skip
def test_a_mix_is_found_by_the_words_of_the_trade(word: str, mix: str) -> None:
    assert word in CATALOGUE.found_by[mix]


def test_stucco_finds_all_of_it() -> None:
    coats = {key for key in CATALOGUE.mixes if key.startswith("c926")} | {"stucco-base", "one-coat-stucco", "base-coat"}
    assert {key for key, words in CATALOGUE.found_by.items() if "stucco" in words} >= coats


def test_every_family_that_is_named_is_one_of_the_list() -> None:
    """A slip in a record would leave a mix without what its kind needs, and nobody would see it."""
    data = Path(keeve.catalogue.__file__).parent / "data"
    named: set[str] = set()
    for path in data.glob("*.toml"):
        for rows in tomllib.loads(path.read_text(encoding="utf-8")).values():
            for row in rows if isinstance(rows, list) else ():
                named |= {row["family"]} if "family" in row else set()
                named |= {*row.get("families", ()), *row.get("not_families", ())}
    assert named == set(FAMILIES)
    assert set(TEST_OF_FAMILY) == set(FAMILIES)


@pytest.mark.parametrize(
    ("mix", "water", "litres"),
    [
        # Ends of labels as they are printed, a US quart being 0.946352946 L (NIST SP 811).
        ("mortar-bag-s", "5 qt", 5 * 0.946352946),
        ("mortar-bag-s", "6 qt", 6 * 0.946352946),
        ("one-coat-stucco", "10 pt", 5 * 0.946352946),
        ("one-coat-stucco", "12 pt", 6 * 0.946352946),
        ("concrete-bag-60lb", "7 pt", 3.5 * 0.946352946),
        ("overlay", "2 3/4 qt", 2.75 * 0.946352946),
        ("overlay", "3.75 qt", 3.75 * 0.946352946),
        ("base-coat", "3 qt", 3 * 0.946352946),
        ("base-coat", "4 qt", 4 * 0.946352946),
        # As a page shows it to three figures.
        ("overlay", "3.55 L", 3.75 * 0.946352946),
        ("mortar-bag-s", "5.68 L", 6 * 0.946352946),
    ],
)
def test_a_label_takes_its_own_ends(mix: str, water: str, litres: float) -> None:
    found = plan_sheet(sheet(mix=mix, mixer=None, changes={"water_target_l": water}))
    bags = math.fsum(found.split.bags_each)
    assert found.water_l.target == pytest.approx(litres * bags, rel=1e-9)
