"""Specimens that are still to be broken: when each is due."""

from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple
from zoneinfo import ZoneInfo

from keeve.core.message.said import Said, Words
from keeve.core.records.proofs import Cast, Proof, Result, due_on


class ProofDue(NamedTuple):
    """A specimen without a result."""

    key: str
    what: Words
    on: datetime


def proofs_due(entries: Iterable[Proof], zone: ZoneInfo) -> list[ProofDue]:
    """List a job's specimens that carry no result yet, the next due first."""
    entries = tuple(entries)
    broken = {one.of for one in entries if isinstance(one, Result)}
    waiting = [one for one in entries if isinstance(one, Cast) and one.id not in broken]
    due = [
        ProofDue(one.id, Said("Break specimen {mark}", mark=one.label or str(number)), due_on(one).astimezone(zone))
        for number, one in enumerate(waiting, 1)
    ]
    return sorted(due, key=lambda one: one.on)
