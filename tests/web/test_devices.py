"""Readings over the wire: a stand-in for each line, a real device passed on, and nobody else's page."""

import json
import threading
from collections.abc import Iterator
from contextlib import ExitStack
from typing import Any

import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect
from websockets.sync.server import ServerConnection, serve

from keeve.web.app import make_app
from keeve.web.edge.settings import Settings

OWN = {"origin": "http://127.0.0.1", "host": "127.0.0.1"}


def until_stable(line: Any) -> dict[str, Any]:
    for _ in range(200):
        reading = dict(json.loads(line.receive_text()))
        if reading["stable"]:
            return reading
    raise AssertionError("it never came to rest")


def test_a_stand_in_weighs_what_is_put_on_it(client: TestClient) -> None:
    told = client.get("/devices").json()
    assert {one["kind"] for one in told} == {"hanging scale", "bench scale", "water meter"}
    with client.websocket_connect("/devices/bench-scale", headers=OWN) as line:
        line.send_text("no JSON at all")  # passes by
        line.send_bytes(b"\x00\xff")
        line.send_text(json.dumps({"do": "fly"}))
        line.send_text(json.dumps({"do": "pour", "much": 0.9}))
        for _ in range(5):
            line.receive_text()
        assert until_stable(line)["value"] == pytest.approx(0.9, abs=0.011)
        line.send_text(json.dumps({"do": "tare"}))
        for _ in range(3):
            line.receive_text()
        assert until_stable(line)["value"] == pytest.approx(0, abs=0.011)


@pytest.mark.parametrize(
    "headers",
    [
        {},
        {"host": "127.0.0.1"},
        OWN | {"origin": "http://evil.example"},
        OWN | {"origin": "https://127.0.0.1:1"},
        OWN | {"host": "evil.example"},
        {"host": "evil.example", "origin": "http://evil.example"},
    ],
)
def test_a_page_that_is_not_ours_hears_nothing(client: TestClient, headers: dict[str, str]) -> None:
    with pytest.raises(WebSocketDisconnect), client.websocket_connect("/devices/bench-scale", headers=headers):
        pass


def test_a_device_nobody_knows_is_refused(client: TestClient) -> None:
    with pytest.raises(WebSocketDisconnect), client.websocket_connect("/devices/spoon", headers=OWN) as line:
        line.receive_text()


@pytest.fixture
def real() -> Iterator[tuple[str, list[str]]]:
    """A scale as somebody might build one: sends readings, nonsense among them, and hears what it is asked."""
    heard: list[str] = []

    def weigh(line: ServerConnection) -> None:
        line.send("ready when you are")
        line.send(json.dumps({"kind": "reading", "seq": 1, "value": 4.2, "stable": True}))
        heard.append(str(line.recv()))
        line.send(json.dumps({"kind": "reading", "seq": 2, "value": 0.0, "stable": True}))
        line.close()

    with serve(weigh, "127.0.0.1", 0) as server:
        thread = threading.Thread(target=server.serve_forever, daemon=True)
        thread.start()
        yield f"ws://127.0.0.1:{server.socket.getsockname()[1]}/", heard
        server.shutdown()
        thread.join(30)


def test_a_real_device_is_passed_on_each_reading_looked_through(real: tuple[str, list[str]], database_url: str) -> None:
    address, heard = real
    told = Settings(database_url=database_url, secret="for tests", devices=f"hook = hanging scale @ {address}")
    with (
        TestClient(make_app(told), base_url="http://127.0.0.1") as client,
        client.websocket_connect("/devices/hook", headers=OWN) as line,
    ):
        assert json.loads(line.receive_text())["value"] == 4.2
        line.send_text(json.dumps({"do": "tare"}))
        assert json.loads(line.receive_text())["value"] == 0.0
        assert json.loads(heard[0]) == {"do": "tare"}


def test_one_visitor_holds_no_more_than_a_dozen(client: TestClient) -> None:
    with ExitStack() as lines:
        for _ in range(12):
            lines.enter_context(client.websocket_connect("/devices/bench-scale", headers=OWN))
        with (
            pytest.raises(WebSocketDisconnect) as refused,
            client.websocket_connect("/devices/bench-scale", headers=OWN),
        ):
            pass
        assert refused.value.code == 1013
