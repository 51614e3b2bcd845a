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


def at_clock(day: date, minutes: float, zone: ZoneInfo) -> datetime:
    """Put a minute of a day on the clock of a place: elapsed from its midnight, so a clock change moves nothing."""
    midnight = datetime(day.year, day.month, day.day, tzinfo=zone)
    return (midnight.astimezone(UTC) + timedelta(minutes=minutes)).astimezone(zone)


def minute_of(moment: datetime, day: date, zone: ZoneInfo) -> float:
    """Return which minute of a day a moment is, elapsed from its midnight; the reverse of `at_clock`."""
    return (moment - datetime(day.year, day.month, day.day, tzinfo=zone).astimezone(UTC)).total_seconds() / 60


def days_later(moment: datetime, days: int) -> datetime:
    """Return the same local clock time some calendar days later."""
    return (moment.replace(tzinfo=None, fold=0) + timedelta(days=days)).replace(tzinfo=moment.tzinfo)


def as_calendar(name: str, entries: tuple[Dated, ...], stamped: datetime) -> bytes:
    """Write entries as one calendar; its time zones stand in it."""
    calendar = Calendar()
    calendar.add("prodid", "-//Keeve//Day//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for one in entries:
        event = Event()
        event.add("uid", f"{one.key}@keeve")
        event.add("dtstamp", stamped.astimezone(UTC))
        event.add("dtstart", one.begin)
        event.add("dtend", max(one.end, one.begin + timedelta(minutes=1)))
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
    if entries:  # the clock changes round these days, not those of a lifetime
        first, last = (pick(one.begin for one in entries).year for pick in (min, max))
        calendar.add_missing_timezones(date(first - 1, 1, 1), date(last + 2, 1, 1))
    return bytes(calendar.to_ical())
