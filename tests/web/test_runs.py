"""Tickets taken and taken anew, taps of two phones, the stream, and rows that cannot be read, over the wire."""

import json
import re
import threading
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx2 as httpx
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from keeve.core.run.events import KINDS
from keeve.core.run.folding import fold
from keeve.core.ticket.ticket_past import open_ticket
from keeve.web.app import make_app
from keeve.web.edge.settings import Settings
from tests.conftest import slab
from tests.prose import PROSE
from tests.serving import served
from tests.taps import BEGIN, Phone
from tests.web.test_pages import PAGE, keep, new_job

DAMP = {"sharp-sand": "5 %", "gravel-20": "1 %"}


class Yard:
    """A job at the mixer, as one visitor meets it."""

    def __init__(self, client: TestClient, token: str, **sheet: Any) -> None:
        self.client, self.token = client, token
        self.job = new_job(client, token)
        self.sheet = {"mixer": "drum-site", "moisture_percent": DAMP, "shapes": [slab(depth_mm=180)]} | sheet
        keep(client, token, self.job, **self.sheet)
        self.phone = Phone(mixer=self.sheet["mixer"])

    def post(self, path: str, **data: Any) -> Any:
        return self.client.post(
            f"{self.job}{path}", data={"token": self.token} | data, follow_redirects=False, headers=PAGE
        )

    def begin(self, **data: Any) -> Any:
        return self.post("/begin", **data)

    def send(self, *phones: Phone) -> dict[str, Any]:
        taps = [raw | {"at": datetime.now(UTC).isoformat()} for phone in phones or (self.phone,) for raw in phone.raw]
        body = {"sent_at": datetime.now(UTC).isoformat(), "events": taps}
        answer = self.client.post(f"{self.job}/events", json=body, headers={"x-keeve-token": self.token})
        assert answer.status_code == 200
        return dict(answer.json())

    def run(self) -> dict[str, Any]:
        page = self.client.get(f"{self.job}/mixer", headers=PAGE).text
        found = re.search(r"data-run>(.*?)</script>", page, re.DOTALL)
        assert found is not None
        return dict(json.loads(found[1]))


@pytest.fixture
def yard(client: TestClient, token: str) -> Yard:
    made = Yard(client, token)
    made.begin()
    return made


def test_beginning_keeps_the_ticket_and_takes_events(yard: Yard) -> None:
    yard.phone.mix(0, 9.0)
    assert yard.send()["added"] == 3
    assert yard.send()["added"] == 0
    yard.phone.load = 99
    yard.phone.raw = [yard.phone.tap(9, "judged", verdict="lovely"), yard.phone.tap(9, "poured", litres=-2)]
    refused = yard.send()["refused"]
    assert len(refused) == 2
    assert all(one["sentence"] for one in refused)
    assert "9.00 L" in yard.client.get(f"{yard.job}/look-back").text


def test_a_load_mixed_without_a_network_and_sent_three_days_later_stands_at_its_own_time(
    yard: Yard, session: Session
) -> None:
    """The phone is ten minutes fast and says so by the time it sends: the load began three days ago, not now."""
    session.execute(text("UPDATE jobs SET created_at = created_at - interval '4 days'"))
    session.commit()
    now, fast = datetime.now(UTC), timedelta(minutes=10)
    yard.phone.mix(0, 9.0)
    yard.phone.mix(30, 8.6, slot=1)
    shift = now - timedelta(days=3) + fast - BEGIN
    for raw in yard.phone.raw:
        raw["at"] = (datetime.fromisoformat(raw["at"]) + shift).isoformat()
    body = {"sent_at": (now + fast).isoformat(), "events": yard.phone.raw}
    for added in (6, 0):  # the first answer was lost on the way: it is sent again
        answer = yard.client.post(f"{yard.job}/events", json=body, headers={"x-keeve-token": yard.token})
        assert answer.json()["added"] == added
    told = yard.client.get(f"{yard.job}/events").json()["events"]
    at = [datetime.fromisoformat(event["at"]) for event in told]
    assert abs(at[0] - (now - timedelta(days=3))) < timedelta(seconds=30)
    assert at[-1] - at[0] == timedelta(minutes=39)
    assert "8.60 L" in yard.client.get(f"{yard.job}/look-back").text


def test_beginning_twice_takes_no_second_ticket(yard: Yard) -> None:
    yard.begin()
    assert list(yard.run()["tickets"]) == ["1"]


def test_a_new_moisture_at_noon_keeps_the_mornings_loads_and_shows_what_changes(yard: Yard) -> None:
    loads = len(yard.run()["tickets"]["1"]["loads"])
    yard.phone.mix(0, 11.0)
    yard.phone.mix(20, 11.0, slot=1, end="")  # in the mixer
    yard.send()
    assert PROSE["see-what-changes"] not in yard.client.get(f"{yard.job}/mixer").text
    keep(
        yard.client,
        yard.token,
        yard.job,
        **(yard.sheet | {"moisture_percent": {"sharp-sand": "8 %", "gravel-20": "1 %"}}),
    )
    assert PROSE["see-what-changes"] in yard.client.get(f"{yard.job}/mixer").text
    said = re.sub(r"<[^>]+>|\s+", " ", yard.client.get(f"{yard.job}/revise", headers=PAGE).text)
    for words in (
        "2 loads stay as they are",
        "One is in the mixer",
        "Water to pour into them",
        "Sharp sand",
        "Take the new ticket",
    ):
        assert words in said
    yard.begin(seen=1)
    run = yard.run()
    assert list(run["tickets"]) == ["1", "2"]
    second = run["tickets"]["2"]
    assert len(second["loads"]) == loads - 2
    assert second["counted"] == [{"number": n, "mixer": "drum-site"} for n in (1, 2)]
    assert len(run["events"]) == 5
    assert "of " + str(loads) in yard.client.get(f"{yard.job}/look-back").text.replace("\n", " ")


def test_a_ticket_taken_meanwhile_by_somebody_else_is_not_taken_again(yard: Yard) -> None:
    keep(yard.client, yard.token, yard.job, **(yard.sheet | {"mix": "concrete-1-3-6"}))
    yard.begin(seen=1)
    yard.begin(seen=1)  # the other phone had the same page open
    assert list(yard.run()["tickets"]) == ["1", "2"]


def test_a_sheet_that_fills_nothing_more_is_said(yard: Yard) -> None:
    for slot in range(len(yard.run()["tickets"]["1"]["loads"])):
        yard.phone.mix(slot * 20, 11.0, slot=slot)
    yard.send()
    keep(yard.client, yard.token, yard.job, **(yard.sheet | {"shapes": [slab(depth_mm=50)]}))
    answer = yard.begin(seen=1)
    assert answer.status_code == 422
    assert "filled already" in answer.text


def test_the_same_again_and_a_copy(yard: Yard) -> None:
    yard.phone.mix(0, 11.0)
    yard.send()
    yard.begin(again=1)
    second = yard.run()["tickets"]["2"]
    assert second["round"] == 2
    assert len(second["loads"]) == len(yard.run()["tickets"]["1"]["loads"])
    copy = yard.post("/copy")
    assert copy.status_code == 303
    page = yard.client.get(copy.headers["location"], headers=PAGE).text
    assert "Garden wall, again" in page
    assert PROSE["nothing-is-being-mixed"] in yard.client.get(copy.headers["location"].replace("measure", "mixer")).text


def test_taps_that_wait_while_the_job_is_planned_anew_still_find_their_load(yard: Yard) -> None:
    yard.phone.mix(0, 11.0, end="")
    yard.send()
    keep(yard.client, yard.token, yard.job, **(yard.sheet | {"mix": "concrete-1-3-6"}))
    yard.begin(seen=1)
    yard.phone.tap(5, "poured", litres=0.5)
    yard.phone.tap(6, "accepted")
    assert yard.send()["refused"] == []
    assert "11.5 L" in yard.client.get(f"{yard.job}/look-back").text


def test_events_of_a_job_of_another_crew_find_no_job(yard: Yard, database_url: str) -> None:
    app = make_app(Settings(database_url=database_url, secret="for tests", crew="Another yard"))
    with TestClient(app, base_url="http://127.0.0.1") as stranger:
        token = stranger.get("/").text.split('name="token" content="')[1].split('"')[0]
        body = {"sent_at": datetime.now(UTC).isoformat(), "events": []}
        answer = stranger.post(f"{yard.job}/events", json=body, headers={"x-keeve-token": token})
        assert answer.status_code == 404
        for path in ("mixer", "look-back", "raw", "raw/ticket/1", "events", "revise"):
            assert stranger.get(f"{yard.job}/{path}").status_code == 404


@pytest.mark.parametrize(
    "body", [{}, [], {"events": []}, {"sent_at": "2026-09-14T08:00:00", "events": []}, {"sent_at": "x", "events": "y"}]
)
def test_a_post_that_is_none_is_refused_whole(yard: Yard, body: Any) -> None:
    answer = yard.client.post(f"{yard.job}/events", json=body, headers={"x-keeve-token": yard.token})
    assert answer.status_code == 422
    assert answer.json()["faults"][0]["sentence"]


def test_what_a_newer_phone_taps_is_kept_as_it_came_and_shown(yard: Yard) -> None:
    yard.phone.mix(0, 9.0, end="")
    newer = yard.phone.tap(2, "vibrated", seconds=20, deep={"as": ["it", "likes", None]})
    told = yard.phone.tap(3, "judged", verdict="right", by="Wren")
    answer = yard.send()
    assert answer["refused"] == []
    assert answer["added"] == 4
    kept = {event["id"]: event for event in yard.client.get(f"{yard.job}/events").json()["events"]}
    assert kept[newer["id"]]["deep"] == {"as": ["it", "likes", None]}
    assert kept[told["id"]]["by"] == "Wren"
    page = yard.client.get(f"{yard.job}/look-back").text
    assert PROSE["an-entry-of-a"] in page
    yard.phone.tap(4, "undone", undoes=newer["id"])  # and it can be taken back like any other
    yard.phone.tap(9, "accepted")
    assert yard.send()["added"] == 2
    assert yard.client.get("/clocks").json()["clocks"] == []
    much = yard.phone.tap(10, "vibrated", long="x" * 5000)
    assert [one["id"] for one in yard.send()["refused"]] == [much["id"]]


def test_a_page_that_folds_otherwise_is_noted(yard: Yard, caplog: pytest.LogCaptureFixture) -> None:
    yard.phone.mix(0, 9.0)
    body = {"sent_at": yard.phone.raw[-1]["at"], "events": yard.phone.raw}

    def send(*loads: Any, entries: int = 3) -> str:
        caplog.clear()
        folded = {"entries": entries, "loads": list(loads)}
        answer = yard.client.post(
            f"{yard.job}/events", json=body | {"folded": folded}, headers={"x-keeve-token": yard.token}
        )
        assert answer.status_code == 200
        return caplog.text

    ticket = open_ticket(yard.client.get(f"{yard.job}/raw/ticket/1").json())
    made_l = fold({1: ticket}, yard.phone.events).loads[0].made_m3 * 1000
    assert "folds otherwise" not in send([1, "drum-site", 0, "accepted", 9.0, made_l])
    assert "folds otherwise" in send([1, "drum-site", 0, "accepted", 8.0, made_l])
    assert "folds otherwise" in send([1, "drum-site", 0, "", 9.0, made_l])
    assert "folds otherwise" in send(*[[n, "drum-site", 0, "accepted", 9.0, made_l] for n in (1, 2)])
    assert "folds otherwise" not in send([1, "drum-site", 0, "", 9.0, made_l], entries=4)  # it knows more


# ── rows that cannot be read ─────────────────────────────────────────────────


def test_one_bad_row_is_one_bad_row(yard: Yard, session: Session) -> None:
    yard.phone.mix(0, 11.0)
    yard.send()
    session.execute(text("set local session_replication_role = replica"))
    session.execute(text('update run_events set body = \'{"kind": "sang"}\' where n = 1'))
    session.commit()
    for station in ("mixer", "look-back"):
        page = yard.client.get(f"{yard.job}/{station}", headers=PAGE)
        assert page.status_code == 200
        assert PROSE["an-entry-of-the"] in page.text
        assert "cannot be read" in page.text
    assert yard.client.get(f"{yard.job}/raw/entry/1").json() == {"kind": "sang"}
    session.execute(text("update tickets set document = '\"gone\"'"))
    session.execute(text("update jobs set changed_at = now()"))  # pages are remembered by the job's row
    session.commit()
    yard.client.app.state.engine.dispose()  # type: ignore[attr-defined] # as a server that starts anew: logs are kept
    page = yard.client.get(f"{yard.job}/mixer", headers=PAGE)
    assert page.status_code == 200
    assert PROSE["no-ticket-here-can"] in page.text
    assert "Begin mixing" in page.text
    assert yard.client.get(f"{yard.job}/raw/ticket/1").json() == "gone"
    assert yard.client.get("/", headers=PAGE).status_code == 200
    assert yard.client.get(f"{yard.job}/look-back", headers=PAGE).status_code == 200
    yard.begin()
    assert list(yard.run()["tickets"]) == ["2"]


@pytest.mark.parametrize("junk", ["[]", '"text"', "7", "null"])
def test_a_sheet_that_is_none_is_shown_as_such_with_its_file(yard: Yard, session: Session, junk: str) -> None:
    other = new_job(yard.client, yard.token, "Other job")
    session.execute(text("update jobs set sheet = cast(:junk as jsonb) where name = 'Garden wall'"), {"junk": junk})
    session.commit()
    text_of = yard.client.get("/", headers=PAGE).text
    assert PROSE["its-sheet-cannot-be"] in text_of
    assert "Other job" in text_of
    for station in ("measure", "mix", "loads"):
        page = yard.client.get(f"{yard.job}/{station}", headers=PAGE)
        assert page.status_code == 422
        assert "cannot be read" in page.text
        assert f"{yard.job}/raw" in page.text
    assert yard.client.get(f"{yard.job}/raw").json() == json.loads(junk)
    assert yard.client.get(f"{yard.job}/mixer", headers=PAGE).status_code == 200  # the ticket stands
    assert yard.client.get(f"{other}/measure", headers=PAGE).status_code == 200


def test_a_mix_or_a_sand_test_that_cannot_be_read_leaves_the_book_open(
    client: TestClient, token: str, session: Session
) -> None:
    copied = client.post("/book/cement-mortar-1-3/copy", data={"token": token}, follow_redirects=False)
    key = copied.headers["location"].split("/")[-2]
    sand = client.post("/book/own/sands", data={"token": token, "name": "Pit"}, follow_redirects=False)
    sand_key = sand.headers["location"].split("/")[-1]
    session.execute(text("update book_entries set document = '{\"key\": 1}', base = '[]' where kind = 'mix'"))
    session.execute(text("update book_entries set entry = '\"text\"' where kind = 'sand'"))
    session.commit()
    book = client.get("/book", headers=PAGE)
    assert book.status_code == 200
    assert "cannot be read" in book.text
    assert client.get(f"/book/own/raw/mix/{key}").json()["document"] == {"key": 1}
    sands = client.get("/book/own/sands", headers=PAGE)
    assert sands.status_code == 200
    assert "cannot be read" in sands.text
    for path in (f"/book/{key}/change", f"/book/own/sands/{sand_key}"):
        page = client.get(path, headers=PAGE)
        assert page.status_code == 422
        assert "cannot be read" in page.text
    assert client.get("/", headers=PAGE).status_code == 200
    assert client.get("/api/mixes").status_code == 200


# ── two tabs ─────────────────────────────────────────────────────────────────


def test_the_second_of_two_tabs_loses_nothing_and_is_told(client: TestClient, token: str) -> None:
    job = new_job(client, token)

    def write(sheet: dict[str, Any], base: dict[str, Any], version: int) -> dict[str, Any]:
        body = {"sheet": sheet, "base": base, "version": version}
        answer = client.put(f"{job}/sheet", json=body, headers={"x-keeve-token": token})
        assert answer.status_code == 200
        return dict(answer.json())

    base = {"job": "Garden wall", "place": "", "mix": "concrete-1-2-4", "shapes": [], "changes": {}}
    version = int(re.findall(r'data-version="(\d+)"', client.get(f"{job}/measure").text)[0])
    first = write(base | {"shapes": [slab(1000)], "waste_percent": "5 %"}, base, version)
    assert first["sheet"] is None
    second = write(base | {"shapes": [slab(2000)], "waste_percent": "8 %"}, base, version)
    assert [s["length_mm"] for s in second["sheet"]["shapes"]] == [2000, 1000]
    assert second["clashes"] == [{"path": "waste_percent", "mine": "8 %", "theirs": "5 %"}]
    assert second["version"] == version + 2


def test_a_hundred_writers_of_a_new_job_all_get_an_answer(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    base = {"job": "Garden wall", "place": "", "mix": "concrete-1-2-4", "shapes": [], "changes": {}}
    version = int(re.findall(r'data-version="(\d+)"', client.get(f"{job}/measure").text)[0])
    answers: list[int] = []

    def write(n: int) -> None:
        body = {"sheet": base | {"shapes": [slab(1000 + n)]}, "base": base, "version": version}
        answers.append(client.put(f"{job}/sheet", json=body, headers={"x-keeve-token": token}).status_code)

    threads = [threading.Thread(target=write, args=(n,)) for n in range(100)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert answers == [200] * 100
    lengths = re.findall(r'name="shapes\.\d+\.length_mm" value="(\d+)"', client.get(f"{job}/measure").text)
    assert sorted(map(int, lengths)) == list(range(1000, 1100))  # each once, none lost, none doubled


# ── the stream, from two servers on one database ─────────────────────────────


@pytest.fixture
def two_servers(database_url: str) -> Iterator[list[str]]:
    settings = Settings(database_url=database_url, secret="for tests", crew="Lantern Yard")
    with served(make_app(settings)) as here, served(make_app(settings)) as there:
        yield [here, there]


def events_of(lines: Iterator[str], wanted: int) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    kind = ""
    for line in lines:
        if line.startswith("event:"):
            kind = line.split(":", 1)[1].strip()
        elif line.startswith("data:") and kind == "tap":
            found.append(json.loads(line.split(":", 1)[1]))
            if len(found) == wanted:
                return found
    return found


def test_a_tap_on_one_server_is_heard_on_the_other_and_a_broken_stream_goes_on_where_it_was(
    two_servers: list[str],
) -> None:
    here, there = two_servers
    with httpx.Client(base_url=here, timeout=60) as phone:
        token = phone.get("/").text.split('name="token" content="')[1].split('"')[0]
        made = phone.post("/jobs", data={"name": "Floor", "token": token})
        job = made.headers["location"].rsplit("/", 1)[0].split(str(phone.base_url).rstrip("/"))[-1]
        sheet = {"job": "Floor", "mix": "concrete-1-2-4", "mixer": "drum-site", "shapes": [slab()]}
        phone.put(f"{job}/sheet", json={"sheet": sheet}, headers={"x-keeve-token": token})
        phone.post(f"{job}/begin", data={"token": token})
        hand = Phone()
        hand.mix(0, 3.0)

        def send(taps: list[dict[str, Any]]) -> None:
            now = datetime.now(UTC).isoformat()
            body = {"sent_at": now, "events": [raw | {"at": now} for raw in taps]}
            assert phone.post(f"{job}/events", json=body, headers={"x-keeve-token": token}).status_code == 200

        with httpx.Client(base_url=there, timeout=60) as other:
            with other.stream("GET", f"{job}/stream?after=0") as stream:
                sender = threading.Timer(0.3, send, args=(hand.raw[:2],))
                sender.start()
                heard = events_of(stream.iter_lines(), 2)
                sender.join()
            assert [event["n"] for event in heard] == [1, 2]
            assert heard[1]["litres"] == 3.0
            send(hand.raw[2:])  # while nobody listens
            with other.stream("GET", f"{job}/stream?after=0", headers={"last-event-id": "2"}) as stream:
                assert [event["kind"] for event in events_of(stream.iter_lines(), 1)] == ["accepted"]


def test_an_id_sent_again_with_another_body_is_refused_and_the_first_stands(yard: Yard) -> None:
    yard.phone.tap(0, "started", ticket=1, slot=0)
    poured = yard.phone.tap(1, "poured", litres=11.0)
    yard.send()
    headers = {"x-keeve-token": yard.token}

    def send(*events: dict[str, Any]) -> Any:
        sent_at = (BEGIN + timedelta(minutes=30)).isoformat()
        return yard.client.post(
            f"{yard.job}/events", json={"sent_at": sent_at, "events": events}, headers=headers
        ).json()

    other = send(poured | {"litres": 4.0})
    assert other["added"] == 0
    assert [one["id"] for one in other["refused"]] == [poured["id"]]
    assert PROSE["number-of-another"] in other["refused"][0]["sentence"]
    # The same again, even with its moment set right anew, is no other.
    same = send(poured | {"age_s": 5.0})
    assert same["refused"] == []
    assert [one["litres"] for one in same["events"]] == [11.0]
    twins = send(*(poured | {"id": "00000000-0000-4000-8000-0000000000aa", "litres": litres} for litres in (1.0, 2.0)))
    assert twins["added"] == 1
    assert len(twins["refused"]) == 1
    litres = [one["litres"] for one in yard.client.get(f"{yard.job}/events").json()["events"] if "litres" in one]
    assert litres == [11.0, 1.0]


def test_the_clocks_of_what_runs_are_told_to_every_page_of_the_crew_and_to_no_other(
    yard: Yard, database_url: str
) -> None:
    assert yard.client.get("/clocks").json()["clocks"] == []
    yard.phone.tap(0, "started", ticket=1, slot=0)
    for step in range(6):
        yard.phone.tap(0, "step_done", step=step)
    yard.send()
    (clock,) = yard.client.get("/clocks").json()["clocks"]
    assert (clock["title"], clock["load"], clock["href"]) == ("Garden wall", 1, f"{yard.job}/mixer")
    assert PROSE["past-its-life"] in [due["what"] for due in clock["due"]]
    stranger = Settings(database_url=database_url, secret="for tests", crew="Another yard")
    with TestClient(make_app(stranger), base_url="http://127.0.0.1") as other:
        assert other.get("/clocks").json()["clocks"] == []
    yard.phone.tap(1, "accepted")
    yard.send()
    assert yard.client.get("/clocks").json()["clocks"] == []


def test_every_kind_of_entry_is_said_when_one_looks_back(yard: Yard) -> None:
    phone = yard.phone
    phone.tap(0, "started", ticket=1, slot=0)
    told = {"leads": "sand", "expected_l": 9.1, "target_l": 9.0, "first_l": 8.25, "ceiling_l": 11.0}
    phone.tap(0.5, "briefed", brief=told | {"why": "look"})
    phone.tap(1, "poured", litres=9.0)
    phone.tap(2, "step_done", step=0)
    phone.tap(3, "step_back", step=0)
    phone.tap(4, "judged", verdict="wet")
    phone.tap(5, "dry_added", dry_kg=2.0)
    for what, value in {"slump": 80, "slump flow": 600, "flow": 140, "density": 2350, "temperature": 21}.items():
        phone.tap(6, "measured", what=what, value=value)
    phone.tap(7, "measured", what="air", value=5.5)
    phone.tap(7, "weighed", part="portland-cement", vessel=0, kg=21.2)
    phone.tap(7, "weighed", part="something of before", vessel=0, kg=1)
    phone.tap(8, "stage_seen", stage="cream")
    phone.tap(9, "settled", about="nothing", twice=False)
    phone.tap(10, "accepted")
    phone.tap(11, "one_more", ticket=1)
    phone.tap(12, "looked", of="sharp-sand", look="dripping", ticket=1)
    phone.tap(13, "happened", what="uncovered")
    kinds = {raw["kind"] for raw in phone.raw}
    assert kinds == {*KINDS} - {"thrown_away", "undone"}
    yard.send()
    html = yard.client.get(f"{yard.job}/look-back").text
    for words in (
        "slump 80 mm",
        "temperature 21 °C",
        "air 5.5 %",
        "fresh density",
        "Portland cement on the scale, 21.2 kg",
        "seen: cream",
        "heap looked at: dripping",
        "Cover off",
        "asked anew: 8.25 L first, 9.00 L in all",
    ):
        assert words in html, words


def test_a_school_chosen_in_the_middle_shows_the_steps_it_changes(client: TestClient, token: str) -> None:
    yard = Yard(client, token, mix="cement-mortar-1-3", mixer="drum-site", moisture_percent={"sharp-sand": "5 %"})
    yard.begin()
    yard.phone.mix(0, 5.0)
    yard.send()
    keep(client, token, yard.job, **(yard.sheet | {"changes": {"schools": {"first": "dry"}}}))
    assert PROSE["see-what-changes"] in client.get(f"{yard.job}/mixer").text
    html = client.get(f"{yard.job}/revise", headers=PAGE).text
    assert "Its steps" in html
    assert PROSE["turn-it-dry-to"] in html
