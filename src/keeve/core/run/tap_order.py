"""In which order taps of several phones happened, and which of them were taken back."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from keeve.core.run.events import Event, LoadEvent, Undone, milliseconds


@dataclass(frozen=True, slots=True)
class Tap:
    """An event with the moment it counts at."""

    event: Event
    at_ms: int


_Own = tuple[int, int, str]
"""A phone's own order of its taps."""


def _own(event: Event) -> _Own:
    return (event.seq, milliseconds(event.at), event.id)


def _place(tap: Tap) -> tuple[int, str, int, str]:
    return (tap.at_ms, tap.event.phone, tap.event.seq, tap.event.id)


def _placed(events: Iterable[Event], phones: dict[str, tuple[_Own, int]]) -> list[Tap] | None:
    """Put events in order after what is known of their phones; None where one belongs before what its phone told."""
    taps = []
    for event in sorted(events, key=lambda one: (one.phone, *_own(one))):
        own, at_ms = _own(event), milliseconds(event.at)
        before = phones.get(event.phone)
        if before is not None:
            if own < before[0]:
                return None
            at_ms = max(at_ms, before[1])
        phones[event.phone] = (own, at_ms)
        taps.append(Tap(event, at_ms))
    return sorted(taps, key=_place)


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
        if not isinstance(event, LoadEvent):
            return True
        return not any(n > 0 and mixer == event.mixer and load > event.load for (mixer, load), n in self.alive.items())

    def count(self, event: Event, by: int) -> None:
        if isinstance(event, LoadEvent):
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


class TapOrder:
    """The taps of a log that count, in order; what comes later goes on from there, what comes between begins anew.

    They stand by corrected time, phone, and the phone's own counter; no phone's own order is ever turned round. An id
    that comes twice counts once.

    References
    ----------
    Common practice, no source: a phone's counter is surer than its clock, so a tap is never before an earlier one of
    the same phone; and what has gone into the next load cannot be taken back any more.
    """

    def __init__(self) -> None:
        self._events: dict[str, Event] = {}
        self._begin()

    def _begin(self) -> None:
        self.standing: list[Tap] = []
        """Without what was taken back in time, and the taking back itself."""
        self.taps: list[Tap] = []
        """All there are."""
        self._phones: dict[str, tuple[_Own, int]] = {}
        self._taken = _Taken(self._events)
        self._last: Tap | None = None
        self._missing: set[str] = set()
        """Ids that were taken back and have not come."""

    def take(self, events: Iterable[Event]) -> int:
        """Take further taps; returns how many of those that stood before stand as they did: all, or none."""
        new: dict[str, Event] = {}
        turned = False
        for event in events:
            known = new.get(event.id) or self._events.get(event.id)
            if known is None or _rank(event) < _rank(known):
                turned |= event.id in self._events
                new[event.id] = event
        stood = len(self.standing)
        self._events |= new
        turned |= not self._missing.isdisjoint(new)
        if new and (turned or not self._go_on(new)):
            self._begin()
            self._go_on(self._events)
            return 0
        return stood

    def _go_on(self, new: dict[str, Event]) -> bool:
        """Take taps that come after all others; False where they do not, or change what stood: then begin anew."""
        anew = self._last is None
        taps = _placed(new.values(), self._phones)
        if taps is None or (self._last is not None and taps and _place(taps[0]) < _place(self._last)):
            return False
        dead = set(self._taken.dead)
        came: list[Tap] = []
        for tap in taps:
            if isinstance(tap.event, Undone):
                self._taken.undo(tap.event)
                if tap.event.undoes not in self._events:
                    self._missing.add(tap.event.undoes)
            else:
                self._taken.come(tap.event)
                came.append(tap)
        if not anew and not all(id_ in new for id_ in self._taken.dead ^ dead):
            return False
        self.taps += taps
        self.standing += [tap for tap in came if tap.event.id not in self._taken.dead]
        self._last = taps[-1] if taps else self._last
        return True
