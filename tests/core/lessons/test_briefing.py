"""One load, one brief: who leads it, in which marks it is told, and that it never goes past its highest."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from keeve.core.lessons.briefing import brief, mark_l
from keeve.core.lessons.learning import learn
from keeve.core.run.brief import Brief, Lead, written
from keeve.core.run.folding import fold
from keeve.core.ticket.ticket import Ticket
from tests.core.run.test_run import DAMP, ticket_of
from tests.taps import Phone

TICKET = ticket_of(moisture_percent=DAMP)
CARD = TICKET.cards[0]
PLASTER = ticket_of(mix="casting-plaster-70", mixer=None)


def told(phone: Phone, ticket: Ticket = TICKET, **more: Any) -> Any:
    run = fold({1: ticket}, phone.events)
    assert run.next is not None
    return brief(ticket, run.next, learn(run, {1: ticket}), **more)


def test_a_first_load_is_told_what_stands_on_its_ticket() -> None:
    first = told(Phone())
    assert first.leads == "ticket"
    assert (first.target_l, first.ceiling_l) == (CARD.water.pour.target, CARD.water.pour.high)
    assert first.first_l == pytest.approx(CARD.water.first_l)
    assert first.steps_l == pytest.approx([step.water_l for step in CARD.steps])


def test_after_a_load_the_sand_leads_and_what_it_tells_stands_on_marks() -> None:
    """By hand: a jug marked every 0.1 L shows whole tenths; first and highest are cut down, the target is the nearest."""
    phone = Phone()
    phone.mix(0, CARD.water.pour.target - 1.23)
    asked = told(phone)
    assert asked.leads == "sand"
    assert asked.mark_l == CARD.water.by.step_l == 0.1
    for litres in (asked.first_l, asked.target_l, asked.ceiling_l):
        assert litres * 10 == pytest.approx(round(litres * 10), abs=1e-6)
    assert abs(asked.target_l - asked.expected_l) <= 0.05 + 1e-9
    assert asked.first_l < asked.target_l < asked.ceiling_l
    assert asked.believed is not None
    assert asked.believed.percent > 5  # less water was right: the sand is wetter than it looked


def test_a_reader_of_ounces_is_told_by_the_other_side_of_the_jug() -> None:
    """Common practice, no source: the jug with tenths of a litre has 4 fluid ounces on its other side: 118.294 mL."""
    phone = Phone()
    phone.mix(0, CARD.water.pour.target - 1.23)
    asked = told(phone, us=True)
    assert asked.mark_l == mark_l(CARD, us=True) == pytest.approx(0.118294, abs=1e-6)
    assert asked.first_l / 0.118294118 == pytest.approx(round(asked.first_l / 0.118294118), abs=1e-6)


def test_where_nothing_lies_outside_the_last_load_leads() -> None:
    phone = Phone(mixer=PLASTER.mixer.key)
    want = PLASTER.cards[0].water.pour.target
    phone.mix(0, want * 0.97)
    asked = told(phone, PLASTER)
    assert (asked.leads, asked.taught_by, asked.believed) == ("load", 1, None)
    assert asked.target_l == pytest.approx(want * 0.97, abs=asked.mark_l / 2 + 1e-9)


@given(
    expected=st.floats(0, 60), first=st.one_of(st.none(), st.floats(0, 1)), most=st.floats(0, 1),
    mark=st.sampled_from([0.0, 0.001, 0.1, 0.118294, 0.25, 1.0]), ticket=st.sampled_from([TICKET, PLASTER]),
)  # fmt: skip
def test_a_brief_adds_up_and_never_goes_past_its_highest(
    expected: float, first: float | None, most: float, mark: float, ticket: Ticket
) -> None:
    card, ceiling = ticket.cards[0], expected * (1 + most)
    asked = written(card, Lead("sand", expected, None if first is None else expected * first, ceiling), mark)
    assert asked.ceiling_l is not None
    assert asked.first_l <= asked.target_l + 1e-9 <= asked.ceiling_l + 2e-9
    assert asked.ceiling_l <= ceiling + 1e-5
    assert abs(asked.target_l - expected) <= mark + 1e-6
    sipped = any(step.kind == "sips" for step in card.steps)
    assert sum(asked.steps_l) == pytest.approx(asked.target_l if sipped else asked.first_l, abs=1e-6)
    assert all(one >= -1e-9 for one in asked.steps_l)


@given(expected=st.floats(0, 60), share=st.floats(0, 1), most=st.floats(0, 1), mark=st.floats(0.001, 2))
def test_what_an_honest_phone_writes_is_never_refused(expected: float, share: float, most: float, mark: float) -> None:
    asked = written(CARD, Lead("sand", expected, expected * share, expected * (1 + most)), mark)
    assert Brief.model_validate(asked.model_dump(mode="json")) == asked


@pytest.mark.parametrize(
    "wrong",
    [
        {"steps_l": [-1.0]},
        {"beside": "x" * 5000},
        {"steps_l": [float("nan")]},
        {"target_l": float("inf")},
        {"leads": "moon"},
        {"first_l": -1},
    ],
)
def test_a_brief_that_cannot_be_is_refused(wrong: dict[str, Any]) -> None:
    good = {"leads": "sand", "expected_l": 9.0, "target_l": 9.0, "first_l": 8.0, "ceiling_l": 10.0}
    assert Brief.model_validate(good).first_l == 8.0
    with pytest.raises(ValidationError, match="no longer than that" if "beside" in wrong else next(iter(wrong))):
        Brief.model_validate(good | wrong)
