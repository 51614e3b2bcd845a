#!/usr/bin/env python3
"""How long the first page of the list of jobs takes with 2000 jobs beside 2: it must stay within 1.5 times.

Run: .keeve/venv/bin/python bench/jobs_list.py     (starts a PostgreSQL of its own in a folder for the time)
"""

import shutil
import statistics
import tempfile
import time
from pathlib import Path

from fastapi.testclient import TestClient
from sqlalchemy import Engine, event, text
from sqlalchemy.orm import Session

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import outlook
from keeve.demo.sheets import GATE_POSTS
from keeve.store.cluster import Cluster
from keeve.store.crew_store import CrewStore, crew_named
from keeve.store.database import make_engine, migrate
from keeve.web.app import make_app
from keeve.web.settings import Settings

ROUNDS = 150
COPY = text(
    "insert into jobs (crew_id, id, name, place, sheet, mix_key, mix_name, state, to_fill_m3, loads) "
    "select crew_id, gen_random_uuid(), name, place, sheet, mix_key, mix_name, state, to_fill_m3, loads "
    "from (select * from jobs where crew_id = :crew limit 1) as one, generate_series(1, :n)"
)


def yard(url: str, crew: str, jobs: int) -> TestClient:
    engine = make_engine(url)
    with Session(engine) as session, session.begin():
        store = CrewStore(session, crew_named(session, crew).id)
        store.new_job(GATE_POSTS, outlook(GATE_POSTS, load_catalogue()))
        session.execute(COPY, {"crew": store.crew_id, "n": jobs - 1})
    engine.dispose()
    return TestClient(make_app(Settings(database_url=url, secret="bench", crew=crew)), base_url="http://127.0.0.1")


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="keeve-bench-"))
    try:
        with Cluster(folder / "pg", for_tests=True) as cluster:
            engine = make_engine(cluster.url)
            migrate(engine)
            engine.dispose()
            with yard(cluster.url, "Small yard", 2) as few, yard(cluster.url, "Large yard", 2000) as many:
                clients = {"2": few, "2000": many}
                times: dict[str, list[float]] = {name: [] for name in clients}
                for _ in range(ROUNDS):  # in turn, so that a slow moment of the machine hits both
                    for name, client in clients.items():
                        began = time.perf_counter()
                        assert client.get("/").status_code == 200
                        times[name].append((time.perf_counter() - began) * 1000)
                queries = {name: count(client) for name, client in clients.items()}
        for name, taken in times.items():
            print(f"{name:>5} jobs  {statistics.median(taken):6.2f} ms median   {queries[name]} query")
        one = statistics.median(times["2000"]) / statistics.median(times["2"])
        print(f"ratio       {one:6.2f}   (must stay under 1.5; the long list shows 40 rows, the short one 2)")
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def count(client: TestClient) -> int:
    asked: list[str] = []

    def note(_conn: object, _cursor: object, statement: str, *_: object) -> None:
        asked.append(statement)

    event.listen(Engine, "before_cursor_execute", note)
    client.get("/")
    event.remove(Engine, "before_cursor_execute", note)
    return len(asked)


main()
