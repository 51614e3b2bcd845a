"""The next coat of a wall: the same measures, the next mix, and its waiting on the day's line."""

from datetime import UTC, datetime, timedelta

from fastapi.testclient import TestClient

from keeve.catalogue import load_catalogue
from tests.web.test_day import HOURS
from tests.web.test_pages import PAGE, new_job
from tests.web.test_runs import Yard

WALL = {
    "kind": "coat", "note": "Scratch coat", "length_mm": "6 m", "height_mm": "3 m", "openings_m2": "1.2 m²", "thickness_mm": "10 mm",
    "ground": "lath or stone",
}  # fmt: skip


def test_every_coat_that_follows_is_a_mix_there_is() -> None:
    shelf = load_catalogue()
    following = {mix.key: mix.next_coat.mix for mix in shelf.mixes.values() if mix.next_coat}
    assert len(following) >= 10
    assert set(following.values()) <= set(shelf.mixes)


def test_the_next_coat_takes_the_wall_with_its_own_mix_and_thickness(client: TestClient, token: str) -> None:
    brown = WALL | {"note": "Brown coat", "thickness_mm": "9 mm", "ground": "smooth"}
    yard = Yard(client, token, mix="stucco-base", shapes=[WALL, brown], moisture_percent={"plaster-sand": "5 %"})
    yard.begin()
    yard.phone.mix(0, 9.0)
    yard.send()
    assert "Next coat on this wall" in client.get(f"{yard.job}/look-back").text
    above = yard.post("/next-coat").headers["location"].rsplit("/", 1)[0].split("127.0.0.1")[-1].split("testserver")[-1]
    sheet = client.get(f"{above}/raw").json()
    assert (sheet["mix"], sheet["follows"]) == ("c926-finish", yard.job.rsplit("/", 1)[1])
    (wall,) = sheet["shapes"]  # both coats were of one wall
    assert (wall["length_mm"], wall["thickness_mm"], wall["ground"]) == ("6 m", "3 mm", "smooth")
    assert "moisture_percent" not in sheet

    def on(day: datetime) -> str:
        key = above.rsplit("/", 1)[1]
        form = HOURS | {"zone": "UTC", "job": key, "on": key, "after": "", "mixers": "1"}
        client.post(f"/day/{day.date()}", data={"token": token} | form, headers=PAGE)
        return client.get(f"/day/{day.date()}").text

    assert "the coat below must stay damp" in on(datetime.now(UTC) + timedelta(days=1))
    assert "the coat below must stay damp" not in on(datetime.now(UTC) + timedelta(days=3))


def test_nothing_follows_where_there_is_no_coat(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    answer = client.post(f"{job}/next-coat", data={"token": token}, headers=PAGE)
    assert answer.status_code == 422
    assert "No coat follows this mix" in answer.text
