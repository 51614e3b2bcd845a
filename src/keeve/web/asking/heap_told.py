"""What was told of a heap while a job was mixed from it."""

from collections.abc import Iterable
from typing import Final

from keeve.core.lessons.learning import HeapEvent, heap_of
from keeve.core.message.said import Words, mark
from keeve.core.run.events import Event, Happened, Looked
from keeve.core.yard.day_log import HEAP_CHANGES, Change, Changed
from keeve.store.rows.logs import Log
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk

HAPPENED: Final[tuple[tuple[Change, Words], ...]] = (
    ("rain", mark("It rained")),
    ("uncovered", mark("Cover off")),
    ("bottom", mark("Bottom of the heap")),
    ("delivery", mark("Delivery")),
    ("bags", mark("New bags")),
)


def keep_told(at: Desk, job: JobRow, told: Iterable[Event]) -> None:
    """Write what was told of heaps beside the mixer into the yard's book, and a look into the sheets it decides.

    What is there already stays as it is. Common practice, no source.
    """
    for event in told:
        if isinstance(event, Happened):
            at.days.append(Changed(id=event.id, at=event.at, kind=event.what, of=event.of))
        elif isinstance(event, Looked):
            at.days.looked(job.id, event.of, event.look, event.at)


def heap_events(at: Desk, log: Log) -> tuple[HeapEvent, ...]:
    """List what was told in the yard of the heap a job is mixed from, while it was mixed. Common practice."""
    loads = log.run.loads
    heap = next(
        (one for ticket in log.tickets.values() for card in ticket.cards if (one := heap_of(card)) is not None), None
    )
    if heap is None or not loads:
        return ()
    first_ms, last_ms = loads[0].begun_ms, max(one.ended_ms or one.begun_ms for one in loads)
    changes = [
        HeapEvent(round(one.at.timestamp() * 1000), one.kind)
        for one in at.days.log()
        if isinstance(one, Changed) and one.kind in HEAP_CHANGES and one.of in ("", heap.key)
    ]
    return tuple(one for one in changes if first_ms <= one.at_ms and (log.run.next is not None or one.at_ms <= last_ms))
