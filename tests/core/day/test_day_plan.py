"""A day as typed: clocks, rests, weather that forbids a work, and loads as tasks."""

import pytest

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import try_plan
from keeve.core.day.day import Closed, lay_out
from keeve.core.day.day_plan import FILL_MIN, DayPlan, Hour, airs_of, gaps, read_clock_min, read_span, shut_by, tasks_of
from keeve.core.hardening.waiting import screed_drying_days
from keeve.core.message.errors import MixError
from tests.prose import PROSE

SHELF = load_catalogue()


@pytest.mark.parametrize("text", ["25:00", "7:75", "noon", "13 pm", "", "-3", "7:3", "<b>", "9" * 200, "24:01"])
def test_what_is_no_time_of_the_day_is_refused_in_words(text: str) -> None:
    with pytest.raises(MixError, match=PROSE["no-time-of-the"]):
        read_clock_min(text)


@pytest.mark.parametrize(("text", "said"), [("12:00", "no rest"), ("13:00-12:00", "ends before"), ("12-x", "no time")])
def test_a_rest_is_from_and_to(text: str, said: str) -> None:
    with pytest.raises(MixError, match=said):
        read_span(text)


def hours(*lines: tuple[float, float, float]) -> tuple[Hour, ...]:
    return tuple(Hour(at_min=at * 60, air_c=air, rain_mm=rain) for at, air, rain in lines)


def test_weather_shuts_what_it_would_spoil_and_nothing_under_a_roof() -> None:
    day = hours((6, 2, 0), (8, 12, 0), (12, 20, 3), (14, 20, 0), (16, 40, 0))
    path, screed = SHELF.mixes["concrete-1-2-4"], SHELF.mixes["screed-semi-dry"]
    # Under 5 °C until eight, rain from twelve to two, over 32 °C from four on: it holds three hours and no longer.
    frost, rain, heat = Closed(360, 480, "weather"), Closed(720, 840, "weather"), Closed(960, 1140, "weather")
    assert shut_by(path, day) == (frost, rain, heat)
    assert shut_by(path, day, covered=True) == (frost, heat)
    assert shut_by(screed, day) == (frost, heat)
    # Two bad hours after one another are one spell.
    assert shut_by(path, hours((9, 1, 0), (10, 1, 0), (11, 10, 0))) == (Closed(540, 660, "weather"),)


def test_a_gap_in_the_forecast_is_found() -> None:
    assert gaps(hours((6, 9, 0), (9, 12, 0), (14, 15, 0))) == (540,)


def test_the_forecast_shortens_the_life_of_the_loads_of_its_hours() -> None:
    sheet = {"mix": "concrete-1-2-4", "mixer": "drum-site", "shapes": [{"kind": "known", "volume_l": "300 L"}]}
    ticket = try_plan(sheet, SHELF).ticket
    assert ticket is not None
    life = ticket.life_min  # at 20 °C; ten degrees halve it
    day = (Hour(at_min=480, air_c=20), Hour(at_min=720, air_c=30), Hour(at_min=780, air_c=25, sun_percent=100))
    felt = airs_of(ticket, day, covered=False)
    assert felt[:3] == ((480, pytest.approx(life)), (660, life), (720, pytest.approx(life / 2)))
    assert felt[3] == (780, pytest.approx(life / 2))  # five degrees of sun, own assumption
    assert felt[4] == (960, life)  # three hours after the last line nobody knows
    assert airs_of(ticket, day, covered=True)[3][1] == pytest.approx(life / 2**0.5)
    tasks = tasks_of("Path", ticket, 5.0, 480, (), felt)
    assert tasks[0].life_ends_min(720) < 720 + tasks[0].met_min + life


def test_loads_of_a_ticket_are_tasks_with_their_own_times() -> None:
    sheet = {"mix": "stucco-base", "mixer": "drum-site", "shapes": [{"kind": "known", "volume_l": "300 L"}]}
    ticket = try_plan(sheet, SHELF).ticket
    assert ticket is not None
    tasks = tasks_of("Gable", ticket, 5.0, 480, ())
    card = ticket.cards[ticket.loads[0].card]
    first = tasks[0]
    assert len(tasks) == ticket.count
    assert first.mix_min == pytest.approx(FILL_MIN + card.seconds / 60)
    assert first.place_min == pytest.approx(ticket.loads[0].volume_m3 * 1000 / 5)
    assert 0 < first.met_min < first.mix_min
    assert first.life_min == 30
    assert lay_out(tasks, {"drum-site": 1}, 420, 1020).loads[0].mixed_min >= 480


def test_a_day_of_the_usual_hours_is_planned_without_a_word() -> None:
    plan = DayPlan.model_validate({"rests": ["12:00-12:45", "10:00-10:15"]})
    assert (plan.begin_min, plan.end_min) == (420, 1020)
    assert plan.closed() == (Closed(600, 615, "rest"), Closed(720, 765, "rest"))


def test_a_screed_dries_by_its_thickness() -> None:
    # Guidance in BS 8204, from memory: 65 mm takes 50 days for the first 50 mm and two days for each more.
    assert screed_drying_days(65) == 80
    for thick in (0, -5, 301):
        with pytest.raises(MixError, match="No screed"):
            screed_drying_days(thick)


def test_every_example_can_be_laid_out_where_nobody_says_how_fast_it_is_placed() -> None:
    """A pace that nobody named is no reason to refuse a load: plaster is poured at once, mortar laid as it comes."""
    for mix in SHELF.mixes.values():
        ticket = try_plan({"mix": mix.key, "shapes": [{"kind": "known", "volume_l": "20 L"}]}, SHELF).ticket
        if ticket is None:
            continue
        tasks = tasks_of(mix.key, ticket, None, 0, ())
        assert all(task.mix_min - task.met_min + task.place_min <= task.life_min for task in tasks), mix.key
        assert all(task.place_min > 0 for task in tasks), mix.key
