"""The worker keeps all that a run page asks for, and its text changes with it."""

import re

from fastapi.testclient import TestClient

from keeve.web.ways_in.offline.routes import shell
from tests.web.test_runs import Yard


def test_the_worker_keeps_every_file_a_run_page_asks_for(client: TestClient, token: str) -> None:
    yard = Yard(client, token)
    yard.begin()
    html = client.get(f"{yard.job}/mixer").text
    asked = set(re.findall(r'"(/static/[^"]+)"', html))
    assert asked - set(shell()) == set()
    for address in shell():
        assert client.get(address).status_code == 200, address


def test_the_worker_is_asked_for_anew_each_time(client: TestClient) -> None:
    answer = client.get("/worker.js")
    assert answer.headers["content-type"].startswith("text/javascript")
    assert answer.headers["cache-control"] == "no-cache"
    assert "__" not in answer.text
    assert shell()[0] in answer.text
