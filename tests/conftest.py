"""Fixtures for all: one PostgreSQL for the session, a fresh database for whoever asks."""

import os
import shutil
import tempfile
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from sqlalchemy import Engine, event
from sqlalchemy.orm import Session

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet, resolve
from keeve.core.planning.plan import Plan, plan
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticketing import issue
from keeve.core.vessels.tools import Tools
from keeve.formats.reading.warm import warm_readers
from keeve.store.cluster import Cluster
from keeve.store.database import make_engine, migrate
from keeve.store.rows.crew_store import CrewStore, crew_named
from keeve.store.rows.run_store import RunStore
from keeve.store.tables import Base
from keeve.web.edge.settings import Settings
from tests.serving import app_as_new

settings.register_profile("keeve", deadline=None, max_examples=60, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("keeve")


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    # /tmp may be entered by the user the server runs as, whatever the checkout's own rights.
    folder = Path(tempfile.mkdtemp(prefix="keeve-test-"))
    try:
        with Cluster(folder / "pg", for_tests=True) as running:
            engine = make_engine(running.url)
            migrate(engine)
            engine.dispose()
            yield running
    finally:
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session", autouse=True)
def _warm() -> Iterator[None]:
    with warm_readers():
        yield


_count = iter(range(10**6))


@contextmanager
def fresh(cluster: Cluster, template: str = "keeve", name: str = "") -> Iterator[str]:
    """Copy a database, and drop the copy afterwards; the address of it."""
    name = name or f"t{os.getpid()}_{next(_count)}"
    admin = cluster.url.replace("+psycopg", "").rsplit("/", 1)[0] + "/postgres"
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute(f"create database {name} template {template} strategy file_copy")
    yield cluster.url.rsplit("/", 1)[0] + f"/{name}"
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute(f"drop database {name} with (force)")


class Emptied:
    """A database that is used again: to copy one takes longer than many a test."""

    def __init__(self, url: str) -> None:
        self.url = url
        self._line: psycopg.Connection | None = None

    def close(self) -> None:
        """Let go of the database."""
        if self._line is not None:
            self._line.close()

    def empty(self) -> None:
        """Take all rows out, also what may only be added to, and whoever is still in it."""
        if self._line is None or self._line.closed:
            self._line = psycopg.connect(self.url.replace("+psycopg", ""), autocommit=True)
            self._line.execute("set session_replication_role = replica")  # nothing keeps this one from deleting
        try:
            self._line.execute(
                "select pg_terminate_backend(pid) from pg_stat_activity "
                "where datname = current_database() and pid <> pg_backend_pid()"
            )
            self._line.execute("; ".join(f"delete from {table}" for table in Base.metadata.tables))
        except psycopg.OperationalError:  # a test cut every line to the database, this one too
            self.close()
            self.empty()


@pytest.fixture(scope="session")
def _reused(cluster: Cluster) -> Iterator[Emptied]:
    with fresh(cluster) as url, closing(Emptied(url)) as reused:
        yield reused


@pytest.fixture
def database_url(_reused: Emptied) -> Iterator[str]:
    """An empty, migrated database."""
    yield _reused.url
    _reused.empty()


@pytest.fixture
def session(database_url: str) -> Iterator[Session]:
    engine = make_engine(database_url)
    with Session(engine) as opened:
        yield opened
    engine.dispose()


@pytest.fixture
def store(session: Session) -> CrewStore:
    return CrewStore(session, crew_named(session, "Lantern Yard").id)


@pytest.fixture
def client(database_url: str) -> Iterator[TestClient]:
    app = app_as_new(Settings(database_url=database_url, secret="for tests", crew="Lantern Yard"))
    with TestClient(app, base_url="http://127.0.0.1") as opened:
        yield opened


@pytest.fixture
def token(client: TestClient) -> str:
    """The token a page of this visitor carries."""
    text = client.get("/").text
    return text.split('name="token" content="')[1].split('"')[0]


@pytest.fixture
def asked() -> Iterator[list[str]]:
    """Statements put to any database meanwhile."""
    found: list[str] = []

    def note(_conn: Any, _cursor: Any, statement: str, *_: Any) -> None:
        found.append(statement)

    event.listen(Engine, "before_cursor_execute", note)
    yield found
    event.remove(Engine, "before_cursor_execute", note)


BY_JUG = Tools((), load_catalogue().containers["jug-5"])
"""Water by the jug, marked every 0.1 L."""


def slab(length_mm: Any = 2000, width_mm: Any = 1000, depth_mm: Any = 100, **more: Any) -> dict[str, Any]:
    return {"kind": "slab", "length_mm": length_mm, "width_mm": width_mm, "depth_mm": depth_mm} | more


Planner = Callable[..., Plan]
Ticketer = Callable[..., Ticket]


@pytest.fixture(scope="session")
def planned() -> Planner:
    """Plan a sheet given as fields: a slab of 0.2 m³ unless it says otherwise."""

    def make(**fields: Any) -> Plan:
        return plan_sheet(JobSheet.model_validate({"shapes": [slab()]} | fields))

    return make


@pytest.fixture(scope="session")
def ticketed() -> Ticketer:
    """Write the ticket of a sheet given as fields: a slab of 0.2 m³ unless it says otherwise."""

    def make(**fields: Any) -> Ticket:
        request = resolve(JobSheet.model_validate({"shapes": [slab()]} | fields), load_catalogue())
        return issue(request, plan(request))

    return make


@pytest.fixture
def runs(session: Session, store: CrewStore) -> RunStore:
    return RunStore(session, store.crew_id)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Begin with the file that takes longest: it mostly waits, and at the end all would wait for it."""
    items.sort(key=lambda item: item.path.name != "test_kills.py")
