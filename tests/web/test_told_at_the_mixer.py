"""What is told of a heap beside the mixer is known in the yard, in this job's sheet and in the next job's on that heap."""

from datetime import UTC, datetime
from typing import Any

from fastapi.testclient import TestClient

from tests.prose import PROSE
from tests.taps import Phone
from tests.web.test_pages import keep, new_job
from tests.web.test_runs import Yard
from tests.web.test_yard import TIN, own

SHEET: dict[str, Any] = {"moisture_percent": {"sharp-sand": "damp", "gravel-20": "dry"}}


def sheet_of(client: TestClient, job: str) -> Any:
    return client.get(f"{job}/raw").json()


def test_a_look_is_the_yards_and_a_younger_one_stays(client: TestClient, token: str) -> None:
    yard, other, dry = Yard(client, token, **SHEET), new_job(client, token, "Plinth"), new_job(client, token, "Bags")
    keep(client, token, other, job="Plinth", **SHEET)
    keep(client, token, dry, job="Bags", mix="concrete-bag-25kg", moisture_percent={})
    yard.begin()
    yard.phone.tap(0, "looked", of="sharp-sand", look="dripping", ticket=1)
    yard.send()
    for job in (yard.job, other):
        sheet = sheet_of(client, job)
        assert sheet["moisture_percent"] == {"sharp-sand": "dripping", "gravel-20": "dry"}
        assert set(sheet["looked_at"]) >= {"sharp-sand"}
    assert "sharp-sand" not in sheet_of(client, dry)["moisture_percent"]
    # Sent once more it changes nothing, and what was looked at since stays.
    sheet = sheet_of(client, other)
    keep(client, token, other, **(sheet | {"moisture_percent": {"sharp-sand": "dry", "gravel-20": "dry"}}))
    yard.send()
    assert sheet_of(client, other)["moisture_percent"]["sharp-sand"] == "dry"


def test_rain_told_beside_the_mixer_stands_in_the_yards_book(client: TestClient, token: str) -> None:
    yard = Yard(client, token, **SHEET)
    yard.begin()
    yard.phone.mix(0, 9.0)
    yard.phone.tap(12, "happened", what="rain", of="sharp-sand")
    yard.send()
    assert [one["kind"] for one in yard.run()["heap_events"]] == ["rain"]
    assert client.get(f"{yard.job}/look-back").text.count("lb-event") == 1  # told twice it is one rain


def test_a_sheet_with_nonsense_in_it_is_left_alone(client: TestClient, token: str) -> None:
    yard = Yard(client, token, **SHEET)
    yard.begin()
    for nonsense in ("yesterday", 7, {"sharp-sand": {"at": 1}}, ["x"]):
        keep(client, token, yard.job, **(yard.sheet | {"looked_at": nonsense}))
        phone = Phone("c.1")
        phone.tap(0, "looked", of="sharp-sand", look="wet", ticket=1)
        yard.send(phone)
    assert sheet_of(client, yard.job)["moisture_percent"]["sharp-sand"] == "wet"


def test_an_order_that_is_filled_is_no_changed_sheet_and_no_sheet_that_is_not_complete(
    client: TestClient, token: str
) -> None:
    yard = Yard(client, token, moisture_percent={"sharp-sand": "5 %", "gravel-20": "1 %"})
    yard.begin()
    ticket = yard.run()["tickets"]["1"]
    target_l = [ticket["cards"][one["card"]]["water"]["pour"]["target"] for one in ticket["loads"]]
    for slot, litres in enumerate(target_l):
        yard.phone.mix(slot * 15, litres, slot=slot, end="" if slot == len(target_l) - 1 else "accepted")
    yard.send()
    assert PROSE["not-complete-yet"] not in client.get(f"{yard.job}/mixer").text  # the last is in the mixer
    yard.phone.tap(999, "accepted")
    yard.send()
    own(client, token, **TIN)  # what the yard has since is no change of what is done
    html = client.get(f"{yard.job}/mixer").text
    assert PROSE["see-what-changes"] not in html
    assert PROSE["not-complete-yet"] not in html


def test_a_look_that_grew_old_is_no_changed_sheet(client: TestClient, token: str) -> None:
    looked = {"sharp-sand": "2026-01-01T08:00:00+00:00", "gravel-20": datetime.now(UTC).isoformat()}
    yard = Yard(client, token, **SHEET, looked_at={"sharp-sand": datetime.now(UTC).isoformat()})
    yard.begin()
    keep(client, token, yard.job, **(yard.sheet | {"looked_at": looked}))
    assert PROSE["see-what-changes"] not in client.get(f"{yard.job}/mixer").text
