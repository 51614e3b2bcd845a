"""When something is due at a load: the end of a step's timer, of its life, the next stages of its plaster."""

from collections.abc import Mapping
from typing import Final

from keeve.core.message.errors import Frozen
from keeve.core.message.said import Said, Words, mark
from keeve.core.run.models import LoadState, Run
from keeve.core.ticket.ticket import Ticket

WATCHED_MS: Final = 3 * 3_600_000
"""So long after the first powder plaster is watched on every page; its drying is not."""


class Due(Frozen):
    """What comes to a load at a moment."""

    what: Words
    at_ms: int
    """Milliseconds since 1970."""


class LoadClock(Frozen):
    """The clock of one load."""

    load: int
    mixer: str
    now: Words
    """What it is at until the first of them."""
    due: tuple[Due, ...]


def clocks_due(run: Run, tickets: Mapping[int, Ticket], now_ms: int) -> tuple[LoadClock, ...]:
    """List the clocks of a run that somebody should have in view.

    Parameters
    ----------
    run, tickets : of one job
    now_ms : the moment [ms since 1970]

    Returns
    -------
    a clock for each load in a mixer, and for each whose plaster still changes

    References
    ----------
    Common practice, no source.
    """
    found = []
    for load in run.loads:
        ticket = tickets.get(load.ticket)
        if ticket is None or load.card is None or load.ended == "thrown_away":
            continue
        due = sorted((*_steps(load, ticket), *_stages(load, ticket)), key=lambda one: one.at_ms)
        if load.ended and not any(one.at_ms > now_ms for one in due):
            continue
        found.append(LoadClock(load=load.number, mixer=load.mixer, now=_now(load, ticket, now_ms), due=tuple(due)))
    return tuple(found)


def _steps(load: LoadState, ticket: Ticket) -> list[Due]:
    if load.ended or load.card is None:
        return []
    step = ticket.cards[load.card].steps[load.step]
    found = []
    if step.seconds > 0:
        found.append(Due(what=Said("{step} is over", step=step.title), at_ms=load.since_ms + step.seconds * 1000))
    if load.life_ends_ms is not None:
        found.append(Due(what=mark("past its life"), at_ms=load.life_ends_ms))
    return found


def _stages(load: LoadState, ticket: Ticket) -> list[Due]:
    first = load.first_powder_ms
    if first is None or (ticket.stages and not load.ended):
        return []
    times = [(stage.name, first + round(stage.from_min * load.pace * 60_000)) for stage in ticket.stages]
    return [Due(what=name, at_ms=at) for name, at in times if at - first < WATCHED_MS * max(load.pace, 1)]


def _now(load: LoadState, ticket: Ticket, now_ms: int) -> Words:
    if not load.ended and load.card is not None:
        return ticket.cards[load.card].steps[load.step].title
    past = [one.what for one in _stages(load, ticket) if one.at_ms <= now_ms]
    return past[-1] if past else ""
