"""Years nobody lives in, numbers in the place of bodies, cookies as long as a page: each answered in words, by itself."""

import json
import random
import re
from datetime import UTC, datetime, timedelta, timezone
from typing import Any

import pytest
from fastapi import FastAPI, Request
from fastapi.testclient import TestClient

from keeve.web.edge.server import configured
from keeve.web.edge.settings import Settings
from tests.prose import PROSE
from tests.serving import served
from tests.web.test_pages import PAGE
from tests.web.test_runs import Yard

YEARS = [1, 2, 99, 999, 1000, 1582, 1752, 1899, 1900, 1969, 1970, 2200, 2201, 2500, 3000, 9998, 9999]


def moments() -> list[str]:
    """Fifty moments at the ends of what a clock can say."""
    draw = random.Random(3)
    zones = [timezone(timedelta(minutes=minutes)) for minutes in (0, 14 * 60, -12 * 60, 23 * 60 + 59, -23 * 60 - 59)]
    ends = [(1, 1, 0), (12, 31, 23)]
    found = [
        datetime(year, month, day, hour, tzinfo=zone).isoformat()
        for year in YEARS
        for month, day, hour in ends
        for zone in draw.sample(zones, 2)
    ]
    return found[:50]


@pytest.fixture
def yard(client: TestClient, token: str) -> Yard:
    made = Yard(client, token)
    made.begin()
    return made


def taps_of(yard: Yard, n: int, at: str) -> list[dict[str, Any]]:
    of_load = {"kind": "poured", "load": 1, "mixer": "drum-site", "litres": 0.001, "phone": "z.1"}
    return [
        of_load | {"id": f"{n:08x}-{half}-4000-8000-0000000000aa", "seq": 2 * n + half, "at": when}
        for half, when in ((1111, at), (2222, datetime.now(UTC).isoformat()))
    ]


@pytest.mark.parametrize("which", ["at", "sent_at"])
def test_a_tap_of_another_age_takes_no_good_tap_with_it(yard: Yard, which: str) -> None:
    for n, moment in enumerate(moments()):
        now = datetime.now(UTC).isoformat()
        good = taps_of(yard, n, moment if which == "at" else now)
        body = {"sent_at": moment if which == "sent_at" else now, "events": good}
        answer = yard.client.post(f"{yard.job}/events", json=body, headers={"x-keeve-token": yard.token})
        assert answer.status_code == 200, moment
        said = answer.json()
        kept = {event["id"] for event in said["events"]}
        set_by_nobody = not 1970 <= datetime.fromisoformat(moment).year <= 2200
        assert good[1]["id"] in kept or (which == "sent_at" and not set_by_nobody), moment
        assert kept | {one["id"] for one in said["refused"]} == {one["id"] for one in good}
        assert all("clock" in one["sentence"] for one in said["refused"])
        if which == "sent_at" and set_by_nobody:  # such a clock says nothing of how far it is off
            assert said["refused"] == []
    assert yard.client.get(f"{yard.job}/look-back", headers=PAGE).status_code == 200


def test_a_day_nobody_lives_in_is_no_day(client: TestClient, token: str) -> None:
    form = {"token": token, "begin": "7:00", "end": "17:00", "rests": "", "zone": "Pacific/Auckland", "forecast": ""}
    for year in YEARS * 3:
        for of_year in ("01-01", "12-31"):
            path = f"/day/{year:04}-{of_year}"
            codes = {
                client.get(path, headers=PAGE).status_code,
                client.get(f"{path}/forecast.csv").status_code,
                client.post(path, data=form, headers=PAGE, follow_redirects=False).status_code,
            }
            assert codes <= ({200, 303} if 1970 <= year <= 2200 else {422}), path
    assert PROSE["that-is-no-day"] in client.get("/day/9999-12-31", headers=PAGE).text


BODIES = ["5", "-0", "1e999", '"x"', '"\\ud800"', "[]", "[[]]", "null", "true", "{}", "", "\x00", "{", "[5, 6]"]


def test_a_number_in_the_place_of_a_body_is_answered_in_words(yard: Yard) -> None:
    paths = yard.client.get("/openapi.json").json()["paths"]
    asked = 0
    for path, asks in paths.items():
        for verb in {"post", "put", "patch", "delete"} & asks.keys():
            where = path.replace("/jobs/{job_id}", yard.job).replace("{day}", "2026-09-14")
            where = re.sub(r"\{[^}]+\}", "x", where)
            for body in BODIES:
                answer = yard.client.request(
                    verb.upper(), where, content=body, follow_redirects=False,
                    headers={"x-keeve-token": yard.token, "content-type": "application/json"},
                )  # fmt: skip
                asked += 1
                assert answer.status_code < 500, (verb, where, body)
    assert asked > 500


def test_a_cookie_as_long_as_a_page_makes_no_page_longer(client: TestClient) -> None:
    usual = len(client.get("/", headers=PAGE).content)
    for n in range(50):
        named = ("keeve_visitor", "keeve_units", "keeve_night", "keeve_language", "keeve_run")[n % 5]
        client.cookies.clear()
        answer = client.get("/", headers=PAGE | {"cookie": f"{named}={'a' * (1000 + n * 1000)}"})
        assert answer.status_code == 200
        assert len(answer.content) < usual + 2000


@pytest.mark.parametrize(("proxy", "told"), [("", "127.0.0.1"), ("127.0.0.1", "203.0.113.9")])
def test_who_asks_is_told_by_a_header_only_where_a_proxy_was_named(proxy: str, told: str) -> None:
    app = FastAPI()
    app.state.settings = Settings(database_url="postgresql://nowhere/", secret="for tests", proxy=proxy)

    @app.get("/")
    def who(request: Request) -> str:
        return request.client.host if request.client else ""

    config = configured(app)
    assert config.proxy_headers == bool(proxy)
    with served(app) as address:
        import httpx2 as httpx

        assert json.loads(httpx.get(address, headers={"x-forwarded-for": "203.0.113.9"}).text) == told
