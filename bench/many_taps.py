#!/usr/bin/env python3
"""Ten thousand taps in one load: every page beside the same page of a yard whose load has ten.

Run: .keeve/venv/bin/python bench/many_taps.py [HOW MANY]
"""

import statistics
import sys
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from fastapi.testclient import TestClient
from sqlalchemy import insert, update
from sqlalchemy.orm import Session

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))
from tests.conftest import fresh

from keeve.demo.yard import CREW, load_demo
from keeve.store.cluster import Cluster
from keeve.store.database import make_engine, migrate
from keeve.store.rows.crew_store import crew_named
from keeve.store.tables import EventRow, JobRow
from keeve.web.app import make_app
from keeve.web.edge.settings import Settings

PAGES = ("/", "/clocks", "/stock", "/buying", "/today", "/log", "/day")
OF_JOB = ("measure", "mix", "loads", "mixer", "look-back", "sand")
TIMES = 9


def tap_often(url: str, many: int) -> str:
    """Put so many taps into one load of the job with most tickets; returns the job."""
    engine = make_engine(url)
    with Session(engine) as session, session.begin():
        crew = crew_named(session, CREW).id
        job = session.query(JobRow).filter(JobRow.name == "Gate-post holes").one()
        at = datetime.now(UTC) - timedelta(hours=1)
        kinds = [
            {"kind": "poured", "litres": 0.001},
            {"kind": "step_done", "step": 1},
            {"kind": "step_back", "step": 1},
        ]
        rows = []
        for n in range(many):
            moment = at + timedelta(seconds=n * 3000 / many)
            body = {
                "id": f"{n:08x}-0000-4000-8000-0000000000aa", "at": moment.isoformat(), "phone": f"b.{n % 3}", "seq": n,
                "load": 90, "mixer": "drum-site",
            } | kinds[n % 3]  # fmt: skip
            rows.append(
                {"crew_id": crew, "job_id": job.id, "n": job.event_n + 1 + n, "id": body["id"], "received_at": moment,
                 "body": body}
            )  # fmt: skip
        session.execute(insert(EventRow), rows)
        session.execute(update(JobRow).where(JobRow.id == job.id).values(event_n=job.event_n + many))
        found = str(job.id)
    engine.dispose()
    return found


def times_of(url: str, job: str) -> dict[str, tuple[float, float]]:
    """Median milliseconds of each page: when its job was just written, and seen again."""
    engine = make_engine(url)
    app = make_app(Settings(database_url=url, secret="for a benchmark", crew=CREW))
    found = {}
    with TestClient(app, base_url="http://127.0.0.1") as client:
        for page in [*PAGES, *(f"/jobs/{job}/{name}" for name in OF_JOB)]:
            after_a_write, again = [], []
            client.get(page)
            for _ in range(TIMES):
                with engine.begin() as connection:
                    connection.execute(update(JobRow).values(changed_at=datetime.now(UTC)))
                for times in (after_a_write, again):
                    began = time.perf_counter()
                    assert client.get(page).status_code == 200, page
                    times.append((time.perf_counter() - began) * 1000)
            found[page.replace(job, "…")] = (statistics.median(after_a_write), statistics.median(again))
    engine.dispose()
    return found


def main() -> None:
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    with tempfile.TemporaryDirectory(prefix="keeve-taps-") as name:
        home = Path(name)
        home.chmod(0o755)
        with Cluster(home / "pg", for_tests=True) as cluster:
            engine = make_engine(cluster.url)
            migrate(engine)
            engine.dispose()
            load_demo(cluster.url)
            with fresh(cluster) as other:
                few, much = (times_of(url, tap_often(url, n)) for url, n in ((cluster.url, 10), (other, many)))
    print(f"{'':28}{'10 taps':>16}{f'{many} taps':>16}   times as long")
    for page, (first, again) in few.items():
        print(
            f"{page:28}{first:8.1f}{again:8.1f}{much[page][0]:8.1f}{much[page][1]:8.1f}"
            f"   {much[page][0] / first:5.2f}{much[page][1] / again:6.2f}"
        )


if __name__ == "__main__":
    main()
