"""Tests of the work on a job's page: specimens due, results with their slips, acceptance, plaster on its way to dry."""

import re
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
import vobject
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from tests.prose import PROSE
from tests.web.test_pages import PAGE
from tests.web.test_runs import Yard


class Lab:
    """A job that was mixed, and its tests."""

    def __init__(self, client: TestClient, token: str, **sheet: Any) -> None:
        self.client, self.token = client, token
        self.yard = Yard(client, token, **sheet)
        self.yard.begin()
        self.yard.phone.mix(0, 9.0)
        self.yard.send()

    def post(self, what: str, **data: str) -> Any:
        return self.client.post(
            f"{self.yard.job}/proofs/{what}", data={"token": self.token} | data, headers=PAGE, follow_redirects=False
        )

    def page(self) -> str:
        return self.client.get(f"{self.yard.job}/look-back").text

    def cast(self, label: str, **more: str) -> str:
        assert self.post("cast", shape="cylinder-150", label=label, at="2026-09-14 09:00", **more).status_code == 303
        keys = re.findall(r'name="of" value="([0-9a-f-]{36})"', self.page())
        return str(keys[-1])


@pytest.fixture
def lab(client: TestClient, token: str) -> Lab:
    return Lab(client, token)


def test_three_cylinders_are_due_broken_and_judged(lab: Lab) -> None:
    lab.post("asked", mpa="30", rule="en-206")
    assert "Accepted by" not in lab.page()
    pairs = [(f"{pair}{n}", str(n), force) for pair in "AB" for n, force in ((1, "600.9"), (2, "618.5"), (3, "583.2"))]
    for label, load, force in pairs:
        key = lab.cast(label, load=load)
        assert lab.post("result", of=key, found=force, by="force", at="2026-10-12").status_code == 303
    html = lab.page()
    assert "12.10.2026" in html
    assert "mean of 6 results" in html
    assert "34.0 MPa" in html
    assert PROSE["accepted-by-en-206"] in html
    lab.post("asked", mpa="32", rule="en-206")
    assert PROSE["not-accepted-by-en"] in lab.page()
    lab.post("asked", mpa="32", rule="aci-318")
    assert PROSE["accepted-by-aci-318"] in lab.page()


def test_slips_are_asked_about_and_nothing_is_kept_of_them(lab: Lab, session: Session) -> None:
    lab.post("asked", mpa="30")
    key = lab.cast("B1", due_days="7")
    for data, said in (
        ({"found": "3", "by": "stress", "at": "2026-09-21"}, "is the point in its place"),
        ({"found": "30", "by": "stress", "at": "2026-09-13"}, "not broken before it is cast"),
        ({"found": "30", "by": "stress", "at": "yesterday"}, "That is no day."),
        ({"found": "<b>", "by": "stress"}, "&lt;b&gt;"),
        ({"found": "-4", "by": "stress"}, "alert"),
        ({"found": "9" * 39, "by": "stress"}, "alert"),
        ({"found": "30", "by": "stress", "of": "nobody"}, "no such specimen"),
    ):
        wrong = lab.post("result", **({"of": key} | data))
        assert (wrong.status_code, said in wrong.text) == (422, True), said
    assert session.execute(text("select count(*) from proofs")).scalar() == 2
    assert lab.post("result", of=key, found="3", by="stress", at="2026-09-21", sure="1").status_code == 303
    assert "mean of" not in lab.page()  # of seven days: shown, not judged
    assert "3.0 MPa" in lab.page()


def test_plaster_is_weighed_until_it_is_dry(client: TestClient, token: str) -> None:
    lab = Lab(
        client, token, mix="casting-plaster-70", mixer="paddle-bucket", shapes=[{"kind": "known", "volume_l": "9 L"}]
    )
    dry = re.search(r"at ([\d.]+) kg it is dry", lab.page())
    assert dry is not None
    kg = float(dry[1])
    for day, share in (("15", 1.32), ("17", 1.16)):
        lab.post("weighing", kg=f"{kg * share:.3f}", at=f"2026-09-{day} 08:00")
    assert re.search(PROSE["about-8-9-days"], lab.page())
    for day, share in (("27", 1.007), ("29", 1.005)):
        lab.post("weighing", kg=f"{kg * share:.3f}", at=f"2026-09-{day} 08:00")
    assert PROSE["it-is-dry"] in lab.page()


def test_a_us_reader_types_pounds_and_reads_psi(lab: Lab) -> None:
    lab.client.cookies.set("keeve_units", "us")
    key = lab.cast("C1")
    lab.post("result", of=key, found="4350", by="stress", at="2026-10-12")
    assert "4,350 psi" in lab.page().replace("\u202f", ",").replace("\xa0", " ")


def test_the_tests_are_never_changed(lab: Lab, session: Session) -> None:
    lab.post("asked", mpa="30")
    for statement in ("update proofs set at = now()", "delete from proofs"):
        with pytest.raises(DBAPIError, match="append"):
            session.execute(text(statement))
        session.rollback()


def test_a_specimen_is_due_in_the_calendar_and_today(lab: Lab) -> None:
    yesterday = (datetime.now(UTC) - timedelta(days=8)).strftime("%Y-%m-%d %H:%M")
    lab.post("cast", shape="cube-100", label="E5", due_days="7", at=yesterday)
    assert "Break specimen E5" in lab.client.get("/today").text
    (event,) = vobject.readOne(lab.client.get(f"{lab.yard.job}/calendar.ics").text).contents["vevent"]
    assert event.summary.value.endswith("Break specimen E5")
    assert abs(event.dtstart.value - (datetime.now(UTC) - timedelta(days=1))) < timedelta(minutes=2)
    key = re.findall(r'name="of" value="([0-9a-f-]{36})"', lab.page())[-1]
    lab.post("result", of=key, found="30", by="stress")
    assert "Break specimen" not in lab.client.get("/today").text
