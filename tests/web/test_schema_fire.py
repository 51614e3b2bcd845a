"""A few made-up requests to every route: each answered, none by a failure, all as the schema says."""

import pytest
from fastapi.testclient import TestClient

from keeve.web.app import make_app
from keeve.web.edge.settings import Settings
from tests.schema_fire import Yard, attack
from tests.serving import served
from tests.web.test_pages import keep, new_job

BUSY_S = 60.0
"""Here it only tells an answer from none: how long answers take is told by bench/schema_fire.py."""


def test_made_up_requests_are_answered_as_the_schema_says(database_url: str, monkeypatch: pytest.MonkeyPatch) -> None:
    app = make_app(Settings(database_url=database_url, secret="for tests"))
    with served(app) as address:
        with TestClient(app, base_url="http://127.0.0.1") as client:
            token = client.get("/").text.split('name="token" content="')[1].split('"')[0]
            keep(client, token, new_job(client, token))
            client.post("/book/own/sands", data={"token": token, "name": "Pit"})
        found = attack(Yard(address), examples=6, longest_s=BUSY_S)
    assert found.total() > 200
    assert {"200", "303", "404", "422"} <= set(found)
