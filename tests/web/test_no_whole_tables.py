"""No page reads a whole table: each question of a page that looks back can be answered by an index."""

from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, event

from keeve.store.database import make_engine
from tests.web.test_pages import PAGE
from tests.web.test_runs import Yard

LARGE = {"run_events", "tickets", "day_log", "day_plans", "proofs", "jobs", "book_entries"}
"""Tables that grow with the years."""


@pytest.fixture
def put() -> Any:
    """Questions put to any database meanwhile, with what they were asked for."""
    found: list[tuple[str, Any]] = []

    def note(_conn: Any, _cursor: Any, statement: str, parameters: Any, *_: Any) -> None:
        if statement.lstrip().lower().startswith(("select", "with")):
            found.append((statement, parameters))

    event.listen(Engine, "before_cursor_execute", note)
    yield found
    event.remove(Engine, "before_cursor_execute", note)


def whole_reads(node: dict[str, Any]) -> Iterator[str]:
    """Large tables that are read without a condition on an index of theirs."""
    table = node.get("Relation Name")
    if table in LARGE and "Index Cond" not in node and node["Node Type"] != "Bitmap Heap Scan":
        yield table
    for part in node.get("Plans", ()):
        yield from whole_reads(part)


@pytest.mark.parametrize("path", ["/log", "/", "/day", "{job}/look-back", "{job}/own", "{job}/mixer"])
def test_every_question_of_a_page_finds_its_rows_by_an_index(
    client: TestClient, token: str, database_url: str, put: list[tuple[str, Any]], path: str
) -> None:
    yard = Yard(client, token)
    yard.begin()
    yard.phone.mix(0, 9.0)
    yard.send()
    put.clear()
    assert client.get(path.format(job=yard.job), headers=PAGE).status_code == 200
    asked = list(put)
    assert asked
    engine = make_engine(database_url)
    with engine.connect() as connection:
        # A table of one row is read whole whatever its indexes: then what cannot be done without that shows.
        connection.exec_driver_sql("set enable_seqscan = off")
        for statement, parameters in asked:
            (plan,) = connection.exec_driver_sql(f"explain (format json) {statement}", parameters).scalar_one()
            assert list(whole_reads(plan["Plan"])) == [], statement
        # And the check can fail: a question without its crew reads all there is.
        (plan,) = connection.exec_driver_sql("explain (format json) select body from run_events").scalar_one()
        assert list(whole_reads(plan["Plan"])) == ["run_events"]
    engine.dispose()
