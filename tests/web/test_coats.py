"""The next coat of a wall: the same measures, the next mix, and its waiting on the day's line."""

from datetime import UTC, datetime, timedelta

from fastapi.testclient import TestClient

from keeve.catalogue import load_catalogue
from tests.prose import PROSE
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
    assert "Next coat: " in client.get(f"{yard.job}/look-back").text
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

    assert PROSE["the-coat-below-must"] in on(datetime.now(UTC) + timedelta(days=1))
    assert PROSE["the-coat-below-must"] not in on(datetime.now(UTC) + timedelta(days=3))


def test_nothing_follows_where_there_is_no_coat(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    answer = client.post(f"{job}/next-coat", data={"token": token}, headers=PAGE)
    assert answer.status_code == 422
    assert PROSE["no-coat-follows-this"] in answer.text


def test_a_place_shows_its_coats_one_over_the_other_and_what_waits(client: TestClient, token: str) -> None:
    yard = Yard(client, token, mix="stucco-base", shapes=[WALL], moisture_percent={"plaster-sand": "5 %"})
    key = yard.job.rsplit("/", 1)[1]
    client.post(f"/jobs/{key}/name", data={"token": token, "name": "Gable", "place": "Lock & weir, Pellow Reach"})
    yard.begin()
    yard.phone.mix(0, 9.0)
    yard.send()
    yard.post("/next-coat")
    assert "name=Lock%20%26%20weir%2C%20Pellow%20Reach" in client.get("/").text
    html = client.get("/place", params={"name": "Lock & weir, Pellow Reach"}, headers=PAGE).text
    assert html.index(">Gable<") < html.index(">Gable, next coat<")
    assert 'class="coat-1"' in html
    assert "Next coat: " in html
    assert PROSE["what-waits-here"] in html
    assert PROSE["keep-it-moist"] in html
    assert PROSE["no-job-is-at"] in client.get("/place", params={"name": "<b>elsewhere</b>"}).text


def test_what_is_put_away_is_brought_back_by_one_tap(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    gone = client.post(f"{job}/away", data={"token": token}, headers=PAGE).text
    assert PROSE["is-put-away"] in gone
    assert PROSE["bring-it-back"] in gone
    back = client.post(f"{job}/away", data={"token": token, "back": "1"}, headers=PAGE).text
    assert PROSE["is-put-away"] not in back
    assert client.get("/", params={"gone": "x" * 36}).status_code == 200


def test_a_coat_has_a_choice_of_coats_above(client: TestClient, token: str) -> None:
    yard = Yard(client, token, mix="base-coat", shapes=[WALL], mixer="paddle-bucket")
    above = client.post(f"{yard.job}/next-coat", data={"token": token, "mix": "base-coat"}, headers=PAGE).url.path
    sheet = client.get(f"{above.rsplit('/', 1)[0]}/raw").json()
    assert (sheet["mix"], sheet["shapes"][0]["thickness_mm"]) == ("base-coat", "3 mm")
    usual = client.post(f"{yard.job}/next-coat", data={"token": token}, headers=PAGE).url.path
    assert client.get(f"{usual.rsplit('/', 1)[0]}/raw").json()["mix"] == "tinted-finish"
    assert client.post(f"{yard.job}/next-coat", data={"token": token, "mix": "stucco-base"}).status_code == 422


def test_a_job_never_mixed_is_deleted_for_good_only_after_it_was_put_away(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    refused = client.post(f"{job}/delete", data={"token": token}, headers=PAGE)
    assert refused.status_code == 422
    assert PROSE["what-was-written-down"] in refused.text
    client.post(f"{job}/away", data={"token": token})
    assert PROSE["delete-for-good"] in client.get("/", params={"away": "1"}).text
    assert client.post(f"{job}/delete", data={"token": token}).status_code == 200
    assert client.get(f"{job}/measure").status_code == 404


def test_a_job_that_was_mixed_is_never_deleted(client: TestClient, token: str) -> None:
    yard = Yard(client, token, mix="stucco-base", shapes=[WALL], moisture_percent={"plaster-sand": "5 %"})
    yard.begin()
    yard.phone.mix(0, 9.0)
    yard.send()
    client.post(f"{yard.job}/away", data={"token": token})
    assert client.post(f"{yard.job}/delete", data={"token": token}).status_code == 422
    assert PROSE["delete-for-good"] not in client.get("/", params={"away": "1"}).text
    assert client.get(f"{yard.job}/look-back").status_code == 200
