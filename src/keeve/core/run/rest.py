"""What is still to make, what comes next, and what went in."""

from collections.abc import Mapping

from keeve.core.run.events import Happened, Looked, OneMore
from keeve.core.run.models import HeapTold, LoadState, NextLoad
from keeve.core.run.raw_loads import RawLoad, card_of
from keeve.core.run.tap_order import Tap
from keeve.core.run.teaching import aim_of, per_dry_of, teacher_of
from keeve.core.ticket.ticket import Ticket


def to_fill(
    tickets: Mapping[int, Ticket], now: int | None, loads: list[RawLoad], taps: list[Tap]
) -> list[tuple[int | None, int]]:
    """Slot and card of every load still to begin: first those planned, then those made up and added.

    Common practice, no source: a load thrown away is made up.
    """
    if now is None:
        return []
    ticket = tickets[now]
    counted = {(key.number, key.mixer) for key in ticket.counted}
    used: set[int] = set()
    extra = 0
    for load in loads:
        lost = load.ended == "thrown_away"
        other = tickets.get(load.ticket) if load.ticket is not None else None
        if (load.number, load.mixer) in counted:
            extra += lost and other is not None and other.round == ticket.round
        elif other is None or other.round != ticket.round or lost:
            continue
        elif load.ticket == now and load.slot is not None and load.slot < len(ticket.loads) and load.slot not in used:
            used.add(load.slot)
        else:
            extra -= 1
    extra += sum(isinstance(tap.event, OneMore) and tap.event.ticket == now for tap in taps)
    free: list[tuple[int | None, int]] = [(i, one.card) for i, one in enumerate(ticket.loads) if i not in used]
    if extra < 0:  # a phone without a network began loads that this ticket does not know
        return free[-extra:]
    return free + [(None, 0)] * extra


def next_load(
    tickets: Mapping[int, Ticket],
    now: int | None,
    loads: list[RawLoad],
    teachers: list[RawLoad],
    eras: dict[int, int],
    slots: list[tuple[int | None, int]],
) -> NextLoad | None:
    """Return what comes after the loads that were begun. Plain arithmetic."""
    if now is None or not slots:
        return None
    ticket = tickets[now]
    slot, index = slots[0]
    card = ticket.cards[index]
    teacher = teacher_of(ticket, ticket.mixer.key, 1 << 60, teachers, tickets, eras)
    taught_card = card_of(teacher, tickets) if teacher else None
    per_dry = per_dry_of(teacher, taught_card) if teacher and taught_card else None
    aim = aim_of(card, per_dry, 0.0)
    return NextLoad(
        number=max((load.number for load in loads), default=0) + 1,
        mixer=ticket.mixer.key,
        ticket=now,
        slot=slot,
        card=index,
        volume_m3=card.volume_m3,
        aim_l=aim.litres,
        taught_by=teacher.number if teacher else None,
        ask_moisture=aim.below,
    )


def heap_told(taps: list[Tap]) -> tuple[HeapTold, ...]:
    """List what was told of the heaps beside the mixer, in order. Common practice, no source."""
    found = []
    for tap in taps:
        event = tap.event
        if isinstance(event, Looked):
            found.append(HeapTold(at_ms=tap.at_ms, of=event.of, what="look", look=event.look, ticket=event.ticket))
        elif isinstance(event, Happened) and event.what != "bags":
            found.append(HeapTold(at_ms=tap.at_ms, of=event.of, what=event.what, look=None, ticket=0))
    return tuple(found)


def used_kg(states: tuple[LoadState, ...], tickets: Mapping[int, Ticket]) -> dict[str, float]:
    """Add up all that went in, by constituent [kg]: as weighed, else as planned; thrown away and rescue included.

    Plain arithmetic.
    """
    found: dict[str, float] = {}
    for state in states:
        ticket = tickets.get(state.ticket)
        if ticket is None or state.card is None:
            continue
        for dose in ticket.cards[state.card].doses:
            found[dose.key] = found.get(dose.key, 0.0) + state.weighed_kg.get(dose.key, dose.batch_kg)
        for key, kg in state.added_kg.items():
            found[key] = found.get(key, 0.0) + kg
    return found
