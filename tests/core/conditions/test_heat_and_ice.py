"""Ice, the warmth of a batch, and what setting plaster gets up to."""

from typing import Any

import pytest

from keeve.core.conditions.temperature import MaterialTemperatures, batch_c, plaster_peak_c
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from tests.conftest import Planner, Ticketer
from tests.prose import PROSE

CONCRETE: dict[str, Any] = {
    "mix": "concrete-1-2-4",
    "mixer": "drum-site",
    "strategy": "equal",
    "moisture_percent": {"sharp-sand": 4, "gravel-20": 1},
}
WARM = {"water_c": 24, "aggregate_c": 32, "binder_c": 50}


@pytest.mark.parametrize("ice", [None, 40, 100])
def test_ice_is_no_heap_water_in_the_rescue(ticketed: Ticketer, ice: float | None) -> None:
    ticket = ticketed(**CONCRETE, ice_percent=ice)
    card = ticket.cards[0]
    sand, stone = (d.dry_kg for d in card.doses[1:])
    # By hand: free water per kg dry, less what the heaps bring with each kg; ice came once and is not in it.
    free = card.water.free.target / card.dry_kg
    brought = (sand * (0.04 - 0.007) + stone * (0.01 - 0.005)) / card.dry_kg
    assert ticket.rescue.dry_kg_per_litre == pytest.approx(1 / (free - brought))


def test_ice_without_temperatures_says_what_is_missing(ticketed: Ticketer) -> None:
    assert any(PROSE["how-warm-water"] in plain(w) for w in ticketed(**CONCRETE, ice_percent=40).warnings)
    told = ticketed(**CONCRETE, ice_percent=40, temperatures=WARM)
    assert not any(PROSE["how-warm-water"] in plain(w) for w in told.warnings)
    assert told.batch_c is not None
    assert ticketed(**CONCRETE).batch_c is None


def test_the_batch_comes_out_as_warm_as_its_parts_make_it(ticketed: Ticketer) -> None:
    # All alike warm stays as warm, plain arithmetic.
    alike = {"water_c": 20, "aggregate_c": 20, "binder_c": 20}
    assert ticketed(**CONCRETE, temperatures=alike).batch_c == pytest.approx(20)
    card = ticketed(**CONCRETE, temperatures=WARM, ice_percent=50).cards[0]
    ticket = ticketed(**CONCRETE, temperatures=WARM, ice_percent=50)
    cement, sand, stone = (d.dry_kg for d in card.doses)
    surface = sand * 0.033 + stone * 0.005
    ice, water = card.water.ice_kg, card.water.pour.target
    heat = 0.22 * (32 * (sand + stone) + 50 * cement) + 24 * water + 32 * surface - 79.6 * ice
    assert ticket.batch_c == pytest.approx(heat / (0.22 * (sand + stone + cement) + water + surface + ice))


def test_more_ice_than_melts_is_refused(planned: Planner) -> None:
    cold = {"water_c": 5, "aggregate_c": 5, "binder_c": 5}
    with pytest.raises(TradeError) as told:
        planned(**CONCRETE, ice_percent=100, temperatures=cold)
    assert told.value.faults[0].field == "ice_percent"


def test_against_a_worked_example_of_hot_weather_concrete() -> None:
    # PCA, Design and Control of Concrete Mixtures, hot weather, from memory: aggregates 1839 kg at 27 °C, cement 335 kg
    # at 66 °C, water 123 kg at 27 °C give 31 °C; 44 kg of it as ice about 21 °C (printed figures rounded).
    warm = MaterialTemperatures(water_c=27, aggregate_c=27, binder_c=66)
    assert batch_c(warm, 1839, 335, 123, 0, 0) == pytest.approx(31.6, abs=0.7)
    assert batch_c(warm, 1839, 335, 79, 0, 44) == pytest.approx(24, abs=3)


@pytest.mark.parametrize(
    ("ratio", "heat", "low", "high"), [(0.7, 133, 58, 62), (0.3, 118, 85, 95), (0.32, 118, 84, 95)]
)
def test_heat_of_plaster(ratio: float, heat: float, low: float, high: float) -> None:
    # Common practice, no source: about 60 °C inside at w/p 0.7, 85 to 95 at 0.3.
    assert low <= plaster_peak_c(ratio, heat) <= high


def test_the_caution_of_plaster_scales_with_it(ticketed: Ticketer) -> None:
    cast = {"shapes": [{"kind": "known", "volume_l": 5}]}

    def heat(mix: str, **changes: Any) -> str:
        return next(plain(c) for c in ticketed(mix=mix, **cast, changes=changes).cautions if "burns" in plain(c))

    assert "60 °C" in heat("casting-plaster-70")
    assert "85 °C" in heat("hard-plaster-32")  # 21 + 118 / (1.2927 + 0.134 × 4.18)
    assert "72 °C" in heat("casting-plaster-70", water_to_powder="0.5")  # 21 + 133 / (1.2927 + 0.314 × 4.18)


def test_sand_and_stone_may_be_of_two_temperatures(ticketed: Ticketer) -> None:
    told = ticketed(**CONCRETE, temperatures=WARM | {"stone_c": 20})
    cement, sand, stone = (d.dry_kg for d in told.cards[0].doses[:3])
    # By hand, ACI 207's heat of solids 0.22 from memory: what clings to each heap is as warm as the heap.
    by_sand, by_stone, poured = sand * (0.04 - 0.007), stone * (0.01 - 0.005), told.cards[0].water.pour.target
    heat = 0.22 * (cement * 50 + sand * 32 + stone * 20) + poured * 24 + by_sand * 32 + by_stone * 20
    whole = 0.22 * (cement + sand + stone) + poured + by_sand + by_stone
    assert told.batch_c == pytest.approx(heat / whole)
    one_heap = ticketed(**CONCRETE, temperatures=WARM)
    assert one_heap.batch_c == ticketed(**CONCRETE, temperatures=WARM | {"stone_c": 32}).batch_c
    assert one_heap.batch_c is not None
    assert told.batch_c is not None
    assert one_heap.batch_c > told.batch_c


def test_a_bag_asks_for_no_temperature_of_sand(ticketed: Ticketer) -> None:
    bag = ticketed(mix="overlay", mixer="paddle-bucket", temperatures={"water_c": 15, "binder_c": 21})
    assert bag.batch_c is not None
    assert 15 < bag.batch_c < 21
    with pytest.raises(TradeError, match=PROSE["hold-a-thermometer"]):
        ticketed(**CONCRETE, temperatures={"water_c": 15, "binder_c": 21})
