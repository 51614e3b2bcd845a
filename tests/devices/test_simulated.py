"""Stand-ins of scales and meters: they show what lies on them, and fail as real ones do."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from keeve.devices.protocol import Command, Practise, Reading, read_asked, read_reading
from keeve.devices.simulated import SimulatedDevice
from keeve.devices.yard import STAND_INS, devices_of

BENCH, METER = (next(one for one in STAND_INS if one.key == key) for key in ("bench-scale", "water-meter"))
DT_S = 0.1


def let_run(device: SimulatedDevice, seconds: float) -> list[Reading]:
    found = [device.step(DT_S) for _ in range(round(seconds / DT_S))]
    return [one for one in found if one is not None]


def test_what_is_poured_is_shown_once_it_has_come_to_rest() -> None:
    scale = SimulatedDevice(BENCH)
    scale.ask(Practise(do="pour", per_s=0.5))
    moving = let_run(scale, 4)
    assert not moving[-1].stable
    scale.ask(Practise(do="stop"))
    assert not let_run(scale, 0.5)[-1].stable
    rest = let_run(scale, 6)[-1]
    assert rest.stable
    assert rest.value == pytest.approx(2.0, abs=BENCH.step)


@given(st.floats(0.02, 3), st.floats(0.3, 8), st.floats(0, 1.5), st.integers(0, 10**6))
def test_net_is_what_was_poured_whatever_the_vessel_weighs(
    per_s: float, seconds: float, tare: float, seed: int
) -> None:
    scale = SimulatedDevice(BENCH, seed)
    scale.ask(Practise(do="pour", much=tare))
    let_run(scale, 8)
    scale.ask(Command(do="tare"))
    steps = round(seconds / DT_S)
    scale.ask(Practise(do="pour", per_s=per_s))
    let_run(scale, steps * DT_S)
    scale.ask(Practise(do="stop"))
    shown = let_run(scale, 10)[-1]
    assert shown.stable
    assert shown.value == pytest.approx(per_s * steps * DT_S, abs=1.01 * BENCH.step)
    assert shown.value / BENCH.step == pytest.approx(round(shown.value / BENCH.step), abs=1e-6)  # it shows whole steps


def test_the_same_seed_and_steps_give_the_same_readings() -> None:
    one, other = SimulatedDevice(BENCH, 7), SimulatedDevice(BENCH, 7)
    for device in (one, other):
        device.ask(Practise(do="pour", per_s=1.2))
    assert let_run(one, 5) == let_run(other, 5)


def test_it_fails_as_a_real_one_does() -> None:
    scale = SimulatedDevice(BENCH)
    scale.ask(Practise(do="pour", much=61))
    assert let_run(scale, 5)[-1].overload
    scale.ask(Practise(do="take off"))
    assert let_run(scale, 8)[-1].value == pytest.approx(0, abs=BENCH.step)
    scale.ask(Practise(do="battery low"))
    low = let_run(scale, 1)[-1].battery_percent
    assert low is not None
    assert low < 15
    scale.ask(Practise(do="drift"))
    assert let_run(scale, 600)[-1].value > 0.05  # nothing lies on it
    scale.ask(Practise(do="unplug"))
    assert let_run(scale, 1) == []
    scale.ask(Practise(do="unplug"))
    numbers = [one.seq for one in let_run(scale, 1)]
    assert all(later == before + 1 for before, later in itertools.pairwise(numbers))


def test_a_meter_counts_and_never_swings() -> None:
    meter = SimulatedDevice(METER)
    meter.ask(Practise(do="pour", per_s=0.2))
    counted = [one.value for one in let_run(meter, 10)]
    assert counted == sorted(counted)
    assert counted[-1] == pytest.approx(2.0, abs=METER.step)


@pytest.mark.parametrize(
    "document",
    [{}, {"kind": "reading"}, {"kind": "reading", "seq": 1, "value": float("nan"), "stable": True}, [], "tare",
     {"kind": "reading", "seq": 1, "value": 1e9, "stable": True}],
)  # fmt: skip
def test_what_is_no_reading_is_none(document: object) -> None:
    with pytest.raises(ValidationError, match="validation error"):
        read_reading(document)


@pytest.mark.parametrize("document", [{"do": "explode"}, {"do": "pour", "per_s": -1}, {"do": "pour", "per_s": 1e9}, 3])
def test_what_no_device_understands_is_not_asked(document: object) -> None:
    with pytest.raises(ValidationError, match="validation error"):
        read_asked(document)


def test_real_devices_are_told_of_by_name_and_asked_on_this_machine_only() -> None:
    found = devices_of("hook = hanging scale @ ws://127.0.0.1:9000/; meter = water meter @ ws://localhost:9001/x")
    assert [(one.key, one.kind) for one in found.values()][:2] == [("hook", "hanging scale"), ("meter", "water meter")]
    assert len(found) == 2 + len(STAND_INS)
    for wrong in ("hook", "hook = spoon @ ws://127.0.0.1:1/", "hook = bench scale @ ws://example.org/"):
        with pytest.raises(ValueError, match="device"):
            devices_of(wrong)
