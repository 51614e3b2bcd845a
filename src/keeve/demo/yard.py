"""Lantern Yard repairs the lock-keeper's house at Pellow Reach: two jobs done, one ready to mix, seven measured."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Final

from sqlalchemy import select
from sqlalchemy.orm import Session

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import made_from, outlook, try_plan
from keeve.core.lessons.briefing import brief
from keeve.core.records.proofs import Asked, Cast, Note, Proof, Result, Trace
from keeve.core.run.models import Run
from keeve.core.ticket.ticket import Ticket
from keeve.core.vessels.own_scale import SCALES, ScaleSheet, scale_of
from keeve.core.vessels.own_vessel import VesselSheet, vessel_of
from keeve.demo.own_things import STOCK, THINGS, with_own
from keeve.demo.phone import Phone
from keeve.demo.sheets import CORBEL, GATE_POSTS, TO_MEASURE
from keeve.demo.story import tell
from keeve.store.database import make_engine
from keeve.store.rows.book_store import BookStore
from keeve.store.rows.crew_store import CrewStore, crew_named
from keeve.store.rows.day_store import DayStore
from keeve.store.rows.proof_store import ProofStore
from keeve.store.rows.run_store import RunStore
from keeve.store.tables import Crew, JobRow

CREW: Final = "Lantern Yard"
NOTE: Final = "The heap is drier on top by now: two sips more than the first."
CUBE_BOX: Final = "Cube box"

# Water each load of the gate posts really took, in sips after the first look: the heap dried through the day.
_LATE_SIPS: Final = ((0.3,), (), (0.3, 0.3))
_COUNTED: Final = datetime(2026, 9, 13, 17, 0, tzinfo=UTC)
_BEGIN: Final = datetime(2026, 9, 14, 8, 10, tzinfo=UTC)


def _mix_one(phone: Phone, ticket: Ticket, run: Run, sips: tuple[float, ...]) -> None:
    """Mix the next load: what to pour is asked of the run, as the run page does."""
    load = run.next
    if load is None:
        return
    of = {"load": load.number, "mixer": load.mixer}
    card = ticket.cards[load.card]
    last = len(card.steps) - 2
    told = brief(ticket, load, None)
    phone.tap(0, "started", ticket=load.ticket, slot=load.slot, brief=told.model_dump(mode="json"), **of)
    for index, step in enumerate(card.steps):
        if step.kind == "judge":
            break
        if step.water_l > 0:
            phone.tap(20, "poured", litres=round(told.steps_l[index], 2), **of)
        phone.tap(35 + step.seconds, "step_done", step=index, **of)
    for sip in sips:
        phone.tap(15, "judged", verdict="dry", **of)
        phone.tap(20, "poured", litres=sip, **of)
        phone.tap(50, "step_back", step=last, **of)
    phone.tap(20, "judged", verdict="right", **of)
    phone.tap(2, "step_done", step=last, **of)
    phone.tap(420, "accepted", **of)
    phone.at += timedelta(minutes=9)


def _finish(runs: RunStore, job: JobRow, ticket: Ticket) -> None:
    phone = Phone(_BEGIN)
    for number in range(ticket.count):
        _mix_one(phone, ticket, runs.log(job).run, _LATE_SIPS[number % len(_LATE_SIPS)])
        # On the phone's own day: it was sent as it was tapped.
        runs.append(job, phone.taps, sent_at=phone.at, received=phone.at)
        phone.taps = []


def _fill_yard(book: BookStore) -> dict[str, str]:
    """Describe what the yard has of its own; returns the key of each thing by its name in the demo."""
    keys = {}
    for name, entry in THINGS.items():
        made = (
            scale_of(ScaleSheet.model_validate(entry), "own")
            if entry["use"] in SCALES
            else vessel_of(VesselSheet.model_validate(entry), "own").vessel
        )
        keys[name] = book.add("vessel", entry, made.model_dump(mode="json")).key
    for bags in STOCK:
        book.add("stock", bags | {"counted_at": _COUNTED.isoformat()}, None)
    return keys


def _tests() -> Iterator[Proof]:
    """Cubes of the gate posts, at 7 days and at 28, how warm they were in their box, and a note."""
    yield Asked(id="demo-asked", at=_BEGIN, mpa=15)
    found = ((1, 7, 14.6), (1, 28, 19.4), (2, 28, 20.3), (3, 28, 18.9))
    for number, (load, days, mpa) in enumerate(found, 1):
        cast_at = _BEGIN + timedelta(minutes=25 * load)
        label = f"G{number}"
        yield Cast(id=f"demo-cast-{number}", at=cast_at, shape="cube-150", label=label, load=load, due_days=days)
        broken_at = cast_at + timedelta(days=days)
        yield Result(id=f"demo-result-{number}", at=broken_at, of=f"demo-cast-{number}", mpa=mpa)
    warm = tuple((float(h), 17.0 + 8.0 * max(0.0, 1 - abs(h - 15) / 15)) for h in range(0, 169, 3))
    yield Trace(id="demo-trace", at=_BEGIN, label=CUBE_BOX, readings=warm)
    yield Note(id="demo-note", at=_BEGIN + timedelta(hours=1), load=3, text=NOTE)


def load_demo(url: str) -> None:
    """Put the jobs into a database that does not have them yet."""
    shelf = load_catalogue()
    engine = make_engine(url)
    try:
        with Session(engine) as session, session.begin():
            store = CrewStore(session, crew_named(session, CREW).id)
            session.execute(select(Crew.id).where(Crew.id == store.crew_id).with_for_update())  # two starts at once
            if store.has_jobs():
                return
            keys = _fill_yard(BookStore(session, store.crew_id))
            shelf = BookStore(session, store.crew_id).shelf(shelf)
            for sheet in TO_MEASURE:
                own = with_own(sheet, keys)
                store.new_job(own, outlook(own, shelf))
            posts = store.new_job(GATE_POSTS, outlook(GATE_POSTS, shelf))
            runs = RunStore(session, store.crew_id)
            tried = try_plan(GATE_POSTS, shelf)
            if tried.request is None or tried.ticket is None:
                raise RuntimeError("the demo's own job cannot be planned")
            kept = runs.keep(posts, tried.ticket, made_from(tried.request), runs.log(posts), made_at=_BEGIN)
            _finish(runs, posts, kept)
            proofs = ProofStore(session, store.crew_id)
            for entry in _tests():
                proofs.append(posts.id, entry)
            tell(store, runs, DayStore(session, store.crew_id), shelf)
            corbel = with_own(CORBEL, keys)
            store.new_job(corbel, outlook(corbel, shelf))
    finally:
        engine.dispose()
