"""Temperature traces of casts: lines of a time and a temperature, as loggers write them."""

import csv
import re
from collections.abc import Iterator
from datetime import datetime
from typing import Final
from zoneinfo import ZoneInfo

from keeve.core.hardening.maturity import MOST_POINTS, At, checked_trace
from keeve.core.measure.moments import of_our_days
from keeve.core.measure.reading import read_number
from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, mark

KEPT: Final = 2000
_FAHRENHEIT: Final = re.compile(r"°\s*F|\bdeg\s*F\b|\bF\b|fahrenheit", re.IGNORECASE)
_CELSIUS: Final = re.compile(r"°\s*C|\bdeg\s*C\b|\bC\b|celsius", re.IGNORECASE)
_HINT: Final = mark("Write a time and a temperature on each line: 2026-09-14 08:00, 21.5 – or hours since the cast.")


def read_trace(text: str, cast_at: datetime, zone: ZoneInfo) -> tuple[At, ...]:
    """Read a trace.

    Parameters
    ----------
    text : lines of a time, or of hours after the cast, and a temperature [°C or °F, as it says];
        by commas, semicolons or tabs, with a heading or without; its own unit counts, on a line or in the heading
    cast_at : when it was cast
    zone : whose clock a time without a zone is

    Returns
    -------
    readings [h after the cast, °C] in order of time; of very many, evenly chosen ones

    Raises
    ------
    MixError : a line that cannot be read, no unit, or as `checked_trace`

    References
    ----------
    Common practice, no source.

    >>> at = datetime.fromisoformat("2026-09-14T08:00+00:00")
    >>> read_trace("0, 20 °C; 4, 86 °F".replace("; ", chr(10)), at, ZoneInfo("UTC"))
    (At(h=0.0, c=20.0), At(h=4.0, c=30.0))
    """
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_POINTS + 1:
        raise MixError(
            Fault(Code.TOO_MANY, mark("A trace has 20 000 lines at most."), "", field="trace", value=len(lines))
        )
    heading = lines[0] if lines and not any(letter.isdigit() for letter in lines[0].split(",")[0]) else ""
    found = checked_trace(tuple(_readings(lines[bool(heading) :], bool(heading), cast_at, zone, _unit_of(heading))))
    if len(found) <= KEPT:
        return found
    return tuple(found[round(n * (len(found) - 1) / (KEPT - 1))] for n in range(KEPT))


def _unit_of(text: str) -> str:
    return "F" if _FAHRENHEIT.search(text) else "C" if _CELSIUS.search(text) else ""


def _readings(lines: list[str], skipped: int, cast_at: datetime, zone: ZoneInfo, unit: str) -> Iterator[At]:
    unit = unit or next((found for line in lines if (found := _unit_of(line))), "")
    if lines and not unit:
        raise MixError(
            Fault(
                Code.MISSING,
                mark("Is the trace in °C or in °F? It does not say."),
                mark("Write the unit in its first line, or behind a figure."),
                field="trace",
            )
        )
    for number, line in enumerate(lines, 1 + skipped):
        mark_ = next((one for one in (";", "\t", ",") if one in line), ",")
        cells = [cell.strip() for cell in next(csv.reader([line], delimiter=mark_))]
        try:
            moment, value = cells[0], read_number(re.sub(r"\s*°?\s*[CF]$", "", cells[1]))
            fahrenheit = (_unit_of(cells[1]) or unit) == "F"
            yield At(_hours(moment, cast_at, zone), (value - 32) / 1.8 if fahrenheit else value)
        except (ValueError, IndexError):
            said = Said("Line {n} of the trace cannot be read.", n=Amount(number, "whole"))
            raise MixError(Fault(Code.UNREADABLE, said, _HINT, field="trace")) from None


def _hours(text: str, cast_at: datetime, zone: ZoneInfo) -> float:
    try:
        moment = of_our_days(datetime.fromisoformat(text.replace("Z", "+00:00")))
    except ValueError:
        return read_number(text)
    aware = moment if moment.tzinfo is not None else moment.replace(tzinfo=zone)
    return (aware - cast_at).total_seconds() / 3600
