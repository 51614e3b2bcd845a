"""A job's tests put together for its page: specimens with their days, what was found, and whether it will do."""

from datetime import datetime
from typing import Any, Final, NamedTuple
from zoneinfo import ZoneInfo

from keeve.core.proofs import (
    RULES,
    SHAPES,
    Asked,
    Cast,
    Drying,
    Figures,
    Judged,
    Result,
    Weighing,
    drying,
    due_on,
    figures,
    judge,
)
from keeve.store.proof_store import Entry
from keeve.store.tables import JobRow
from keeve.web.day.routes import here
from keeve.web.deps import Desk

FULL_DAYS: Final = 28
"""Only results of that age are judged; earlier ones are shown."""


class Specimen(NamedTuple):
    """A specimen, when it is due, and what it carried."""

    cast: Cast
    due: datetime
    mpa: float | None


class Proofs(NamedTuple):
    """All that a job's page shows of its tests."""

    specimens: tuple[Specimen, ...]
    asked: Asked | None
    taken: Figures | None
    judged: Judged | None
    weighings: tuple[Weighing, ...]
    drying: Drying | None


def proofs_of(entries: tuple[Entry, ...], dry_kg: float | None) -> Proofs:
    """Put a job's entries together; the last result of a specimen counts, and the last that was asked."""
    zone = ZoneInfo(here())
    results = {one.of: one.mpa for one in entries if isinstance(one, Result)}
    casts = sorted((one for one in entries if isinstance(one, Cast)), key=lambda one: (one.at, one.label))
    specimens = tuple(Specimen(one, due_on(one).astimezone(zone), results.get(one.id)) for one in casts)
    asked = next((one for one in reversed(entries) if isinstance(one, Asked)), None)
    full_age = [one.mpa for one in specimens if one.mpa is not None and one.cast.due_days >= FULL_DAYS]
    judged = judge(asked.rule, full_age, asked.mpa) if asked is not None and full_age else None
    weighings = tuple(one for one in entries if isinstance(one, Weighing))
    dries = drying(weighings, dry_kg) if dry_kg else None
    return Proofs(specimens, asked, figures(full_age), judged, weighings, dries)


def values_of(at: Desk, job: JobRow, dry_kg: float | None) -> dict[str, Any]:
    """Return what the page of a job shows of its tests."""
    return {
        "proofs": proofs_of(at.proofs.of(job.id), dry_kg),
        "SHAPES": list(SHAPES.items()),
        "SHAPES_BY": SHAPES,
        "RULES": RULES,
        "dry_kg": dry_kg,
    }
