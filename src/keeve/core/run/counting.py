"""A load's water, added up pour by pour; one that may be another told twice waits for its answer."""

import math
from collections import deque
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Final

from keeve.core.run.events import Poured
from keeve.core.run.models import Question
from keeve.core.run.tap_order import Tap

SAME_TAP_MS: Final = 3000
"""Equal taps of two phones nearer than this may be one pour told twice."""
NEAR_L: Final = 1e-6


@dataclass(frozen=True, slots=True)
class _Pour:
    place: int
    """Among those that count."""
    tap: Tap
    what_l: float


@dataclass(slots=True)
class Counted:
    """What was counted of a load's pours so far, and by what a further one may be known as told twice."""

    poured_l: float = 0.0
    late_l: float = 0.0
    question: Question | None = None
    asked: int = -1
    """Place in the order of the pour that is asked about."""
    counted: list[Tap] = field(default_factory=list)
    places: list[int] = field(default_factory=list)
    """Of those, in the order of all taps."""
    read: int = 0
    rests: dict[int, list[_Pour]] = field(default_factory=dict)
    """Those that were the rest to a count, by that count."""
    lately: dict[int, dict[str, deque[_Pour]]] = field(default_factory=dict)
    """Those of the last seconds, by their litres and by the browser they were tapped in."""

    def go_on(self, poured: list[tuple[int, Tap]], settled: Mapping[str, bool], looked_at: int) -> None:
        """Count what was not counted yet.

        Parameters
        ----------
        poured : all pours of the load in order, each with its place among all taps
        settled : answers about pours that may be one
        looked_at : place of the first look; -1 before it

        References
        ----------
        Common practice, no source.
        """
        for place, tap in poured[self.read :]:
            event = tap.event
            if not isinstance(event, Poured):
                continue
            like, twice = self._like(tap, event), settled.get(event.id)
            if like is None or twice:
                self._count(tap, event)
                self.places.append(place)
                self.poured_l += event.litres
                self.late_l += event.litres if 0 <= looked_at < place else 0.0
            elif twice is None and self.question is None:
                self.question = Question(about=event.id, like=like.event.id, litres=event.litres)
                self.asked = place
        self.read = len(poured)

    def until_l(self, place: int) -> float:
        """Return what had gone in before a place in the order [L]. Plain arithmetic."""
        pours = (tap.event for tap, at in zip(self.counted, self.places, strict=True) if at < place)
        return math.fsum(event.litres for event in pours if isinstance(event, Poured))

    def _count(self, tap: Tap, event: Poured) -> None:
        if event.rest_of is not None:
            kept = _Pour(len(self.counted), tap, event.rest_of)
            self.rests.setdefault(_near(event.rest_of), []).append(kept)
        kept = _Pour(len(self.counted), tap, event.litres)
        self.lately.setdefault(_near(event.litres), {}).setdefault(_browser(event), deque()).append(kept)
        self.counted.append(tap)

    def _like(self, tap: Tap, event: Poured) -> Tap | None:
        """Find the first that counts and may be the same pour."""
        found = [*self._same_rest(event), *self._same_litres(tap, event)]
        return min(found, key=lambda one: one.place).tap if found else None

    def _same_rest(self, event: Poured) -> Iterator[_Pour]:
        rest = event.rest_of
        if rest is None:
            return
        for near in _neighbours(rest):
            yield from (one for one in self.rests.get(near, ()) if abs(one.what_l - rest) < NEAR_L)

    def _same_litres(self, tap: Tap, event: Poured) -> Iterator[_Pour]:
        """Yield the first of each other browser: two tabs of one are one hand."""
        own = _browser(event)
        for near in _neighbours(event.litres):
            for browser, pours in self.lately.get(near, {}).items():
                while pours and tap.at_ms - pours[0].tap.at_ms > SAME_TAP_MS:
                    pours.popleft()
                if browser != own:
                    yield from [one for one in pours if abs(one.what_l - event.litres) < NEAR_L][:1]


def _near(litres: float) -> int:
    return math.floor(litres / NEAR_L)


def _neighbours(litres: float) -> tuple[int, int, int]:
    at = _near(litres)
    return (at - 1, at, at + 1)


def _browser(event: Poured) -> str:
    return event.phone.partition(".")[0]
