"""How many questions a page puts to the database, however much is in it."""

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from tests.web.test_pages import PAGE, keep, new_job


@pytest.mark.parametrize("jobs", [2, 300])
def test_the_list_of_jobs_is_one_query_however_many_jobs_there_are(
    client: TestClient, token: str, session: Session, asked: list[str], jobs: int
) -> None:
    address = new_job(client, token)
    keep(client, token, address)
    session.execute(
        text(
            "insert into jobs (crew_id, id, name, place, sheet, mix_key, mix_name, state, to_fill_m3, loads) "
            "select crew_id, gen_random_uuid(), 'Job ' || n, place, sheet, mix_key, mix_name, state, to_fill_m3, loads "
            "from jobs, generate_series(1, :n) as n"
        ),
        {"n": jobs - 1},
    )
    session.commit()
    asked.clear()
    page = client.get("/", headers=PAGE)
    assert page.status_code == 200
    assert len(asked) == 1
    assert page.text.count("<tr>") - 1 == min(jobs, 40)
    assert ("older jobs" in page.text) is (jobs > 40)
    assert ("newer jobs" in client.get("/?page=2", headers=PAGE).text) is (jobs > 40)
