"""The line for answers: the same answers as by a request, to pages of ours alone, and no way to take the server down."""

import json
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import connect

from keeve.web.edge import bounds
from keeve.web.edge.bounds import MOST_BYTES
from keeve.web.stations import line as line_module
from tests.conftest import slab
from tests.serving import served
from tests.web.test_devices import OWN

SHEET = {"mix": "concrete-1-2-4", "shapes": [slab(), slab(depth_mm="4 in")]}
LINE = "/jobs/x/line?view="


def asked(client: TestClient, view: str, sheet: Any, **headers: str) -> dict[str, Any]:
    with client.websocket_connect(LINE + view, headers=OWN | headers) as line:
        line.send_text(json.dumps(sheet))
        return dict(json.loads(line.receive_text()))


@pytest.mark.parametrize("view", ["measure", "mix", "loads"])
@pytest.mark.parametrize("sheet", [SHEET, {"mix": "none", "shapes": []}, {"shapes": [slab(depth_mm="1,234")]}])
def test_a_line_answers_as_a_request_does(client: TestClient, view: str, sheet: dict[str, Any]) -> None:
    assert asked(client, view, sheet) == client.post(f"/jobs/x/answer?view={view}", json=sheet).json()


def test_one_sheet_after_another_is_answered_in_the_readers_units(client: TestClient) -> None:
    # 2 m by 1 m by 100 mm is 0.2 m³, by 150 mm 0.3 m³; 0.2 m³ are 7.06 cubic feet.
    with client.websocket_connect(f"{LINE}measure", headers=OWN) as line:
        for depth_mm, to_fill in ((100, "0.200"), (150, "0.300")):
            line.send_text(json.dumps({"mix": SHEET["mix"], "shapes": [slab(depth_mm=depth_mm)]}))
            assert to_fill in json.loads(line.receive_text())["answer"]
    us = asked(client, "measure", {"mix": SHEET["mix"], "shapes": [slab()]}, cookie="keeve_units=us")
    assert "7.06" in us["answer"]


@pytest.mark.parametrize("headers", [{}, OWN | {"origin": "http://evil.example"}, OWN | {"host": "evil.example"}])
def test_a_page_that_is_not_ours_gets_no_line(client: TestClient, headers: dict[str, str]) -> None:
    with (
        pytest.raises(WebSocketDisconnect),
        client.websocket_connect(f"{LINE}measure", headers={"host": "127.0.0.1"} | headers),
    ):
        pass


@pytest.mark.parametrize("view", ["", "book", "measure&view=x"])
def test_a_station_nobody_knows_has_no_line(client: TestClient, view: str) -> None:
    with pytest.raises(WebSocketDisconnect), client.websocket_connect(LINE + view, headers=OWN):
        pass


@pytest.mark.parametrize(
    "text",
    [
        "no JSON",
        "[]",
        "7",
        "",
        '{"shapes": ' + "[" * 100_000 + "]" * 100_000 + "}",
        '{"note": "\\u0000"}',
        '{"note": "\\ud800"}',
        '{"shapes": [' + ", ".join(["{}"] * 201) + "]}",
        '{"waste_percent": NaN}',
    ],
)
def test_what_is_no_sheet_ends_the_line_and_nothing_else(client: TestClient, text: str) -> None:
    with client.websocket_connect(f"{LINE}loads", headers=OWN) as line:
        line.send_text(text)
        with pytest.raises(WebSocketDisconnect) as ended:
            line.receive_text()
        assert ended.value.code == line_module.NOT_SO
    assert asked(client, "loads", SHEET)["whole"]


def test_what_is_no_text_ends_the_line(client: TestClient, caplog: pytest.LogCaptureFixture) -> None:
    with client.websocket_connect(f"{LINE}loads", headers=OWN) as line:
        line.send_bytes(b"\x00\xff")
        with pytest.raises(WebSocketDisconnect) as ended:
            line.receive_text()
        assert ended.value.code == line_module.NOT_SO
    assert "fault" not in caplog.text


def test_a_visitor_has_only_so_many_lines(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bounds, "MOST_LINES", 2)
    with (
        client.websocket_connect(f"{LINE}mix", headers=OWN),
        client.websocket_connect(f"{LINE}mix", headers=OWN),
        pytest.raises(WebSocketDisconnect) as ended,
        client.websocket_connect(f"{LINE}mix", headers=OWN),
    ):
        pass
    assert ended.value.code == line_module.BUSY
    assert asked(client, "mix", SHEET)["whole"]  # who left makes room


def test_what_breaks_on_our_side_ends_one_line_and_is_in_the_log(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def break_down(*_: Any) -> None:
        raise RuntimeError("a secret of the house")

    monkeypatch.setattr(line_module, "answered", break_down)
    with client.websocket_connect(f"{LINE}mix", headers=OWN) as line:
        line.send_text(json.dumps(SHEET))
        with pytest.raises(WebSocketDisconnect) as ended:
            line.receive_text()
    assert (ended.value.code, ended.value.reason) == (line_module.BROKEN, "")
    assert "a secret of the house" in caplog.text
    monkeypatch.undo()
    assert asked(client, "mix", SHEET)["whole"]


def test_more_than_a_sheet_can_be_is_not_taken_in(client: TestClient) -> None:
    app = client.app
    assert isinstance(app, FastAPI)
    with served(app) as address:
        with connect(address.replace("http", "ws") + f"{LINE}mix", origin=address) as line:  # type: ignore[call-overload]
            line.send(json.dumps(SHEET | {"note": "x" * MOST_BYTES}))
            with pytest.raises(ConnectionClosed) as ended:
                line.recv()
        assert ended.value.rcvd is not None
        assert ended.value.rcvd.code == 1009
        with connect(address.replace("http", "ws") + f"{LINE}mix", origin=address) as line:  # type: ignore[call-overload]
            line.send(json.dumps(SHEET))
            assert json.loads(line.recv())["whole"]
