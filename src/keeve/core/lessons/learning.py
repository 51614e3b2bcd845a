"""What a job's loads tell of its sand, and what the next one wants: the log read through the moisture filter."""

from collections.abc import Mapping, Sequence
from typing import Final, Literal, NamedTuple

from keeve.core.lessons.moisture_filter import (
    LOOK_PERCENT,
    SCATTER_PERCENT,
    Belief,
    JudgedAs,
    Judgement,
    anew,
    begun,
    judged,
    later,
    measured,
    water_for,
)
from keeve.core.materials.looks import SAND_LOOKS, HeapLook, HeapWater
from keeve.core.run.models import HeapTold, LoadState, Run
from keeve.core.ticket.cards import TicketCard, TicketDose
from keeve.core.ticket.ticket import Ticket

HOUR_MS: Final = 3_600_000
NIGHT_H: Final = 10.0
"""After so long a heap is another: looked at again or not, it is begun anew. Own assumption."""
PAN_WINDOW_PERCENT: Final = 1.0
"""So far a heap may be from what was measured before it is asked for again: own assumption."""
AHEAD_H: Final = 0.5
"""Further ahead than that nobody knows when the next load is begun: own assumption."""
RESCUED_PERCENT: Final = 0.25
"""How far off the rescued ratio of a load may be: own assumption."""
Side = Literal["", "wetter", "drier"]
LEAST_L: Final = 1e-6
HEAPS: Final = ("sand", "ballast")


class HeapEvent(NamedTuple):
    """Something happened to the heap, told in the yard."""

    at_ms: int
    kind: str


class NextWater(NamedTuple):
    """What a load is begun with [L]."""

    expected_l: float
    first_l: float
    ceiling_l: float


class Learned(NamedTuple):
    """A load, what it was expected to want when it was begun, and what it told."""

    number: int
    mixer: str
    at_ms: int
    told: NextWater
    poured_l: float
    """As if it were one of full size, rescue counted."""
    percent: float | None
    """Moisture of its sand by its water; None where it teaches nothing."""
    before: Belief
    after: Belief
    ended: Literal["", "accepted", "thrown_away"]
    said: JudgedAs | Literal[""]
    """How it looked at its end, where that says something of its sand."""


class Learning(NamedTuple):
    """All that was learned of one heap."""

    heap: TicketDose | None
    """None where the mix has no heap that lies outside."""
    loads: tuple[Learned, ...]
    events: tuple[HeapEvent, ...]
    now: Belief | None
    next_l: NextWater | None
    """What the next load is begun with; None where no load has told anything yet."""
    at_ms: int
    """When anything was last learned of it."""
    asks: Side
    """Asks for a look: the loads say that the heap is wetter, or drier, than it was looked at as."""


def heap_of(card: TicketCard) -> TicketDose | None:
    """Return the heap whose moisture decides a load's water: the most sand or ballast that lies outside.

    Common practice, no source.
    """
    heaps = [dose for dose in card.doses if dose.heap is not None and dose.role in HEAPS]
    return max(heaps, key=lambda dose: dose.dry_kg, default=None)


def pour_for_l(card: TicketCard, heap: TicketDose, percent: float) -> float:
    """Return the water a load wants poured [L] with its sand so wet [%].

    Free water wanted − what everything else brings − what the sand brings: ACI 211.1-91, section 6.3.8, from memory.
    """
    return _pour_l(card.water.free.target, card, heap, percent)


def _pour_l(free_l: float, card: TicketCard, heap: TicketDose, percent: float) -> float:
    brings = heap.heap.brings_l(percent) if heap.heap else 0.0
    return max(free_l - _others_l(card, heap) - brings, 0.0)


def water_of(card: TicketCard, heap: TicketDose, belief: Belief) -> NextWater:
    """Return what a load is begun with as its sand is believed to be [L]: a ceiling is a ratio, and follows the belief.

    As `moisture_filter.water_for`.
    """
    three = water_for(belief, limited=card.water.limited)
    expected, first = (pour_for_l(card, heap, one) for one in (three.expected, three.first))
    return NextWater(expected, first, max(_pour_l(card.water.free.high, card, heap, three.ceiling), expected))


def _asked(load: LoadState) -> NextWater | None:
    """Return what was asked of a load as its brief has it; None where it has none."""
    told = load.brief
    if told is None or told.version == 0:
        return None
    return NextWater(told.expected_l, told.first_l, load.high_l if told.ceiling_l is None else told.ceiling_l)


def percent_of(card: TicketCard, heap: TicketDose, pour_l: float) -> float:
    """Return how wet the sand was [%] if so much poured water [L] was just right: `pour_for_l` turned round.

    Plain arithmetic.
    """
    brings = card.water.free.target - _others_l(card, heap) - pour_l
    return heap.heap.percent_for(brings) if heap.heap else 0.0


def _others_l(card: TicketCard, heap: TicketDose) -> float:
    return sum(line.litres for line in card.water.brought if line.key != heap.key)


def _reset(belief: Belief) -> Belief:
    """Know again as little as after a look: house ruling."""
    return anew(belief.percent, LOOK_PERCENT)._replace(weights=belief.weights)


def _said(load: LoadState) -> JudgedAs | Literal[""]:
    """What a load that has ended says of its sand: a verdict is a one-sided look, accepted or not. House ruling."""
    if load.teaches:
        return "right"
    last = load.verdicts[-1] if load.verdicts else ""
    return last if last in ("dry", "wet") and load.dry_added_kg == 0 and load.pours and load.question is None else ""


def _taught(load: LoadState, card: TicketCard, heap: TicketDose, belief: Belief, said: JudgedAs) -> Belief:
    """Take in what a load was seen to be."""
    full = load.water_per_dry * card.dry_kg - card.water.once_l
    if load.how == "rescued":
        spread = (SCATTER_PERCENT**2 + RESCUED_PERCENT**2) ** 0.5
        return measured(belief, percent_of(card, heap, full), spread)
    looks = [Judgement(percent_of(card, heap, full), said)]
    if load.late_l > 0:
        sip = min(card.water.sip_l, load.late_l)
        drier = sorted({full - sip, full - load.late_l}, reverse=True)
        looks += [Judgement(percent_of(card, heap, one), "dry") for one in drier]
    around = percent_of(card, heap, full)
    one = heap.heap.brings_l(around + 0.5) - heap.heap.brings_l(around - 0.5) if heap.heap else 0.0
    return judged(belief, looks, max(one / max(card.water.free.target, LEAST_L), 1e-3))


class HeapReader:
    """Goes through the day in its order."""

    def __init__(self, tickets: Mapping[int, Ticket]) -> None:
        self.tickets = tickets
        self.belief: Belief | None = None
        self.at_ms = 0
        self.moisture_as = ""
        self.looked: tuple[int, HeapWater] | None = None
        self.open: dict[tuple[int, str], tuple[Belief, NextWater]] = {}
        self.found: list[Learned] = []
        self.ended_ms: int | None = None
        self.waited_h = 0.0
        self.asks: Side = ""
        self.asked: set[Side] = set()

    def to(self, at_ms: int) -> None:
        """Let the heap lie until a moment [ms]."""
        if self.belief is None:
            return
        hours = max((at_ms - self.at_ms) / HOUR_MS, 0.0)
        self.belief = later(self.belief, min(hours, NIGHT_H))
        if hours >= NIGHT_H:
            self.belief = _reset(self.belief)
        self.at_ms = max(at_ms, self.at_ms)

    def look(self, at_ms: int, look: HeapLook, revision: int) -> None:
        """Take in a look from beside the mixer: inside what is believed it confirms, else all begins anew.

        House ruling.
        """
        self.to(at_ms)
        self.looked = (revision, SAND_LOOKS[look])
        self.asks, self.asked, self.at_ms = "", set(), at_ms
        likely = self.looked[1].likely
        if self.belief is None or abs(likely - self.belief.percent) > self.belief.sd:
            self.belief = begun(self.looked[1])

    def says_anew(self, ticket: Ticket, heap: TicketDose) -> bool:
        """Whether a ticket says of the heap what is younger than all that is believed of it. Common practice."""
        if self.belief is not None and self.looked is not None:
            revision, water = self.looked
            if ticket.revision <= revision or (heap.heap is not None and heap.heap.water == water):
                return False
        return self.belief is None or ticket.moisture_as != self.moisture_as

    def event(self, at_ms: int) -> None:
        """Something happened to the heap: it is as unsure as after a look."""
        self.to(at_ms)
        self.belief = _reset(self.belief) if self.belief is not None else None

    def _ask(self, heap: TicketDose) -> None:
        """Ask for a look where the belief has left its window: once a side, again after it was back inside."""
        if self.belief is None or heap.heap is None:
            return
        percent, water = self.belief.percent, heap.heap.water
        wide = PAN_WINDOW_PERCENT if water.low == water.high else 0.0
        side: Side = "wetter" if percent > water.high + wide else "drier" if percent < water.low - wide else ""
        self.asks = "" if side in self.asked else side
        self.asked = self.asked | {side} if side else set()

    def ahead(self, belief: Belief) -> Belief:
        """Return what is believed for when the next load is begun: as long after the last one as that was."""
        return later(belief, min(self.waited_h, AHEAD_H))

    def begin(self, load: LoadState, card: TicketCard, heap: TicketDose, ticket: Ticket) -> None:
        """Take in that a load was begun, and keep what was believed then."""
        if self.says_anew(ticket, heap):
            self.belief = begun(heap.heap.water) if heap.heap else None
            self.asks, self.asked = "", set()
            self.at_ms = load.begun_ms
        self.moisture_as = ticket.moisture_as
        if self.belief is None:
            return
        if self.ended_ms is not None:
            self.waited_h = max((load.begun_ms - self.ended_ms) / HOUR_MS, 0.0)
        self.to(load.begun_ms)
        self.open[load.number, load.mixer] = (self.belief, _asked(load) or water_of(card, heap, self.belief))

    def end(self, load: LoadState, card: TicketCard, heap: TicketDose) -> None:
        """Take in how a load ended."""
        opened = self.open.pop((load.number, load.mixer), None)
        if opened is None or self.belief is None:
            return
        before, told = opened
        self.ended_ms = load.ended_ms or load.begun_ms
        self.to(self.ended_ms)
        poured_l = max(load.water_per_dry * card.dry_kg - card.water.once_l, 0.0)
        percent = percent_of(card, heap, poured_l) if load.teaches else None
        said = _said(load)
        if said:
            self.belief = _taught(load, card, heap, self.belief, said)
            self._ask(heap)
        self.found.append(
            Learned(
                load.number, load.mixer, load.begun_ms, told, poured_l, percent, before, self.belief, load.ended, said
            )
        )


def learn(run: Run, tickets: Mapping[int, Ticket], events: Sequence[HeapEvent] = ()) -> Learning:
    """Read a job's loads for what they tell of its sand.

    Parameters
    ----------
    run : its loads
    tickets : by revision, those that can be read
    events : what happened to the heap, told in the yard [ms]

    Returns
    -------
    each load with what was expected of it and what it told; what is believed now; the next load's two figures [L]

    References
    ----------
    As `moisture_filter.judged`; begun anew by a new look, rain, a delivery, a bared heap, its bottom, a night: house
    rulings.
    """
    reader = HeapReader(tickets)
    moments: list[tuple[int, int, int, LoadState | HeapEvent | HeapTold]] = [(one.at_ms, 0, 0, one) for one in events]
    heap = next((dose for ticket in tickets.values() for card in ticket.cards if (dose := heap_of(card))), None)
    moments += [(told.at_ms, 0, 0, told) for told in run.heap if heap is not None and told.of in ("", heap.key)]
    for load in run.loads:
        ticket = tickets.get(load.ticket)
        if ticket is None or load.card is None or heap_of(ticket.cards[load.card]) is None:
            continue
        moments.append((load.begun_ms, load.number, 0, load))
        if load.ended_ms is not None and load.ended:
            moments.append((load.ended_ms, load.number, 1, load))
    for _, _, ends, one in sorted(moments, key=lambda moment: moment[:3]):
        if not isinstance(one, LoadState):
            _heard(reader, one)
            continue
        ticket = tickets[one.ticket]
        card = ticket.cards[one.card or 0]
        heap = heap_of(card)
        if heap is not None:
            reader.end(one, card, heap) if ends else reader.begin(one, card, heap, ticket)
    now = _looked_again(run, tickets, reader)
    ahead = reader.ahead(now) if now is not None else None
    # Before a load has told anything the ticket leads: of a heap nobody looked at it counts the wettest.
    known = reader.looked is not None or any(learned.said for learned in reader.found)
    asks: Side = reader.asks if now is reader.belief else ""
    next_l = _next_l(run, tickets, ahead) if known else None
    return Learning(heap, tuple(reader.found), tuple(events), now, next_l, reader.at_ms, asks)


def _heard(reader: HeapReader, one: HeapEvent | HeapTold) -> None:
    """Take in what was told of the heap, in the yard or beside the mixer."""
    if isinstance(one, HeapTold) and one.look is not None:
        reader.look(one.at_ms, one.look, one.ticket)
    else:
        reader.event(one.at_ms)


def _looked_again(run: Run, tickets: Mapping[int, Ticket], reader: HeapReader) -> Belief | None:
    """Begin anew where the heap was looked at since the last load: the next load's ticket says otherwise."""
    ticket = tickets.get(run.next.ticket) if run.next is not None else None
    heap = heap_of(ticket.cards[run.next.card]) if ticket is not None and run.next is not None else None
    if ticket is None or heap is None or heap.heap is None or not reader.says_anew(ticket, heap):
        return reader.belief
    return begun(heap.heap.water)


def _next_l(run: Run, tickets: Mapping[int, Ticket], belief: Belief | None) -> NextWater | None:
    ticket = tickets.get(run.next.ticket) if run.next is not None else None
    if ticket is None or run.next is None or belief is None:
        return None
    card = ticket.cards[run.next.card]
    heap = heap_of(card)
    return None if heap is None else water_of(card, heap, belief)
