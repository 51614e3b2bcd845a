"""What is kept, by whom it can be seen, that a log cannot be changed, and that one bad row is one bad row."""

import json
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, date, datetime, timedelta
from importlib import resources
from pathlib import Path
from typing import Any

import psycopg
import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.catalogue.trying import made_from, outlook, try_plan
from keeve.core.message.said import plain
from keeve.core.planning.plan import plan
from keeve.core.run.events import Unknown
from keeve.core.ticket.ticket import Ticket
from keeve.demo.sheets import CORBEL, GATE_POSTS
from keeve.demo.yard import CREW, load_demo
from keeve.store.cluster import Cluster
from keeve.store.database import make_engine, migrate
from keeve.store.rows.book_store import BookStore
from keeve.store.rows.crew_store import ON_A_PAGE, CrewStore, crew_named, merge_sheet
from keeve.store.rows.day_store import DayStore
from keeve.store.rows.proof_store import ProofStore
from keeve.store.rows.run_store import RunStore, catch_up
from keeve.store.tables import Base, JobRow
from keeve.web.app import make_app
from keeve.web.edge.settings import Settings
from tests.prose import PROSE
from tests.taps import BEGIN, Phone

SHELF = load_catalogue()
FIXTURES = Path(__file__).parents[1] / "fixtures"
NOON = BEGIN + timedelta(hours=4)


def open_job(store: CrewStore, sheet: dict[str, Any] = CORBEL) -> JobRow:
    return store.new_job(sheet, outlook(sheet, SHELF))


def take(runs: RunStore, job: JobRow, sheet: dict[str, Any] = CORBEL, **more: Any) -> Ticket:
    tried = try_plan(sheet, SHELF, more.pop("already_m3", 0.0))
    assert tried.request is not None
    assert tried.ticket is not None
    return runs.keep(job, tried.ticket, made_from(tried.request), runs.log(job), made_at=BEGIN, **more)


@pytest.fixture
def job(store: CrewStore, runs: RunStore) -> JobRow:
    made = open_job(store)
    take(runs, made)
    return made


def phone_for(runs: RunStore, job: JobRow, name: str = "a.1") -> Phone:
    newest = runs.log(job).newest
    assert newest is not None
    return Phone(name, mixer=newest.mixer.key)


# ── tables ───────────────────────────────────────────────────────────────────


def test_the_migrations_make_the_tables_the_code_expects(session: Session) -> None:
    assert compare_metadata(MigrationContext.configure(session.connection()), Base.metadata) == []


def test_migrating_twice_changes_nothing(database_url: str) -> None:
    engine = make_engine(database_url)
    migrate(engine)
    engine.dispose()


@contextmanager
def kept_by(cluster: Cluster, release: str) -> Iterator[Any]:
    """A database as a release left it, with all that was kept in it."""
    admin = cluster.url.replace("+psycopg", "").rsplit("/", 1)[0] + "/postgres"
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute("create database old_release")
    url = cluster.url.rsplit("/", 1)[0] + "/old_release"
    engine = make_engine(url)
    config = Config()
    config.set_main_option("script_location", str(resources.files("keeve.store") / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, release)
        for statement in (FIXTURES / f"database-{release}.sql").read_text(encoding="utf-8").splitlines():
            connection.exec_driver_sql(statement.replace("%", "%%"))
    yield engine
    engine.dispose()
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute("drop database old_release with (force)")


@pytest.fixture
def old_database(cluster: Cluster) -> Iterator[Any]:
    with kept_by(cluster, "0002") as engine:
        yield engine


def test_what_was_kept_before_the_book_was_counted_opens_whole_and_every_page_shows(cluster: Cluster) -> None:
    with kept_by(cluster, "0003") as engine:
        with bring_up(engine) as session:
            session.commit()
            store = CrewStore(session, crew_named(session, CREW).id)
            lines = {line.name: line for line in store.jobs()}
            assert len(lines) == 9
            sill = store.job(lines["Lock sill"].id)
            assert sill is not None
            log = RunStore(session, store.crew_id).log(sill)
            assert log.unreadable == []
            assert [(load.number, load.ended, load.poured_l) for load in log.run.loads] == [
                (1, "accepted", 11.5),
                (2, "thrown_away", 19.0),
            ]
            assert sorted(log.tickets) == [1, 2]
            assert [line.name for line in store.jobs(words="sill concrete")] == ["Lock sill"]
            book = BookStore(session, store.crew_id)
            assert next(plain(mix.name) for mix in book.shelf(SHELF).mixes.values()) == "Lock concrete"
            assert book.unreadable(SHELF) == ()
        url = engine.url.render_as_string(hide_password=False)
        app = make_app(Settings(database_url=url, secret="for tests", crew=CREW))
        with TestClient(app, base_url="http://127.0.0.1") as client:
            for line in lines.values():
                for station in ("measure", "mix", "loads", "mixer", "look-back"):
                    assert client.get(f"/jobs/{line.id}/{station}").status_code == 200, (line.name, station)
            assert "Pit sand" in client.get("/book/own/sands").text
            assert "Blue can" in client.get("/book/own/admixtures").text


@pytest.mark.parametrize(("release", "many"), [("0005", 7), ("0006", 9), ("0007", 10), ("0008", 10)])
def test_what_was_kept_before_there_was_a_day_or_a_proof_opens_whole_and_every_page_shows(
    cluster: Cluster, release: str, many: int
) -> None:
    with kept_by(cluster, release) as engine:
        with bring_up(engine) as session:
            session.commit()
            store = CrewStore(session, crew_named(session, CREW).id)
            lines = {line.name: line for line in store.jobs()}
            assert len(lines) == many
            for line in lines.values():
                job = store.job(line.id)
                assert job is not None
                assert RunStore(session, store.crew_id).log(job).unreadable == []
            assert BookStore(session, store.crew_id).unreadable(SHELF) == ()
            if release == "0006":
                days = DayStore(session, store.crew_id)
                assert {one.kind for one in days.log(datetime(2026, 11, 27, tzinfo=UTC))} == {
                    "checked",
                    "rain",
                    "weather",
                }
                assert days.plan(date(2026, 9, 14)) is not None
            if release == "0007":
                kinds = {
                    one.kind for entries in ProofStore(session, store.crew_id).lately().values() for one in entries
                }
                assert kinds == {"asked", "cast", "result", "weighing"}
            if release == "0008":
                proofs = ProofStore(session, store.crew_id)
                kinds = {one.kind for line in lines.values() for one in proofs.of(line.id)}
                assert kinds == {"asked", "cast", "result", "trace", "note", "photo"}
        url = engine.url.render_as_string(hide_password=False)
        app = make_app(Settings(database_url=url, secret="for tests", crew=CREW))
        with TestClient(app, base_url="http://127.0.0.1") as client:
            for line in lines.values():
                for station in ("measure", "mix", "loads", "before", "mixer", "look-back"):
                    assert client.get(f"/jobs/{line.id}/{station}").status_code == 200, (line.name, station)
            for page in ("/", "/today", "/day", "/day/2026-09-14", "/yard", "/stock"):
                assert client.get(page).status_code == 200, page


def bring_up(engine: Any) -> Session:
    migrate(engine)
    session = Session(engine)
    catch_up(session, lambda job: outlook(job.sheet, BookStore(session, job.crew_id).shelf(SHELF)))
    return session


def test_what_the_last_release_kept_opens_whole(old_database: Any) -> None:
    with old_database.begin() as connection:  # two first visits at once had founded the crew twice
        connection.exec_driver_sql("insert into crews (id, name) values (gen_random_uuid(), 'Lantern Yard')")
    with bring_up(old_database) as session:
        store = CrewStore(session, crew_named(session, CREW).id)
        runs = RunStore(session, store.crew_id)
        lines = {line.name: line for line in store.jobs()}
        assert len(lines) == 13
        assert all(line.readable and line.state for line in lines.values())
        logs = {}
        for name, line in lines.items():
            found = store.job(line.id)
            assert found is not None
            logs[name] = runs.log(found)
        assert all(log.unreadable == [] for log in logs.values())
        posts = logs["Gate-post holes"]
        assert [round(load.poured_l, 2) for load in posts.run.loads] == [12.64, 12.64, 13.24]  # as the demo had poured
        assert posts.run.done
        # Loads are numbered on through the tickets; what was rescued is read as such.
        garden = logs["Garden room, scratch coat P"]
        assert [(load.number, load.ticket, load.ended) for load in garden.run.loads] == [
            (1, 1, "accepted"),
            (2, 2, "thrown_away"),
        ]
        assert garden.run.loads[0].how == "rescued"
        assert garden.run.loads[0].poured_l == 2.5  # what was taken back is not counted
        assert len(BookStore(session, store.crew_id).shelf(SHELF).mixes) == len(SHELF.mixes) + 1


def test_an_old_event_without_a_time_zone_and_one_of_an_unknown_kind_take_nothing_down(old_database: Any) -> None:
    with old_database.begin() as connection:
        connection.exec_driver_sql("alter table batch_events disable trigger all")
        connection.exec_driver_sql(
            "update batch_events set body = body || '{\"at\": \"2026-09-20T07:32:00\"}' where body->>'kind' = 'judged'"
        )
        connection.exec_driver_sql(
            "update batch_events set body = '{\"kind\": \"sang\"}' where body->>'kind' = 'dry_added'"
        )
        connection.exec_driver_sql("update plans set plan = plan - 'cards' where request->'mix'->>'key' = 'overlay'")
        connection.exec_driver_sql("alter table batch_events enable trigger all")
    with bring_up(old_database) as session:
        store = CrewStore(session, crew_named(session, CREW).id)
        runs = RunStore(session, store.crew_id)
        jobs = {line.name: store.job(line.id) for line in store.jobs()}
        panel = jobs["Hemp-lime infill panel"]
        overlay = jobs["Porch slab, overlay"]
        assert panel is not None
        assert overlay is not None
        log = runs.log(panel)
        assert log.unreadable == []  # of a kind that is not known: kept, and ends no load
        assert [event.kind for event in log.events if isinstance(event, Unknown)] == ["sang"]
        assert log.run.loads[0].verdicts == ("wet", "right")
        lost = runs.log(overlay)
        assert {row.what for row in lost.unreadable} == {"ticket"}
        assert lost.run.loads[0].poured_l == 2.5
        assert runs.raw(overlay.id, "ticket", 1)["plan"]["loads"]


# ── sheets ───────────────────────────────────────────────────────────────────


def test_a_sheet_comes_back_as_it_was_typed_even_when_it_is_wrong(store: CrewStore) -> None:
    typed = CORBEL | {"shapes": [{"kind": "slab", "length_mm": "a lot"}], "waste_percent": "-3 %"}
    made = open_job(store)
    store.save_sheet(made, typed, outlook(typed, SHELF))
    assert store.sheet(made) == typed
    assert made.state == "measure"


def test_a_later_write_of_an_older_sheet_is_merged_and_told(store: CrewStore) -> None:
    made = open_job(store, GATE_POSTS)
    first = made.version
    theirs = GATE_POSTS | {"waste_percent": "12 %", "place_l_min": "20 L"}
    store.save_sheet(made, theirs, outlook(theirs, SHELF))
    mine = GATE_POSTS | {"mixer": "drum-small", "waste_percent": "8 %"}
    both, meanwhile, clashes = merge_sheet(store, made, mine, GATE_POSTS, first)
    assert meanwhile
    assert both["mixer"] == "drum-small"
    assert both["place_l_min"] == "20 L"
    assert [(c.path, c.mine, c.theirs) for c in clashes] == [("waste_percent", "8 %", "12 %")]
    assert merge_sheet(store, made, mine, GATE_POSTS, made.version).document == mine


def test_the_list_of_jobs_is_paged_and_takes_one_query(store: CrewStore, session: Session) -> None:
    from sqlalchemy import event

    for _ in range(ON_A_PAGE + 3):
        open_job(store)
    session.flush()
    asked: list[str] = []
    event.listen(session.get_bind(), "before_cursor_execute", lambda *a: asked.append(a[2]))
    assert len(store.jobs()) == ON_A_PAGE + 1
    assert len(asked) == 1
    assert len(store.jobs(2)) == 3


# ── tickets and events ───────────────────────────────────────────────────────


def test_a_ticket_comes_back_whole_and_does_not_change_with_the_sheet(
    store: CrewStore, runs: RunStore, job: JobRow, session: Session
) -> None:
    before = runs.log(job).tickets[1]
    tried = try_plan(CORBEL, SHELF)
    assert tried.ticket is not None
    assert before == tried.ticket
    store.save_sheet(job, CORBEL | {"mix": "casting-plaster-65"}, outlook(CORBEL, SHELF))
    session.expire_all()
    assert runs.log(job).tickets[1] == before


def test_sending_an_event_twice_changes_nothing(runs: RunStore, job: JobRow) -> None:
    phone = phone_for(runs, job)
    phone.mix(0, 2.5, end="")
    assert runs.append(job, phone.raw, NOON, NOON).added == 2
    again = runs.append(job, phone.raw, NOON, NOON)
    assert again.added == 0
    assert [one.n for one in again.numbered] == [1, 2]
    assert runs.log(job).run.loads[0].poured_l == 2.5


@pytest.mark.parametrize("change", ["update run_events set body = '{}'", "delete from run_events"])
def test_the_log_refuses_to_be_changed(runs: RunStore, job: JobRow, session: Session, change: str) -> None:
    phone = phone_for(runs, job)
    phone.mix(0, 2.5)
    runs.append(job, phone.raw, NOON, NOON)
    with pytest.raises(DBAPIError, match="append only"):
        session.execute(text(change))


def test_phones_five_minutes_off_are_put_in_order(runs: RunStore, job: JobRow) -> None:
    right, fast = phone_for(runs, job, "a.1"), phone_for(runs, job, "b.1")
    right.tap(0, "started", ticket=1, slot=0)
    right.tap(2, "judged", verdict="wet")
    fast.tap(1 + 5, "poured", litres=2.0)  # tapped at one minute past, on a clock five minutes ahead
    sent = BEGIN + timedelta(minutes=3)
    runs.append(job, fast.raw, sent_at=sent + timedelta(minutes=5), received=sent)
    runs.append(job, right.raw, sent_at=sent, received=sent)
    load = runs.log(job).run.loads[0]
    assert load.late_l == 0.0  # the water came before the look
    assert load.begun_ms == round(BEGIN.timestamp() * 1000)


def test_a_taps_age_goes_before_the_phones_clock(runs: RunStore, job: JobRow) -> None:
    phone = phone_for(runs, job)
    raw = phone.tap(0, "started", ticket=1, slot=0)
    wrong = raw | {"at": "1999-01-01T00:00:00Z", "age_s": 60.0}
    posted = runs.append(job, [wrong], sent_at=datetime(1999, 1, 1, tzinfo=UTC), received=NOON)
    assert posted.refused == []
    (event,) = runs.log(job).events
    assert event.at == NOON - timedelta(minutes=1)
    assert event.tapped_at == datetime(1999, 1, 1, tzinfo=UTC)


def test_a_phone_that_was_off_for_three_days_is_heard(runs: RunStore, job: JobRow) -> None:
    phone = phone_for(runs, job)
    phone.mix(0, 2.5)
    later = BEGIN + timedelta(days=3)
    assert runs.append(job, phone.raw, sent_at=later, received=later).refused == []
    assert runs.log(job).run.loads[0].ended == "accepted"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"kind": "No name"}, "cannot be read"),
        ({"litres": -1}, "cannot be read"),
        ({"at": "2026-09-14T08:00:00"}, "no zone"),
        ({"at": "2025-09-14T08:00:00Z"}, "long before"),
        ({"kind": "started", "litres": None, "ticket": 9}, "ticket the job does not have"),
        ({"id": "x"}, "cannot be read"),
        ({"load": 5000}, "far past any"),
    ],
)
def test_what_cannot_be_taken_is_said_and_the_rest_is_taken(
    runs: RunStore, job: JobRow, change: dict[str, Any], words: str
) -> None:
    phone = phone_for(runs, job)
    bad = {k: v for k, v in (phone.tap(0, "poured", litres=1.0) | change).items() if v is not None}
    good = phone.tap(1, "poured", litres=2.0)
    posted = runs.append(job, [bad, "nonsense", good], sent_at=NOON, received=NOON)
    assert posted.added == 1
    assert len(posted.refused) == 2
    assert words in plain(posted.refused[0].sentence)
    assert posted.refused[0].id == bad["id"]


def test_a_tap_dated_in_the_future_is_refused_unless_the_phone_says_its_clock(runs: RunStore, job: JobRow) -> None:
    phone = phone_for(runs, job)
    raw = phone.tap(60 * 24 * 30, "poured", litres=1.0)
    refused = runs.append(job, [raw], None, NOON).refused
    assert PROSE["in-the-future"] in refused[0].sentence  # type: ignore[operator]
    ahead = datetime.fromisoformat(raw["at"]) + timedelta(minutes=2)
    assert runs.append(job, [raw], ahead, NOON).refused == []
    (event,) = runs.log(job).events
    assert event.at == NOON - timedelta(minutes=2)


def test_an_entry_of_another_jobs_log_is_refused(store: CrewStore, runs: RunStore, job: JobRow) -> None:
    phone = phone_for(runs, job)
    phone.mix(0, 2.5)
    runs.append(job, phone.raw, NOON, NOON)
    other = open_job(store)
    take(runs, other)
    assert len(runs.append(other, phone.raw, NOON, NOON).refused) == len(phone.raw)


def test_a_corrupted_ticket_or_entry_takes_nothing_else_down(
    store: CrewStore, runs: RunStore, job: JobRow, session: Session
) -> None:
    phone = phone_for(runs, job)
    phone.mix(0, 2.5)
    runs.append(job, phone.raw, NOON, NOON)
    take(runs, job, already_m3=0.005)
    session.execute(text("update tickets set document = '{\"version\": 77}' where revision = 1"))
    session.execute(text("set local session_replication_role = replica"))
    session.execute(text("update run_events set body = '[1, 2]' where n = 1"))
    session.expire_all()
    log = runs.log(job)
    assert {(row.what, row.key) for row in log.unreadable} == {("ticket", "1"), ("entry", "1")}
    assert log.newest is not None
    assert log.newest.revision == 2
    assert log.run.loads[0].poured_l == 2.5
    assert runs.raw(job.id, "ticket", 1) == {"version": 77}
    assert runs.raw(job.id, "entry", 1) == [1, 2]
    assert store.jobs()[0].made == 1


def test_the_list_follows_the_run(store: CrewStore, runs: RunStore, job: JobRow) -> None:
    phone = phone_for(runs, job)
    for slot in (0, 1):
        phone.mix(slot * 20, 2.5, slot=slot)
    runs.append(job, phone.raw[:-1], NOON, NOON)
    line = store.jobs()[0]
    assert (line.state, line.made, line.loads) == ("mixing", 1, 2)
    runs.append(job, phone.raw, NOON, NOON)
    line = store.jobs()[0]
    assert (line.state, line.made, line.loads) == ("done", 2, 2)


def test_a_crew_sees_only_its_own(store: CrewStore, runs: RunStore, job: JobRow, session: Session) -> None:
    other = crew_named(session, "Another yard").id
    assert CrewStore(session, other).jobs() == []
    assert CrewStore(session, other).job(job.id) is None
    assert RunStore(session, other).log(job).tickets == {}
    assert RunStore(session, other).since(job.id, 0) == []
    assert RunStore(session, other).raw(job.id, "ticket", 1) is None


def test_a_crew_is_founded_once_however_many_come_at_once(database_url: str) -> None:
    engine = make_engine(database_url)
    found: list[Any] = []

    def visit() -> None:
        with Session(engine) as session, session.begin():
            found.append(crew_named(session, "New yard").id)

    threads = [threading.Thread(target=visit) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    engine.dispose()
    assert len(found) == 8
    assert len(set(found)) == 1


def test_numbers_follow_the_order_of_commits_under_many_writers(database_url: str) -> None:
    engine = make_engine(database_url)
    with Session(engine) as session, session.begin():
        store = CrewStore(session, crew_named(session, CREW).id)
        made = open_job(store)
        take(RunStore(session, store.crew_id), made)
        job_id, crew = made.id, store.crew_id

    def write(name: str) -> None:
        phone = Phone(name, mixer="paddle-bucket")
        for i in range(20):
            phone.tap(i, "poured", litres=0.1)
            with Session(engine) as session, session.begin():
                locked = CrewStore(session, crew).job(job_id, lock=True)
                assert locked is not None
                RunStore(session, crew).append(locked, phone.raw[-1:], NOON, NOON)

    threads = [threading.Thread(target=write, args=(f"{name}.1",)) for name in "abcd"]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    with Session(engine) as session:
        numbers = [one.n for one in RunStore(session, crew).since(job_id, 0)]
    engine.dispose()
    assert numbers == list(range(1, 81))


# ── the demo ─────────────────────────────────────────────────────────────────


def test_the_demo_is_loaded_once(database_url: str, session: Session) -> None:
    load_demo(database_url)
    load_demo(database_url)
    store = CrewStore(session, crew_named(session, CREW).id)
    shelf = BookStore(session, store.crew_id).shelf(load_catalogue())
    lines = store.jobs()
    names = [line.name for line in lines]
    assert len(names) == len(set(names)) == 10
    assert {PROSE["corbel-half-moulds"], "Gate-post holes"} <= set(names)
    for line in lines:  # each can be planned as it stands
        found = store.job(line.id)
        assert found is not None
        plan(resolve(JobSheet.model_validate(store.sheet(found)), shelf))


def test_the_demos_loads_follow_what_the_one_before_took(database_url: str, session: Session) -> None:
    load_demo(database_url)
    store = CrewStore(session, crew_named(session, CREW).id)
    line = next(one for one in store.jobs() if one.name == "Gate-post holes")
    found = store.job(line.id)
    assert found is not None
    loads = RunStore(session, store.crew_id).log(found).run.loads
    assert [load.taught_by for load in loads] == [None, 1, 2]
    assert json.loads(json.dumps(line.state)) == "done"
