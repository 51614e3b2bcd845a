#!/usr/bin/env python3
"""Pages of a yard with 5000 jobs, 500 own mixes and 50 000 loads beside those of one with ten jobs: as quick.

Run: .keeve/venv/bin/python bench/many.py     (some minutes; starts a PostgreSQL of its own in a folder for the time)

With `million`: the batch log, the page that looks back and the day of a yard whose logs hold a million entries, beside
those of one with a thousand; each job has as many entries in both.

Requests go in turn, and the other way round each second time; compared is the median of the ratios of neighbours.
"Anew" is a page that is not remembered, as after a change.
"""

import re
import shutil
import statistics
import sys
import tempfile
import time
from pathlib import Path
from typing import NamedTuple

from fastapi.testclient import TestClient
from sqlalchemy import Engine, event, text
from sqlalchemy.orm import Session

from keeve.catalogue import load_catalogue
from keeve.demo.yard import CREW, load_demo
from keeve.store.cluster import Cluster
from keeve.store.database import make_engine, migrate
from keeve.store.rows.crew_store import crew_named
from keeve.web.app import make_app
from keeve.web.edge.settings import Settings

ROUNDS = 60
COPY_JOBS = text(
    "insert into jobs (crew_id, id, name, place, sheet, mix_key, mix_name, state, to_fill_m3, loads, made, event_n, "
    "ticket_n, changed_at) "
    "select crew_id, gen_random_uuid(), name || ' ' || n, place, sheet, mix_key, mix_name, state, to_fill_m3, loads, "
    "made, event_n, ticket_n, changed_at - n * interval '1 minute' "
    "from (select * from jobs where crew_id = :crew and id = :one) as one, generate_series(1, :n) as n"
)
COPY_TICKETS = text(
    "insert into tickets (crew_id, job_id, revision, made_at, made_from, document) "
    "select t.crew_id, j.id, t.revision, t.made_at, t.made_from, t.document from jobs j, tickets t "
    "where j.crew_id = :crew and t.crew_id = :crew and t.job_id = :one and j.name like :named"
)
COPY_EVENTS = text(
    "insert into run_events (crew_id, job_id, n, id, received_at, body) "
    "select e.crew_id, j.id, e.n + 1000 * k, u.id, e.received_at, jsonb_set(jsonb_set(e.body, '{id}', to_jsonb(u.id)), "
    "'{load}', to_jsonb((e.body->>'load')::int + 3 * k)) "
    "from jobs j join run_events e on e.crew_id = j.crew_id and e.job_id = :one, generate_series(0, :again) as k, "
    "lateral (select md5(j.id::text || e.id || k)::uuid::text as id) as u "
    "where j.crew_id = :crew and j.name like :named"
)
COPY_MIXES = text(
    "insert into book_entries (crew_id, id, kind, key, away, base, entry, document) "
    "select :crew, gen_random_uuid(), 'mix', 'own-' || n, false, d, jsonb_build_object('name', 'Own mix ' || n), "
    "jsonb_set(jsonb_set(d, '{key}', to_jsonb('own-' || n)), '{name}', to_jsonb('Own mix ' || n)) "
    "from (select cast(:mix as jsonb) as d) as one, generate_series(1, :n) as n"
)


class Size(NamedTuple):
    """How much there is in a yard beside the demo's."""

    jobs: int
    mixes: int = 0
    again: int = 0
    """How often more each job's log repeats itself."""


def yard(url: str, size: Size) -> TestClient:
    load_demo(url)
    engine = make_engine(url)
    with Session(engine) as session, session.begin():
        crew = crew_named(session, CREW).id
        of_crew = "select id from jobs where crew_id = :crew and name = 'Gate-post holes'"
        one = session.scalar(text(of_crew), {"crew": crew})
        session.execute(text("set local statement_timeout = 0"))
        copied = {"crew": crew, "one": one, "named": "Gate-post holes _%"}
        session.execute(COPY_JOBS, {"crew": crew, "one": one, "n": size.jobs})
        session.execute(COPY_TICKETS, copied)
        session.execute(COPY_EVENTS, copied | {"again": size.again})
        if size.mixes:
            mix = load_catalogue().mixes["stucco-base"].model_dump_json()
            session.execute(COPY_MIXES, {"crew": crew, "mix": mix, "n": size.mixes - 1})
        loads = session.scalar(text("select count(*) from run_events where body->>'kind' = 'started'"))
        print(
            f"{session.scalar(text('select count(*) from jobs'))} jobs, {loads} loads, "
            f"{session.scalar(text('select count(*) from run_events'))} entries in logs, {size.mixes} mixes"
        )
    with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("set statement_timeout = 0"))
        connection.execute(text("vacuum analyze"))
    engine.dispose()
    return TestClient(make_app(Settings(database_url=url, secret="x" * 20, crew=CREW)), base_url="http://127.0.0.1")


def took(client: TestClient, path: str, *, anew: bool) -> float:
    if anew:
        client.app.state.pages.__init__()
    began = time.perf_counter()
    answer = client.get(path)
    taken = time.perf_counter() - began
    assert answer.status_code == 200, path
    return taken


def pages(client: TestClient, *, full: bool) -> dict[str, str]:
    html = client.get("/").text
    job = re.findall(r'href="(/jobs/[^/"]+)/look-back"', html)[0]
    stations = {one: f"{job}/{one}" for one in ("measure", "mix", "loads", "mixer", "look-back")}
    more = {"last page": "/?page=120" if full else "/", "found": "/?find=post+2500" if full else "/?find=post"}
    return {"jobs": "/"} | more | stations | {"book": "/book", "a mix": "/book/stucco-base"}


def looking_back(client: TestClient) -> dict[str, str]:
    job = re.findall(r'href="(/jobs/[^/"]+)/look-back"', client.get("/?find=Gate-post+holes+7").text)[0]
    return {"log": "/log", "drift": f"{job}/look-back", "own": f"{job}/own", "day": "/day", "today": "/today"}


def main() -> None:
    million = "million" in sys.argv[1:]
    sizes = (Size(25), Size(27_000)) if million else (Size(0), Size(5000, 500, 3))
    folder = Path(tempfile.mkdtemp(prefix="keeve-bench-"))
    try:
        with Cluster(folder / "few", for_tests=True) as few, Cluster(folder / "many", for_tests=True) as many:
            for cluster in (few, many):
                engine = make_engine(cluster.url)
                migrate(engine)
                engine.dispose()
            with yard(few.url, sizes[0]) as small, yard(many.url, sizes[1]) as large:
                asked: list[str] = []
                event.listen(Engine, "before_cursor_execute", lambda *given: asked.append(given[2]))
                if million:
                    there, here = looking_back(small), looking_back(large)
                else:
                    there, here = pages(small, full=False), pages(large, full=True)
                print(
                    f"{'page':10} {'few ms':>8} {'many ms':>8} {'ratio':>6}   anew: few ms  many ms  ratio  questions"
                )
                for name in here:
                    line = f"{name:10}"
                    for anew in (False, True):
                        times = []
                        for i in range(ROUNDS):
                            turn = [(small, there[name]), (large, here[name])]
                            found = [took(*one, anew=anew) for one in (turn[::-1] if i % 2 else turn)]
                            times.append(found[::-1] if i % 2 else found)
                        times = times[8:]
                        ms = [statistics.median(t[k] for t in times) * 1000 for k in (0, 1)]
                        line += f" {ms[0]:8.2f} {ms[1]:8.2f} {statistics.median(t[1] / t[0] for t in times):6.2f}     "
                    asked.clear()
                    took(large, here[name], anew=True)
                    print(f"{line} {len(asked)}")
    finally:
        shutil.rmtree(folder, ignore_errors=True)


main()
