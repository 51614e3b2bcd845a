"""A load as it stands: its figures, and what brings one that is too wet back."""

from collections.abc import Mapping
from typing import Final, Literal

from keeve.core.run.brief import asked_l
from keeve.core.run.clocks import clocks_of
from keeve.core.run.models import DryPart, LoadState, Proposal
from keeve.core.run.raw_loads import RawLoad, card_index, card_of
from keeve.core.run.teaching import NEAR, aim_of, limit_l, per_dry_of, teaches
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.rescue import made_l, proposal_kg
from keeve.core.ticket.ticket import Ticket

ROOM: Final = 1.005
"""The line in the drum is read no better than half a percent: common practice, no source."""
OVER_L: Final = 0.005


def state_of(load: RawLoad, tickets: Mapping[int, Ticket]) -> LoadState:
    """Put a load into figures. Plain arithmetic; the rules stand with what they rule."""
    ticket, card = tickets.get(load.ticket or 0), card_of(load, tickets)
    verdict, right, (told_by, brief) = _verdict(load), teaches(load, tickets), load.told
    figures = _Figures(load, ticket, card, verdict)
    return LoadState(
        number=load.number,
        mixer=load.mixer,
        ticket=load.ticket or 0,
        slot=load.slot,
        card=card_index(load, ticket) if ticket else None,
        volume_m3=card.volume_m3 if card else 0.0,
        step=min(load.step, len(card.steps) - 1) if card else load.step,
        since_ms=load.since_ms,
        poured_l=load.poured_l,
        late_l=load.late_l,
        pours=load.pours,
        dry_added_kg=load.dry_kg,
        added_kg=load.added,
        **clocks_of(load, ticket, card),
        verdicts=tuple(load.verdicts),
        verdict=verdict,
        ended=load.ended,
        accept_waits=load.waits,
        taught_by=load.taught_by,
        teaches=right,
        how=_how(load) if right else "",
        water_per_dry=per_dry_of(load, card) if card else 0.0,
        question=load.question,
        told_by=told_by,
        brief=brief,
        **vars(figures),
        over=load.poured_l > figures.high_l + OVER_L if card else False,
    )


def _verdict(load: RawLoad) -> Literal["", "dry", "right", "wet"]:
    """Return what was found of a load, as long as nothing was done to it since."""
    return load.verdicts[-1] if load.verdicts and load.fresh else ""


def _how(load: RawLoad) -> Literal["poured", "sipped", "rescued"]:
    """Return in which way a load came to its water."""
    return "rescued" if load.dry_kg > 0 else "sipped" if load.late_l > 0 else "poured"


class _Figures:
    """The sums of a load that has a ticket; nothings for one that has not."""

    def __init__(self, load: RawLoad, ticket: Ticket | None, card: TicketCard | None, verdict: str) -> None:
        self.aim_l = self.low_l = self.high_l = self.made_m3 = self.due_l = self.first_l = 0.0
        self.steps_l: tuple[float, ...] = ()
        self.ask_moisture = self.may_sip = False
        self.proposal: Proposal | None = None
        if ticket is None or card is None:
            return
        water, more = card.water, load.dry_kg / card.dry_kg
        told = load.brief
        self.aim_l, self.ask_moisture = aim_of(card, load.per_dry, load.dry_kg, told)
        high_l = water.pour.high if told is None or told.ceiling_l is None else told.ceiling_l
        self.low_l, self.high_l = (limit_l(card, one, load.dry_kg) for one in (water.pour.low, high_l))
        self.first_l, self.steps_l = asked_l(card, self.aim_l, told)
        self.due_l = sum(self.steps_l[: load.step + 1])
        self.may_sip = ticket.rescue.may_take_water and load.poured_l + water.sip_l <= self.high_l + NEAR
        target_l = water.pour.target + water.once_l
        # What a heap that nobody looked at turned out to lack fills no room of its own: its grains came drier.
        lacked_l = min(max(load.poured_l - water.pour.target, 0.0), water.if_dry_l)
        counted_l = load.poured_l - lacked_l + water.once_l
        made = made_l(card.volume_m3 * 1000, more, counted_l, target_l, by_dry_mass=ticket.by_dry_mass)
        self.made_m3 = max(made, 0.0) / 1000
        if verdict == "wet" and ticket.rescue.may_take_dry:
            self.proposal = _proposal(load, ticket, card, made)


def _back_per_dry(load: RawLoad, card: TicketCard) -> tuple[float, float]:
    """Return the water per dry mass a load is brought back to [L/kg], and how much of the way [-].

    What it had when it was last right or too dry, half the way then; else what was taught, else the target: of a heap
    that nobody looked at that of its dry end. House ruling.
    """
    once = card.water.once_l
    if load.last_good is not None:
        verdict, place, dry_kg = load.last_good
        return (load.water.until_l(place) + once) / (card.dry_kg + dry_kg), 0.5 if verdict == "dry" else 1.0
    if load.per_dry is not None:
        return load.per_dry, 1.0
    return (card.water.pour.target + card.water.if_dry_l + once) / card.dry_kg, 1.0


def _proposal(load: RawLoad, ticket: Ticket, card: TicketCard, made: float) -> Proposal | None:
    water = card.water
    back, share = _back_per_dry(load, card)
    if back <= 0:
        return None
    dry_kg, counts = proposal_kg(load.poured_l + water.once_l, card.dry_kg + load.dry_kg, back, water.sip_l, share)
    # A kilogram of dry mix brings its grains and the heap's water with it, and no more: the load's own water is there.
    litres_per_kg = (card.volume_m3 * 1000 - (0.0 if ticket.by_dry_mass else water.pour.target + water.once_l)) / (
        card.dry_kg
    )
    room_kg = max(ticket.full_m3 * 1000 * ROOM - made, 0.0) / litres_per_kg
    return Proposal(
        by="count" if counts else "step",
        dry_kg=dry_kg,
        parts=tuple(
            DryPart(key=d.key, dry_kg=dry_kg * d.dry_kg / card.dry_kg, batch_kg=dry_kg * d.batch_kg / card.dry_kg)
            for d in card.doses
        ),
        fits=dry_kg <= room_kg,
        room_kg=room_kg,
    )
