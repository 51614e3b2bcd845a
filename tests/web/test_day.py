"""The day's page: jobs on the line, rain and rests, what does not go in, its calendar, and slips that stay typed."""

import re
from typing import Any

import pytest
import vobject
from fastapi.testclient import TestClient

from keeve.web.edge.settings import here
from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job
from tests.web.test_runs import Yard

DAY = "/day/2026-09-14"
HOURS = {"begin": "7:00", "end": "17:00", "rests": "12:00-12:45", "zone": "Europe/London", "forecast": ""}


def ready(client: TestClient, token: str, **sheet: Any) -> str:
    job = new_job(client, token)
    keep(client, token, job, **({"mixer": "drum-site", "shapes": [slab()], "place_l_min": "6 L"} | sheet))
    return job.rsplit("/", 1)[1]


def planned(client: TestClient, token: str, *jobs: str, **more: Any) -> Any:
    many = len(jobs)
    form = HOURS | {"job": jobs, "on": jobs, "after": [""] * many, "mixers": ["1"] * many} | more
    return client.post(DAY, data={"token": token} | form, headers=PAGE, follow_redirects=False)


def bars(html: str) -> int:
    return html.count('class="dl-mix"') - 1  # one stands in the key


def test_a_day_begins_with_what_is_ready_and_lays_it_out(client: TestClient, token: str) -> None:
    ready(client, token)
    html = client.get(DAY).text
    assert bars(html) >= 1
    assert re.search(r"from 7:\d\d to", html)
    assert PROSE["keep-it-damp"] in html
    assert "12.10." in html  # four weeks later it is tested


def test_rain_moves_the_work_and_a_roof_lets_it_be(client: TestClient, token: str) -> None:
    job = ready(client, token)
    rain = "\n".join(f"{h}:00, 15, 80, 5, {2 if h < 11 else 0}" for h in range(7, 17))
    assert planned(client, token, job, forecast=rain).status_code == 303
    html = client.get(DAY).text
    assert 'class="dl-shut"' in html
    assert re.search(r"from 11:\d\d to", html)
    planned(client, token, job, forecast=rain, covered=[job])
    assert re.search(r"from 7:\d\d to", client.get(DAY).text)


def test_what_does_not_go_in_is_said_and_a_second_mixer_helps(client: TestClient, token: str) -> None:
    job = ready(client, token, shapes=[slab(length_mm=12_000, width_mm=3000, depth_mm=150)], place_l_min="40 L")
    planned(client, token, job, end="9:00")
    before = client.get(DAY).text
    left = int(re.findall(r"(\d+) loads do not go in", before)[0])
    planned(client, token, job, end="9:00", mixers=["2"])
    assert int(re.findall(r"(\d+) loads do not go in", client.get(DAY).text)[0]) < left
    assert bars(before) > 0


def test_the_order_and_the_beginning_are_ones_own(client: TestClient, token: str) -> None:
    one, two = ready(client, token), ready(client, token, mix="stucco-base")
    planned(client, token, one, two, after=["", "14:00"])
    html = client.get(DAY).text
    assert html.index(f'data-job="{one}"') < html.index(f'data-job="{two}"')
    assert 'value="14:00"' in html
    planned(client, token, one, two, first=two)
    html = client.get(DAY).text
    assert html.index(f'data-job="{two}"') < html.index(f'data-job="{one}"')


@pytest.mark.parametrize(
    ("slip", "said"),
    [
        ({"begin": "dawn"}, "no time of the day"),
        ({"rests": "12:00"}, "no rest"),
        ({"zone": "Pellow/Reach"}, "no time zone"),
        ({"forecast": "9:00, warm"}, "Line 1 of the forecast"),
        ({"after": ["later"]}, "no time of the day"),
    ],
)
def test_a_slip_is_said_and_stays_typed(client: TestClient, token: str, slip: dict[str, Any], said: str) -> None:
    job = ready(client, token)
    answer = planned(client, token, job, **slip)
    assert answer.status_code == 422
    assert said in answer.text
    typed = next(iter(slip.values()))
    assert (typed if isinstance(typed, str) else typed[0]) in answer.text
    assert f'name="begin" value="{slip.get("begin", "dawn")}"' not in client.get(DAY).text  # nothing of it was kept
    assert 'value="12:00"' not in client.get(DAY).text


def test_a_job_has_its_calendar_once_it_is_on_a_day(client: TestClient, token: str) -> None:
    job = ready(client, token)
    assert client.get(f"/jobs/{job}/calendar.ics").status_code == 422
    planned(client, token, job)
    answer = client.get(f"/jobs/{job}/calendar.ics")
    assert answer.headers["content-type"].startswith("text/calendar")
    found = vobject.readOne(answer.text)
    titles = [event.summary.value for event in found.vevent_list]
    assert titles[0].startswith("Garden wall · 1/")
    assert "Garden wall: Test day" in titles
    # In UTC, beside the name of the zone: seven by summer time in London.
    assert found.vevent_list[0].dtstart.value.utcoffset().total_seconds() == 0
    assert found.contents["x-wr-timezone"][0].value == "Europe/London"


def test_a_day_that_is_none_and_jobs_of_nobody_are_answered(client: TestClient, token: str) -> None:
    assert client.get("/day/someday", headers=PAGE).status_code == 422
    assert client.get("/day", follow_redirects=False).status_code == 303
    answer = planned(client, token, "not-a-job", "00000000-0000-4000-8000-000000000000")
    assert answer.status_code == 303
    assert bars(client.get(DAY).text) <= 0


def test_the_forecast_goes_out_as_a_file(client: TestClient, token: str) -> None:
    planned(client, token, ready(client, token), forecast="9:00, 14, 60, 12, 0")
    assert "9:00,14,60,12,0" in client.get(f"{DAY}/forecast.csv").text


def test_frost_on_fresh_work_is_told_and_its_finishing_is_drawn(client: TestClient, token: str) -> None:
    job = ready(client, token)
    night = "7:00, 9, 60, 5, 0\n10:00, 10, 60, 5, 0\n13:00, 9, 60, 5, 0\n16:00, 3, 60, 5, 0\n20:00, -1, 60, 5, 0"
    planned(client, token, job, forecast=night)
    html = client.get(DAY).text
    assert "Frost from 20:00 on Garden wall" in html
    assert html.count('class="dl-finish"') == 2  # the work's, and the one of the key
    planned(client, token, job, forecast=night, covered=[job])
    assert "Frost from" not in client.get(DAY).text


def test_the_sky_shows_sun_and_wind_and_the_mixer_is_cleaned_after_its_last_load(
    client: TestClient, token: str
) -> None:
    job = ready(client, token)
    sky = "\n".join(f"{h}:00, {14 + h}, 50, {h}, 0, {0 if h < 9 else 90}" for h in range(7, 17))
    planned(client, token, job, forecast=sky)
    html = client.get(DAY).text
    assert html.count('class="full"') == 8
    assert "14 km/h" in html
    assert html.count('class="dl-clean"') == 2  # one stands in the key
    assert client.get(f"{DAY}/forecast.csv").text.splitlines()[3] == "9:00,23,50,9,0,90"


def test_a_screed_dries_by_its_thickness_for_weeks(client: TestClient, token: str) -> None:
    job = ready(client, token, mix="screed-semi-dry", mixer="", shapes=[slab(depth_mm=75)])
    planned(client, token, job)
    html = client.get(DAY).text
    # Seven days under its sheet, then 50 + 25 / ½ days: BS 8204, from memory.
    assert "Dries, uncovered" in html
    assert "30.12." in html  # 14 September and 107 days


def test_what_was_mixed_stands_beside_the_plan(client: TestClient, token: str) -> None:
    yard = Yard(client, token)
    key = yard.job.rsplit("/", 1)[1]
    today = client.get("/day", follow_redirects=False).headers["location"].rsplit("/", 1)[1]
    form = HOURS | {"end": "24:00", "job": [key], "on": [key], "after": [""], "mixers": ["1"], "zone": here()}
    client.post(f"/day/{today}", data={"token": token} | form)
    yard.begin()
    assert 'class="dl-real"' not in client.get(f"/day/{today}").text
    yard.phone.mix(0, 9.0)
    yard.send()
    assert client.get(f"/day/{today}").text.count('class="dl-real"') == 2  # one stands in the key
