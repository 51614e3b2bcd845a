"""A load's clocks: when its life is used up, and how fast its plaster goes through its stages."""

from collections.abc import Mapping
from typing import Any, Final

from keeve.core.hardening.clock import PACE_BELIEVED, life_ends_ms
from keeve.core.run.raw_loads import RawLoad
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.ticket import Ticket

DAY_MS: Final = 16 * 3_600_000
"""What was seen teaches for so long: a working day, as with looks at the heap."""


def life_end_of(load: RawLoad, ticket: Ticket) -> int | None:
    """Return when the life of a load ends [ms]; None before water and binder meet. As `clock.life_ends_ms`."""
    if load.met_ms is None:
        return None
    began_c = ticket.begins_c
    looks = [(at, value) for at, what, value in load.measured if what == "temperature"]
    return life_ends_ms(load.met_ms, ticket.life_min, ticket.life_ref_c, began_c, looks)


def clocks_of(load: RawLoad, ticket: Ticket | None, card: TicketCard | None) -> dict[str, Any]:
    """Return what of a load's state tells the time, and what was measured of it. Plain arithmetic."""
    return {
        "begun_ms": load.begun_ms,
        "ended_ms": load.ended_ms,
        "met_ms": load.met_ms,
        "first_powder_ms": load.first_powder_ms,
        "life_ends_ms": life_end_of(load, ticket) if ticket else None,
        "poured_ms": load.poured[-1][1].at_ms if load.poured else None,
        "measured": {what: value for _, what, value in load.measured},
        "weighed_kg": _by_part(load, card),
        "stages": load.stages,
        "pace": load.pace,
    }


def _by_part(load: RawLoad, card: TicketCard | None) -> dict[str, float]:
    """What went in of each constituent that was weighed [kg]: vessels nobody read as planned."""
    went_in = {dose.key: dose.batch_kg for dose in card.doses} if card is not None else {}
    found: dict[str, float] = {}
    for (part, _), kg in load.weighed.items():
        found[part] = went_in[part] if part in went_in else found.get(part, 0.0) + kg
    return found


def _own_pace(load: RawLoad, tickets: Mapping[int, Ticket]) -> float | None:
    """Real over expected time from first powder to the stage seen last; None where none was seen."""
    ticket = tickets.get(load.ticket or 0)
    stage = next((one for one in ticket.stages if one.key == load.last_stage), None) if ticket else None
    if stage is None or load.first_powder_ms is None or stage.from_min <= 0:
        return None
    pace = (load.stages[load.last_stage] - load.first_powder_ms) / (stage.from_min * 60_000)
    least, most = PACE_BELIEVED
    return pace if least <= pace <= most else None


def set_pace(load: RawLoad, loads: list[RawLoad], tickets: Mapping[int, Ticket]) -> None:
    """Set the pace of a load: its own, else the mean of the loads of its mix begun before it that day.

    Common practice, no source.
    """
    own = _own_pace(load, tickets)
    if own is not None:
        load.pace = own
        return
    ticket, first = tickets.get(load.ticket or 0), load.first_powder_ms
    if ticket is None or first is None:
        return
    seen = [
        pace
        for other in loads
        if (its := tickets.get(other.ticket or 0)) is not None
        and its.mix_key == ticket.mix_key
        and other.first_powder_ms is not None
        and first - DAY_MS <= other.first_powder_ms < first
        and (pace := _own_pace(other, tickets)) is not None
    ]
    if seen:
        load.pace = sum(seen) / len(seen)
