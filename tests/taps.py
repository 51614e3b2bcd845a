"""Taps as a phone beside a mixer makes them, for tests."""

from datetime import UTC, datetime, timedelta
from itertools import count
from typing import Any

from keeve.core.run.events import Event, read_event

BEGIN = datetime(2026, 9, 14, 8, 0, tzinfo=UTC)
_ids = count(1)


class Phone:
    """One phone: its name, its own counter, and its hand at one mixer."""

    def __init__(self, name: str = "a.1", mixer: str = "drum-site") -> None:
        self.name, self.mixer, self.seq, self.load = name, mixer, 0, 1
        self.raw: list[dict[str, Any]] = []

    def tap(self, minutes: float, kind: str, **more: Any) -> dict[str, Any]:
        self.seq += 1
        of_load = (
            {} if kind in ("undone", "one_more", "looked", "happened") else {"load": self.load, "mixer": self.mixer}
        )
        made = {
            "id": f"00000000-0000-4000-8000-{next(_ids):012d}",
            "at": (BEGIN + timedelta(minutes=minutes)).isoformat(),
            "phone": self.name,
            "seq": self.seq,
            "kind": kind,
        }
        self.raw.append(made | of_load | more)
        return self.raw[-1]

    @property
    def events(self) -> list[Event]:
        return [read_event(raw) for raw in self.raw]

    def mix(
        self, minutes: float, litres: float, *, ticket: int = 1, slot: int | None = 0, end: str = "accepted"
    ) -> None:
        """A load from beginning to end: one pour, no look."""
        self.tap(minutes, "started", ticket=ticket, **({} if slot is None else {"slot": slot}))
        self.tap(minutes + 1, "poured", litres=litres)
        if end:
            self.tap(minutes + 9, end)
            self.load += 1
