"""The run of a job: its log folded over its tickets. The only reader of a log; `run_fold.js` is its twin."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

from keeve.core.errors import Frozen
from keeve.core.events import (
    DryAdded,
    Event,
    Judged,
    LoadEvent,
    OneMore,
    Poured,
    Settled,
    Started,
    StepBack,
    StepDone,
    Verdict,
)
from keeve.core.rescue import made_l, proposal_kg
from keeve.core.tap_order import Tap, in_order, standing
from keeve.core.ticket import Ticket, TicketCard

SAME_TAP_MS: Final = 3000
"""Equal taps of two phones nearer than this may be one pour told twice."""
_NEAR: Final = 1e-6
_ROOM: Final = 1.005
"""The line in the drum is read no better than half a percent: common practice, no source."""
OVER_L: Final = 0.005


class DryPart(Frozen):
    """Some of one constituent for a load that is too wet, as it lies in the heap."""

    key: str
    dry_kg: float
    batch_kg: float


class Proposal(Frozen):
    """What brings a load that is too wet back."""

    by: Literal["count", "step"]
    dry_kg: float
    parts: tuple[DryPart, ...]
    fits: bool
    room_kg: float
    """Dry mix there is still room for."""


class Question(Frozen):
    """Once or twice? Two taps that may be one pour."""

    about: str
    """Id of the later tap; it does not count while the question is open."""
    like: str
    litres: float


class LoadState(Frozen):
    """A load as it stands."""

    number: int
    mixer: str
    ticket: int
    slot: int | None
    card: int | None
    """None where its ticket cannot be read."""
    volume_m3: float
    begun_ms: int
    ended_ms: int | None
    met_ms: int | None
    """When water and binder met."""
    step: int
    since_ms: int
    """Since when it stands at its step."""
    poured_l: float
    late_l: float
    """Of it after the first look."""
    pours: int
    dry_added_kg: float
    added_kg: dict[str, float]
    """Dry mix added, by constituent, as it lay in the heap."""
    verdicts: tuple[Verdict, ...]
    verdict: Literal["", "dry", "right", "wet"]
    """The last look, as long as nothing went in after it."""
    ended: Literal["", "accepted", "thrown_away"]
    accept_waits: bool
    """Accepted, but a question about its water is open."""
    aim_l: float
    """What to pour in all: taught by an earlier load, else the ticket's target; with the dry mix added."""
    taught_by: int | None
    ask_moisture: bool
    """What was taught lies below the window: the heap must have changed."""
    low_l: float
    high_l: float
    """Never past this."""
    over: bool
    may_sip: bool
    teaches: bool
    how: Literal["", "poured", "sipped", "rescued"]
    """How the water of a load that teaches came about."""
    water_per_dry: float
    made_m3: float
    proposal: Proposal | None
    question: Question | None


class NextLoad(Frozen):
    """What comes after the loads that were begun."""

    number: int
    mixer: str
    ticket: int
    slot: int | None
    card: int
    volume_m3: float
    aim_l: float
    taught_by: int | None
    ask_moisture: bool


class Run(Frozen):
    """A job's loads, through all its days."""

    ticket: int | None
    """The revision that is mixed from now."""
    loads: tuple[LoadState, ...]
    to_fill: tuple[int, ...]
    """Cards of the loads still to make, in order."""
    made_m3: float
    """Of this round."""
    thrown_m3: float
    to_make_m3: float
    next: NextLoad | None
    used_kg: dict[str, float]
    """All that went in, thrown away and rescue included, by constituent."""
    poured_l: float
    done: bool
    standing: tuple[str, ...]
    """Ids of the taps that count, in order."""


@dataclass(slots=True)
class _Load:
    """A load while its taps are read."""

    number: int
    mixer: str
    first: int
    begun_ms: int
    ticket: int | None = None
    slot: int | None = None
    end_at: int = -1
    ended_ms: int | None = None
    met_ms: int | None = None
    step: int = 0
    since_ms: int = 0
    poured: list[tuple[int, Tap]] = field(default_factory=list)
    """With their places in the order."""
    verdicts: list[Verdict] = field(default_factory=list)
    fresh: bool = False
    """Nothing went in since the last look."""
    looked_at: int = -1
    dry_kg: float = 0.0
    added: dict[str, float] = field(default_factory=dict)
    ended: Literal["", "accepted", "thrown_away"] = ""
    settled: dict[str, bool] = field(default_factory=dict)
    poured_l: float = 0.0
    late_l: float = 0.0
    pours: int = 0
    question: Question | None = None
    waits: bool = False
    taught_by: int | None = None
    per_dry: float | None = None
    """Water per dry mass that it was begun with, where it was taught."""


def fold(tickets: Mapping[int, Ticket], events: Iterable[Event]) -> Run:
    """Read the log of a job.

    Parameters
    ----------
    tickets : the job's tickets by revision; one that cannot be read is not among them
    events : the job's log in any order

    Returns
    -------
    the run as it stands; the same for every order of arrival

    References
    ----------
    Common practice, no source.
    """
    taps = standing(in_order(events))
    loads = _read_loads(taps, tickets)
    eras = _eras(tickets)
    teachers = sorted((load for load in loads if _teaches(load, tickets)), key=lambda load: -load.end_at)
    for load in loads:
        _teach(load, teachers, tickets, eras)
    states = tuple(_state(load, tickets) for load in sorted(loads, key=lambda one: (one.number, one.first)))
    now = max(tickets) if tickets else None
    slots = _to_fill(tickets, now, loads, taps)
    following = _next(tickets, now, loads, teachers, eras, slots)
    current = tickets[now] if now is not None else None
    round_ = [s for s in states if current and s.ticket in tickets and tickets[s.ticket].round == current.round]
    return Run(
        ticket=now,
        loads=states,
        to_fill=tuple(card for _, card in slots),
        made_m3=sum(s.made_m3 for s in round_ if s.ended == "accepted"),
        thrown_m3=sum(s.made_m3 for s in round_ if s.ended == "thrown_away"),
        to_make_m3=sum(current.cards[card].volume_m3 for _, card in slots) if current else 0.0,
        next=following,
        used_kg=_used(states, tickets),
        poured_l=sum(s.poured_l for s in states),
        done=bool(states) and not slots and all(s.ended for s in states),
        standing=tuple(tap.event.id for tap in taps),
    )


# ── taps to loads ────────────────────────────────────────────────────────────


def _read_loads(taps: list[Tap], tickets: Mapping[int, Ticket]) -> list[_Load]:
    """Gather the taps of each load, in the order the loads were begun."""
    found: dict[tuple[int, str], _Load] = {}
    for index, tap in enumerate(taps):
        event = tap.event
        if not isinstance(event, LoadEvent):
            continue
        key = (event.load, event.mixer)
        load = found.get(key)
        if load is None:
            load = found[key] = _Load(event.load, event.mixer, index, tap.at_ms, since_ms=tap.at_ms)
        _take(load, event, tap, index, tickets)
    for load in found.values():
        _count_water(load)
    return list(found.values())


def _take(load: _Load, event: LoadEvent, tap: Tap, index: int, tickets: Mapping[int, Ticket]) -> None:
    if isinstance(event, Started):
        if load.ticket is None:
            load.ticket, load.slot, load.since_ms = event.ticket, event.slot, tap.at_ms
    elif isinstance(event, Poured):
        load.poured.append((index, tap))
        load.fresh = False
    elif isinstance(event, StepDone | StepBack):
        _step(load, event, tap, tickets)
    elif isinstance(event, Judged):
        load.verdicts.append(event.verdict)
        load.fresh = True
        load.looked_at = index if load.looked_at < 0 else load.looked_at
    elif isinstance(event, DryAdded):
        load.dry_kg += event.dry_kg
        load.fresh = False
        for key, kg in event.parts.items():
            load.added[key] = load.added.get(key, 0.0) + kg
    elif isinstance(event, Settled):
        load.settled[event.about] = event.twice
    else:
        load.ended = event.kind
        load.ended_ms, load.end_at = tap.at_ms, index


def _step(load: _Load, event: StepDone | StepBack, tap: Tap, tickets: Mapping[int, Ticket]) -> None:
    if isinstance(event, StepBack):
        load.step, load.since_ms = event.step, tap.at_ms
        return
    card = _card_of(load, tickets)
    if card is not None and event.step == card.meets and load.met_ms is None:
        load.met_ms = tap.at_ms
    if event.step >= load.step:  # a phone that is behind does not turn the load back
        load.step, load.since_ms = event.step + 1, tap.at_ms


def _card_of(load: _Load, tickets: Mapping[int, Ticket]) -> TicketCard | None:
    ticket = tickets.get(load.ticket) if load.ticket is not None else None
    if ticket is None:
        return None
    return ticket.cards[_card_index(load, ticket)]


def _card_index(load: _Load, ticket: Ticket) -> int:
    return ticket.loads[load.slot].card if load.slot is not None and load.slot < len(ticket.loads) else 0


def _count_water(load: _Load) -> None:
    """Add the pours up; one that may be another told twice waits for its answer."""
    counted: list[Tap] = []
    asked = -1
    for place, tap in load.poured:
        like = next((other for other in counted if _may_be_one(other, tap)), None)
        twice = load.settled.get(tap.event.id)
        litres = tap.event.litres if isinstance(tap.event, Poured) else 0.0
        if like is None or twice:
            counted.append(tap)
            load.poured_l += litres
            if 0 <= load.looked_at < place:
                load.late_l += litres
        elif twice is None and load.question is None:
            load.question = Question(about=tap.event.id, like=like.event.id, litres=litres)
            asked = place
    load.pours = len(counted)
    if load.question is not None and load.ended == "accepted" and load.end_at > asked:
        load.waits, load.ended, load.ended_ms, load.end_at = True, "", None, -1


def _may_be_one(first: Tap, then: Tap) -> bool:
    a, b = first.event, then.event
    if not isinstance(a, Poured) or not isinstance(b, Poured):
        return False
    if a.rest_of is not None and b.rest_of is not None and abs(a.rest_of - b.rest_of) < _NEAR:
        return True
    # Two tabs of one browser are one hand.
    same = abs(a.litres - b.litres) < _NEAR and a.phone.partition(".")[0] != b.phone.partition(".")[0]
    return same and then.at_ms - first.at_ms <= SAME_TAP_MS


# ── what teaches ─────────────────────────────────────────────────────────────


def _eras(tickets: Mapping[int, Ticket]) -> dict[int, int]:
    """Number the times between two new moistures, by revision."""
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


def _teaches(load: _Load, tickets: Mapping[int, Ticket]) -> bool:
    card = _card_of(load, tickets)
    if card is None or load.ended != "accepted" or load.question is not None:
        return False
    # A load whose water nobody counted says nothing of water.
    counted = load.pours > 0 or card.water.pour.target <= 0
    return counted and (not load.verdicts or load.verdicts[-1] == "right")


def _per_dry(load: _Load, card: TicketCard) -> float:
    return (load.poured_l + card.water.once_l) / (card.dry_kg + load.dry_kg)


def _teacher(
    ticket: Ticket, mixer: str, before: int, teachers: list[_Load], tickets: Mapping[int, Ticket], eras: dict[int, int]
) -> _Load | None:
    """Find the last accepted load that teaches one of this ticket and mixer; `teachers` the latest first."""
    for load in teachers:
        other = tickets[load.ticket]  # type: ignore[index]
        same = load.mixer == mixer and other.mix_as == ticket.mix_as and eras[other.revision] == eras[ticket.revision]
        if same and load.end_at < before:
            return load
    return None


def _teach(load: _Load, teachers: list[_Load], tickets: Mapping[int, Ticket], eras: dict[int, int]) -> None:
    ticket = tickets.get(load.ticket) if load.ticket is not None else None
    if ticket is None:
        return
    teacher = _teacher(ticket, load.mixer, load.first, teachers, tickets, eras)
    card = _card_of(teacher, tickets) if teacher else None
    if teacher is not None and card is not None:
        load.taught_by, load.per_dry = teacher.number, _per_dry(teacher, card)


def _aim(card: TicketCard, per_dry: float | None, more: float) -> tuple[float, bool]:
    """Water to pour in all with `more` dry mix, and whether what was taught lies below the window."""
    water, dry = card.water, card.dry_kg
    scale = 1 + more / dry
    low, high = (max((limit + water.once_l) * scale - water.once_l, 0.0) for limit in (water.pour.low, water.pour.high))
    if per_dry is None:
        return max((water.pour.target + water.once_l) * scale - water.once_l, 0.0), False
    taught = max(per_dry * (dry + more) - water.once_l, 0.0)
    return min(taught, high), taught < low - _NEAR


# ── a load as it stands ──────────────────────────────────────────────────────


def _state(load: _Load, tickets: Mapping[int, Ticket]) -> LoadState:
    ticket = tickets.get(load.ticket) if load.ticket is not None else None
    card = _card_of(load, tickets)
    verdict: Literal["", "dry", "right", "wet"] = load.verdicts[-1] if load.verdicts and load.fresh else ""
    teaches = _teaches(load, tickets)
    how: Literal["poured", "sipped", "rescued"] = (
        "rescued" if load.dry_kg > 0 else "sipped" if load.late_l > 0 else "poured"
    )
    figures = _Figures(load, ticket, card, verdict)
    return LoadState(
        number=load.number,
        mixer=load.mixer,
        ticket=load.ticket or 0,
        slot=load.slot,
        card=_card_index(load, ticket) if ticket else None,
        volume_m3=card.volume_m3 if card else 0.0,
        begun_ms=load.begun_ms,
        ended_ms=load.ended_ms,
        met_ms=load.met_ms,
        step=min(load.step, len(card.steps) - 1) if card else load.step,
        since_ms=load.since_ms,
        poured_l=load.poured_l,
        late_l=load.late_l,
        pours=load.pours,
        dry_added_kg=load.dry_kg,
        added_kg=load.added,
        verdicts=tuple(load.verdicts),
        verdict=verdict,
        ended=load.ended,
        accept_waits=load.waits,
        taught_by=load.taught_by,
        teaches=teaches,
        how=how if teaches else "",
        water_per_dry=_per_dry(load, card) if card else 0.0,
        question=load.question,
        aim_l=figures.aim_l,
        ask_moisture=figures.ask_moisture,
        low_l=figures.low_l,
        high_l=figures.high_l,
        over=load.poured_l > figures.high_l + OVER_L if card else False,
        may_sip=figures.may_sip,
        made_m3=figures.made_m3,
        proposal=figures.proposal,
    )


class _Figures:
    """The sums of a load that has a ticket; nothings for one that has not."""

    def __init__(self, load: _Load, ticket: Ticket | None, card: TicketCard | None, verdict: str) -> None:
        self.aim_l = self.low_l = self.high_l = self.made_m3 = 0.0
        self.ask_moisture = self.may_sip = False
        self.proposal: Proposal | None = None
        if ticket is None or card is None:
            return
        water, more = card.water, load.dry_kg / card.dry_kg
        self.aim_l, self.ask_moisture = _aim(card, load.per_dry, load.dry_kg)
        self.low_l, self.high_l = (
            max((limit + water.once_l) * (1 + more) - water.once_l, 0.0) for limit in (water.pour.low, water.pour.high)
        )
        self.may_sip = ticket.rescue.may_take_water and load.poured_l + water.sip_l <= self.high_l + _NEAR
        target_l = water.pour.target + water.once_l
        made = made_l(
            card.volume_m3 * 1000, more, load.poured_l + water.once_l, target_l, by_dry_mass=ticket.by_dry_mass
        )
        self.made_m3 = max(made, 0.0) / 1000
        if verdict == "wet" and ticket.rescue.may_take_dry:
            self.proposal = _proposal(load, ticket, card, made)


def _proposal(load: _Load, ticket: Ticket, card: TicketCard, made: float) -> Proposal | None:
    water = card.water
    aim_l, _ = _aim(card, load.per_dry, 0.0)
    if aim_l + water.once_l <= 0:
        return None
    per_litre = card.dry_kg / (aim_l + water.once_l)
    dry_kg = proposal_kg(
        load.poured_l, water.once_l, card.dry_kg + load.dry_kg, aim_l, water.once_l, card.dry_kg, water.sip_l
    )
    by_count = (load.poured_l + water.once_l) * per_litre - card.dry_kg - load.dry_kg
    # A kilogram of dry mix brings its grains and the heap's water with it, and no more: the load's own water is there.
    litres_per_kg = (card.volume_m3 * 1000 - (0.0 if ticket.by_dry_mass else water.pour.target + water.once_l)) / (
        card.dry_kg
    )
    room_kg = max(ticket.full_m3 * 1000 * _ROOM - made, 0.0) / litres_per_kg
    return Proposal(
        by="count" if abs(by_count - dry_kg) < _NEAR else "step",
        dry_kg=dry_kg,
        parts=tuple(
            DryPart(key=d.key, dry_kg=dry_kg * d.dry_kg / card.dry_kg, batch_kg=dry_kg * d.batch_kg / card.dry_kg)
            for d in card.doses
        ),
        fits=dry_kg <= room_kg,
        room_kg=room_kg,
    )


# ── what is still to make ────────────────────────────────────────────────────


def _to_fill(
    tickets: Mapping[int, Ticket], now: int | None, loads: list[_Load], taps: list[Tap]
) -> list[tuple[int | None, int]]:
    """Slot and card of every load still to begin: first those planned, then those made up and added."""
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


def _next(
    tickets: Mapping[int, Ticket],
    now: int | None,
    loads: list[_Load],
    teachers: list[_Load],
    eras: dict[int, int],
    slots: list[tuple[int | None, int]],
) -> NextLoad | None:
    if now is None or not slots:
        return None
    ticket = tickets[now]
    slot, index = slots[0]
    card = ticket.cards[index]
    teacher = _teacher(ticket, ticket.mixer.key, 1 << 60, teachers, tickets, eras)
    taught_card = _card_of(teacher, tickets) if teacher else None
    per_dry = _per_dry(teacher, taught_card) if teacher and taught_card else None
    aim_l, ask = _aim(card, per_dry, 0.0)
    return NextLoad(
        number=max((load.number for load in loads), default=0) + 1,
        mixer=ticket.mixer.key,
        ticket=now,
        slot=slot,
        card=index,
        volume_m3=card.volume_m3,
        aim_l=aim_l,
        taught_by=teacher.number if teacher else None,
        ask_moisture=ask,
    )


def _used(states: tuple[LoadState, ...], tickets: Mapping[int, Ticket]) -> dict[str, float]:
    found: dict[str, float] = {}
    for state in states:
        ticket = tickets.get(state.ticket)
        if ticket is None or state.card is None:
            continue
        for dose in ticket.cards[state.card].doses:
            found[dose.key] = found.get(dose.key, 0.0) + dose.batch_kg
        for key, kg in state.added_kg.items():
            found[key] = found.get(key, 0.0) + kg
    return found
