"""Before the first load: looks kept for the yard, rain told in one tap, the air in the plan, and what stops it."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job

SAND = {"moisture_percent": {"sharp-sand": "damp"}, "looked_at": {"sharp-sand": "2026-01-01T07:00:00+00:00"}}


class Morning:
    """A job, and the page before its first load."""

    def __init__(self, client: TestClient, token: str, **sheet: Any) -> None:
        self.client, self.token = client, token
        self.job = new_job(client, token)
        keep(client, token, self.job, **({"shapes": [slab()], "mixer": "drum-site"} | sheet))

    def page(self) -> str:
        answer = self.client.get(f"{self.job}/before", headers=PAGE)
        assert answer.status_code == 200
        return answer.text

    def post(self, path: str, **data: str) -> Any:
        return self.client.post(f"{self.job}{path}", data={"token": self.token} | data, follow_redirects=False)

    def open(self) -> int:
        return len(re.findall(r'class="check open"', self.page()))


@pytest.fixture
def morning(client: TestClient, token: str) -> Morning:
    return Morning(client, token)


def test_a_good_morning_is_one_tap_and_holds_for_the_next_job_too(client: TestClient, morning: Morning) -> None:
    assert morning.open() == 4
    assert morning.post("/before/well").status_code == 303
    assert morning.open() == 0
    assert PROSE["all-looked-at"] in morning.page()
    assert Morning(client, morning.token).open() == 0  # the same sand, the same cement


def test_what_is_rejected_stops_the_ticket_until_it_is_good(morning: Morning) -> None:
    morning.post("/before/look", check="water", answer="foul")
    stopped = morning.post("/begin")
    assert stopped.headers["location"].endswith("/before")
    assert PROSE["bring-drinking-water"] in morning.page()
    morning.post("/before/look", check="water", answer="good")
    assert morning.post("/begin").headers["location"].endswith("/mixer")


def test_rain_in_one_job_makes_the_heap_unknown_in_every_open_one(client: TestClient, morning: Morning) -> None:
    other = Morning(client, morning.token, **SAND)
    fresh = Morning(client, morning.token, mix="casting-plaster-70", mixer="paddle-bucket")
    before = client.get(f"{other.job}/mix").text
    morning.post("/before/well")
    assert morning.post("/before/happened", kind="rain").status_code == 303
    html = client.get(f"{other.job}/mix").text
    assert "look again" in html
    assert before.count("Nobody has looked") <= html.count("Nobody has looked")
    assert morning.open() == 1  # the ground, and no jar
    assert fresh.open() == 1  # its bags; the water is the same
    sheet = client.get(f"{other.job}/raw").json()
    assert list(sheet["heap_changed"]) == ["sharp-sand"]


def test_a_jar_waits_and_silt_is_reckoned(morning: Morning) -> None:
    look = {"check": "sand-jar", "of": "sharp-sand"}
    morning.post("/before/look", **look, answer="shaken")
    assert "30 min left" in morning.page()
    early = morning.post("/before/look", **look, answer="clear")
    assert early.status_code == 422
    assert PROSE["has-not-stood-long"] in early.text
    for layer, sand, said in (("9 mm", "75 mm", "12.0 %"), ("3", "75", "4.0 %")):
        morning.post("/before/happened", kind="delivery")
        assert morning.post("/before/look", **look, layer=layer, sand=sand).status_code == 303
        assert said in morning.page()
    for layer, sand, said in (("9", "", "Both are wanted"), ("90", "75", "thinner than it"), ("x", "75", "450 mm")):
        wrong = morning.post("/before/look", **look, layer=layer, sand=sand)
        assert (wrong.status_code, said in wrong.text) == (422, True), said


def test_the_air_enters_the_plan_and_a_slip_stays_where_it_was_typed(client: TestClient, morning: Morning) -> None:
    wrong = morning.post("/before/air", air_c="140", humidity_percent="30")
    assert wrong.status_code == 422
    assert 'value="140"' in wrong.text
    assert PROSE["check-the-scale-c"] in wrong.text
    assert morning.post("/before/air", air_c="36", humidity_percent="20", wind_km_h="10 mph").status_code == 303
    html = morning.page()
    assert "Too hot" in html
    assert "kg/m²h" in html
    assert PROSE["hose-in-the-sun"] in html
    assert PROSE["in-this-air-it"] in client.get(f"{morning.job}/loads").text
    morning.post("/before/air", air_c="")
    assert PROSE["in-this-air-it"] not in client.get(f"{morning.job}/loads").text


def test_a_bare_figure_is_in_the_units_of_the_reader(client: TestClient, morning: Morning) -> None:
    client.cookies.set("keeve_units", "us")
    morning.post("/before/air", air_c="95", wind_km_h="10", humidity_percent="25")
    assert client.get(f"{morning.job}/raw").json()["weather"] == {
        "air_c": "95 °F", "wind_km_h": "10 mph", "humidity_percent": "25",
    }  # fmt: skip
    assert PROSE["90-f-is-the"] in morning.page()


@pytest.mark.parametrize(
    ("path", "data", "status"),
    [
        ("look", {"check": "made-up", "answer": "good"}, 422),
        ("look", {"check": "water", "answer": "<script>"}, 422),
        ("look", {"check": "water", "answer": "x" * 500}, 422),
        ("happened", {"kind": "sang"}, 422),
        ("happened", {"kind": "rain", "of": "x" * 500}, 422),
        ("air", {"air_c": "9" * 500}, 422),
        ("air", {"air_c": "NaN"}, 422),
    ],
)
def test_what_is_no_answer_is_refused_and_keeps_nothing(
    morning: Morning, session: Session, path: str, data: dict[str, str], status: int
) -> None:
    answer = morning.post(f"/before/{path}", **data)
    assert answer.status_code == status
    assert "<script>" not in answer.text.replace("<script defer", "")
    assert session.execute(text("select count(*) from day_log")).scalar() == 0


def test_the_day_log_is_never_changed(morning: Morning, session: Session) -> None:
    morning.post("/before/happened", kind="rain")
    for statement in ("update day_log set at = now()", "delete from day_log"):
        with pytest.raises(DBAPIError, match="append"):
            session.execute(text(statement))
        session.rollback()


def test_an_entry_that_cannot_be_read_takes_nothing_else_down(morning: Morning, session: Session) -> None:
    morning.post("/before/well")
    session.execute(
        text("insert into day_log select crew_id, 'broken-entry', now(), '{\"kind\": \"sang\"}' from day_log limit 1")
    )
    session.commit()
    assert morning.open() == 0


def test_a_job_without_a_mix_is_sent_to_choose_one(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    assert PROSE["first-choose-a-mix"] in client.get(f"{job}/before").text


def test_a_retarder_enters_the_plan_by_one_tap_and_only_once(client: TestClient, token: str) -> None:
    hot = Morning(client, token, mix="stucco-base")
    hot.post("/before/air", air_c="31")
    assert PROSE["put-a-retarder-into"] in hot.page()
    for _ in range(2):
        assert hot.post("/before/dose", admixture="retarder").status_code == 303
    assert client.get(f"{hot.job}/raw").json()["admixtures"] == [{"admixture": "retarder", "dose": "260 mL/100 kg"}]
    assert PROSE["put-a-retarder-into"] not in hot.page()
    assert "Retarder" in client.get(f"{hot.job}/loads").text
    assert hot.post("/before/dose", admixture="accelerator-chloride").status_code == 422  # never by one tap


def test_the_station_fills_the_air_in(client: TestClient, morning: Morning) -> None:
    assert morning.post("/before/station").status_code == 303
    assert PROSE["min-to-use-it"] in morning.page()
    given = client.get(f"{morning.job}/raw").json()["weather"]
    assert 11 <= given["air_c"] <= 23
    assert 40 <= given["humidity_percent"] <= 90


def test_a_heap_is_looked_at_here_too_and_again_after_rain(client: TestClient, morning: Morning) -> None:
    assert len(re.findall(r'class="check heap-look open"', morning.page())) == 2  # sand and gravel
    assert morning.post("/before/heap", of="sharp-sand", look="wet").status_code == 303
    sheet = client.get(f"{morning.job}/raw").json()
    assert sheet["moisture_percent"] == {"sharp-sand": "wet"}
    assert "sharp-sand" in sheet["looked_at"]
    assert len(re.findall(r'class="check heap-look open"', morning.page())) == 1
    morning.post("/before/happened", kind="bottom", of="sharp-sand")
    html = morning.page()
    assert PROSE["it-changed-since-somebody"] in html
    assert len(re.findall(r'class="check heap-look open"', html)) == 2
    morning.post("/before/heap", of="sharp-sand", look="dripping")
    assert PROSE["it-changed-since"] not in morning.page()
    assert morning.post("/before/heap", of="sharp-sand", look="soggy").status_code == 422
    morning.post("/before/heap", of="nobody-s-heap", look="wet")
    assert "nobody-s-heap" not in client.get(f"{morning.job}/raw").json()["moisture_percent"]


def test_a_pan_and_a_jar_say_how_wet_a_heap_is_and_how_far_it_bulks(client: TestClient, morning: Morning) -> None:
    assert morning.post("/before/heap", of="sharp-sand", wet="1060", dry="1000").status_code == 303
    morning.post("/before/heap", of="sharp-sand", damp="150", flooded="120")
    sheet = client.get(f"{morning.job}/raw").json()
    assert sheet["moisture_percent"] == {"sharp-sand": "1060.0/1000.0"}
    assert sheet["bulking_percent"] == {"sharp-sand": "150.0/120.0"}
    html = morning.page()
    assert re.search(r"<strong>6\.?0? %</strong>", html)
    assert "bulks by 25" in html
    for given, said in (({"wet": "1060"}, "Both readings"), ({"damp": "120", "flooded": "150"}, "Exchange the two")):
        wrong = morning.post("/before/heap", of="sharp-sand", **given)
        assert (wrong.status_code, said in wrong.text) == (422, True), said


def test_ice_or_lukewarm_water_brings_a_load_to_the_temperature_wanted(client: TestClient, morning: Morning) -> None:
    hot = {"water_c": "20", "aggregate_c": "33", "binder_c": "35"}
    morning.post("/before/air", air_c="31", sun_percent="100", wanted_c="24", **hot)
    html = morning.page()
    assert "For 24 °C" in html
    percent = re.search(r'name="ice_percent" value="(\d+)"', html)
    assert percent is not None
    assert morning.post("/before/ice", ice_percent=percent[1]).status_code == 303
    assert client.get(f"{morning.job}/raw").json()["ice_percent"] == percent[1]
    assert PROSE["it-comes-out-at"] in morning.page()
    morning.post("/before/air", air_c="6", water_c="8", aggregate_c="5", binder_c="8", wanted_c="11")
    assert PROSE["it-does-not-all"] in morning.page()
    morning.post("/before/ice", ice_percent="0")
    assert PROSE["take-the-ice-out"] not in morning.page()
    assert "For 11 °C: water of" in morning.page()
    # A concrete may come down to 5 °C: nothing wished, ten are aimed at, and hot water meets the sand first.
    morning.post("/before/air", air_c="2", water_c="6", aggregate_c="1", binder_c="4")
    assert re.search(r"For 10(\.0)? °C: water of 50", morning.page())
    assert PROSE["sand-into-it-first"] in morning.page()
    wrong = morning.post("/before/air", air_c="20", water_c="140", aggregate_c="20", binder_c="20")
    assert (wrong.status_code, PROSE["water-boils-there"] in wrong.text) == (422, True)


def test_old_plaster_shortens_the_clock_of_every_job_with_it(client: TestClient, token: str) -> None:
    casts = Morning(client, token, mix="casting-plaster-70", mixer="paddle-bucket")
    other = Morning(client, token, mix="casting-plaster-70", mixer="paddle-bucket")
    casts.post("/before/look", check="plaster-age", of="casting-plaster", answer="old")
    assert client.get(f"{other.job}/raw").json()["aged"] == {"casting-plaster": 0.7}
    later = client.post("/jobs", data={"token": token, "name": "Rosette", "mix": "casting-plaster-70"})
    assert client.get(f"{str(later.url).removesuffix('/measure')}/raw").json()["aged"] == {"casting-plaster": 0.7}
    casts.post("/before/happened", kind="bags")
    assert not client.get(f"{other.job}/raw").json().get("aged")


def test_the_ground_says_how_much_water_it_wants_and_the_readings_go_out(client: TestClient, morning: Morning) -> None:
    assert "the last 60 min before" in morning.page()
    morning.post("/before/air", air_c="-3.5", ground_c="34")
    assert PROSE["twice-the-ground-is"] in morning.page()
    lines = client.get("/weather.csv").text.splitlines()
    assert lines[0] == "time,air_c,humidity_percent,wind_km_h,ground_c,sun_percent"
    assert lines[1].split(",")[1:] == ["-3.5", "", "", "34", ""]


def test_a_heap_has_the_sieve_sheet_somebody_gave_it_until_another_delivery(
    client: TestClient, morning: Morning
) -> None:
    made = client.post("/book/own/sands", data={"token": morning.token, "name": "Sluice sand"}, headers=PAGE)
    key = made.url.path.rsplit("/", 1)[1]
    sieves = ("4.75", "0"), ("2.36", "5"), ("1.18", "50"), ("0.6", "300"), ("0.3", "100"), ("0.15", "40")
    # Of 495 g, 440 g pass 1.18 mm: 88.9 % where 50 to 85 are wanted; 28.3 % pass 0.6 mm: between 25 and 60.
    rows = [{"sieve_mm": mm, "first": kept} for mm, kept in sieves]
    entry = {"name": "Sluice sand", "envelope": "c33-fine", "rows": rows, "first_pan_g": "0"}
    kept = client.put(f"/book/own/sands/{key}/entry", json={"sheet": entry}, headers={"x-keeve-token": morning.token})
    assert kept.status_code == 200
    assert "Its sieve sheet" in morning.page()
    morning.post("/before/heap", of="sharp-sand", look="", sieve=key)
    html = morning.page()
    assert PROSE["outside-its-band-at"] in html
    assert PROSE["was-of-the-sand"] not in html
    assert "Test properly" in Morning(client, morning.token).page()  # it is the yard's, not the job's
    morning.post("/before/heap", of="sharp-sand", look="damp", sieve=key)
    assert morning.page().count('class="heap-sieve"') == 1
    assert morning.page().count("Its sieve sheet") == 1  # stone has none
    morning.post("/before/happened", kind="delivery")
    assert PROSE["this-sheet-is-of"] in morning.page()
    morning.post("/before/heap", of="sharp-sand", look="", sieve="")
    assert PROSE["outside-its-band"] not in morning.page()
