"""A job's tests put together for its page: specimens with their days, what was found, and whether it will do."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Final, NamedTuple
from zoneinfo import ZoneInfo

from keeve.core.hardening.maturity import At, equivalent_days, fitted_28_days_mpa, maturity_c_h, share_of_28_days
from keeve.core.records.notes import notes_of
from keeve.core.records.proofs import (
    RULES,
    Asked,
    Broken,
    Cast,
    Drying,
    Figures,
    Judged,
    Photo,
    Proof,
    Result,
    Trace,
    Weighing,
    drying,
    due_on,
    figures,
    judge,
)
from keeve.core.records.specimens import BENT, BY_INCH, SHAPES
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk
from keeve.web.drawings.strength import draw_curve
from keeve.web.edge.settings import here

FULL_DAYS: Final = 28
"""Only results of that age are judged; earlier ones are shown."""
EARLY_DAYS: Final = 1.0
"""So much before its day a broken specimen still counts: nobody presses at the hour of the cast. Own assumption."""
EARLIEST_DAYS: Final = 0.05


class Specimen(NamedTuple):
    """A specimen, when it is due, and what it carried."""

    cast: Cast
    due: datetime
    mpa: float | None


class Warmth(NamedTuple):
    """What a temperature trace tells of a cast."""

    trace: Trace
    days: float
    """How long it is told [days]."""
    maturity_c_h: float
    equivalent_days: float
    """As old at 20 °C [days]."""
    share: float
    """Of the strength at 28 days [-]."""
    mpa: float | None
    """By the results there are [MPa]; None without any."""


class Proofs(NamedTuple):
    """All that a job's page shows of its tests."""

    specimens: tuple[Specimen, ...]
    asked: Asked | None
    taken: Figures | None
    judged: Judged | None
    weighings: tuple[Weighing, ...]
    drying: Drying | None
    points: tuple[tuple[float, float], ...]
    """Age [days] and strength [MPa] of what was pressed."""
    warmth: tuple[Warmth, ...]


def proofs_of(entries: tuple[Proof, ...], dry_kg: float | None) -> Proofs:
    """Put a job's entries together; the last result of a specimen counts, and the last that was asked."""
    zone = ZoneInfo(here())
    results = {one.of: one.mpa for one in entries if isinstance(one, Result)}
    casts = sorted((one for one in entries if isinstance(one, Cast)), key=lambda one: (one.at, one.label))
    specimens = tuple(Specimen(one, due_on(one).astimezone(zone), results.get(one.id)) for one in casts)
    asked = next((one for one in reversed(entries) if isinstance(one, Asked)), None)
    broken = {one.of: one.at for one in entries if isinstance(one, Result)}
    points: list[tuple[float, float]] = []
    full_age: list[Broken] = []
    for one in specimens:
        if one.mpa is None or one.cast.shape in BENT:
            continue
        days = (broken[one.cast.id] - one.cast.at).total_seconds() / 86_400
        points.append((max(days, EARLIEST_DAYS), one.mpa))
        if one.cast.due_days >= FULL_DAYS and days >= FULL_DAYS - EARLY_DAYS:
            full_age.append(Broken(one.cast, one.mpa))
    judged = judge(asked, full_age) if asked is not None and full_age else None
    weighings = tuple(one for one in entries if isinstance(one, Weighing))
    dries = drying(weighings, dry_kg) if dry_kg else None
    traces = tuple(_warmth(one, points) for one in entries if isinstance(one, Trace))
    return Proofs(
        specimens, asked, figures([one.mpa for one in full_age]), judged, weighings, dries, tuple(points), traces
    )


def _warmth(trace: Trace, points: Sequence[tuple[float, float]]) -> Warmth:
    readings = tuple(At(h, c) for h, c in trace.readings)
    days = equivalent_days(readings)
    full = fitted_28_days_mpa(points)
    share = share_of_28_days(days)
    return Warmth(trace, readings[-1].h / 24, maturity_c_h(readings), days, share, full * share if full else None)


def values_of(at: Desk, job: JobRow, dry_kg: float | None, *, us: bool = False) -> dict[str, Any]:
    """Return what the page of a job shows of its tests."""
    entries = at.proofs.of(job.id)
    proofs = proofs_of(entries, dry_kg)
    return {
        "proofs": proofs,
        "notes": [one for one in notes_of(entries) if one.last.text or one.before],
        "photos": [one for one in entries if isinstance(one, Photo)],
        "curve": draw_curve(proofs.points, proofs.asked.mpa if proofs.asked else None, us=us),
        "SHAPES": sorted(SHAPES.items(), key=lambda pair: us != (pair[0] in BY_INCH)),
        "SHAPES_BY": SHAPES,
        "RULES": RULES,
        "dry_kg": dry_kg,
    }
