"""Forecasts read, and calendars read back by another library: clocks, zones and clock changes."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
import vobject

from keeve.core.day.day_plan import Hour
from keeve.core.message.errors import MixError
from keeve.formats.reading.forecast import read_forecast, write_forecast, zone_of
from keeve.formats.writing.calendar import Dated, as_calendar, at_clock, days_later, minute_of
from tests.prose import PROSE

LONDON, DAY = ZoneInfo("Europe/London"), date(2026, 9, 14)
LINES = "9:00, 14 °C, 60, 12, 0\n10:00, 61 F, 50 %, 5 m/s, 1.5"


def test_a_typed_forecast_is_read_in_any_unit() -> None:
    first, second = read_forecast(LINES, DAY, LONDON)
    assert (first.at_min, first.air_c, first.humidity_percent, first.wind_km_h) == (540, 14, 60, 12)
    assert (second.air_c, second.wind_km_h, second.rain_mm) == (pytest.approx(16.1, abs=0.05), 18, 1.5)


def test_a_station_in_another_zone_is_put_onto_the_clock_of_the_place() -> None:
    """10:00 at two hours east is 9:00 by summer time in London; the evening before is another day."""
    text = "time;air_c;rain_mm\n2026-09-14T10:00+02:00;17;0\n2026-09-14T00:30+02:00;9;0\n2026-09-14T08:00Z;15;0"
    assert [one.at_min for one in read_forecast(text, DAY, LONDON)] == [540]
    later = read_forecast("time;air_c\n2026-09-14T08:00Z;15\n2026-09-14T09:00Z;16", DAY, LONDON)
    assert [(one.at_min, one.air_c) for one in later] == [(540, 15), (600, 16)]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("9:00, warm", "Line 1 of the forecast"),
        ("9:00, 14\n25:00, 15", "Line 2 .* no time of the day"),
        ("9:00, 140", "Line 1"),
        ("2026-09-15T09:00, 14", "No line of this forecast is of this day"),
        ("9:00, 14, 140", "Line 1"),
        ("\n".join(f"{n % 24}:00, 14" for n in range(3000)), "more than a forecast"),
    ],
)
def test_a_line_that_cannot_be_read_is_named(text: str, said: str) -> None:
    with pytest.raises(MixError, match=said):
        read_forecast(text, DAY, LONDON)


def test_a_forecast_goes_out_and_comes_in_again() -> None:
    hours = (Hour(at_min=540, air_c=14, humidity_percent=60, wind_km_h=12), Hour(at_min=615, air_c=-1.5, rain_mm=0.4))
    assert read_forecast(write_forecast(hours), DAY, LONDON) == hours


def test_a_zone_nobody_knows_is_refused() -> None:
    for name in ("Pellow/Reach", "../../etc/passwd", "x" * 500):
        with pytest.raises(MixError, match=PROSE["no-time-zone"]):
            zone_of(name)


def test_hours_are_elapsed_hours_and_days_are_days_of_the_calendar() -> None:
    """The clocks go back on 25 October 2026 at two: common knowledge of the tz database."""
    night = date(2026, 10, 25)
    assert at_clock(night, 420, LONDON).isoformat() == "2026-10-25T07:00:00+00:00"  # seven is seven that morning too
    assert at_clock(date(2026, 3, 29), 420, LONDON).isoformat() == "2026-03-29T07:00:00+01:00"
    # The second half past one keeps its fold, and the first: an hour lies between them.
    second, first = (at_clock(night, minute, LONDON) for minute in (90, 30))
    assert (second.isoformat(), first.isoformat()) == ("2026-10-25T01:30:00+00:00", "2026-10-25T01:30:00+01:00")
    assert (minute_of(first, night, LONDON), minute_of(second, night, LONDON)) == (30, 90)
    # A half past one that the clocks leave out is half past two.
    missing = datetime(2026, 3, 29, 1, 30, tzinfo=LONDON).astimezone(UTC).astimezone(LONDON)
    assert missing.isoformat() == "2026-03-29T02:30:00+01:00"
    placed = datetime(2026, 10, 24, 16, 30, tzinfo=LONDON)
    after = days_later(placed, 2)
    assert (after.hour, after.minute, after.utcoffset()) == (16, 30, timedelta(0))
    assert after.astimezone(UTC) - placed.astimezone(UTC) == timedelta(days=2, hours=1)


def test_another_library_reads_the_calendar_with_its_alarm_and_its_zone() -> None:
    begin = datetime(2026, 10, 24, 9, 0, tzinfo=LONDON)
    entries = (
        Dated("job-load-1", "Porch steps · 1/8", begin, begin + timedelta(minutes=40), "Concrete; 1 : 2, ärger\nnext"),
        Dated("job-after-0", "Porch steps: Test day", days_later(begin, 28), days_later(begin, 28), rings=False),
    )
    found = vobject.readOne(as_calendar("Porch steps", entries, datetime(2026, 9, 1, tzinfo=UTC)).decode())
    events = list(found.vevent_list)
    assert [e.summary.value for e in events] == ["Porch steps · 1/8", "Porch steps: Test day"]
    starts = [e.dtstart.value.astimezone(UTC) for e in events]
    assert starts[0] == datetime(2026, 10, 24, 8, 0, tzinfo=UTC)
    assert starts[1] == datetime(2026, 11, 21, 9, 0, tzinfo=UTC)  # nine by the clock, an hour later elapsed
    assert events[0].dtend.value - events[0].dtstart.value == timedelta(minutes=40)
    assert events[0].valarm.trigger.value == timedelta(minutes=-15)
    assert events[0].description.value == "Concrete; 1 : 2, ärger\nnext"
    assert found.contents["x-wr-timezone"][0].value == "Europe/London"
    assert all(e.dtstart.value.utcoffset() == timedelta(0) for e in events)
