"""The log of a load, read back."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.batch import BatchEvent, read_batch
from keeve.core.review import next_time, review
from tests.conftest import Planner

BEGIN = datetime(2026, 9, 14, 8, 0, tzinfo=UTC)


def event(n: int, kind: str, **more: Any) -> BatchEvent:
    return BatchEvent.model_validate(
        {"id": f"00000000-0000-{n:04d}", "at": BEGIN + timedelta(minutes=n), "kind": kind} | more
    )


LOG = (
    event(0, "started"),
    event(1, "water", litres=8.0),
    event(2, "step_done", step=0),
    event(3, "water", litres=2.0),
    event(4, "judged", verdict="dry"),
    event(5, "water", litres=0.5),
    event(6, "judged", verdict="right"),
    event(7, "step_done", step=7),
    event(20, "accepted"),
)


def test_a_log_tells_what_the_load_took() -> None:
    batch = read_batch(LOG)
    assert batch.poured_l == pytest.approx(10.5)
    assert batch.late_water_l == pytest.approx(0.5)
    assert batch.pours == 3
    assert batch.verdicts == ("dry", "right")
    assert batch.step == 8
    assert batch.ended == "accepted"


def test_what_was_taken_back_does_not_count() -> None:
    taken_back = event(8, "undone", undoes=LOG[5].id)
    assert read_batch((*LOG, taken_back)).poured_l == pytest.approx(10.0)


@given(st.permutations([*LOG, LOG[1], LOG[5]]))
def test_order_of_arrival_and_repeats_change_nothing(events: list[BatchEvent]) -> None:
    assert read_batch(tuple(events)) == read_batch(LOG)


def test_stepping_back_stands_at_the_step_again() -> None:
    assert read_batch((event(0, "step_done", step=3), event(1, "step_back", step=2))).step == 2


def test_looking_back_sets_the_log_beside_the_ticket(planned: Planner) -> None:
    plan = planned(mix="concrete-bag-25kg", mixer="drum-small", shapes=[{"kind": "known", "volume_l": 100}])
    assert plan.cards[0].doses[0].packs == pytest.approx(5.0)
    found = review(plan, {1: LOG, 2: (event(0, "started"), event(1, "water", litres=3.0))})
    assert found.accepted == 1
    assert found.mean_poured_l == pytest.approx(10.5)
    assert found.rows[0].minutes == 20
    assert found.rows[1].batch.ended == ""
    used = {u.key: u for u in found.used}
    assert used["water"].used_kg == pytest.approx(10.5)
    assert used["concrete-premix"].used_kg == pytest.approx(125.0)  # five whole bags of 25 kg


def test_next_time_begins_where_the_loads_ended(planned: Planner) -> None:
    plan = planned(mix="concrete-bag-25kg", mixer="drum-small", shapes=[{"kind": "known", "volume_l": 50}])
    told = next_time(review(plan, {1: LOG}))
    assert told is not None
    assert told[0] == "more"
    assert told[1] == pytest.approx((10.5 / 8.75 - 1) * 100)  # five bags at 1.75 L
    assert next_time(review(plan, {})) is None
