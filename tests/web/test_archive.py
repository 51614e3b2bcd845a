"""All of a yard out as a file and in again: the same file comes out; half of one, or another, changes nothing."""

import json
from collections.abc import Callable
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from tests.prose import PROSE
from tests.web.test_pages import PAGE
from tests.web.test_runs import Yard

WIPED = ("run_events", "proofs", "photos", "tickets", "day_log", "day_plans", "book_entries", "jobs")


def wipe(session: Session) -> None:
    """As a new machine is: nothing there. The log refuses deletion, so its guard is let down first."""
    for table in WIPED:
        session.execute(text(f"alter table {table} disable trigger user"))
        session.execute(text(f"delete from {table}"))
        session.execute(text(f"alter table {table} enable trigger user"))
    session.commit()


def lived(client: TestClient, token: str) -> Yard:
    """A yard with a bit of everything in it."""
    yard = Yard(client, token)
    yard.begin()
    yard.phone.mix(0, 9.0)
    yard.phone.mix(20, 9.5, slot=1)
    yard.send()
    yard.post("/before/well")
    yard.post("/before/happened", kind="rain")
    client.post("/book/own/sands", data={"token": token, "series": "european", "name": "Pit sand ½ “fine”"})
    form = {"begin": "7:00", "end": "17:00", "rests": "", "zone": "UTC", "forecast": ""}
    client.post("/day/2026-09-14", data={"token": token} | form)
    return yard


def taken_out(client: TestClient) -> bytes:
    answer = client.get("/archive.jsonl")
    assert answer.status_code == 200
    assert answer.headers["content-type"].startswith("application/x-ndjson")
    return answer.content


def put_in(client: TestClient, token: str, content: bytes) -> Any:
    files = {"file": ("keeve-yard.jsonl", content, "application/x-ndjson")}
    return client.post("/archive/restore", data={"token": token}, files=files, headers=PAGE)


def test_out_wiped_in_and_out_again_is_the_same_to_the_byte(client: TestClient, token: str, session: Session) -> None:
    yard = lived(client, token)
    before = taken_out(client)
    kinds = {json.loads(line).get("row") for line in before.splitlines()}
    assert {"job", "ticket", "event", "day", "day plan", "book"} <= kinds
    wipe(session)
    assert client.get(yard.job + "/mixer").status_code == 404
    done = put_in(client, token, before)
    assert done.status_code == 200
    assert f"{len(before.splitlines()) - 2} rows are new here." in done.text
    assert taken_out(client) == before
    assert "9.50 L" in client.get(f"{yard.job}/look-back").text
    yard.phone.mix(40, 9.1, slot=2)  # and it goes on
    yard.send()
    assert "9.10 L" in client.get(f"{yard.job}/look-back").text


def test_put_in_where_it_already_is_it_changes_nothing(client: TestClient, token: str) -> None:
    lived(client, token)
    before = taken_out(client)
    again = put_in(client, token, before)
    assert PROSE["0-rows-are-new"] in again.text
    assert PROSE["were-here-already"] in again.text
    assert taken_out(client) == before


def line_changed(content: bytes, number: int, change: Callable[[dict[str, Any]], None]) -> bytes:
    lines = content.decode().splitlines(keepends=True)
    given = json.loads(lines[number])
    change(given)
    lines[number] = json.dumps(given) + "\n"
    return "".join(lines).encode()


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (lambda file: file[: len(file) // 2], "cut off"),
        (lambda file: b"".join(file.splitlines(keepends=True)[:-1]), "half of a file"),
        (
            lambda file: b"".join([*file.splitlines(keepends=True)[:3], file.splitlines(keepends=True)[-1]]),
            "rows are missing",
        ),
        (lambda file: file + file.splitlines(keepends=True)[1], "goes on after its end"),
        (lambda file: line_changed(file, 0, lambda head: head.update(version=9)), "another version of Keeve: 9"),
        (lambda file: line_changed(file, 0, lambda head: head.update(format="sheet")), "no file of a whole yard"),
        (lambda file: line_changed(file, 1, lambda row: row.update(row="secret")), "nobody knows such a row"),
        (lambda file: line_changed(file, 1, lambda row: row.update(id="x")), "a field of it is missing"),
        (lambda file: line_changed(file, 1, lambda row: row.update(name="\u202e" * 3)), "letters that cannot be kept"),
        (lambda _: b"", "half of a file"),
        (lambda _: b"\x00\xff" * 50, "letters that cannot be kept"),
        (lambda _: b"[" * 100_000, "no file of a whole yard"),
        (lambda _: b"PK\x03\x04 not a list", "no file of a whole yard"),
    ],
)
def test_half_a_file_or_another_is_refused_in_words_and_changes_nothing(
    client: TestClient, token: str, session: Session, spoil: Callable[[bytes], bytes], said: str
) -> None:
    yard = lived(client, token)
    whole = taken_out(client)
    wipe(session)
    spoilt = put_in(client, token, spoil(whole))
    assert spoilt.status_code == 422
    assert said in spoilt.text
    assert client.get(yard.job + "/mixer").status_code == 404
    assert len(taken_out(client).splitlines()) == 2


ANY = [5, "x", None, True, [], {}, [{}], {"kind": "sang"}, 1e300]


def every_page(client: TestClient, job: str) -> list[str]:
    """All that can be looked at without naming anything but a job; an endless answer aside."""
    paths = client.get("/openapi.json").json()["paths"]
    shown = [path.replace("/jobs/{job_id}", job) for path, asks in paths.items() if "get" in asks]
    return [path for path in shown if "{" not in path and not path.endswith("/stream")]


@pytest.mark.parametrize("kind", ["event", "ticket", "job", "day", "day plan", "book", "proof"])
def test_rows_of_any_json_come_in_and_no_page_fails(
    client: TestClient, token: str, session: Session, kind: str
) -> None:
    yard = lived(client, token)
    rows = [json.loads(line) for line in taken_out(client).splitlines()]
    job = yard.job.rsplit("/", 1)[1]
    rows[-1:] = [
        {"row": "proof", "id": f"a-proof-{n}", "job_id": job, "at": "2026-09-14T08:00:00+00:00", "body": {}} for n in range(9)
    ] + rows[-1:]  # fmt: skip
    spoilt = 0
    for row in rows[1:-1]:
        for part in ("body", "document", "sheet", "entry"):
            if row["row"] == kind and part in row:
                row[part] = ANY[spoilt % len(ANY)]
                spoilt += 1
    assert spoilt
    rows[-1]["end"] = len(rows) - 2
    wipe(session)
    done = put_in(client, token, "".join(json.dumps(row) + "\n" for row in rows).encode())
    assert (done.status_code, "rows are new here" in done.text) == (200, True)
    paths = every_page(client, yard.job)
    assert len(paths) > 40
    answers = {path: client.get(path, headers=PAGE, follow_redirects=False).status_code for path in paths}
    assert {path: code for path, code in answers.items() if code >= 500} == {}
    yard.phone.tap(90, "poured", litres=1.0)
    yard.send()
    assert client.get(f"{yard.job}/events").json()["events"][-1]["litres"] == 1.0


def test_a_line_of_very_many_small_things_is_refused_before_it_is_built(client: TestClient, token: str) -> None:
    head = taken_out(client).splitlines(keepends=True)[0]
    answer = put_in(client, token, head + b"[" + b"{}," * 3_000_000 + b"{}]\n")
    assert (answer.status_code, "cannot be kept" in answer.text) == (422, True)


def test_a_row_that_belongs_to_no_job_is_refused(client: TestClient, token: str, session: Session) -> None:
    lived(client, token)
    lines = taken_out(client).splitlines(keepends=True)
    orphans = [line for line in lines if json.loads(line).get("row") not in ("job", "ticket")]
    end = json.dumps({"end": len(orphans) - 2}).encode() + b"\n"
    wipe(session)
    refused = put_in(client, token, b"".join([*orphans[:-1], end]))
    assert (refused.status_code, PROSE["belongs-to-nothing-before"] in refused.text) == (422, True)
    assert len(taken_out(client).splitlines()) == 2


def test_only_its_own_page_puts_a_file_in(client: TestClient, token: str) -> None:
    assert PROSE["take-it-all-out"] in client.get("/archive").text
    assert put_in(client, "made up", taken_out(client)).status_code == 403
