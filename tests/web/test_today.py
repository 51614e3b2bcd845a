"""The page of jobs as the beginning of a day: what is planned and due, jobs renamed, put away and brought back."""

from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from tests.prose import PROSE
from tests.web.test_day import DAY, planned, ready
from tests.web.test_pages import new_job
from tests.web.test_runs import Yard


def test_what_is_planned_today_and_what_the_weather_forbids_is_told(
    client: TestClient, token: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    job = ready(client, token)
    assert "load" not in client.get("/today").text
    rain = "\n".join(f"{h}:00, 15, 80, 5, {2 if h < 11 else 0}" for h in range(7, 17))
    today = datetime.now(UTC).date()
    for day in (today - timedelta(days=1), today, today + timedelta(days=1)):  # whatever clock this machine has
        form = {"job": job, "on": job, "after": "", "mixers": "1", "forecast": rain, "zone": "UTC"}
        hours = {"begin": "7:00", "end": "17:00", "rests": ""}
        client.post(f"/day/{day}", data={"token": token} | form | hours)
    html = client.get("/today").text
    assert "Today:" in html
    assert PROSE["the-weather-forbids-it"] in html
    assert planned(client, token, job).headers["location"].endswith(DAY)


@pytest.mark.parametrize(
    ("days", "said"), [(0, "Keep it damp"), (6, "Keep it damp"), (8, ""), (28, "Test day"), (26, "Test day")]
)
def test_what_was_placed_goes_on_being_kept_and_is_due(
    client: TestClient, token: str, session: Session, days: int, said: str
) -> None:
    yard = Yard(client, token)
    yard.begin()
    yard.phone.mix(0, 9.0)
    yard.send()
    session.execute(text("set local session_replication_role = replica"))  # the log refuses to be changed
    session.execute(text("update run_events set received_at = received_at - make_interval(days => :d)"), {"d": days})
    session.commit()
    html = client.get("/today").text
    assert (said in html) if said else ("damp" not in html and "Test day" not in html)


def test_a_job_is_renamed_put_away_and_brought_back(client: TestClient, token: str) -> None:
    job = new_job(client, token, "Shed floor")
    assert "<details>" in client.get("/").text
    client.post(f"{job}/name", data={"token": token, "name": "Barn floor <b>", "place": "Pellow Reach"})
    html = client.get("/").text
    assert "Barn floor &lt;b&gt;" in html
    assert "Shed floor" not in html
    assert client.get(f"{job}/raw").json()["job"] == "Barn floor <b>"
    client.post(f"{job}/away", data={"token": token})
    assert "Barn floor" not in client.get("/").text
    assert "Barn floor" not in client.get("/", params={"find": "barn"}).text
    put = client.get("/", params={"away": 1}).text
    assert "Barn floor" in put
    assert client.get(f"{job}/measure").status_code == 200  # nothing of it is lost
    client.post(f"{job}/away", data={"token": token, "back": "1"})
    assert "Barn floor" in client.get("/").text


def test_a_name_of_nothing_is_given_one(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    client.post(f"{job}/name", data={"token": token, "name": "   "})
    assert PROSE["job-without-a-name"] in client.get("/").text
