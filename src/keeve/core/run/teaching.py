"""What a load teaches the next: water per dry mass, within one mixer, mix and moisture."""

from collections.abc import Mapping
from typing import Final, NamedTuple

from keeve.core.run.brief import Brief
from keeve.core.run.raw_loads import RawLoad, card_of
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.ticket import Ticket

NEAR: Final = 1e-6


def eras_of(tickets: Mapping[int, Ticket]) -> dict[int, int]:
    """Number the times between two new moistures, by revision. Plain arithmetic."""
    found: dict[int, int] = {}
    before: Ticket | None = None
    era = 0
    for revision in sorted(tickets):
        ticket = tickets[revision]
        if before is not None and ticket.moisture_as != before.moisture_as:
            era += 1
        found[revision] = era
        before = ticket
    return found


def teaches(load: RawLoad, tickets: Mapping[int, Ticket]) -> bool:
    """Whether the next load may be begun with the water of this one. Common practice, no source."""
    card = card_of(load, tickets)
    if card is None or load.ended != "accepted" or load.question is not None:
        return False
    # A load whose water nobody counted says nothing of water.
    counted = load.pours > 0 or card.water.pour.target <= 0
    return counted and (not load.verdicts or load.verdicts[-1] == "right")


def per_dry_of(load: RawLoad, card: TicketCard) -> float:
    """Return the water of a load per dry mass [L/kg], as it stands. Plain arithmetic."""
    return (load.poured_l + card.water.once_l) / (card.dry_kg + load.dry_kg)


def teacher_of(
    ticket: Ticket,
    mixer: str,
    before: int,
    teachers: list[RawLoad],
    tickets: Mapping[int, Ticket],
    eras: dict[int, int],
) -> RawLoad | None:
    """Find the last accepted load that teaches one of this ticket and mixer; `teachers` the latest first.

    Common practice, no source: another mixer, another mix or a new moisture begins anew.
    """
    for load in teachers:
        other = tickets[load.ticket]  # type: ignore[index]
        same = load.mixer == mixer and other.mix_as == ticket.mix_as and eras[other.revision] == eras[ticket.revision]
        if same and load.end_at < before:
            return load
    return None


def teach(load: RawLoad, teachers: list[RawLoad], tickets: Mapping[int, Ticket], eras: dict[int, int]) -> None:
    """Write down what a load was begun with.

    What was told of it is a fact of its beginning, and leads; of an entry that tells nothing the last accepted load
    does: common practice, no source.
    """
    ticket = tickets.get(load.ticket) if load.ticket is not None else None
    if ticket is None:
        return
    own = card_of(load, tickets)
    told = load.brief
    if told is not None and own is not None:
        load.taught_by = told.taught_by
        load.per_dry = None if told.leads == "ticket" else (told.expected_l + own.water.once_l) / own.dry_kg
        return
    teacher = teacher_of(ticket, load.mixer, load.first, teachers, tickets, eras)
    card = card_of(teacher, tickets) if teacher else None
    if teacher is not None and card is not None:
        load.taught_by, load.per_dry = teacher.number, per_dry_of(teacher, card)


def limit_l(card: TicketCard, pour_l: float, more_kg: float) -> float:
    """Return what a figure of the window [L] comes to with `more_kg` of dry mix added. Plain arithmetic."""
    once = card.water.once_l
    return max((pour_l + once) * (1 + more_kg / card.dry_kg) - once, 0.0)


class Aim(NamedTuple):
    """What to pour into a load in all."""

    litres: float
    below: bool
    """What was taught lies below the window."""


def aim_of(card: TicketCard, per_dry: float | None, more_kg: float, told: Brief | None = None) -> Aim:
    """Return what to pour in all.

    Parameters
    ----------
    card : of the load
    per_dry : water per dry mass that was taught [L/kg]; None takes the ticket's target
    more_kg : dry mix added [kg]
    told : what was told of the load; its target leads

    Returns
    -------
    litres, never past the ceiling

    References
    ----------
    Common practice, no source: write down what was added; the next load starts with the total.
    """
    pour = card.water.pour
    taught = None if per_dry is None else max(per_dry * (card.dry_kg + more_kg) - card.water.once_l, 0.0)
    below = taught is not None and taught < limit_l(card, pour.low, more_kg) - NEAR
    if told is not None:
        most = pour.high if told.ceiling_l is None else told.ceiling_l
        return Aim(limit_l(card, min(told.target_l, most), more_kg), below)
    if taught is None:
        return Aim(limit_l(card, pour.target, more_kg), below)
    return Aim(min(taught, limit_l(card, pour.high, more_kg)), below)
