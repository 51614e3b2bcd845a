"""Pages are remembered as long as nothing they stand on changes; few questions to the database; little on the wire."""

import gzip
import re
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from keeve.web.pages.remembered import Pages
from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job


@pytest.fixture
def job(client: TestClient, token: str) -> str:
    """A job that is being mixed, of an own mix."""
    address = new_job(client, token)
    client.post("/book/concrete-1-2-4/copy", data={"token": token})
    client.post("/book/own/sands", data={"token": token, "name": "Pit"})
    made = client.post("/yard", data={"token": token, "name": "Tin"}, follow_redirects=False).headers["location"]
    tin = {"sheet": {"name": "Tin", "depth_mm": "180", "top_mm": "160"}}
    client.put(f"/yard/{made.rsplit('/', 1)[1]}/entry", json=tin, headers={"x-keeve-token": token})
    client.post("/book/own/admixtures", data={"token": token, "name": "Can"})
    keep(client, token, address)
    client.post(f"{address}/begin", data={"token": token})
    return address


def pages_of(client: TestClient, job: str) -> list[str]:
    own = re.search(r'href="(/book/own-[^"/]+)"', client.get("/book").text)
    sand = re.search(r'href="(/book/own/sands/[^"/]+)"', client.get("/book/own/sands").text)
    vessel = re.search(r'href="(/yard/[^"/]+)"', client.get("/yard").text)
    assert vessel is not None
    assert own is not None
    assert sand is not None
    stations = [f"{job}/{one}" for one in ("measure", "mix", "loads", "mixer", "look-back")]
    return [
        "/", "/?find=wall", *stations, "/book", "/book?away=own-none", own[1], f"{own[1]}/change", "/book/stucco-base",
        "/book/own/sands", sand[1], "/yard", vessel[1], "/book/own/admixtures", "/programs",
    ]  # fmt: skip


def test_no_page_asks_the_database_more_than_three_things_and_one_seen_again_one(
    client: TestClient, job: str, asked: list[str]
) -> None:
    for address in pages_of(client, job):
        client.app.state.pages.__init__()  # type: ignore[attr-defined]
        asked.clear()
        first = client.get(address, headers=PAGE)
        assert first.status_code == 200, address
        assert len(asked) <= 3, (address, asked)
        asked.clear()
        again = client.get(address, headers=PAGE)
        assert len(asked) == 1, (address, asked)
        assert sentences(again.text) == sentences(first.text)


def sentences(page: str) -> str:
    """A page without what is new on every answer."""
    return re.sub(r'(content|value|data-now)="[\w-]{60,}"|data-now="\d+"', "", page)


def test_measure_is_small_on_the_wire(client: TestClient, job: str) -> None:
    with client.stream("GET", f"{job}/measure", headers=PAGE | {"accept-encoding": "gzip"}) as answer:
        packed = b"".join(answer.iter_raw())
    assert answer.headers["content-encoding"] == "gzip"
    assert len(packed) < 40_000
    assert len(packed) < len(gzip.decompress(packed)) / 3


def test_the_empty_forms_come_once_by_an_address_that_may_be_kept(client: TestClient, job: str) -> None:
    address = re.findall(r'data-forms="([^"]+)"', client.get(f"{job}/measure").text)[0]
    forms = client.get(address.replace("&amp;", "&"))
    assert "immutable" in forms.headers["cache-control"]
    assert forms.text.count("<template") > 20
    client.cookies.set("keeve_units", "us")
    other = re.findall(r'data-forms="([^"]+)"', client.get(f"{job}/measure").text)[0]
    assert other != address


def test_every_answer_has_a_token_of_its_own_and_each_is_good(client: TestClient, job: str) -> None:
    tokens = {re.findall(r'name="token" content="([^"]+)"', client.get("/book").text)[0] for _ in range(5)}
    assert len(tokens) == 5
    for token in tokens:
        answer = client.post("/night", data={"night": "1"}, headers={"x-keeve-token": token}, follow_redirects=False)
        assert answer.status_code == 303


def test_a_page_is_written_anew_when_what_it_stands_on_changes(client: TestClient, token: str, job: str) -> None:
    measure, mixer, book = f"{job}/measure", f"{job}/mixer", "/book"
    one = client.get(measure).text
    keep(client, token, job, shapes=[slab(4321)])
    assert "4321" not in one
    assert "4321" in client.get(measure).text

    assert PROSE["the-job-sheet-was"] in client.get(mixer).text
    tap = {
        "id": str(uuid4()),
        "kind": "started",
        "load": 1,
        "slot": 0,
        "ticket": 1,
        "mixer": "drum",
        "at": _now(),
        "phone": "p",
        "seq": 1,
    }
    answer = client.post(f"{job}/events", json={"sent_at": _now(), "events": [tap]}, headers={"x-keeve-token": token})
    assert answer.json()["refused"] == [], answer.text
    assert tap["id"] in client.get(mixer).text  # type: ignore[operator]

    before = client.get(book).text
    assert "Lamp mortar" not in before
    key = re.findall(r'href="/book/(own-[^"/]+)"', before)[0]
    entry = {"sheet": {"name": "Lamp mortar"}, "base": {}, "version": None}
    client.put(f"/book/{key}/entry", json=entry, headers={"x-keeve-token": token})
    assert "Lamp mortar" in client.get(book).text
    assert "Lamp mortar" in client.get(f"{job}/mix").text  # in the list of mixes of every job
    client.post(f"/book/{key}/away", data={"token": token})
    assert "Lamp mortar" not in client.get(book).text

    assert 'data-theme="day"' in client.get(measure).text
    client.post("/night", data={"night": "1", "token": token})
    assert 'data-theme="night"' in client.get(measure).text


def _now() -> str:
    return datetime.now(UTC).isoformat()


def test_the_database_counts_the_changes_of_a_book_whoever_makes_them(
    client: TestClient, job: str, session: Session
) -> None:
    count = text("select book_n from crews")
    before = session.scalar(count)
    session.execute(text("update book_entries set entry = entry"))
    session.commit()
    assert session.scalar(count) > before


def test_a_look_at_a_heap_grows_old_on_a_page_that_is_remembered(
    client: TestClient, token: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    address = new_job(client, token)
    looked = (datetime.now(UTC) - timedelta(hours=15, minutes=59, seconds=59)).isoformat()
    sheet = {"moisture_percent": {"sharp-sand": "damp"}, "looked_at": {"sharp-sand": looked}}
    keep(client, token, address, shapes=[slab()], **sheet)
    client.get(f"{address}/mix")
    (kept,) = [page for key, page in client.app.state.pages._pages.items() if key[0] == "mix"]  # type: ignore[attr-defined]
    assert kept.until is not None
    assert abs(kept.until - (datetime.fromisoformat(looked) + timedelta(hours=16))) < timedelta(milliseconds=1)


def test_what_is_remembered_is_bounded_and_the_oldest_goes_first() -> None:
    pages = Pages(most_bytes=100)
    now = datetime.now(UTC)
    pages.keep("a", 1, b"x" * 40)
    pages.keep("b", 1, b"x" * 40)
    assert pages.find("a", 1) is not None  # asked for last
    pages.keep("c", 1, b"x" * 40)
    assert pages.find("b", 1) is None
    assert pages.find("a", 1) is not None
    assert pages.bytes == 80
    pages.keep("a", 2, b"x" * 10)
    assert pages.bytes == 50
    assert pages.find("a", 1) is None
    pages.keep("late", 1, b"x", now - timedelta(seconds=1))
    assert pages.find("late", 1) is None
    pages.keep("soon", 1, b"x", now + timedelta(hours=1))
    assert pages.find("soon", 1) == b"x"
    pages.keep("huge", 1, b"x" * 1000)
    assert pages.find("huge", 1) is None
    assert pages.bytes <= 100


def test_streams_are_never_compressed(client: TestClient, job: str) -> None:
    # Compressed, an event would wait for the next ones.
    client.app.state.hub.close()  # type: ignore[attr-defined]
    with client.stream("GET", f"{job}/stream", headers={"accept-encoding": "gzip"}) as answer:
        assert "content-encoding" not in answer.headers
