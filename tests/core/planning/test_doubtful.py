"""What can be and hardly ever is, is asked about."""

from typing import Any

import pytest

from keeve.core.message.errors import TradeError
from tests.conftest import Planner

CONCRETE: dict[str, Any] = {"mix": "concrete-1-2-4", "mixer": "drum-site"}
WARM = {"water_c": 20, "aggregate_c": 15, "binder_c": 15}


@pytest.mark.parametrize(
    ("sheet", "words"),
    [
        ({"mix": "hemp-lime-wall", "mixer": None, "changes": {"placed_kg_m3": "160"}}, "tamped hard"),
        (CONCRETE | {"temperatures": WARM | {"water_c": 65}}, "set in lumps"),
        (CONCRETE | {"temperatures": WARM | {"aggregate_c": -2}}, "is ice"),
        (CONCRETE | {"temperatures": WARM | {"stone_c": -2}}, "is ice"),
    ],
)
def test_it_is_asked_about_and_believed_when_it_is_meant(planned: Planner, sheet: dict[str, Any], words: str) -> None:
    with pytest.raises(TradeError) as asked:
        planned(**sheet)
    assert any(words in str(one.sentence) for one in asked.value.faults)
    assert {one.field for one in asked.value.faults} == {"unusual_ok"}
    assert planned(**sheet, unusual_ok=True).cards


@pytest.mark.parametrize("sheet", [CONCRETE | {"temperatures": WARM | {"water_c": 60, "aggregate_c": 0}}])
def test_what_lies_at_the_bound_is_not_asked_about(planned: Planner, sheet: dict[str, Any]) -> None:
    assert planned(**sheet).cards
