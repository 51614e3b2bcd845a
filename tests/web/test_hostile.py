"""Spoilt sheets on every page and spoilt files: words, and never a failure. More of them: bench/hostile.py."""

import pytest
from fastapi.testclient import TestClient

from tests.fire import wait_for
from tests.hostile import files, sheets
from tests.web.test_pages import PAGE, new_job

STATIONS = ("measure", "mix", "loads", "mixer", "look-back")
FILES = files()


def test_spoilt_sheets_close_no_page(client: TestClient, token: str) -> None:
    job, headers = new_job(client, token), {"x-keeve-token": token}
    for n, sheet in enumerate(sheets(60)):
        kept = client.put(f"{job}/sheet", json={"sheet": sheet}, headers=headers)
        assert kept.status_code in (200, 422), (n, kept.text)
        for view in ("measure", "mix", "loads"):
            answer = client.post(f"{job}/answer?view={view}", json=sheet)
            assert answer.status_code in (200, 422), (n, view, answer.text)
        for station in STATIONS:
            assert client.get(f"{job}/{station}", headers=PAGE).status_code == 200, (n, station)
        assert client.get(f"{job}/list.csv").status_code == 200, n
        assert client.get(f"{job}/list.xlsx").status_code == 200, n
        begun = client.post(f"{job}/begin", data={"token": token}, follow_redirects=False)
        assert begun.status_code in (303, 422), n
        assert client.get("/", headers=PAGE).status_code == 200, n


def test_there_are_fifty_spoilt_files() -> None:
    assert len(FILES) >= 50
    assert len({name for name, _ in FILES}) == len(FILES)


@pytest.mark.parametrize(
    "name", ["bomb.xlsx", "deep.xlsx", "nan.dxf", "layer.dxf", "open-quote.csv", "lies.stl", "loop.obj"]
)
def test_a_spoilt_file_is_told_as_that(client: TestClient, token: str, name: str) -> None:
    send_file(client, token, new_job(client, token), name, dict(FILES)[name])


def send_file(client: TestClient, token: str, job: str, name: str, content: bytes) -> str:
    """Send a file where its kind belongs; returns what was said."""
    if name.endswith((".stl", ".obj", ".ply")):
        sent = client.put(f"{job}/models?name={name}", content=content, headers={"x-keeve-token": token})
        assert sent.status_code in (202, 422), (name, sent.text)
        if sent.status_code == 422:
            return str(sent.json()["faults"][0]["sentence"])
        key = sent.json()["key"]
        wait_for(lambda: client.get(f"/models/{key}").json()["done"])
        found = client.get(f"/models/{key}").json()
        assert found.get("faults") or found["choices"], name
        return str(found.get("faults") or "read")
    answer = client.post(f"{job}/import", data={"token": token}, files={"file": (name, content)}, headers=PAGE)
    assert answer.status_code in (200, 422), (name, answer.text[:500])
    assert "Traceback" not in answer.text
    assert "<b>" not in answer.text
    return "read" if answer.status_code == 200 else answer.text.split("<main")[1][:600]
