"""Lantern Yard repairs the lock-keeper's house at Pellow Reach: one job done, one ready to mix, five measured."""

from datetime import UTC, datetime, timedelta
from typing import Any, Final
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.batch import BatchEvent
from keeve.core.dosing import Card
from keeve.core.plan import Plan, plan
from keeve.demo.sheets import CORBEL, GATE_POSTS, TO_MEASURE
from keeve.store.crew_store import CrewStore, crew_named
from keeve.store.database import make_engine

CREW: Final = "Lantern Yard"

# Water each load of the gate posts really took, in sips after the first look: the heap dried through the day.
_LATE_SIPS: Final = ((0.3,), (), (0.3, 0.3))


class _Log:
    """Writes the events of one load as a phone beside the mixer would have."""

    def __init__(self, number: int, begin: datetime) -> None:
        self.number = number
        self.at = begin
        self.events: list[BatchEvent] = []

    def add(self, seconds: float, **what: Any) -> None:
        self.at += timedelta(seconds=seconds)
        name = f"lantern-yard/{self.number}/{len(self.events)}"
        self.events.append(BatchEvent(id=str(uuid5(NAMESPACE_URL, name)), at=self.at, **what))


def _load_log(number: int, card: Card, begin: datetime, sips: tuple[float, ...], start_l: float) -> _Log:
    log = _Log(number, begin)
    log.add(0, kind="started")
    factor = start_l / card.water.pour.target
    for index, step in enumerate(card.steps):
        if step.kind == "judge":
            break
        if step.water_l > 0:
            log.add(20, kind="water", litres=round(step.water_l * factor, 2))
        log.add(35 + step.seconds, kind="step_done", step=index)
    for sip in sips:
        log.add(15, kind="judged", verdict="dry")
        log.add(20, kind="water", litres=sip)
        log.add(50, kind="step_back", step=len(card.steps) - 2)
    log.add(20, kind="judged", verdict="right")
    log.add(2, kind="step_done", step=len(card.steps) - 2)
    log.add(420, kind="accepted")
    return log


def _finish(store: CrewStore, result: Plan, plan_id: Any, job: Any) -> None:
    begin = datetime(2026, 9, 14, 8, 10, tzinfo=UTC)
    start_l = result.cards[0].water.pour.target
    for load in result.loads:
        card = result.cards[load.card]
        sips = _LATE_SIPS[(load.number - 1) % len(_LATE_SIPS)]
        ratio = card.volume_m3 / result.cards[0].volume_m3
        log = _load_log(load.number, card, begin, sips, start_l * ratio)
        store.append(job, plan_id, load.number, log.events)
        poured = sum(e.litres or 0.0 for e in log.events)
        start_l = min(poured / ratio, result.cards[0].water.pour.high)
        begin = log.at + timedelta(minutes=9)


def load_demo(url: str) -> None:
    """Put the jobs into a database that does not have them yet."""
    engine = make_engine(url)
    try:
        with Session(engine) as session, session.begin():
            store = CrewStore(session, crew_named(session, CREW).id)
            if store.jobs():
                return
            for sheet in TO_MEASURE:
                store.new_job(sheet)
            posts = store.new_job(GATE_POSTS)
            request = resolve(JobSheet.model_validate(GATE_POSTS), load_catalogue())
            result = plan(request)
            row = store.keep_plan(posts, GATE_POSTS, request, result)
            _finish(store, result, row.id, posts)
            store.new_job(CORBEL)
    finally:
        engine.dispose()
