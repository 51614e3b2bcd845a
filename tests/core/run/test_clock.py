"""Clocks of a load: its life by temperature, the stages of plaster, and what a mark does to them."""

import itertools
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.core.hardening.clock import life_ends_ms, stages_of
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from keeve.core.run.due import clocks_due
from keeve.core.run.events import milliseconds
from keeve.core.run.folding import fold
from tests.conftest import Ticketer
from tests.core.run.test_run import one, run_of, ticket_of
from tests.prose import PROSE
from tests.taps import BEGIN, Phone

MINUTE = 60_000
PLASTER = ticket_of(mix="casting-plaster-70", mixer=None, moisture_percent={})
ORDER = [stage.key for stage in PLASTER.stages]


def poured(phone: Phone, at: float = 0.0) -> None:
    """Taps until the powder is in the water: the first powder at two minutes past `at`."""
    meets = PLASTER.cards[0].meets
    phone.tap(at, "started", ticket=1, slot=0)
    for step in range(meets + 1):
        phone.tap(at + 2 * (step + 1) / meets if meets else at + 2, "step_done", step=step)


@pytest.mark.parametrize(
    ("looks", "minutes"),
    [
        ([], 90),  # as stated, at 20 °C
        ([(0, 30.0)], 45),  # ten degrees double the pace: common practice, no source
        ([(0, 10.0)], 180),
        ([(45, 30.0)], 67.5),  # half of it used in 45 min, the rest at twice the pace
        ([(45, 30.0), (56.25, 20.0)], 78.75),  # a quarter in 11¼ min, the last quarter in 22½
        ([(100, 35.0)], 90),  # measured when it was used up already
    ],
)
def test_a_life_is_used_up_faster_when_it_is_warm(looks: list[tuple[float, float]], minutes: float) -> None:
    given_ms = [(round(at * MINUTE), celsius) for at, celsius in looks]
    assert life_ends_ms(0, 90, 20, 20, given_ms) == pytest.approx(minutes * MINUTE, abs=1)


@given(
    st.floats(5, 600),
    st.lists(st.tuples(st.integers(0, 900), st.floats(0, 45)), max_size=6).map(sorted),
    st.floats(0, 45),
)
def test_warmer_never_lives_longer_and_no_look_moves_the_past(
    life_min: float, looks: list[tuple[int, float]], began_c: float
) -> None:
    in_ms = [(at * MINUTE, celsius) for at, celsius in looks]
    end = life_ends_ms(0, life_min, 20, began_c, in_ms)
    assert end > 0
    warmer = [(at, celsius + 3) for at, celsius in in_ms]
    assert life_ends_ms(0, life_min, 20, began_c + 3, warmer) <= end
    assert life_ends_ms(0, life_min, 20, began_c, [*in_ms, (end, 45.0)]) == pytest.approx(end, abs=2)
    # Measured twice the same is measured once.
    assert life_ends_ms(0, life_min, 20, began_c, [one for one in in_ms for _ in (0, 1)]) == pytest.approx(end, abs=2)


def test_the_life_of_a_load_follows_the_temperature_measured_of_it() -> None:
    ticket = ticket_of(moisture_percent={"sharp-sand": 5, "gravel-20": 1})
    phone = Phone()
    phone.tap(0, "started", ticket=1, slot=0)
    for step in range(ticket.cards[0].meets + 1):
        phone.tap(step, "step_done", step=step)
    met = one(run_of(phone)).met_ms
    assert met is not None
    assert one(run_of(phone)).life_ends_ms == met + 90 * MINUTE
    phone.tap(ticket.cards[0].meets, "measured", what="temperature", value=30)
    assert one(run_of(phone)).life_ends_ms == pytest.approx(met + 45 * MINUTE, abs=2)
    assert one(run_of(phone)).measured == {"temperature": 30}


def test_stages_follow_each_other_from_the_first_powder_to_the_dry_cast() -> None:
    assert ORDER == [
        "soak",
        "stir",
        "cream",
        "yoghurt",
        "mayonnaise",
        "cheese",
        "stiff",
        "hot",
        "demould",
        "wet",
        "dry",
    ]
    assert PLASTER.stages[0].from_min == 0
    for one_stage, following in itertools.pairwise(PLASTER.stages):
        assert one_stage.to_min == pytest.approx(following.from_min)
        assert one_stage.firm <= following.firm
    # Common practice, no source: poured as cream from the seventh minute, hottest about half an hour after the powder.
    by_key = {stage.key: stage for stage in PLASTER.stages}
    assert (by_key["cream"].from_min, by_key["hot"].from_min, by_key["hot"].heat) == (7, 27, 1)


def test_a_slower_plaster_goes_through_them_later_and_a_held_back_one_has_none() -> None:
    mixes = load_catalogue().mixes
    table = mixes["casting-plaster-70"].stages
    slow = {stage.key: stage.from_min for stage in stages_of(table, 18)}
    assert slow["cream"] == pytest.approx(10.5)
    assert stages_of(table, 40) == ()
    assert stages_of((), 12) == ()
    assert {key for key, mix in mixes.items() if mix.stages and mix.family != "plaster"} == set()


def test_a_marked_stage_times_the_rest_anew_and_the_next_buckets_of_the_day() -> None:
    phone = Phone(mixer="bucket-30")
    poured(phone)
    load = one(fold({1: PLASTER}, phone.events))
    assert load.first_powder_ms is not None
    assert load.pace == 1
    first_min = load.first_powder_ms / MINUTE - milliseconds(BEGIN) / MINUTE
    phone.tap(first_min + 8.75, "stage_seen", stage="cream")  # expected after 7
    assert one(fold({1: PLASTER}, phone.events)).pace == pytest.approx(1.25)
    phone.tap(first_min + 30, "stage_seen", stage="cheese")  # expected after 15: the latest mark counts
    assert one(fold({1: PLASTER}, phone.events)).pace == pytest.approx(2)
    phone.tap(40, "accepted")
    phone.load = 2
    poured(phone, 60)
    assert one(fold({1: PLASTER}, phone.events), 2).pace == pytest.approx(2)
    phone.load = 3
    poured(phone, 60 + 24 * 60)  # another day
    assert one(fold({1: PLASTER}, phone.events), 3).pace == 1


def test_a_stage_nobody_knows_changes_nothing() -> None:
    phone = Phone(mixer="bucket-30")
    poured(phone)
    phone.tap(20, "stage_seen", stage="pudding")
    assert one(fold({1: PLASTER}, phone.events)).pace == 1


def test_water_is_waited_for_longest_where_it_shows_last() -> None:
    waits = {key: mix.wet_out_s for key, mix in load_catalogue().mixes.items()}
    assert waits["concrete-1-2-4"] == 45  # three time constants of 15 s, methods: plain
    assert waits["lime-pointing-1-2-5"] == 300  # looks dry, then fattens: wait 5 to 10 min; common practice
    assert waits["thin-panel"] == 180
    reduced = ticket_of(admixtures=[{"admixture": "plasticiser", "dose": "300 mL/100 kg"}])
    assert reduced.wet_out_s == 180  # three of 60 s, methods: with a reducer


def test_every_mix_is_cleaned_up_after_in_each_of_its_mixers() -> None:
    for mix in load_catalogue().mixes.values():
        assert set(mix.cleaning) == set(mix.procedures), mix.key
        assert mix.leftovers, mix.key
        said = " ".join(str(line) for lines in mix.cleaning.values() for line in lines)
        assert "drain" in said, mix.key


def test_what_is_due_at_a_load_is_its_timer_its_life_and_then_its_stages() -> None:
    phone = Phone(mixer="bucket-30")
    poured(phone)
    run = fold({1: PLASTER}, phone.events)
    load = one(run)
    step = PLASTER.cards[0].steps[load.step]
    now = load.since_ms
    (clock,) = clocks_due(run, {1: PLASTER}, now)
    assert clock.now == step.title
    ends = [at for at in (now + step.seconds * 1000 if step.seconds else None, load.life_ends_ms) if at is not None]
    assert [due.at_ms for due in clock.due] == sorted(ends)
    phone.tap(10, "accepted")
    run = fold({1: PLASTER}, phone.events)
    first = one(run).first_powder_ms
    assert first is not None
    (clock,) = clocks_due(run, {1: PLASTER}, first + 16 * MINUTE)
    assert clock.now == "Cheese"
    assert [due.what for due in clock.due if due.at_ms > first + 16 * MINUTE] == [
        "Stiff, warming",
        "Hot",
        "Demould",
        PROSE["cool-and-wet"],
    ]  # days of drying run on no page but its own
    assert clocks_due(run, {1: PLASTER}, first + 3 * 60 * MINUTE) == ()
    phone.tap(11, "undone", undoes=phone.raw[-1]["id"])
    phone.tap(12, "thrown_away")
    assert clocks_due(fold({1: PLASTER}, phone.events), {1: PLASTER}, first) == ()


def test_mortar_that_is_kept_is_turned_and_what_never_waits_is_not() -> None:
    mixes = load_catalogue().mixes
    turned = {key for key, mix in mixes.items() if mix.turn_again_min > 0}
    assert {"lime-pointing-1-2-5", "bricklaying-mortar-1-4", "c270-n"} <= turned  # common practice, no source
    assert turned.isdisjoint({"stucco-base", "casting-plaster-70", "concrete-1-2-4", "overlay", "screed-semi-dry"})


def test_an_own_mix_kept_before_there_were_stages_has_those_of_its_kind() -> None:
    catalogue = load_catalogue()
    ours = catalogue.mixes["casting-plaster-65"]
    kept = ours.model_dump(mode="json", exclude={"cleaning", "leftovers", "stages", "wet_out_s", "turn_again_min"})
    own = type(ours).model_validate(kept | {"key": "own-plaster", "name": "Ours"})
    grown = catalogue.with_own((own,), ()).mixes["own-plaster"]
    assert (grown.stages, grown.cleaning, grown.leftovers) == (ours.stages, ours.cleaning, ours.leftovers)
    strange = own.model_copy(update={"family": "something else"})
    assert catalogue.with_own((strange,), ()).mixes["own-plaster"].stages == ()


def test_a_stage_marked_far_off_its_time_does_not_move_the_clocks() -> None:
    """House ruling: under a third or over three times of what was expected is a slip, and teaches no pace."""
    phone = Phone(mixer="bucket-30")
    poured(phone)
    load = one(fold({1: PLASTER}, phone.events))
    assert load.first_powder_ms is not None
    first_min = (load.first_powder_ms - milliseconds(BEGIN)) / MINUTE
    phone.tap(first_min + 0.7, "stage_seen", stage="cream")  # expected after 7: a slip of ten
    assert one(fold({1: PLASTER}, phone.events)).pace == 1
    phone.tap(first_min + 18, "stage_seen", stage="cheese")
    assert one(fold({1: PLASTER}, phone.events)).pace == pytest.approx(1.2)


def test_warm_water_shortens_life_stages_and_steps_of_plaster(ticketed: Ticketer) -> None:
    cast: dict[str, Any] = {"mix": "casting-plaster-70", "mixer": "paddle-bucket", "shapes": []}
    cast |= {"start": "2 kg of plaster"}
    cool = ticketed(**cast, temperatures={"water_c": 21, "binder_c": 21})
    warm = ticketed(**cast, temperatures={"water_c": 30, "binder_c": 21})
    assert warm.batch_c is not None
    # By hand: 2 kg of powder of 0.22 times the heat of water, and its water: near that of the water.
    water = warm.cards[0].water.pour.target
    assert warm.batch_c == pytest.approx((0.22 * 2 * 21 + water * 30) / (0.22 * 2 + water))
    pace = 2 ** ((21 - warm.batch_c) / 10)
    assert warm.life_now_min == pytest.approx(cool.life_now_min * pace)
    assert [one.from_min for one in warm.stages] == pytest.approx([one.from_min * pace for one in cool.stages])
    from_powder = [sum(step.seconds for step in one.cards[0].steps[one.cards[0].meets :]) for one in (cool, warm)]
    assert from_powder[1] < from_powder[0]
    assert from_powder[1] + 90 <= warm.life_now_min * 60
    assert all(step.seconds == 0 or step.seconds >= 60 for step in warm.cards[0].steps[warm.cards[0].meets :])
    burns = [next(plain(c) for c in one.cautions if "burns" in plain(c)) for one in (cool, warm)]
    assert burns[0] != burns[1]
    with pytest.raises(TradeError, match=PROSE["too-soon-to-soak"]):
        ticketed(**cast, temperatures={"water_c": 40, "binder_c": 30}, aged={"casting-plaster": 0.7})


def test_late_water_is_never_allowed_longer_than_the_mix_lives(ticketed: Ticketer) -> None:
    """ASTM C270 lets a mortar be used within 2½ hours, from memory; in the heat it lives shorter than that."""
    mortar: dict[str, Any] = {"mix": "c270-s", "mixer": "drum-site"}
    told = ticketed(**mortar)
    assert f"within {min(150, round(told.life_now_min))} min" in plain(told.rescue.stiffened)
    hot = ticketed(**mortar, temperatures={"water_c": 30, "aggregate_c": 36, "binder_c": 40})
    assert hot.life_now_min < told.life_now_min
    assert f"within {round(hot.life_now_min)} min" in plain(hot.rescue.stiffened)
