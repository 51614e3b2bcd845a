"""In which order taps of several phones happened, and which of them were taken back."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from keeve.core.events import Event, OneMore, Undone, milliseconds


@dataclass(frozen=True, slots=True)
class Tap:
    """An event with the moment it counts at."""

    event: Event
    at_ms: int


def in_order(events: Iterable[Event]) -> list[Tap]:
    """Put events into the order they happened in.

    Parameters
    ----------
    events : in any order; an id that comes twice counts once

    Returns
    -------
    taps by corrected time, phone, and the phone's own counter; no phone's own order is ever turned round

    References
    ----------
    Common practice, no source: a phone's counter is surer than its clock, so a tap is never before an earlier one of
    the same phone.
    """
    unique: dict[str, Event] = {}
    for event in events:
        known = unique.get(event.id)
        if known is None or _rank(event) < _rank(known):
            unique[event.id] = event
    latest: dict[str, int] = {}
    taps = []
    for event in sorted(unique.values(), key=lambda e: (e.phone, e.seq, milliseconds(e.at), e.id)):
        at = max(milliseconds(event.at), latest.get(event.phone, 0))
        latest[event.phone] = at
        taps.append(Tap(event, at))
    return sorted(taps, key=lambda tap: (tap.at_ms, tap.event.phone, tap.event.seq, tap.event.id))


def _rank(event: Event) -> tuple[int, str, int]:
    return (milliseconds(event.at), event.phone, event.seq)


@dataclass(slots=True)
class _Taken:
    """Follows the taps in order and knows which are dead."""

    by_id: dict[str, Event]
    dead: set[str] = field(default_factory=set)
    early: dict[str, str] = field(default_factory=dict)
    """Undone before they came, by the phones' clocks: id of the tap, id of the undoing."""
    took: dict[str, tuple[str, bool]] = field(default_factory=dict)
    """Which tap an undoing that counts turned, and whether it is dead since."""
    seen: set[str] = field(default_factory=set)
    alive: dict[tuple[str, int], int] = field(default_factory=dict)

    def in_time(self, event: Event) -> bool:
        """Until the next load in the same mixer has begun."""
        if isinstance(event, OneMore | Undone):
            return True
        return not any(n > 0 and mixer == event.mixer and load > event.load for (mixer, load), n in self.alive.items())

    def count(self, event: Event, by: int) -> None:
        if not isinstance(event, OneMore | Undone):
            key = (event.mixer, event.load)
            self.alive[key] = self.alive.get(key, 0) + by

    def come(self, event: Event) -> None:
        self.seen.add(event.id)
        undoing = self.early.get(event.id)
        if undoing is not None and self.in_time(event):
            self.dead.add(event.id)
            self.took[undoing] = (event.id, True)
        else:
            self.count(event, 1)

    def turn(self, undoing: Undone, event: Event, *, dead: bool) -> None:
        self.took[undoing.id] = (event.id, dead)
        (self.dead.add if dead else self.dead.discard)(event.id)
        self.count(event, -1 if dead else 1)

    def undo(self, undoing: Undone) -> None:
        self.seen.add(undoing.id)
        target = self.by_id.get(undoing.undoes)
        if target is None:
            return
        if isinstance(target, Undone):
            self.redo(undoing, target)
        elif target.id not in self.seen:
            self.early.setdefault(target.id, undoing.id)
        elif target.id not in self.dead and self.in_time(target):
            self.turn(undoing, target, dead=True)

    def redo(self, undoing: Undone, before: Undone) -> None:
        """Take back a taking back; where another has turned the tap the same way meanwhile, that changes nothing."""
        turned = self.took.get(before.id)
        if turned is None or (turned[0] in self.dead) != turned[1]:
            return
        if self.in_time(self.by_id[turned[0]]):
            del self.took[before.id]
            self.turn(undoing, self.by_id[turned[0]], dead=not turned[1])


def standing(taps: list[Tap]) -> list[Tap]:
    """Leave out what was taken back in time, and the taking back itself.

    Parameters
    ----------
    taps : in order

    Returns
    -------
    the taps that count, in order

    References
    ----------
    Common practice, no source: what has gone into the next load cannot be taken back any more.
    """
    taken = _Taken({tap.event.id: tap.event for tap in taps})
    for tap in taps:
        if isinstance(tap.event, Undone):
            taken.undo(tap.event)
        else:
            taken.come(tap.event)
    return [tap for tap in taps if not isinstance(tap.event, Undone) and tap.event.id not in taken.dead]
