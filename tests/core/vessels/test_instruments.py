"""What water is poured with."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.vessels.instruments import jug_full_l


@given(st.floats(0.2, 30), st.booleans())
def test_a_full_jug_is_one_of_its_whole_marks_and_can_be_carried(brim_l: float, us: bool) -> None:
    full = jug_full_l(brim_l, us=us)
    quart = 3.785411784 / 4  # NIST SP 811
    part = (quart if us else 1.0) * (1 if full >= (quart if us else 1.0) - 1e-9 else 0.25 if us else 0.1)
    assert 0.4 * brim_l < full <= 0.97 * brim_l + 1e-9
    assert full == pytest.approx(0.97 * brim_l) or full / part == pytest.approx(round(full / part))
