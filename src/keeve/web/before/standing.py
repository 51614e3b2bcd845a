"""What stands of what was looked at before a job's mix."""

from datetime import datetime
from typing import Any

from keeve.core.checks import Standing, aged_of, rejected, standing
from keeve.core.errors import Fault
from keeve.core.mix import Mix
from keeve.web.deps import Desk


def stands_of(mix: Mix, sheet: dict[str, Any], desk: Desk, now: datetime) -> tuple[Standing, ...]:
    """Say what is looked at before a job's mix, and what stands of it."""
    given = sheet.get("admixtures")
    taken = isinstance(given, list) and any(isinstance(one, dict) and one.get("admixture") for one in given)
    return standing(desk.shelf().checks.values(), mix, desk.days.log(now), now, admixtures=taken)


def with_aged(at: Desk, sheet: dict[str, Any], now: datetime) -> dict[str, Any]:
    """Return the sheet of a new job with what the yard's old stock leaves of working lives."""
    aged = _aged(at, now)
    return sheet | {"aged": aged} if aged else {name: value for name, value in sheet.items() if name != "aged"}


def _aged(at: Desk, now: datetime) -> dict[str, float]:
    return aged_of(at.shelf().checks.values(), at.days.log(now), now)


def tell_aged(at: Desk, now: datetime) -> None:
    """Tell every open job what old stock leaves of working lives, after something was looked at or came new."""
    at.days.keep_aged(_aged(at, now))


def stopped_by(at: Desk, mix: Mix, sheet: dict[str, Any], now: datetime) -> tuple[Fault, ...]:
    """Say what was rejected and stops a ticket from being taken."""
    return rejected(stands_of(mix, sheet, at, now))
