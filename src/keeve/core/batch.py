"""What really happened to a load, read from its events; the events themselves are never changed."""

from datetime import datetime
from typing import Final, Literal

from pydantic import Field

from keeve.core.errors import Frozen

EventKind = Literal[
    "started", "water", "step_done", "step_back", "judged", "dry_added", "undone", "accepted", "thrown_away"
]
Verdict = Literal["dry", "right", "wet"]
MOST_AT_ONCE_L: Final = 500.0


class BatchEvent(Frozen):
    """One thing that happened to a load. The client makes the id, so that sending twice changes nothing."""

    id: str = Field(pattern=r"^[0-9a-f-]{16,36}$")
    at: datetime
    kind: EventKind
    litres: float | None = Field(None, ge=0, le=MOST_AT_ONCE_L)
    """Water poured."""
    dry_kg: float | None = Field(None, ge=0, le=1000)
    """Dry mix added to a load that was too wet."""
    step: int | None = Field(None, ge=0, le=100)
    verdict: Verdict | None = None
    undoes: str | None = None
    """Id of the event taken back."""
    note: str = Field("", max_length=200)


class Batch(Frozen):
    """A load as it was really made."""

    started_at: datetime | None = None
    ended_at: datetime | None = None
    first_water_at: datetime | None = None
    poured_l: float = 0.0
    """Water count of the jug and hose."""
    late_water_l: float = 0.0
    """Poured after the mix was first judged."""
    pours: int = 0
    dry_added_kg: float = 0.0
    step: int = 0
    """Step the load stands at."""
    verdicts: tuple[Verdict, ...] = ()
    ended: Literal["", "accepted", "thrown_away"] = ""


def read_batch(events: tuple[BatchEvent, ...]) -> Batch:
    """Read the state of a load from its events.

    Parameters
    ----------
    events : in any order; an id that comes twice counts once, an undone one not at all

    Returns
    -------
    the load as it stands

    References
    ----------
    Plain arithmetic.
    """
    unique = {e.id: e for e in events}
    undone = {e.undoes for e in unique.values() if e.kind == "undone"}
    live = sorted((e for e in unique.values() if e.id not in undone), key=lambda e: (e.at, e.id))
    water = [e for e in live if e.kind == "water"]
    judged = [e for e in live if e.kind == "judged" and e.verdict]
    steps = [e for e in live if e.kind in ("step_done", "step_back") and e.step is not None]
    ended = next((e for e in reversed(live) if e.kind in ("accepted", "thrown_away")), None)
    first_look = judged[0].at if judged else None
    return Batch(
        started_at=next((e.at for e in live if e.kind == "started"), None),
        ended_at=ended.at if ended else None,
        first_water_at=water[0].at if water else None,
        poured_l=sum(e.litres or 0.0 for e in water),
        late_water_l=sum(e.litres or 0.0 for e in water if first_look and e.at > first_look),
        pours=len(water),
        dry_added_kg=sum(e.dry_kg or 0.0 for e in live if e.kind == "dry_added"),
        step=_step_after(steps),
        verdicts=tuple(e.verdict for e in judged if e.verdict),
        ended=ended.kind if ended and ended.kind in ("accepted", "thrown_away") else "",
    )


def _step_after(steps: list[BatchEvent]) -> int:
    if not steps:
        return 0
    last = steps[-1]
    return (last.step or 0) + (1 if last.kind == "step_done" else 0)


def next_pour_l(planned_l: float, ceiling_l: float, last_poured_l: float | None, size_ratio: float = 1.0) -> float:
    """Water the next load starts from: what the last accepted one really took.

    Parameters
    ----------
    planned_l : what the plan says to pour [L]
    ceiling_l : the most that may ever be poured into this load [L]
    last_poured_l : water count of the last accepted load [L], late sips and all; None before the first
    size_ratio : size of the next load over that of the last [-]

    Returns
    -------
    water to pour [L], never over the ceiling

    References
    ----------
    Common practice, no source: write down what was added; the next load starts with the total.

    >>> next_pour_l(1.5, 2.0, 1.5 + 0.25)
    1.75
    """
    if last_poured_l is None:
        return planned_l
    return min(last_poured_l * size_ratio, ceiling_l)
