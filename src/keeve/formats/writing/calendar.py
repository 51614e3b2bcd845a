"""A job's day and the weeks after it as iCalendar, with alarms, in the clock of the place."""

from datetime import UTC, date, datetime, timedelta
from typing import Final, NamedTuple
from zoneinfo import ZoneInfo

from icalendar import Alarm, Calendar, Event

_WARNED: Final = timedelta(minutes=15)


class Dated(NamedTuple):
    """One entry of a calendar."""

    key: str
    title: str
    begin: datetime
    """Aware, in the clock of the place."""
    end: datetime
    note: str = ""
    rings: bool = True


NOON_MIN: Final = 720.0


def _noon(day: date, zone: ZoneInfo) -> datetime:
    return datetime(day.year, day.month, day.day, 12, tzinfo=zone).astimezone(UTC)


def at_clock(day: date, minutes: float, zone: ZoneInfo) -> datetime:
    """Put a minute of a day on the clock of a place, elapsed from its noon.

    Clocks change in the night: so 7:00 is 7:00 on that morning too, and what lasts an hour lasts one.
    """
    return (_noon(day, zone) + timedelta(minutes=minutes - NOON_MIN)).astimezone(zone)


def minute_of(moment: datetime, day: date, zone: ZoneInfo) -> float:
    """Return which minute of a day a moment is, elapsed from its noon; the reverse of `at_clock`."""
    return NOON_MIN + (moment.astimezone(UTC) - _noon(day, zone)).total_seconds() / 60


def days_later(moment: datetime, days: int) -> datetime:
    """Return the same local clock time some calendar days later."""
    return (moment.replace(tzinfo=None, fold=0) + timedelta(days=days)).replace(tzinfo=moment.tzinfo)


def as_calendar(name: str, entries: tuple[Dated, ...], stamped: datetime) -> bytes:
    """Write entries as one calendar: moments in UTC, beside the name of the zone whose clock they were meant on."""
    calendar = Calendar()
    calendar.add("prodid", "-//Keeve//Day//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    zone = next((one.begin.tzinfo for one in entries if isinstance(one.begin.tzinfo, ZoneInfo)), None)
    if zone is not None:
        calendar.add("x-wr-timezone", zone.key)
    for one in entries:
        event = Event()
        event.add("uid", f"{one.key}@keeve")
        event.add("dtstamp", stamped.astimezone(UTC))
        begin, end = one.begin.astimezone(UTC), one.end.astimezone(UTC)
        event.add("dtstart", begin)
        event.add("dtend", max(end, begin + timedelta(minutes=1)))
        event.add("summary", one.title)
        if one.note:
            event.add("description", one.note)
        if one.rings:
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", one.title)
            alarm.add("trigger", -_WARNED)
            event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
