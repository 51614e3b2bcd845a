"""Loads mixed on paper, written down afterwards in one go."""

from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job

DAMP = {"sharp-sand": "5 %", "gravel-20": "1 %"}


@pytest.fixture
def job(client: TestClient, token: str) -> str:
    made = new_job(client, token)
    keep(client, token, made, mixer="drum-site", moisture_percent=DAMP, shapes=[slab(depth_mm=180)])
    return made


def write(client: TestClient, token: str, job: str, **form: str) -> Any:
    given = {"token": token, "once": str(uuid4()), "begun": "2026-03-02 08:10", "every": "20"} | form
    return client.post(f"{job}/afterwards", data=given, headers=PAGE, follow_redirects=False)


def test_three_loads_from_memory_are_loads_like_any_other(client: TestClient, token: str, job: str) -> None:
    assert PROSE["write-them-down"] in client.get(f"{job}/look-back").text
    once = str(uuid4())
    for _ in range(2):  # the button was pressed twice
        assert write(client, token, job, water="9.5, 9.2; 9400 mL", once=once).status_code == 303
    html = client.get(f"{job}/look-back").text
    for litres in ("9.50 L", "9.20 L", "9.40 L"):
        assert html.count(f"<strong>{litres}</strong>") == 1
    assert PROSE["the-sand-through-the"] in html
    assert "2 March 2026" in html  # the ticket is of that day
    assert write(client, token, job, water="9.1", begun="2026-03-03 08:00").status_code == 303
    assert "<strong>9.10 L</strong>" in client.get(f"{job}/look-back").text


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({"water": ""}, "What water did the loads take?"),
        ({"water": "nine"}, "nine"),
        ({"water": "9.5," * 61}, "more than 60 loads"),
        ({"water": "9.5", "begun": "2199-01-01"}, "still be to come"),
        ({"water": "9.5", "begun": "soon"}, "That is no day."),
        ({"water": "9.5", "every": "0"}, "between a minute"),
        ({"water": "9 L, 99999 L"}, "alert"),
        ({"water": "9.5, 9.1, 9.2, 9.3, 9.4, 9.5, 9.6, 9.7, 9.8, 9.9"}, "plans no load after"),
    ],
)
def test_a_slip_writes_nothing_and_stays_typed(
    client: TestClient, token: str, job: str, form: dict[str, str], said: str
) -> None:
    wrong = write(client, token, job, **form)
    assert (wrong.status_code, said in wrong.text) == (422, True), said
    assert client.get(f"{job}/events").json()["n"] == 0
    if form["water"]:
        assert form["water"][-3:].strip(" L") in wrong.text
