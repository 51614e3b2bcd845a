"""A forecast or a weather station's file: CSV, typed or brought in, read for one day in one time zone."""

import csv
import io
from collections.abc import Iterable
from datetime import date, datetime
from typing import Final
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import ValidationError

from keeve.core.day.day_plan import DAY_MIN, Hour, read_clock_min
from keeve.core.measure.moments import of_our_days
from keeve.core.measure.reading import read_number, read_percent, read_speed_km_h, read_temperature_c
from keeve.core.message.errors import Code, Fault, MixError, faults_of
from keeve.core.message.said import Amount, Said, mark, verbatim
from keeve.core.yard.day_log import Weather

COLUMNS: Final = ("time", "air_c", "humidity_percent", "wind_km_h", "rain_mm", "sun_percent")
MOST_LINES: Final = 2000


def zone_of(name: str) -> ZoneInfo:
    """Return a time zone by its name.

    Raises
    ------
    MixError : there is none of that name
    """
    try:
        return ZoneInfo(name.strip()[:60] or "UTC")
    except (ZoneInfoNotFoundError, ValueError, OSError):
        said = Said("There is no time zone “{name}”.", name=verbatim(name[:40]))
        raise MixError(Fault(Code.UNKNOWN, said, mark("Write it like Europe/London."), field="zone")) from None


def _minute(text: str, day: date, zone: ZoneInfo) -> float | None:
    """Read a time of one day [min]; None for that of another. One with an offset is put into the zone."""
    plain = text.strip()
    if "T" not in plain and "-" not in plain:
        return read_clock_min(plain)
    try:
        moment = of_our_days(datetime.fromisoformat(plain.replace("Z", "+00:00")))
    except ValueError:
        return read_clock_min(plain)
    local = moment.astimezone(zone) if moment.tzinfo is not None else moment
    return local.hour * 60 + local.minute if local.date() == day else None


def read_forecast(text: str, day: date, zone: ZoneInfo) -> tuple[Hour, ...]:
    """Read the hours of one day.

    Parameters
    ----------
    text : lines of time, air, humidity, wind, rain, sun; by commas, semicolons or tabs, with headings or without
    day, zone : which day, and whose clock

    Returns
    -------
    the hours, earliest first

    Raises
    ------
    MixError : a line that cannot be read, named by its number; lines of other days only
    """
    lines = [line for line in text.removeprefix("\ufeff").splitlines() if line.strip()]
    if not lines:
        return ()
    if len(lines) > MOST_LINES:
        raise MixError(Fault(Code.TOO_MANY, mark("That is more than a forecast of a day holds."), "", field="forecast"))
    mark_ = next((one for one in (";", "\t", ",") if one in lines[0]), ",")
    rows = list(csv.reader(lines, delimiter=mark_))
    names = list(COLUMNS)
    if not any(letter.isdigit() for letter in rows[0][0]):
        names = [name.strip().lower() for name in rows.pop(0)]
    found: dict[float, Hour] = {}
    for number, row in enumerate(rows, 1):
        given = dict(zip(names, (cell.strip() for cell in row), strict=False))
        try:
            at = _minute(given.get("time", ""), day, zone)
            if at is not None and at < DAY_MIN:
                found[at] = _hour(at, given)
        except ValueError as error:
            raise _line(number, error) from None
    if not found:
        raise MixError(
            Fault(
                Code.MISSING,
                mark("No line of this forecast is of this day."),
                mark("Look at its dates."),
                field="forecast",
            )
        )
    return tuple(found[at] for at in sorted(found))


def _hour(at: float, given: dict[str, str]) -> Hour:
    return Hour(
        at_min=at,
        air_c=read_temperature_c(given.get("air_c", "")),
        humidity_percent=read_percent(given["humidity_percent"]) if given.get("humidity_percent") else None,
        wind_km_h=read_speed_km_h(given["wind_km_h"]) if given.get("wind_km_h") else None,
        rain_mm=read_number(given["rain_mm"]) if given.get("rain_mm") else 0.0,
        sun_percent=read_percent(given["sun_percent"]) if given.get("sun_percent") else None,
    )


def _line(number: int, error: ValueError) -> MixError:
    faults = faults_of(error) if isinstance(error, ValidationError) else getattr(error, "faults", None)
    why = faults[0].sentence if faults else mark("A figure in it cannot be.")
    said = Said("Line {n} of the forecast cannot be read: {why}", n=Amount(number, "whole"), why=why)
    return MixError(
        Fault(
            Code.UNREADABLE,
            said,
            mark("Write time, air, humidity, wind, rain, sun: 9:00, 24, 40, 12, 0, 80."),
            field="forecast",
        )
    )


def write_readings(log: Iterable[Weather]) -> str:
    """Write the air as it was read over the year as CSV, each with its moment: figures only."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    names = ("air_c", "humidity_percent", "wind_km_h", "ground_c", "sun_percent")
    writer.writerow(("time", *names))
    for one in log:
        values = (getattr(one, name) for name in names)
        writer.writerow([one.at.isoformat(), *("" if value is None else f"{value:g}" for value in values)])
    return out.getvalue()


def write_forecast(hours: tuple[Hour, ...]) -> str:
    """Write hours as CSV, as `read_forecast` reads them: figures only, so a minus begins no formula."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for one in hours:
        clock = f"{int(one.at_min) // 60}:{int(one.at_min) % 60:02d}"
        rest = (one.air_c, one.humidity_percent, one.wind_km_h, one.rain_mm, one.sun_percent)
        writer.writerow([clock, *("" if value is None else f"{value:g}" for value in rest)])
    return out.getvalue()
