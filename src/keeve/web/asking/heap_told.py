"""What was told of a heap while a job was mixed from it."""

from keeve.core.lessons.learning import HeapEvent, heap_of
from keeve.core.yard.day_log import HEAP_CHANGES, Changed
from keeve.store.rows.logs import Log
from keeve.web.asking.deps import Desk


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
