"""Four days of screed in the forge room: the heap drains, is rained on, is delivered anew, and the water follows."""

import random
from datetime import UTC, datetime, timedelta
from typing import Any, Final, NamedTuple
from uuid import NAMESPACE_URL, uuid5

from keeve.catalogue import Catalogue
from keeve.catalogue.trying import made_from, outlook, try_plan
from keeve.core.lessons.briefing import brief
from keeve.core.lessons.learning import HeapEvent, heap_of, learn, pour_for_l
from keeve.core.materials.looks import HeapChange, HeapLook
from keeve.core.run.brief import nearest
from keeve.core.yard.day_log import Changed
from keeve.demo.phone import Phone
from keeve.store.rows.crew_store import CrewStore
from keeve.store.rows.day_store import DayStore
from keeve.store.rows.logs import Log
from keeve.store.rows.run_store import RunStore

SAND: Final = "screed-sand"
BAYS: Final[dict[str, Any]] = {
    "job": "Forge room, screed in bays",
    "place": "Lock-keeper's house, Pellow Reach",
    "mix": "screed-semi-dry",
    "mixer": "pan-forced",
    "shapes": [
        {
            "kind": "slab",
            "note": "Four bays",
            "length_mm": "7.2 m",
            "width_mm": "5.8 m",
            "depth_mm": "75 mm",
            "count": 1,
        }
    ],
    "moisture_percent": {SAND: "wet"},
}
_RIGHT: Final = 0.02


class _Day(NamedTuple):
    """A day at the heap."""

    begin: datetime
    percent: float
    """Of the heap in the morning."""
    look: HeapLook
    loads: int
    happens: tuple[tuple[int, HeapChange, float, HeapLook], ...] = ()
    """Before which load of the day, what, to what it brings the heap [%], and what it looks like then."""


_DAYS: Final = (
    _Day(datetime(2026, 9, 7, 8, 5, tzinfo=UTC), 6.6, "wet", 8),
    _Day(datetime(2026, 9, 8, 8, 0, tzinfo=UTC), 5.4, "moist", 8, ((3, "rain", 7.4, "wet"),)),
    _Day(datetime(2026, 9, 9, 8, 20, tzinfo=UTC), 5.9, "moist", 7),
    _Day(datetime(2026, 9, 10, 8, 10, tzinfo=UTC), 5.0, "moist", 8, ((1, "delivery", 3.6, "damp"),)),
)
_EVERY_H: Final = 0.55
_DRAINS: Final = 0.1


class _Heap:
    """What the sand truly holds: it drains, and no two barrows are alike."""

    def __init__(self) -> None:
        self.percent = 0.0
        self._lot = random.Random(7)  # noqa: S311 - a demo's sand

    def barrow(self) -> float:
        self.percent -= _DRAINS * max(self.percent - 3.0, 0.0) * _EVERY_H
        return max(self.percent + self._lot.gauss(0, 0.35), 0.3)


def _mix(phone: Phone, log: Log, percent: float, events: list[HeapEvent]) -> None:
    """Mix the next load: the first water as proposed, then sips until it looks right."""
    load = log.run.next
    if load is None:
        return
    card = log.tickets[load.ticket].cards[load.card]
    heap = heap_of(card)
    if heap is None:
        return
    told = brief(log.tickets[load.ticket], load, learn(log.run, log.tickets, events))
    sip = max(nearest(card.water.sip_l, told.mark_l or card.water.by.step_l), told.mark_l)
    wants = pour_for_l(card, heap, percent)
    of = {"load": load.number, "mixer": load.mixer}
    last = len(card.steps) - 2
    phone.tap(0, "started", ticket=load.ticket, slot=load.slot, brief=told.model_dump(mode="json"), **of)

    def pour(litres: float) -> float:
        phone.tap(20, "poured", litres=round(litres, 3), **of)
        return wants - litres

    for index, step in enumerate(card.steps):
        if step.kind == "judge":
            break
        asked = told.steps_l[index]
        if step.kind != "sips" and asked > 0:
            wants = pour(asked)
        while step.kind == "sips" and asked > 0 and wants > sip / 2:
            wants, asked = pour(sip), asked - sip
        phone.tap(40 + step.seconds, "step_done", step=index, **of)
    while wants > max(_RIGHT * card.water.free.target, sip / 2):
        phone.tap(15, "judged", verdict="dry", **of)
        wants = pour(sip)
        phone.tap(45, "step_back", step=last, **of)
    phone.tap(20, "judged", verdict="right", **of)
    phone.tap(2, "step_done", step=last, **of)
    phone.tap(420, "accepted", **of)


def _told(days: DayStore, at: datetime, kind: HeapChange) -> HeapEvent:
    entry = Changed(id=str(uuid5(NAMESPACE_URL, f"forge-room/{kind}/{at}")), at=at, kind=kind, of=SAND)
    days.append(entry)
    return HeapEvent(round(at.timestamp() * 1000), kind)


class _Bays:
    """The job through its four days: looked at, planned anew, mixed."""

    def __init__(self, store: CrewStore, runs: RunStore, days: DayStore, shelf: Catalogue) -> None:
        self.runs, self.days, self.shelf = runs, days, shelf
        self.job = store.new_job(BAYS, outlook(BAYS, shelf))
        self.store, self.events = store, list[HeapEvent]()
        self.heap, self.phone = _Heap(), Phone(_DAYS[0].begin, "forge-room/")

    def look(self, look: HeapLook, at: datetime) -> None:
        """Say how wet the heap looks, and plan what is left with it."""
        log = self.runs.log(self.job)
        sheet = BAYS | {"moisture_percent": {SAND: look}, "looked_at": {SAND: at.isoformat()}}
        tried = try_plan(sheet, self.shelf, log.run.made_m3)
        if tried.request is None or tried.ticket is None:
            raise RuntimeError("the demo's story cannot be planned")
        self.store.save_sheet(self.job, sheet, outlook(sheet, self.shelf))
        self.runs.keep(self.job, tried.ticket, made_from(tried.request), log, made_at=at)

    def live(self, day: _Day) -> None:
        """Mix a day's loads."""
        self.heap.percent = day.percent
        self.look(day.look, day.begin - timedelta(minutes=5))
        self.phone.who = "loft.1" if day.begin.weekday() % 2 else "yard.1"
        for number in range(day.loads):
            self.phone.at = max(day.begin + timedelta(hours=number * _EVERY_H), self.phone.at + timedelta(minutes=1))
            for before, kind, percent, look in day.happens:
                if before == number:
                    self.heap.percent = percent
                    self.events.append(_told(self.days, self.phone.at - timedelta(minutes=5), kind))
                    self.look(look, self.phone.at - timedelta(minutes=3))
            log = self.runs.log(self.job)
            if log.run.next is None:
                return
            _mix(self.phone, log, self.heap.barrow(), self.events)
            self.runs.append(self.job, self.phone.taps, sent_at=self.phone.at, received=self.phone.at)
            self.phone.taps = []


def tell(store: CrewStore, runs: RunStore, days: DayStore, shelf: Catalogue) -> None:
    """Put the four days into the yard's book."""
    bays = _Bays(store, runs, days, shelf)
    for day in _DAYS:
        bays.live(day)
