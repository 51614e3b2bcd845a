"""What the filter is worth, in days drawn by lot; more of them: bench/moisture.py, and its table in docs/moisture.md."""

import pytest

from tests.worlds import LOADS, WORLDS, day_in, lived

DAYS = 150


def test_the_reference_world_is_poured_nearer_to_what_the_sand_wants() -> None:
    ideal, real = lived("reference", DAYS, ideal=True), lived("reference", DAYS, ideal=False)
    assert ideal["filter"].error_l <= 0.75 * ideal["last"].error_l
    assert real["filter"].error_l <= 0.85 * real["last"].error_l
    assert real["filter"].error_l <= 0.50 * real["recipe"].error_l
    kept, last = real["filter"], real["last"]
    assert kept.share(kept.wet) <= last.share(last.wet) / 3
    assert kept.share(kept.sips) <= last.share(last.sips) + 1


@pytest.mark.parametrize("name", [name for name, world in WORLDS.items() if world.told])
def test_it_is_nowhere_worse_than_pouring_as_the_last_load_where_rain_is_told(name: str) -> None:
    for ideal in (True, False):
        found = lived(name, 60, ideal=ideal)
        assert found["filter"].error_l <= 1.05 * found["last"].error_l


def test_the_same_seed_is_the_same_day_and_a_day_has_its_loads() -> None:
    assert day_in(WORLDS["reference"], "a") == day_in(WORLDS["reference"], "a")
    assert day_in(WORLDS["reference"], "a") != day_in(WORLDS["reference"], "b")
    assert len(day_in(WORLDS["calm"], "c")) == LOADS
    assert not any(hour.told for hour in day_in(WORLDS["calm"], "c"))
