"""What stands of what was looked at before a job's mix."""

from collections.abc import Iterable
from datetime import datetime
from typing import Any

from keeve.core.message.errors import Fault
from keeve.core.mixes.mix import Mix
from keeve.core.yard.checks import Standing, aged_of, rejected, standing
from keeve.core.yard.day_log import Entry, figures_of
from keeve.web.asking.deps import Desk


def stands_of(mix: Mix, sheet: dict[str, Any], desk: Desk, now: datetime) -> tuple[Standing, ...]:
    """Say what is looked at before a job's mix, and what stands of it."""
    given = sheet.get("admixtures")
    taken = isinstance(given, list) and any(isinstance(one, dict) and one.get("admixture") for one in given)
    return standing(desk.shelf().checks.values(), mix, desk.days.log(now), now, admixtures=taken)


def with_told(at: Desk, sheet: dict[str, Any], now: datetime) -> dict[str, Any]:
    """Return the sheet of a new job with what the yard knows: what old stock leaves of lives, and its own figures."""
    log = at.days.log(now)
    told = {"aged": aged_of(at.shelf().checks.values(), log, now), "own": own_of(log)}
    known = {name: value for name, value in told.items() if value}
    return {name: value for name, value in sheet.items() if name not in told} | known


def own_of(log: Iterable[Entry]) -> dict[str, dict[str, float]]:
    """Return the figures of its own a crew goes by, as a sheet holds them."""
    return {
        mix: {what: one.value for what, one in figures.items() if one.value is not None}
        for mix, figures in figures_of(log).items()
    }


def tell_aged(at: Desk, now: datetime) -> None:
    """Tell every open job what old stock leaves of working lives, after something was looked at or came new."""
    at.days.tell("aged", aged_of(at.shelf().checks.values(), at.days.log(now), now))


def stopped_by(at: Desk, mix: Mix, sheet: dict[str, Any], now: datetime) -> tuple[Fault, ...]:
    """Say what was rejected and stops a ticket from being taken."""
    return rejected(stands_of(mix, sheet, at, now))
