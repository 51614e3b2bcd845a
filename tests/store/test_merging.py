"""Two people write one sheet: nothing of either is lost."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.store.rows.merging import merged

A, B, C = ({"kind": "slab", "length_mm": f"{n} m"} for n in (1, 2, 3))


@pytest.mark.parametrize(
    ("base", "mine", "theirs", "both"),
    [
        ({"a": 1}, {"a": 2}, {"a": 1, "b": 3}, {"a": 2, "b": 3}),
        ({"a": 1, "b": 1}, {"a": 1}, {"a": 2, "b": 1}, {"a": 2}),
        ({"s": []}, {"s": [A]}, {"s": [B]}, {"s": [A, B]}),
        ({"s": []}, {"s": [A]}, {"s": [A]}, {"s": [A]}),  # the same new row twice is one
        ({"s": [A]}, {"s": [A, B]}, {"s": [A, C]}, {"s": [A, B, C]}),
        ({"s": [A, B]}, {"s": [B]}, {"s": [A, B, C]}, {"s": [B, C]}),
        ({"s": [A, B]}, {"s": [A | {"depth_mm": "9"}, B]}, {"s": [A, B | {"depth_mm": "8"}]},
         {"s": [A | {"depth_mm": "9"}, B | {"depth_mm": "8"}]}),
    ],
)  # fmt: skip
def test_what_only_one_of_them_changed_is_taken_from_both(base: Any, mine: Any, theirs: Any, both: Any) -> None:
    assert merged(base, mine, theirs) == (both, [])


def test_what_both_changed_is_mine_and_theirs_is_told() -> None:
    both, clashes = merged({"s": [A]}, {"s": [A | {"length_mm": "5 m"}]}, {"s": [A | {"length_mm": "6 m"}]})
    assert both["s"][0]["length_mm"] == "5 m"
    assert [(c.path, c.mine, c.theirs) for c in clashes] == [("s.0.length_mm", "5 m", "6 m")]


VALUES = st.recursive(
    st.integers(0, 3), lambda inner: st.dictionaries(st.sampled_from("abc"), inner, max_size=3), max_leaves=6
)
SHEETS = st.dictionaries(st.sampled_from("abcd"), VALUES, max_size=4)


@given(SHEETS, SHEETS)
def test_one_change_alone_comes_through_whole(base: Any, changed: Any) -> None:
    assert merged(base, changed, base) == (changed, [])
    assert merged(base, base, changed) == (changed, [])
    assert merged(base, changed, changed) == (changed, [])
