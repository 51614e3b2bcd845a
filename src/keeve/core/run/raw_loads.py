"""Taps gathered to loads: what went in, what was seen, how it ended."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

from keeve.core.events import (
    DryAdded,
    Judged,
    LoadEvent,
    Measured,
    Poured,
    Settled,
    StageSeen,
    Started,
    StepBack,
    StepDone,
    Verdict,
    Weighed,
)
from keeve.core.run.models import Question
from keeve.core.tap_order import Tap
from keeve.core.ticket import Ticket, TicketCard

SAME_TAP_MS: Final = 3000
"""Equal taps of two phones nearer than this may be one pour told twice."""
_NEAR: Final = 1e-6


@dataclass(slots=True)
class RawLoad:
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
    first_powder_ms: int | None = None
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
    measured: list[tuple[int, str, float]] = field(default_factory=list)
    weighed: dict[tuple[str, int], float] = field(default_factory=dict)
    stages: dict[str, int] = field(default_factory=dict)
    last_stage: str = ""
    pace: float = 1.0
    settled: dict[str, bool] = field(default_factory=dict)
    poured_l: float = 0.0
    late_l: float = 0.0
    pours: int = 0
    question: Question | None = None
    waits: bool = False
    taught_by: int | None = None
    per_dry: float | None = None
    """Water per dry mass that it was begun with, where it was taught."""
    expected_l: float | None = None
    first_l: float | None = None
    """What the sand was reckoned to want when it was begun."""


def read_loads(taps: list[Tap], tickets: Mapping[int, Ticket]) -> list[RawLoad]:
    """Gather the taps of each load, in the order the loads were begun. Common practice, no source."""
    found: dict[tuple[int, str], RawLoad] = {}
    for index, tap in enumerate(taps):
        event = tap.event
        if not isinstance(event, LoadEvent):
            continue
        key = (event.load, event.mixer)
        load = found.get(key)
        if load is None:
            load = found[key] = RawLoad(event.load, event.mixer, index, tap.at_ms, since_ms=tap.at_ms)
        _take(load, event, tap, index, tickets)
    for load in found.values():
        _count_water(load)
    return list(found.values())


def _take(load: RawLoad, event: LoadEvent, tap: Tap, index: int, tickets: Mapping[int, Ticket]) -> None:
    if isinstance(event, Started):
        if load.ticket is None:
            load.ticket, load.slot, load.since_ms = event.ticket, event.slot, tap.at_ms
            load.expected_l, load.first_l = event.expected_l, event.first_l
            _first_powder(load, tap, tickets)
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
    elif isinstance(event, Measured | Weighed | StageSeen):
        _note(load, event, tap)
    elif isinstance(event, Settled):
        load.settled[event.about] = event.twice
    else:
        load.ended = event.kind
        load.ended_ms, load.end_at = tap.at_ms, index


def _note(load: RawLoad, event: Measured | Weighed | StageSeen, tap: Tap) -> None:
    if isinstance(event, Measured):
        load.measured.append((tap.at_ms, event.what, event.value))
    elif isinstance(event, Weighed):
        load.weighed[(event.part, event.vessel)] = event.kg
    else:
        load.stages[event.stage] = tap.at_ms
        load.last_stage = event.stage


def _step(load: RawLoad, event: StepDone | StepBack, tap: Tap, tickets: Mapping[int, Ticket]) -> None:
    if isinstance(event, StepBack):
        load.step, load.since_ms = event.step, tap.at_ms
        return
    card = card_of(load, tickets)
    if card is not None and event.step == card.meets and load.met_ms is None:
        load.met_ms = tap.at_ms
    if event.step >= load.step:  # a phone that is behind does not turn the load back
        load.step, load.since_ms = event.step + 1, tap.at_ms
        _first_powder(load, tap, tickets)


def _first_powder(load: RawLoad, tap: Tap, tickets: Mapping[int, Ticket]) -> None:
    card = card_of(load, tickets)
    if card is not None and load.step >= card.meets and load.first_powder_ms is None:
        load.first_powder_ms = tap.at_ms


def card_of(load: RawLoad, tickets: Mapping[int, Ticket]) -> TicketCard | None:
    """Return the card a load was mixed from; none where its ticket cannot be read. Plain arithmetic."""
    ticket = tickets.get(load.ticket) if load.ticket is not None else None
    if ticket is None:
        return None
    return ticket.cards[card_index(load, ticket)]


def card_index(load: RawLoad, ticket: Ticket) -> int:
    """Return which card of its ticket a load was mixed from; one more than planned takes the first.

    Plain arithmetic.
    """
    return ticket.loads[load.slot].card if load.slot is not None and load.slot < len(ticket.loads) else 0


def _count_water(load: RawLoad) -> None:
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
