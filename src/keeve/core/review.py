"""Looking back: what the loads really took, beside what the ticket said."""

from statistics import fmean

from keeve.core.batch import Batch, BatchEvent, read_batch
from keeve.core.errors import Frozen
from keeve.core.plan import Plan
from keeve.core.proportions import WaterWindow


class LoadRow(Frozen):
    """One load, planned and real."""

    number: int
    pour: WaterWindow
    batch: Batch
    minutes: int | None
    events: tuple[BatchEvent, ...]


class Used(Frozen):
    """One constituent over the loads that were used."""

    key: str
    name: str
    used_kg: float
    planned_kg: float


class Review(Frozen):
    """A job's log against its ticket."""

    rows: tuple[LoadRow, ...]
    accepted: int
    mean_poured_l: float | None
    """Mean water of the accepted loads, each scaled to a full one."""
    last_poured_l: float | None
    """Water of the last accepted load, scaled to a full one: where the next begins."""
    full_target_l: float
    scale_l: float
    """Largest figure among the rows, for drawing them alike."""
    late_l: float
    used: tuple[Used, ...]


def review(plan: Plan, events: dict[int, tuple[BatchEvent, ...]]) -> Review:
    """Set a job's log against its ticket.

    Parameters
    ----------
    plan : the ticket
    events : by number of the load

    Returns
    -------
    a row for each load that was begun, and what was used in all

    References
    ----------
    Plain arithmetic.
    """
    rows = tuple(_row(plan, number, events[number]) for number in sorted(events))
    done = [row for row in rows if row.batch.ended == "accepted"]
    full = plan.cards[plan.loads[0].card]
    scaled = [row.batch.poured_l * full.volume_m3 / plan.loads[row.number - 1].volume_m3 for row in done]
    return Review(
        rows=rows,
        accepted=len(done),
        mean_poured_l=fmean(scaled) if scaled else None,
        last_poured_l=scaled[-1] if scaled else None,
        full_target_l=full.water.pour.target,
        scale_l=max([1e-6, *(max(r.batch.poured_l, r.pour.high) for r in rows)]),
        late_l=sum(row.batch.late_water_l for row in done),
        used=_used(plan, done),
    )


def _row(plan: Plan, number: int, events: tuple[BatchEvent, ...]) -> LoadRow:
    batch = read_batch(events)
    minutes = None
    if batch.started_at and batch.ended_at:
        minutes = round((batch.ended_at - batch.started_at).total_seconds() / 60)
    card = plan.cards[plan.loads[number - 1].card]
    ordered = tuple(sorted(events, key=lambda e: (e.at, e.id)))
    return LoadRow(number=number, pour=card.water.pour, batch=batch, minutes=minutes, events=ordered)


def _used(plan: Plan, done: list[LoadRow]) -> tuple[Used, ...]:
    cards = [plan.cards[plan.loads[row.number - 1].card] for row in done]
    lines = [
        Used(
            key=total.material_key,
            name=total.name,
            used_kg=sum(card.doses[i].batch_kg for card in cards),
            planned_kg=total.batch_kg,
        )
        for i, total in enumerate(plan.totals)
    ]
    poured = sum(row.batch.poured_l for row in done)
    lines.append(Used(key="water", name="Water poured", used_kg=poured, planned_kg=plan.water_l.target))
    return tuple(lines)


def next_time(found: Review) -> tuple[str, float] | None:
    """Say how the next job should begin, if the log says anything at all.

    Parameters
    ----------
    found : the review

    Returns
    -------
    which way the water ran against the ticket (more, less, as said) and by how much of it [%];
    None before the first accepted load

    References
    ----------
    Common practice, no source: a difference within 3 % is within what a jug and an eye can do.
    """
    if found.mean_poured_l is None or found.full_target_l <= 0:
        return None
    percent = (found.mean_poured_l / found.full_target_l - 1) * 100
    return ("as said" if abs(percent) <= 3 else "more" if percent > 0 else "less"), percent
