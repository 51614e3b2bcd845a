"""Looking back: what the loads really took, beside what their tickets said."""

from collections.abc import Mapping
from statistics import fmean

from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words, mark
from keeve.core.run.models import LoadState, Run
from keeve.core.ticket.cards import TicketCard, Window
from keeve.core.ticket.ticket import Ticket


class LoadRow(Frozen):
    """One load, planned and real."""

    state: LoadState
    pour: Window | None
    """What was asked of it: by its brief, else by its ticket; none where that cannot be read."""
    minutes: int | None


class Used(Frozen):
    """One constituent over all loads."""

    key: str
    name: Words
    used_kg: float
    """All that went in, thrown away and rescue included."""
    to_come_kg: float


class Review(Frozen):
    """A job's log against its tickets."""

    rows: tuple[LoadRow, ...]
    accepted: int
    planned: int
    """Loads of this round: used, in the mixer, and still to make."""
    mean_poured_l: float | None
    """Mean water of the accepted loads, as it was poured."""
    last_poured_l: float | None
    """Water of the last load that teaches, scaled to a full one: where the next begins."""
    off_percent: float | None
    """Mean of what the accepted loads took beyond their own tickets."""
    scale_l: float
    """Largest figure among the rows, for drawing them alike."""
    used: tuple[Used, ...]

    def good(self) -> list[LoadState]:
        """List loads that could be a recipe: used, right at the last look, nothing dry added. Common practice."""
        states = [row.state for row in self.rows if row.state.card is not None]
        return [
            one
            for one in states
            if one.ended == "accepted" and one.verdicts and one.verdicts[-1] == "right" and not one.dry_added_kg
        ]


def review(run: Run, tickets: Mapping[int, Ticket]) -> Review:
    """Set a job's run against its tickets.

    Parameters
    ----------
    run : the run
    tickets : by revision, those that can be read

    Returns
    -------
    a row for each load that was begun, and what was used in all

    References
    ----------
    Plain arithmetic.
    """
    rows = tuple(_row(state, tickets) for state in run.loads)
    done = [s for s in run.loads if s.ended == "accepted" and s.card is not None]
    taught = [s for s in done if s.teaches]
    full = tickets[run.ticket].cards[0] if run.ticket is not None else None
    return Review(
        rows=rows,
        accepted=sum(1 for s in run.loads if s.ended == "accepted"),
        planned=sum(1 for s in run.loads if s.ended != "thrown_away") + len(run.to_fill),
        mean_poured_l=fmean(s.poured_l for s in done) if done else None,
        last_poured_l=_scaled(max(taught, key=lambda s: s.ended_ms or 0), full) if taught and full else None,
        off_percent=fmean(_off_percent(s, tickets) for s in done) if done else None,
        scale_l=max([1e-6, *(max(r.state.poured_l, r.pour.high if r.pour else 0.0) for r in rows)]),
        used=_used(run, tickets),
    )


def _card(state: LoadState, tickets: Mapping[int, Ticket]) -> TicketCard | None:
    ticket = tickets.get(state.ticket)
    return ticket.cards[state.card] if ticket is not None and state.card is not None else None


def _row(state: LoadState, tickets: Mapping[int, Ticket]) -> LoadRow:
    card = _card(state, tickets)
    minutes = round((state.ended_ms - state.begun_ms) / 60_000) if state.ended_ms is not None else None
    return LoadRow(state=state, pour=_asked(state, card.water.pour) if card else None, minutes=minutes)


def _asked(state: LoadState, by_ticket: Window) -> Window:
    """Return the water that was asked of a load [L]: what its brief told leads."""
    told = state.brief
    if told is None:
        return by_ticket
    return Window(low=by_ticket.low, target=told.target_l, high=told.ceiling_l or by_ticket.high)


def _scaled(state: LoadState, full: TicketCard) -> float:
    return max(state.water_per_dry * full.dry_kg - full.water.once_l, 0.0)


def _off_percent(state: LoadState, tickets: Mapping[int, Ticket]) -> float:
    card = _card(state, tickets)
    if card is None:
        return 0.0
    wanted = (card.water.pour.target + card.water.once_l) / card.dry_kg
    return (state.water_per_dry / wanted - 1) * 100 if wanted > 0 else 0.0


def _used(run: Run, tickets: Mapping[int, Ticket]) -> tuple[Used, ...]:
    if run.ticket is None:
        return ()
    now = tickets[run.ticket]
    names = {d.key: d.name for t in tickets.values() for d in t.cards[0].doses}
    to_come = {d.key: 0.0 for card in now.cards for d in card.doses}
    for index in run.to_fill:
        for dose in now.cards[index].doses:
            to_come[dose.key] += dose.batch_kg
    keys = dict.fromkeys([*to_come, *run.used_kg])
    lines = [
        Used(
            key=key,
            name=names.get(key, key),
            used_kg=run.used_kg.get(key, 0.0),
            to_come_kg=to_come.get(key, 0.0),
        )
        for key in keys
    ]
    pour_l = sum(now.cards[index].water.pour.target for index in run.to_fill)
    return (*lines, Used(key="water", name=mark("Water poured"), used_kg=run.poured_l, to_come_kg=pour_l))


def next_time(found: Review) -> tuple[str, float] | None:
    """Say how the next job should begin, if the log says anything at all.

    Parameters
    ----------
    found : the review

    Returns
    -------
    which way the water ran against the tickets (more, less, as said) and by how much of it [%];
    None before the first accepted load

    References
    ----------
    Common practice, no source: a difference within 3 % is within what a jug and an eye can do.
    """
    percent = found.off_percent
    if percent is None:
        return None
    return ("as said" if abs(percent) <= 3 else "more" if percent > 0 else "less"), percent
