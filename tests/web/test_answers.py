"""What a station answers to a sheet that is not whole yet: never an old ticket, never less than is known."""

import re
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.conftest import slab
from tests.prose import PROSE


def ask(client: TestClient, view: str, sheet: dict[str, Any]) -> tuple[str, list[dict[str, Any]]]:
    answer = client.post(f"/jobs/x/answer?view={view}", json=sheet)
    assert answer.status_code == 200
    said = answer.json()
    return " ".join(re.sub(r"<[^>]+>", " ", said["answer"]).split()), said["faults"]


def test_a_refused_mixer_leaves_no_ticket_on_the_page(client: TestClient) -> None:
    text, faults = ask(client, "loads", {"shapes": [slab()], "mix": "screed-semi-dry", "mixer": "drum-site"})
    assert PROSE["no-ticket-as-it"] in text
    assert PROSE["water-to-pour"] not in text
    assert [fault["field"] for fault in faults] == ["mixer"]
    assert PROSE["is-not-mixed-in"] in faults[0]["sentence"]


def test_an_unfinished_shape_does_not_hide_the_others(client: TestClient) -> None:
    shapes = [slab(), slab(1000, 1000, 100), {"kind": "slab", "length_mm": "2 m"}]
    text, faults = ask(client, "measure", {"shapes": shapes, "mix": "concrete-1-2-4"})
    assert "0.300 m³ so far" in text  # 0.2 and 0.1 m³, plain arithmetic
    assert "2 of 3 measured." in text
    assert {fault["field"] for fault in faults} == {"shapes.2.width_mm", "shapes.2.depth_mm"}


def test_before_a_mix_is_chosen_none_is_assumed(client: TestClient) -> None:
    text, faults = ask(client, "measure", {"shapes": [slab()]})
    assert "0.200 m³ to fill" in text
    assert "1 of 1 measured." in text
    assert "load" not in text
    assert "Concrete" not in text
    assert faults == []  # who measures is not told off for what comes next
    text, faults = ask(client, "loads", {"shapes": [slab()]})
    assert [fault["field"] for fault in faults] == ["mix"]


def test_a_new_job_has_no_mix(client: TestClient, token: str) -> None:
    made = client.post("/jobs", data={"name": "Pad", "token": token}, follow_redirects=False)
    page = client.get(made.headers["location"])
    assert page.status_code == 200
    assert "1 : 2 : 4" not in page.text
    assert "None" not in page.text
    for station in ("mix", "loads", "mixer", "look-back"):
        assert client.get(made.headers["location"].rsplit("/", 1)[0] + f"/{station}").status_code == 200


def test_nothing_measured_is_nothing_said(client: TestClient) -> None:
    for sheet in (  # type: ignore[var-annotated]
        {},
        {"shapes": []},
        {"shapes": "no list"},
        {"shapes": [{"kind": "moon"}]},
        {"shapes": [slab(), {}], "mix": 7},
    ):
        text, _ = ask(client, "measure", sheet)
        assert "so far" in text or PROSE["as-soon-as-the"] in text


@pytest.mark.parametrize(("units", "step"), [("metric", "1 L"), ("us", "1.00 qt")])
def test_what_too_much_water_does_is_told_in_a_step_of_the_readers_jug(
    client: TestClient, units: str, step: str
) -> None:
    client.cookies.set("keeve_units", units)
    sheet = {"shapes": [slab(1000, 700, 100)], "mix": "concrete-1-2-4", "mixer": "drum-site", "waste_percent": 0}
    text, _ = ask(client, "loads", sheet)
    # 70 L of concrete has 12.6 L of free water (180 kg/m³): 1 L, or a quart (0.946 L), is the largest step under a tenth.
    assert f"{step.replace('1 L', '1.00 L')} too much in a load" in text


@pytest.mark.parametrize(
    ("hours", "given", "asked"), [(1, "damp", False), (30, "damp", True), (30, "4.5", False), (None, "damp", False)]
)
def test_a_look_holds_for_a_days_work(client: TestClient, hours: float | None, given: str, asked: bool) -> None:
    at = {} if hours is None else {"plaster-sand": (datetime.now(UTC) - timedelta(hours=hours)).isoformat()}
    sheet = {"shapes": [slab()], "mix": "c270-n", "moisture_percent": {"plaster-sand": given}, "looked_at": at}
    text, faults = ask(client, "loads", sheet)
    assert faults == []
    assert (PROSE["nobody-has-looked"] in text) is asked


@pytest.mark.parametrize("at", ["yesterday", "", None, "2026-13-45", "2026-11-25T10:00:00"])
def test_a_time_that_is_none_takes_no_look_away(client: TestClient, at: Any) -> None:
    sheet = {"shapes": [slab()], "mix": "c270-n", "moisture_percent": {"plaster-sand": "damp"}}
    text, faults = ask(client, "loads", sheet | {"looked_at": {"plaster-sand": at}})
    assert faults == []
    assert PROSE["nobody-has-looked"] not in text
