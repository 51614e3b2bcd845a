"""The log read for what the sand is: two figures for the next load, resets, and the chart of evenness."""

import math
import random
from itertools import pairwise
from statistics import fmean

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.lessons.evenness import LIMIT, RANGE_LIMIT, individuals
from keeve.core.lessons.learning import HeapEvent, Learning, heap_of, learn, percent_of, pour_for_l
from keeve.core.materials.looks import SAND_LOOKS
from keeve.core.run.folding import fold
from tests.core.run.test_run import DAMP, ticket_of
from tests.taps import Phone

TICKET = ticket_of(moisture_percent=DAMP, shapes=[{"kind": "known", "volume_l": 1200}])
CARD = TICKET.cards[0]
SAND = heap_of(CARD)
MINUTE_MS = 60_000


def load(phone: Phone, at: float, litres: float, *, ticket: int = 1, slot: int = 0, sip_l: float = 0.0) -> None:
    """A load that looked right, at once or after a sip."""
    phone.tap(at, "started", ticket=ticket, slot=slot)
    phone.tap(at + 1, "poured", litres=litres - sip_l)
    if sip_l:
        phone.tap(at + 2, "judged", verdict="dry")
        phone.tap(at + 3, "poured", litres=sip_l)
    phone.tap(at + 4, "judged", verdict="right")
    phone.tap(at + 8, "accepted")
    phone.load += 1


def day(*percents: float, every_min: float = 12, sip_l: float = 0.0) -> Phone:
    """Loads whose sand is so wet, each poured to what it wants."""
    assert SAND is not None
    phone = Phone()
    for number, percent in enumerate(percents):
        load(phone, number * every_min, pour_for_l(CARD, SAND, percent), slot=number % len(TICKET.loads), sip_l=sip_l)
    return phone


def learned(phone: Phone, *events: HeapEvent) -> Learning:
    return learn(fold({1: TICKET}, phone.events), {1: TICKET}, events)


def learned_of(*phones: Phone) -> Learning:
    return learn(fold({1: TICKET}, [event for phone in phones for event in phone.events]), {1: TICKET})


def test_the_sand_decides_and_the_stone_does_not() -> None:
    assert SAND is not None
    assert SAND.key == "sharp-sand"
    assert percent_of(CARD, SAND, pour_for_l(CARD, SAND, 6.3)) == pytest.approx(6.3)


def test_each_load_tells_its_moisture_and_the_next_two_figures_come_nearer() -> None:
    assert SAND is not None
    found = learned(day(7.0, 7.2, 6.9, 7.1, 7.0))  # the ticket says 5
    assert [one.percent for one in found.loads] == pytest.approx([7.0, 7.2, 6.9, 7.1, 7.0])
    off = [abs(one.told.expected_l - one.poured_l) for one in found.loads]
    assert off[0] > 2.5 * off[-1]
    assert found.next_l is not None
    expected, first, ceiling = found.next_l
    assert first < expected < ceiling
    assert expected < pour_for_l(CARD, SAND, 5.0)
    assert expected == pytest.approx(pour_for_l(CARD, SAND, 7.0), abs=0.5)


@pytest.mark.parametrize(
    "moisture", [{}, DAMP, {"sharp-sand": "wet", "gravel-20": 1}], ids=["not looked at", "damp", "wet"]
)
def test_before_a_load_has_told_anything_the_ticket_leads(moisture: dict[str, object]) -> None:
    """Of a heap nobody looked at the ticket counts the wettest: to pour for the likely one would be too much."""
    ticket = ticket_of(moisture_percent=moisture, shapes=[{"kind": "known", "volume_l": 1200}])
    wanted_l = ticket.cards[0].water.pour.target
    phone = Phone()
    assert learn(fold({1: ticket}, []), {1: ticket}).next_l is None
    phone.tap(0, "started", ticket=1, slot=0)
    run = fold({1: ticket}, phone.events)
    assert run.loads[0].aim_l == pytest.approx(wanted_l)
    assert learn(run, {1: ticket}).next_l is None
    phone.tap(1, "poured", litres=wanted_l)
    phone.tap(4, "judged", verdict="right")
    phone.tap(8, "accepted")
    assert learn(fold({1: ticket}, phone.events), {1: ticket}).next_l is not None


def test_a_load_sipped_up_was_drier_than_one_that_was_right_at_once() -> None:
    at_once, sipped = (learned(day(5.0, 5.0, 5.0, sip_l=one)) for one in (0.0, CARD.water.sip_l))
    assert at_once.now is not None
    assert sipped.now is not None
    assert sipped.now.percent < at_once.now.percent


def test_rain_and_a_night_make_it_unsure_again_and_a_new_look_says_it_anew() -> None:
    phone = day(5.0, 5.0, 5.0, 5.0)
    begin_ms = learned(phone).loads[0].at_ms
    dry = learned(phone)
    rained = learned(phone, HeapEvent(begin_ms + 60 * MINUTE_MS, "rain"))
    assert dry.now is not None
    assert rained.now is not None
    assert rained.now.sd > 2 * dry.now.sd
    assert rained.now.percent == pytest.approx(dry.now.percent, abs=0.3)
    late = learned(day(5.0, 5.0, every_min=11 * 60))
    assert late.loads[1].before.sd == pytest.approx(1.2, abs=0.02)
    wetter = ticket_of(revision=2, moisture_percent={"sharp-sand": "wet", "gravel-20": 1})
    both = {1: TICKET, 2: wetter}
    first = day(5.0, 5.0)
    load(first, 60, 8.0, ticket=2)
    told = learn(fold(both, first.events), both)
    assert told.loads[-1].before.percent == pytest.approx(SAND_LOOKS["wet"].likely)


def test_a_look_is_asked_for_once_a_side_where_the_belief_has_left_its_window() -> None:
    assert SAND is not None
    assert SAND.heap is not None
    low, high = SAND.heap.water.low, SAND.heap.water.high
    wet, dry, inside = high + 2.5, max(low - 2.5, 0.0), SAND.heap.water.likely
    asked = [learned(day(*([wet] * n))).asks for n in range(1, 9)]
    assert asked.count("wetter") == 1
    back = [inside] * 9
    again = [learned(day(*([wet] * 4), *back, *([dry] * n))).asks for n in range(1, 9)]
    assert again.count("drier") == 1
    assert learned(day(*([inside] * 5))).asks == ""


def test_too_dry_at_the_ceiling_tells_of_a_drier_heap_and_teaches_no_count() -> None:
    assert SAND is not None
    phone = Phone()
    phone.tap(0, "started", ticket=1, slot=0)
    phone.tap(1, "poured", litres=CARD.water.pour.high)
    phone.tap(2, "judged", verdict="dry")
    phone.tap(8, "accepted")
    found = learned(phone)
    (one,) = found.loads
    assert (one.percent, one.said) == (None, "dry")
    assert one.after.percent < one.before.percent - 0.3
    assert found.next_l is not None
    assert found.next_l.ceiling_l > CARD.water.pour.high
    assert fold({1: TICKET}, phone.events).next.taught_by is None  # type: ignore[union-attr]


def test_a_look_since_the_last_load_decides_the_next_one() -> None:
    wetter = ticket_of(
        revision=2, moisture_percent={"sharp-sand": "wet", "gravel-20": 1}, shapes=[{"kind": "known", "volume_l": 900}]
    )
    both = {1: TICKET, 2: wetter}
    dry = learn(fold({1: TICKET}, day(3.0, 3.0).events), {1: TICKET})
    looked = learn(fold(both, day(3.0, 3.0).events), both)
    assert looked.now is not None
    assert looked.now.percent == SAND_LOOKS["wet"].likely
    assert dry.next_l is not None
    assert looked.next_l is not None
    assert looked.next_l[0] < dry.next_l[0]


def test_two_mixers_may_have_a_load_of_one_number_in_them() -> None:
    one, other = day(5.0), Phone(name="b.1", mixer="pan-forced")
    load(other, 2, 9.0)
    found = learned_of(one, other)
    assert {entry.mixer for entry in found.loads} == {"drum-site", "pan-forced"}
    assert len(found.loads) == 2


def test_nothing_is_learned_where_nothing_lies_outside() -> None:
    bag = ticket_of(mix="concrete-bag-25kg")
    found = learn(fold({1: bag}, Phone().events), {1: bag})
    assert (found.heap, found.loads, found.next_l) == (None, (), None)


# ── evenness ─────────────────────────────────────────────────────────────────


def test_the_constants_are_those_of_ranges_of_two() -> None:
    # Of two normal values: mean range 2/√π, its variance 2 − 4/π. Plain arithmetic.
    d2, d3 = 2 / math.sqrt(math.pi), math.sqrt(2 - 4 / math.pi)
    assert pytest.approx(3 / d2, abs=0.002) == LIMIT
    assert pytest.approx(1 + 3 * d3 / d2, abs=0.001) == RANGE_LIMIT


@given(st.lists(st.floats(-5, 20), min_size=6, max_size=60), st.floats(-10, 10), st.floats(0.1, 9))
def test_the_chart_moves_and_grows_with_its_values(values: list[float], more: float, times: float) -> None:
    chart, moved = individuals(values), individuals([one * times + more for one in values])
    ranges = [abs(b - a) for a, b in pairwise(values)]
    assert chart.high - chart.mean == pytest.approx(2.66 * fmean(ranges))
    assert moved.mean == pytest.approx(chart.mean * times + more, abs=1e-6)
    assert moved.high - moved.low == pytest.approx((chart.high - chart.low) * times, abs=1e-6)


def test_eight_on_one_side_a_jump_and_a_load_beyond_are_told() -> None:
    lot = random.Random(3)
    even = [lot.gauss(10, 0.2) for _ in range(30)]
    assert sum(bool(one.signals) for one in individuals(even).points) <= 1
    risen = individuals([*even[:8], *(one + 0.9 for one in even[8:16])])
    assert any("run" in one.signals for one in risen.points[8:])
    jumped = individuals([*even, 12.0])
    assert set(jumped.points[-1].signals) == {"beyond", "jump"}
    assert not individuals(even[:5]).limited
    assert individuals(()).points == ()
