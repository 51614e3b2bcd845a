"""A phone beside the demo's mixer."""

from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5


class Phone:
    """Taps as a person beside the mixer would, on a clock of its own."""

    def __init__(self, begin: datetime, name: str = "") -> None:
        self.at = begin
        self.who = "yard.1"
        """Which phone it is in the hand; it may change hands from day to day."""
        self.taps: list[dict[str, Any]] = []
        self._seq = 0
        self._name = name

    def tap(self, seconds: float, kind: str, **what: Any) -> None:
        """Tap so many seconds later."""
        self.at += timedelta(seconds=seconds)
        self._seq += 1
        made = str(uuid5(NAMESPACE_URL, f"lantern-yard/{self._name}{self._seq}"))
        head = {"id": made, "at": self.at.isoformat(), "phone": self.who, "seq": self._seq, "kind": kind}
        self.taps.append(head | what)
