"""What stands of what was looked at before a job's mix."""

from datetime import datetime
from typing import Any

from keeve.core.checks import Standing, rejected, standing
from keeve.core.errors import Fault
from keeve.core.mix import Mix
from keeve.web.deps import Desk


def stands_of(mix: Mix, sheet: dict[str, Any], desk: Desk, now: datetime) -> tuple[Standing, ...]:
    """Say what is looked at before a job's mix, and what stands of it."""
    given = sheet.get("admixtures")
    taken = isinstance(given, list) and any(isinstance(one, dict) and one.get("admixture") for one in given)
    return standing(desk.shelf().checks.values(), mix, desk.days.log(now), now, admixtures=taken)


def stopped_by(at: Desk, mix: Mix, sheet: dict[str, Any], now: datetime) -> tuple[Fault, ...]:
    """Say what was rejected and stops a ticket from being taken."""
    return rejected(stands_of(mix, sheet, at, now))
