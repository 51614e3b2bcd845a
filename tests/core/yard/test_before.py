"""Before the first load: which checks are asked for, what makes an answer old, and what the air asks for."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import air_is_old, changed_heaps, try_plan
from keeve.core.conditions.temperature import MaterialTemperatures, batch_c
from keeve.core.conditions.weather import (
    AirNow,
    Batch,
    advice,
    evaporation_kg_m2_h,
    ice_for_kg,
    life_in_air_min,
    water_for_c,
)
from keeve.core.message.errors import MixError, TradeError
from keeve.core.message.said import plain
from keeve.core.yard.checks import SHAKEN, Standing, aged_of, answered, rejected, silt_percent, standing
from keeve.core.yard.day_log import Change, Changed, Checked, Weather, read_entry
from keeve.devices.weather import station_air, thermometers_c
from tests.prose import PROSE

SHELF = load_catalogue()
CHECKS = SHELF.checks.values()
CONCRETE, PLASTER, OVERLAY = (SHELF.mixes[key] for key in ("concrete-1-2-4", "casting-plaster-70", "overlay"))
NOW = datetime(2026, 7, 1, 7, 0, tzinfo=UTC)
Log = tuple[Changed | Checked | Weather, ...]


def seen(check: str, answer: str, of: str = "", hours_ago: float = 1) -> Checked:
    return Checked(id="12345678", at=NOW - timedelta(hours=hours_ago), check=check, of=of, answer=answer)


def change(kind: Change, of: str = "", hours_ago: float = 0.5) -> Changed:
    return Changed(id="12345678", at=NOW - timedelta(hours=hours_ago), kind=kind, of=of)


def air(air_c: float, hours_ago: float = 1) -> Weather:
    return Weather(id="12345678", at=NOW - timedelta(hours=hours_ago), air_c=air_c)


def asked(
    *log: Changed | Checked | Weather, mix: str = "concrete-1-2-4", admixtures: bool = False
) -> dict[str, Standing]:
    found = standing(CHECKS, SHELF.mixes[mix], log, NOW, admixtures=admixtures)
    return {f"{one.check.key} {one.of}".strip(): one for one in found}


def test_every_mix_is_asked_for_little_and_each_question_has_a_way_out() -> None:
    for key in SHELF.mixes:
        # Common practice, no source: what takes longer than a moment is not done.
        assert 2 <= len(asked(mix=key)) <= 6, key
    assert all(check.answers[0].verdict == "accept" for check in CHECKS)
    assert all(one.out for check in CHECKS for one in check.answers if one.verdict != "accept")


def test_what_is_asked_follows_the_mix_the_weather_and_the_admixture() -> None:
    assert list(asked()) == ["sand-jar sharp-sand", "cement-bags portland-cement", "water", "ground"]
    assert list(asked(mix="casting-plaster-70")) == ["plaster-age casting-plaster", "water"]
    cold, hot = asked(air(-1)), asked(air(30))
    assert "frozen-heap gravel-20" in cold
    assert "hose" not in cold
    assert "hose" in hot
    assert "frozen-heap gravel-20" not in asked(air(-1, hours_ago=8))  # that was another time of day
    assert "admixture" in asked(admixtures=True)
    # Sand that comes dry in bags has no heap to freeze and nothing to wash.
    assert not [key for key in asked(air(-1), mix="thin-panel") if "silica-sand" in key]


@pytest.mark.parametrize(
    ("check", "of", "later", "open_again"),
    [
        ("sand-jar", "sharp-sand", [], False),
        ("sand-jar", "sharp-sand", [change("rain")], False),  # rain washes no sand
        ("sand-jar", "sharp-sand", [change("delivery")], True),
        ("sand-jar", "sharp-sand", [change("delivery", "gravel-20")], False),
        ("cement-bags", "portland-cement", [change("bags")], True),
        ("ground", "", [change("rain")], True),
        ("ground", "", [change("rain", hours_ago=2)], False),  # it rained before somebody looked
    ],
)
def test_what_was_answered_stays_until_something_happens_to_it(
    check: str, of: str, later: list[Changed], open_again: bool
) -> None:
    answer = SHELF.checks[check].answers[0].key
    stand = asked(seen(check, answer, of), *later)[f"{check} {of}".strip()]
    assert (stand.answer is None) == open_again


def test_an_answer_that_holds_for_hours_is_asked_again_after_them() -> None:
    assert asked(seen("ground", "cool", hours_ago=5))["ground"].answer is not None
    assert asked(seen("ground", "cool", hours_ago=7))["ground"].answer is None


def test_the_last_word_counts_and_what_is_rejected_stops_with_its_way_out() -> None:
    log = (seen("water", "foul", hours_ago=3), seen("water", "good", hours_ago=2))
    assert rejected(asked(*log).values()) == ()
    (stop,) = rejected(asked(*log, seen("water", "foul")).values())
    assert PROSE["salt-oily-foul"] in plain(stop.sentence)
    assert stop.hint == PROSE["bring-drinking-water"]


def test_a_jar_read_too_early_is_refused_with_the_minutes_that_are_left() -> None:
    stand = asked(seen("sand-jar", SHAKEN, "sharp-sand", hours_ago=2 / 60))["sand-jar sharp-sand"]
    assert stand.answer is None
    with pytest.raises(MixError, match="28 min more"):
        answered(stand.check, stand, "clear", NOW)
    answered(stand.check, stand, "clear", NOW + timedelta(minutes=28))
    answered(stand.check, asked()["sand-jar sharp-sand"], "clear", NOW)  # somebody shook it before breakfast
    with pytest.raises(MixError, match=PROSE["no-such-answer"]):
        answered(stand.check, stand, "blue", NOW + timedelta(hours=1))


@pytest.mark.parametrize(("layer_mm", "sand_mm"), [(5, 0), (80, 75), (-1, 75), (75, 75)])
def test_a_layer_thicker_than_the_sand_is_refused(layer_mm: float, sand_mm: float) -> None:
    with pytest.raises(MixError, match=PROSE["thinner-than-it"]):
        silt_percent(layer_mm, sand_mm)


def test_an_entry_is_read_back_as_it_was_and_anything_else_is_none() -> None:
    for entry in (seen("water", "good"), change("rain"), air(21)):
        assert read_entry(entry.model_dump(mode="json")) == entry
    with pytest.raises(ValueError, match="kind"):
        read_entry({"kind": "sang", "id": "12345678", "at": NOW.isoformat()})


# ── the air ──────────────────────────────────────────────────────────────────

SOLIDS = st.floats(1, 2000)
DEGREES = st.floats(1, 45)


@given(SOLIDS, SOLIDS, st.floats(1, 300), st.floats(0, 100), DEGREES, DEGREES, DEGREES, st.floats(0, 1))
def test_more_ice_never_warms_and_the_ice_and_the_water_found_bring_the_target(
    aggregate: float, binder: float, water: float, surface: float, warm: float, sand: float, bag: float, share: float
) -> None:
    given_c = MaterialTemperatures(water_c=warm, aggregate_c=sand, binder_c=bag)
    batch = Batch(aggregate, binder, water, surface)

    def out(ice: float) -> float:
        return batch_c(given_c, aggregate, binder, water - ice, surface, ice)

    assert out(water * share) <= out(water * share / 2) + 1e-9
    wanted = out(water * share)
    assert ice_for_kg(wanted, given_c, batch) == pytest.approx(water * share, abs=water * 1e-6)
    cooled = given_c.model_copy(update={"water_c": water_for_c(wanted, given_c, batch)})
    assert batch_c(cooled, aggregate, binder, water, surface, 0) == pytest.approx(wanted, abs=1e-6)


@given(st.floats(5, 35), st.floats(0, 100), st.floats(0, 100))
def test_more_sun_never_lengthens_life_nor_does_warmer_air(air_c: float, sun: float, other: float) -> None:
    less, more = sorted((sun, other))
    lasts = [life_in_air_min(CONCRETE, AirNow(air_c=air_c, sun_percent=one)) for one in (less, more)]
    assert lasts[1] <= lasts[0] <= life_in_air_min(CONCRETE, AirNow(air_c=air_c))
    assert life_in_air_min(CONCRETE, AirNow(air_c=air_c + 5)) == pytest.approx(
        life_in_air_min(CONCRETE, AirNow(air_c=air_c, sun_percent=100))
    )


@given(st.floats(5, 40), st.floats(0, 1), st.floats(0, 40), st.floats(0, 20))
def test_wind_and_dry_air_never_dry_less(air_c: float, humidity: float, wind: float, more: float) -> None:
    now = evaporation_kg_m2_h(air_c, air_c, humidity, wind)
    assert evaporation_kg_m2_h(air_c, air_c, humidity, wind + more) >= now
    assert evaporation_kg_m2_h(air_c, air_c, humidity / 2, wind) >= now


def test_the_air_stops_what_it_would_spoil_and_says_what_helps() -> None:
    def told(mix: str, **given: float) -> tuple[list[str], str]:
        found = advice(SHELF.mixes[mix], AirNow.model_validate(given))
        return [one.level for one in found], " ".join(plain(one.words) for one in found)

    levels, words = told("overlay", air_c=3)  # under 40 °F, as the trade has it: common practice, no source
    assert levels[0] == "stop"
    assert "Too cold" in words
    assert "without chloride" in words
    levels, words = told("stucco-base", air_c=34, humidity_percent=25, wind_km_h=18)
    assert levels[0] == "stop"
    assert PROSE["retarder-without-chloride"] in words
    assert PROSE["a-screen-against-the"] in words
    assert told("concrete-1-2-4", air_c=18, humidity_percent=70, wind_km_h=5) == ([], "")
    assert told("pervious", air_c=28)[0][0] == "stop"  # 5 to 27 °C: common practice, no source
    assert "Too cold" in told("concrete-1-2-4", air_c=8, ground_c=-1)[1]  # the ground counts too
    assert "retarder" not in told("casting-plaster-70", air_c=30)[1]


SHEET = {
    "mix": "stucco-base", "mixer": "drum-site", "place_l_min": "4 L", "strategy": "fewest",
    "shapes": [{"kind": "known", "volume_l": "400 L"}],
}  # fmt: skip


def test_a_hot_day_makes_the_loads_smaller_and_the_life_shorter() -> None:
    mild, hot = (try_plan(SHEET | {"weather": {"air_c": c}}, SHELF).ticket for c in ("20 °C", "30 °C"))
    assert mild is not None
    assert hot is not None
    # 4 L a minute placed in 0.8 of half an hour is 96 L; ten degrees more and it is half of that.
    assert (mild.cards[0].volume_m3 <= 0.096, hot.cards[0].volume_m3 <= 0.048) == (True, True)
    assert hot.count > mild.count
    assert (mild.life_now_min, hot.life_now_min) == (30.0, 15.0)
    assert hot.begins_c == 30


def test_the_air_of_the_morning_is_not_that_of_the_evening() -> None:
    sheet = SHEET | {"weather": {"air_c": "30 °C"}, "weather_at": NOW.isoformat()}
    assert not air_is_old(sheet, NOW + timedelta(hours=5))
    later = try_plan(sheet, SHELF, now=NOW + timedelta(hours=7)).ticket
    assert later is not None
    assert later.air_c is None


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"air_c": "140"}, "check the scale"),
        ({"air_c": "20", "humidity_percent": "140 %"}, "100 % at most"),
        ({"air_c": "20", "wind_km_h": "300"}, "check the unit"),
        ({"air_c": "20", "wind_km_h": "5 kg"}, "not a unit that fits"),
    ],
)
def test_air_that_cannot_be_is_refused_in_words(given: dict[str, str], said: str) -> None:
    faults = try_plan(SHEET | {"weather": given}, SHELF).faults
    assert said in " ".join(plain(words) for fault in faults for words in (fault.sentence, fault.hint))


def test_a_heap_that_was_rained_on_is_asked_about_again_figure_or_look() -> None:
    told = {"moisture_percent": {"plaster-sand": "5 %"}, "looked_at": {"plaster-sand": NOW.isoformat()}}
    rained = {"heap_changed": {"plaster-sand": (NOW + timedelta(hours=1)).isoformat()}}
    assert changed_heaps(told) == frozenset()
    assert changed_heaps(told | rained) == {"plaster-sand"}
    again = {"looked_at": {"plaster-sand": (NOW + timedelta(hours=2)).isoformat()}}
    assert changed_heaps(told | rained | again) == frozenset()
    before, after = (try_plan(SHEET | sheet, SHELF, now=NOW).ticket for sheet in (told, told | rained))
    assert before is not None
    assert after is not None
    assert not before.cards[0].water.if_dry_l
    assert after.cards[0].water.if_dry_l > 0  # as if nobody had looked


def test_cold_that_is_past_the_equation_is_refused() -> None:
    with pytest.raises(TradeError, match=PROSE["does-not-know"]):
        evaporation_kg_m2_h(-20, -25, 0.5, 10)
    with pytest.raises(TradeError, match="0 to 100"):
        evaporation_kg_m2_h(20, 20, 1.4, 10)


def test_old_plaster_runs_its_clock_faster_until_a_new_bag_is_opened() -> None:
    old = seen("plaster-age", "old", "casting-plaster", hours_ago=30)
    assert aged_of(CHECKS, (old,), NOW) == {"casting-plaster": 0.7}
    assert aged_of(CHECKS, (old, change("bags")), NOW) == {}
    assert aged_of(CHECKS, (old, seen("plaster-age", "good", "casting-plaster")), NOW) == {}
    sheet = {"mix": "casting-plaster-70", "shapes": [{"kind": "known", "volume_l": "3 L"}]}
    fresh, aged = (try_plan(one, SHELF).ticket for one in (sheet, sheet | {"aged": {"casting-plaster": 0.7}}))
    assert fresh is not None
    assert aged is not None
    assert aged.life_min == pytest.approx(0.7 * fresh.life_min)
    # Its stages come sooner too; another material's age is not this one's.
    assert [one.from_min for one in aged.stages] == pytest.approx([one.from_min * 0.7 for one in fresh.stages])
    other = try_plan(sheet | {"aged": {"portland-cement": 0.5}}, SHELF).ticket
    assert other is not None
    assert other.life_min == fresh.life_min


def test_every_family_that_drinks_says_how_its_ground_is_wetted() -> None:
    for mix in SHELF.mixes.values():
        if mix.wetting is not None:
            assert mix.wetting.least_l_m2 < mix.wetting.most_l_m2
    assert SHELF.mixes["casting-plaster-70"].wetting is None  # poured into a mould
    assert all(SHELF.mixes[key].wetting for key in ("concrete-1-2-4", "overlay", "stucco-base", "screed-semi-dry"))


@given(st.integers(0, 23))
def test_the_station_and_the_thermometers_give_what_a_day_may_have(hour: int) -> None:
    now = NOW.replace(hour=hour)
    read, warmth = station_air(now), thermometers_c(now)
    assert 11 <= read.air_c <= 23
    assert (read.sun_percent == 0) == (not 6 < hour < 18)
    assert warmth.aggregate_c is not None
    assert warmth.water_c <= warmth.aggregate_c
