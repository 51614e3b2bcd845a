"""Taps gathered to loads: what went in, what was seen, how it ended."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

from keeve.core.run.brief import Brief, of_before
from keeve.core.run.counting import Counted
from keeve.core.run.events import (
    Accepted,
    Briefed,
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
    ThrownAway,
    Verdict,
    Weighed,
)
from keeve.core.run.models import Question
from keeve.core.run.tap_order import Tap
from keeve.core.ticket.cards import TicketCard, TicketDose
from keeve.core.ticket.ticket import Ticket


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
    said: tuple[Literal["", "accepted", "thrown_away"], int | None, int] = ("", None, -1)
    """How somebody ended it, when [ms], and at which place in the order; an open question may hold that up."""
    ended: Literal["", "accepted", "thrown_away"] = ""
    measured: list[tuple[int, str, float]] = field(default_factory=list)
    weighed: dict[tuple[str, int], float] = field(default_factory=dict)
    stages: dict[str, int] = field(default_factory=dict)
    last_stage: str = ""
    pace: float = 1.0
    settled: dict[str, bool] = field(default_factory=dict)
    last_good: tuple[Literal["dry", "right"], int, float] | None = None
    """When it was last found too dry or right: how, its place in the order, and the dry mix added by then [kg]."""
    water: Counted = field(default_factory=Counted)
    waits: bool = False
    taught_by: int | None = None
    per_dry: float | None = None
    """Water per dry mass that it was begun with, where it was taught."""
    briefs: list[tuple[int, str, Brief]] = field(default_factory=list)
    """What was told of it: place in the order, id of the entry, and the brief."""

    @property
    def poured_l(self) -> float:
        """What went in [L], each pour once."""
        return self.water.poured_l

    @property
    def late_l(self) -> float:
        """Of it after somebody looked [L]."""
        return self.water.late_l

    @property
    def pours(self) -> int:
        """How many pours."""
        return len(self.water.counted)

    @property
    def told(self) -> tuple[str, Brief | None]:
        """What its water is told by, and the entry that carries it.

        The last word before the first pour that counts, or the one that pour names; later ones leave its figures and
        only take from its highest. House ruling.
        """
        if not self.briefs:
            return "", None
        if not self.water.counted:
            return self.briefs[-1][1:]
        first, place = self.water.counted[0].event, self.water.places[0]
        named = [one for one in self.briefs if isinstance(first, Poured) and one[1] == first.brief]
        before = [one for one in self.briefs if one[0] < place]
        _, entry, stands = (named or before or self.briefs[:1])[-1]
        later = [brief.ceiling_l for at, _, brief in self.briefs if at > place and brief.ceiling_l is not None]
        if later and stands.ceiling_l is not None and min(later) < stands.ceiling_l:
            stands = stands.model_copy(update={"ceiling_l": min(later)})
        return entry, stands

    @property
    def brief(self) -> Brief | None:
        """The brief alone."""
        return self.told[1]

    @property
    def question(self) -> Question | None:
        """Of two pours that may be one."""
        return self.water.question

    def count(self) -> None:
        """Add up what was poured since, and say how the load stands after it. Common practice, no source."""
        self.water.go_on(self.poured, self.settled, self.looked_at)
        self.ended, self.ended_ms, self.end_at = self.said
        self.waits = self.water.question is not None and self.ended == "accepted" and self.end_at > self.water.asked
        if self.waits:
            self.ended, self.ended_ms, self.end_at = "", None, -1
        self.taught_by, self.per_dry, self.pace = None, None, 1.0


Loads = dict[tuple[int, str], RawLoad]


def read_into(found: Loads, taps: list[Tap], since: int, tickets: Mapping[int, Ticket]) -> None:
    """Gather the taps from a place in the order on to loads, in the order the loads were begun.

    Common practice, no source.
    """
    for index, tap in enumerate(taps[since:], since):
        event = tap.event
        if not isinstance(event, LoadEvent):
            continue
        key = (event.load, event.mixer)
        load = found.get(key)
        if load is None:
            load = found[key] = RawLoad(event.load, event.mixer, index, tap.at_ms, since_ms=tap.at_ms)
        _take(load, event, tap, index, tickets)


def _take(load: RawLoad, event: LoadEvent, tap: Tap, index: int, tickets: Mapping[int, Ticket]) -> None:
    if isinstance(event, Started | Briefed):
        _told(load, event, tap, index, tickets)
    elif isinstance(event, Poured):
        load.poured.append((index, tap))
        load.fresh = False
    elif isinstance(event, StepDone | StepBack):
        _step(load, event, tap, tickets)
    elif isinstance(event, Judged):
        load.verdicts.append(event.verdict)
        if event.verdict != "wet":
            load.last_good = (event.verdict, index, load.dry_kg)
        load.fresh = True
        load.looked_at = index if load.looked_at < 0 else load.looked_at
    elif isinstance(event, DryAdded):
        load.dry_kg += event.dry_kg
        load.fresh = False
        for key, kg in event.parts.items():
            load.added[key] = load.added.get(key, 0.0) + kg
    elif isinstance(event, Measured | Weighed | StageSeen):
        _note(load, event, tap)
    else:
        _said(load, event, tap, index)


def _told(load: RawLoad, event: Started | Briefed, tap: Tap, index: int, tickets: Mapping[int, Ticket]) -> None:
    """Take in what is told of a load; who begins it a second time joins in."""
    if isinstance(event, Started):
        if load.ticket is not None:
            return
        load.ticket, load.slot, load.since_ms = event.ticket, event.slot, tap.at_ms
        _first_powder(load, tap, tickets)
    told = event.brief
    if isinstance(event, Started) and told is None and event.expected_l is not None and event.first_l is not None:
        told = of_before(event.expected_l, event.first_l, event.ceiling_l)
    if told is not None:
        load.briefs.append((index, event.id, told))


def _said(load: RawLoad, event: Settled | Accepted | ThrownAway, tap: Tap, index: int) -> None:
    if isinstance(event, Settled):
        load.settled[event.about] = event.twice
        load.water = Counted()  # what was counted as one may be two
    else:
        load.said = (event.kind, tap.at_ms, index)


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


Readings = Mapping[tuple[str, int], float]
"""What each vessel of a dose weighed net [kg], by the key of the dose and the vessel's number."""


def card_of(load: RawLoad, tickets: Mapping[int, Ticket]) -> TicketCard | None:
    """Return the card a load was mixed from, with what the scale said in the place of what was planned.

    None where its ticket cannot be read. As `weighed_card`, plain arithmetic.
    """
    ticket = tickets.get(load.ticket) if load.ticket is not None else None
    if ticket is None:
        return None
    return weighed_card(ticket.cards[card_index(load, ticket)], load.weighed, by_dry_mass=ticket.by_dry_mass)


def weighed_card(card: TicketCard, weighed: Readings, *, by_dry_mass: bool = False) -> TicketCard:
    """Put readings of the scale into a card.

    Parameters
    ----------
    card : as planned
    weighed : net of each vessel [kg], by the key of its dose and its number; a vessel nobody read is as planned
    by_dry_mass : whether the volume follows the dry mass alone, as with hemp

    Returns
    -------
    the card with what really went in: masses, room, volume; its water is as it was planned

    References
    ----------
    Absolute volumes, plain arithmetic; what was weighed is what went in: house ruling.
    """
    shares = {dose.key: share for dose in card.doses if (share := _weighed_share(dose, weighed)) is not None}
    if not shares:
        return card
    doses = tuple(
        dose.model_copy(update={name: getattr(dose, name) * shares[dose.key] for name in _WEIGHED})
        if dose.key in shares
        else dose
        for dose in card.doses
    )
    more_l = sum(new.solid_l - old.solid_l for new, old in zip(doses, card.doses, strict=True))
    volume_m3 = card.volume_m3 + more_l / 1000
    if by_dry_mass:
        volume_m3 = card.volume_m3 * sum(dose.dry_kg for dose in doses) / card.dry_kg
    return card.model_copy(update={"doses": doses, "volume_m3": max(volume_m3, 0.0)})


_WEIGHED: Final = ("dry_kg", "batch_kg", "solid_l")


def _weighed_share(dose: TicketDose, weighed: Readings) -> float | None:
    """What lay on the scale over what was planned [-]; None where nobody weighed it."""
    read = [kg for (part, _), kg in weighed.items() if part == dose.key]
    if not read or dose.batch_kg <= 0:
        return None
    vessels = dose.weighing.vessels if dose.means == "scale" and dose.weighing is not None else 1
    return sum(read) / dose.batch_kg + max(vessels - len(read), 0) / vessels


def card_index(load: RawLoad, ticket: Ticket) -> int:
    """Return which card of its ticket a load was mixed from; one more than planned takes the first.

    Plain arithmetic.
    """
    return ticket.loads[load.slot].card if load.slot is not None and load.slot < len(ticket.loads) else 0
