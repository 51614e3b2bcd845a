"""The yard: vessels described, kept, chosen at a job and put away."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from keeve.core.message.said import plain as in_english
from keeve.core.message.said import read_words
from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job

TIN = {"name": "Sand tin", "use": "measure", "depth_mm": "180", "top_mm": "160"}
TUB = {"name": "Half barrel", "use": "bucket", "depth_mm": "300", "top_mm": "560", "bottom_mm": "480"}


def own(client: TestClient, token: str, **entry: Any) -> str:
    made = client.post(
        "/yard", data={"name": entry["name"], "use": entry["use"], "token": token}, follow_redirects=False
    )
    assert made.status_code == 303
    key = made.headers["location"].rsplit("/", 1)[1]
    assert keep_vessel(client, token, key, **entry).status_code == 200
    return key


def keep_vessel(client: TestClient, token: str, key: str, **entry: Any) -> Any:
    return client.put(f"/yard/{key}/entry", json={"sheet": entry}, headers={"x-keeve-token": token})


def test_a_vessel_of_ones_own_is_drawn_kept_and_chosen_for_a_job(client: TestClient, token: str) -> None:
    tin, tub = own(client, token, **TIN), own(client, token, **TUB)
    page = client.get(f"/yard/{tin}", headers=PAGE).text
    assert "3.62 L" in re.sub(r"<[^>]+>", "", page)
    assert 'class="vessel"' in page
    row = client.get("/yard", headers=PAGE).text
    assert f'href="/yard/{tin}"' in row
    assert f'href="/yard/{tub}"' in row

    job = new_job(client, token)
    keep(client, token, job, shapes=[slab()], gauges=[tin])
    loads = client.get(f"{job}/loads", headers=PAGE).text
    assert "Half barrel" in loads
    ticket = client.post("/api/plan", json={"shapes": [slab()], "mix": "concrete-1-2-4", "gauges": [tin]}).json()
    sand = next(dose for dose in ticket["cards"][0]["doses"] if dose["key"] == "sharp-sand")
    assert sand["fill"]["container"] == tin
    assert [measure["key"] for measure in ticket["measures"]] == [tin]
    mixed = client.post("/api/plan", json={"shapes": [slab()], "mix": "bedding-mortar-1-3", "mixer": tub}).json()
    assert in_english(read_words(mixed["mixer"]["name"])) == "Half barrel"
    # Nothing is taken unasked: a job that names none is mixed as before, on its page as by the API.
    plain = {"shapes": [slab()], "mix": "bedding-mortar-1-3"}
    assert client.post("/api/plan", json=plain).json()["mixer"]["key"] != tub
    keep(client, token, job, shapes=[slab(depth_mm=77)], mix="bedding-mortar-1-3")
    loads = client.get(f"{job}/loads", headers=PAGE).text
    assert "Sand tin" not in loads.split("data-answer")[1].split("data-faults")[0]
    for mix in ("bedding-mortar-1-3", "concrete-1-2-4", "casting-plaster-70"):
        ticket = client.post("/api/plan", json=plain | {"mix": mix}).json()
        assert tin not in {measure["key"] for measure in ticket["measures"]}


def test_a_drum_that_leans_is_drawn_leaning_with_what_it_holds_so(client: TestClient, token: str) -> None:
    drum = {"name": "Old drum", "use": "drum", "depth_mm": "640", "top_mm": "400", "bottom_mm": "560"}
    upright = client.get(f"/yard/{own(client, token, **drum)}", headers=PAGE).text
    leaning = client.get(f"/yard/{own(client, token, **drum, tilt_deg='30')}", headers=PAGE).text
    assert "leans" not in upright.split('class="vessel"')[1].split("</svg>")[0]
    picture = leaning.split('class="vessel"')[1].split("</svg>")[0]
    assert "leans 30°, 640 mm" in picture
    held = [float(litres) for litres in re.findall(r">([\d.]+) L<", picture)]
    assert held == sorted(held)
    assert held[-1] < 117  # upright it holds 117 L: a cone 640 deep, 560 below and 400 across its rim


def test_a_vessel_a_job_needs_is_not_put_away_and_one_nobody_needs_is(client: TestClient, token: str) -> None:
    tin, tub = own(client, token, **TIN), own(client, token, **TUB)
    job = new_job(client, token)
    keep(client, token, job, gauges=[tin], shapes=[slab()])
    refused = client.post(f"/yard/{tin}/away", data={"token": token}, headers=PAGE)
    assert refused.status_code == 422
    assert PROSE["it-is-needed-for-garden"] in refused.text
    assert client.post(f"/yard/{tub}/away", data={"token": token}, follow_redirects=False).status_code == 303
    assert "Half barrel" not in client.get("/yard", headers=PAGE).text
    answer = client.post("/api/plan", json={"shapes": [slab()], "mix": "stucco-base", "mixer": tub})
    assert answer.status_code == 422
    assert answer.json()["faults"][0]["field"] == "mixer"


def test_a_slip_keeps_the_vessel_jobs_go_on_with_and_says_where(client: TestClient, token: str) -> None:
    tin = own(client, token, **TIN)
    tried = client.post(f"/yard/{tin}/try", json=TIN | {"holds_l": "9 L"})
    assert tried.status_code == 422
    (fault,) = tried.json()["faults"]
    assert fault["field"] == "holds_l"
    assert "3.62" in fault["sentence"]
    assert keep_vessel(client, token, tin, **(TIN | {"holds_l": "9 L"})).status_code == 200
    page = client.get(f"/yard/{tin}", headers=PAGE).text
    assert 'value="9 L"' in page or 'value="9"' in page  # what was entered stays
    ticket = client.post("/api/plan", json={"shapes": [slab()], "mix": "concrete-1-2-4", "gauges": [tin]})
    assert ticket.status_code == 200


def test_us_readers_measure_in_inches_and_gallons(client: TestClient, token: str) -> None:
    client.cookies.set("keeve_units", "us")
    pail = own(
        client, token, name="Pail", use="measure", depth_mm="14 1/2 in", top_mm="11 3/4 in", bottom_mm="10 1/4 in"
    )
    page = re.sub(r"<[^>]+>", "", client.get(f"/yard/{pail}", headers=PAGE).text)
    assert "14 1/2 in" in page
    # pi/12 x 14.5 x (10.25^2 + 10.25 x 11.75 + 11.75^2) cubic inches, 231 to the gallon: plain arithmetic
    assert "5.97 gal" in page


@pytest.mark.parametrize("broken", ['{"x": 1}', '"gone"', "[]", '{"kind": "drum"}'])
def test_a_vessel_that_cannot_be_read_takes_nothing_else_down(
    client: TestClient, token: str, session: Session, broken: str
) -> None:
    tin, tub = own(client, token, **TIN), own(client, token, **TUB)
    session.execute(
        text("update book_entries set document = cast(:d as jsonb) where key = :k"), {"d": broken, "k": tin}
    )
    session.commit()
    page = client.get("/yard", headers=PAGE)
    assert page.status_code == 200
    assert PROSE["cannot-be-read"] in page.text
    assert f'href="/yard/{tub}"' in page.text
    for address in ("/", "/book", f"/yard/{tub}"):
        assert client.get(address, headers=PAGE).status_code == 200
    assert client.get(f"/yard/{tin}", headers=PAGE).status_code == 422
    assert client.get(f"/book/own/raw/vessel/{tin}").status_code == 200


def test_a_stranger_changes_no_yard(client: TestClient, token: str) -> None:
    tin = own(client, token, **TIN)
    assert client.put(f"/yard/{tin}/entry", json={"sheet": {}}).status_code == 403
    assert client.post("/yard", data={"name": "x"}).status_code == 403
    assert client.get("/yard/own-none", headers=PAGE).status_code == 404
