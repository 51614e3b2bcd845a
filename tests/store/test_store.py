"""What is kept, by whom it can be seen, and that a log cannot be changed."""

import json
from datetime import UTC, datetime
from typing import Any

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet, resolve
from keeve.core.batch import BatchEvent
from keeve.core.plan import plan
from keeve.demo.yard import CORBEL, CREW, GATE_POSTS, load_demo
from keeve.store.crew_store import CrewStore, crew_named
from keeve.store.database import make_engine, migrate
from keeve.store.tables import Base, JobRow

EVENT = BatchEvent.model_validate(
    {"id": "00000000-0000-0001", "at": datetime(2026, 9, 14, tzinfo=UTC), "kind": "water", "litres": 2.5}
)


def kept_plan(store: CrewStore, sheet: dict[str, Any] = CORBEL) -> tuple[JobRow, Any]:
    job = store.new_job(sheet)
    request = resolve(JobSheet.model_validate(sheet), load_catalogue())
    return job, store.keep_plan(job, sheet, request, plan(request))


def test_the_migrations_make_the_tables_the_code_expects(session: Session) -> None:
    assert compare_metadata(MigrationContext.configure(session.connection()), Base.metadata) == []


def test_migrating_twice_changes_nothing(database_url: str) -> None:
    engine = make_engine(database_url)
    migrate(engine)
    engine.dispose()


def test_a_sheet_comes_back_as_it_was_typed_even_when_it_is_wrong(store: CrewStore) -> None:
    typed = CORBEL | {"shapes": [{"kind": "slab", "length_mm": "a lot"}], "waste_percent": "-3 %"}
    job = store.new_job(CORBEL)
    store.save_sheet(job, typed)
    assert store.sheet(job) == typed


def test_shapes_taken_off_are_gone_and_new_ones_stand_in_order(store: CrewStore) -> None:
    job = store.new_job(GATE_POSTS)
    shorter = [GATE_POSTS["shapes"][1]]
    store.save_sheet(job, GATE_POSTS | {"shapes": shorter})
    assert store.sheet(job)["shapes"] == shorter
    longer = [*shorter, {"kind": "known", "volume_l": "3 L"}]
    store.save_sheet(job, GATE_POSTS | {"shapes": longer})
    assert store.sheet(job)["shapes"] == longer


def test_a_kept_plan_comes_back_whole(store: CrewStore) -> None:
    job, _ = kept_plan(store)
    kept = store.kept(job)
    assert kept is not None
    request = resolve(JobSheet.model_validate(CORBEL), load_catalogue())
    assert kept.request == request
    assert kept.plan == plan(request)


def test_a_kept_plan_does_not_change_with_the_sheet(store: CrewStore) -> None:
    job, _ = kept_plan(store)
    before = store.kept(job)
    store.save_sheet(job, CORBEL | {"mix": "casting-plaster-65"})
    after = store.kept(job)
    assert before is not None
    assert after is not None
    assert after.plan == before.plan


def test_sending_an_event_twice_changes_nothing(store: CrewStore) -> None:
    job, row = kept_plan(store)
    assert store.append(job, row.id, 1, [EVENT]) == 1
    assert store.append(job, row.id, 1, [EVENT]) == 0
    kept = store.kept(job)
    assert kept is not None
    assert kept.events == {1: (EVENT,)}


@pytest.mark.parametrize("change", ["update batch_events set body = '{}'", "delete from batch_events"])
def test_the_log_refuses_to_be_changed(store: CrewStore, session: Session, change: str) -> None:
    job, row = kept_plan(store)
    store.append(job, row.id, 1, [EVENT])
    with pytest.raises(DBAPIError, match="append only"):
        session.execute(text(change))


def test_a_crew_sees_only_its_own_jobs(store: CrewStore, session: Session) -> None:
    job, row = kept_plan(store)
    other = CrewStore(session, crew_named(session, "Another yard").id)
    assert other.jobs() == []
    assert other.job(job.id) is None
    assert other.kept(job) is None
    assert not other.has_load(job, row.id, 1)
    assert store.has_load(job, row.id, 2)
    assert not store.has_load(job, row.id, 3)


def test_the_demo_is_loaded_once(database_url: str, session: Session) -> None:
    load_demo(database_url)
    load_demo(database_url)
    jobs = CrewStore(session, crew_named(session, CREW).id).jobs()
    names = [job.name for job in jobs]
    assert len(names) == len(set(names)) == 7
    assert {"Corbel, half moulds", "Gate-post holes"} <= set(names)
    for job in jobs:  # each can be planned as it stands
        plan_sheet(JobSheet.model_validate(CrewStore(session, job.crew_id).sheet(job)))


def test_a_plan_kept_before_shapes_were_numbered_is_read_back(store: CrewStore, session: Session) -> None:
    job, row = kept_plan(store)
    older = {**row.plan}
    older["need"] = {
        **older["need"],
        "items": [{k: v for k, v in item.items() if k not in ("shape", "group")} for item in older["need"]["items"]],
    }
    session.execute(text("update plans set plan = cast(:plan as jsonb)"), {"plan": json.dumps(older)})
    session.expire_all()
    kept = store.kept(job)
    assert kept is not None
    assert kept.plan.need.items[0].shape == 0
