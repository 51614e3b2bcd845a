"""Pages and the API as another program or a careless hand meets them."""

import json
import re
from pathlib import Path
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient

from keeve.store.cluster import Cluster
from keeve.web.app import make_app
from keeve.web.edge import static_files
from keeve.web.edge.settings import Settings, kept_secret
from keeve.web.pages import render
from tests.conftest import slab
from tests.prose import PROSE

HERE = Path(render.HERE)

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
PAGE = {"accept": "text/html"}


def new_job(client: TestClient, token: str, name: str = "Garden wall") -> str:
    answer = client.post("/jobs", data={"name": name, "place": "Pellow Reach", "token": token}, follow_redirects=False)
    assert answer.status_code == 303
    return answer.headers["location"].rsplit("/", 1)[0].split("127.0.0.1")[1]


def keep(client: TestClient, token: str, address: str, **fields: Any) -> None:
    sheet = {"job": "Garden wall", "mix": "concrete-1-2-4", "shapes": [slab()]} | fields
    answer = client.put(f"{address}/sheet", json={"sheet": sheet}, headers={"x-keeve-token": token})
    assert answer.status_code == 200


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda p: p.stem)
def test_every_example_is_planned_by_the_api(client: TestClient, path: Path) -> None:
    answer = client.post("/api/plan", content=path.read_bytes(), headers={"content-type": "application/json"})
    assert answer.status_code == 200
    plan = answer.json()
    assert plan["loads"]
    assert plan["core_version"]


def test_the_examples_in_the_open_api_document_can_be_planned(client: TestClient) -> None:
    document = client.get("/openapi.json").json()
    examples = document["components"]["schemas"]["JobSheet"]["examples"]
    assert len(examples) == 2
    for example in examples:
        assert client.post("/api/plan", json=example).status_code == 200


@pytest.mark.parametrize(
    ("fields", "field", "words"),
    [
        ({"shapes": [slab(depth_mm=0)]}, "shapes.0.depth_mm", "more than nothing"),
        ({"shapes": [slab(length_mm=-1)]}, "shapes.0.length_mm", "more than nothing"),
        ({"shapes": [slab(length_mm="1e9 m")]}, "shapes.0.length_mm", "longer than a kilometre"),
        ({"shapes": []}, "shapes", "add a shape"),
        ({"shapes": [slab(count=0)]}, "shapes.0.count", "at least 1"),
        ({"shapes": [slab(count="x")]}, "shapes.0.count", "whole number"),
        ({"shapes": [slab(count=1.5)]}, "shapes.0.count", "whole number"),
        ({"shapes": [slab(note="x" * 300)]}, "shapes.0.note", "too long"),
        ({"shapes": [{"kind": "dome"}]}, "shapes.0", "not known"),
        ({"shapes": [{}]}, "shapes.0", "which kind"),
        ({"shapes": [slab(colour="red")]}, "shapes.0.colour", "not something"),
        ({"strategy": "random"}, "strategy", "Choose one of"),
        ({"place_l_min": "9" * 180}, "place_l_min", "check the unit"),
        ({"shapes": [slab(count=10**400)]}, "shapes.0.count", "at most 1000"),
        ({"mix": "casting-plaster-70", "changes": {"water_to_powder": "9" * 180}}, "changes.water_to_powder", "that much water"),
        ({"waste_percent": -4}, "waste_percent", "less than 0"),
        ({"moisture_percent": {"sharp-sand": 45}}, "moisture_percent.sharp-sand", "No sand holds"),
        ({"moisture_percent": {"sharp-sand": 29}}, "moisture_percent.sharp-sand", "more water than a load allows"),
        ({"mix": "casting-plaster-70", "changes": {"water_to_powder": "70 plaster : 100 water"}}, "changes.water_to_powder", "turned round"),
        ({"shapes": [slab(length_mm="900 m", width_mm="900 m", depth_mm="1 m")]}, "mixer", "loads of this mixer"),
    ],
)  # fmt: skip
def test_bad_input_gets_a_sentence_beside_its_field(
    client: TestClient, fields: dict[str, Any], field: str, words: str
) -> None:
    answer = client.post("/api/plan", json={"shapes": [slab()], "mix": "concrete-1-2-4"} | fields)
    assert answer.status_code == 422
    (fault,) = answer.json()["faults"]
    assert fault["field"] == field
    assert words in fault["sentence"]
    assert "Traceback" not in answer.text


@pytest.mark.parametrize("body", [b"", b"[]", b"{", b'"x"', b"null", b'{"shapes": 3}', b"\xff"])
def test_nonsense_is_refused_without_a_trace(client: TestClient, body: bytes) -> None:
    answer = client.post("/api/plan", content=body, headers={"content-type": "application/json"})
    assert answer.status_code in (400, 422)
    assert answer.json()["faults"][0]["sentence"]


def test_an_oversized_sheet_is_turned_away(client: TestClient) -> None:
    assert client.post("/api/plan", content=b" " * 1_100_000).status_code == 413


@pytest.mark.parametrize("station", ["measure", "mix", "loads", "mixer", "look-back"])
def test_every_station_opens_for_a_new_job_and_for_a_complete_one(client: TestClient, token: str, station: str) -> None:
    job = new_job(client, token)
    for fields in (  # type: ignore[var-annotated]
        {"shapes": []},
        {},
        {"mix": "gone-from-the-catalogue"},
        {"shapes": [{"kind": "slab", "depth_mm": "?"}]},
    ):
        keep(client, token, job, **fields)
        assert client.get(f"{job}/{station}", headers=PAGE).status_code == 200


@pytest.mark.parametrize(
    "junk",
    [
        {"shapes": "abc"}, {"shapes": [1, None, "x"]}, {"changes": 7}, {"moisture_percent": "wet"}, {"gauges": "pail"},
        {"gauges": {"a": 1}}, {"shapes": [{"kind": {"a": 1}, "container": 3, "model": "m"}]}, {"mix": 5}, {"job": []},
        {"shapes": [{"kind": "mould", "container": 3, "model": "m"}]}, {"mixer": {"key": "x"}}, {"jug": [1]},
    ],
)  # fmt: skip
def test_no_sheet_however_broken_closes_its_stations(client: TestClient, token: str, junk: dict[str, Any]) -> None:
    job = new_job(client, token)
    keep(client, token, job, **junk)
    for station in ("measure", "mix", "loads", "mixer"):
        assert client.get(f"{job}/{station}", headers=PAGE).status_code == 200
    assert client.get("/", headers=PAGE).status_code == 200


def test_what_was_typed_wrong_is_still_there_after_loading_again(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job, shapes=[slab(length_mm="four and a bit", depth_mm="95 mm")])
    text = client.get(f"{job}/measure").text
    assert 'value="four and a bit"' in text
    assert 'value="95"' in text
    assert PROSE["cannot-be-read"] in text


def test_what_is_typed_is_escaped(client: TestClient, token: str) -> None:
    job = new_job(client, token, "<script>alert(1)</script>")
    keep(client, token, job, job="</script><b>", shapes=[slab(note="<img src=x onerror=y>")])
    text = client.get(f"{job}/measure").text
    assert "<img src=x" not in text
    assert "</script><b>" not in text


@pytest.mark.parametrize(
    "path", ["/jobs/nonsense/measure", "/jobs/00000000-0000-0000-0000-000000000000/loads", "/nowhere"]
)
def test_an_unknown_address_is_a_helpful_404(client: TestClient, path: str) -> None:
    answer = client.get(path, headers=PAGE)
    assert answer.status_code == 404
    assert PROSE["to-the-jobs"] in answer.text
    assert client.get(path).json()["faults"][0]["sentence"]


def test_changes_from_other_pages_are_refused(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    for headers in ({}, {"x-keeve-token": "made up"}, {"x-keeve-token": token[:-2]}):
        assert client.put(f"{job}/sheet", json={}, headers=headers).status_code == 403
    assert client.post("/jobs", data={"name": "x"}).status_code == 403
    assert client.post(f"{job}/begin").status_code == 403
    assert client.post("/units", data={"units": "us"}).status_code == 403


def test_another_visitors_token_does_not_fit(client: TestClient, token: str, database_url: str) -> None:
    app = make_app(Settings(database_url=database_url, secret="for tests", crew="Lantern Yard"))
    with TestClient(app, base_url="http://127.0.0.1") as stranger:
        stranger.get("/")
        assert stranger.post("/jobs", data={"name": "x", "token": token}).status_code == 403


def test_every_changing_form_carries_the_token(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job)
    for path in ("/", f"{job}/measure", f"{job}/loads", f"{job}/mixer"):
        for form in re.findall(r'<form[^>]*method="post".*?</form>', client.get(path).text, re.DOTALL):
            assert 'name="token"' in form


def test_the_policy_allows_nothing_inline(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job)
    for path in ("/", f"{job}/measure", f"{job}/mix", f"{job}/loads", f"{job}/mixer", f"{job}/look-back"):
        answer = client.get(path)
        assert "unsafe" not in answer.headers["content-security-policy"]
        assert "default-src 'self'" in answer.headers["content-security-policy"]
        assert " style=" not in answer.text
        assert not re.search(r"<script(?![^>]*(src=|application/json))", answer.text)
        assert not re.search(r'(src|href|action)="(?:https?:)?//(?!127\.0\.0\.1)', answer.text)


def test_beginning_an_unfinished_sheet_is_refused_in_words(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    answer = client.post(f"{job}/begin", data={"token": token}, headers=PAGE)
    assert answer.status_code == 422
    assert "Choose a mix" in answer.text


def test_units_and_night_are_remembered(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job)
    client.post("/units", data={"units": "us", "token": token}, headers={"referer": f"http://127.0.0.1{job}/loads"})
    client.post("/night", data={"night": "1", "token": token})
    text = client.get(f"{job}/loads").text
    assert " gal" in text
    assert 'data-theme="night"' in text
    refused = client.post("/api/plan", json={"mix": "concrete-1-2-4", "shapes": [
        {"kind": "bored_hole", "diameter_mm": 254, "depth_mm": 600, "post": "round", "post_mm": 508}]})  # fmt: skip
    assert PROSE["20-in-across-its"] in refused.json()["faults"][0]["sentence"]


def test_an_answer_can_be_had_drawn(client: TestClient) -> None:
    sheet = json.loads((EXAMPLES[0]).read_text())
    for view in ("measure", "mix", "loads"):
        answer = client.post(f"/jobs/x/answer?view={view}", json=sheet).json()
        assert "figures" in answer["answer"]
        assert answer["faults"] == []
        assert "<html" not in answer["answer"]


def test_a_stopped_database_is_a_plain_page_that_recovers(cluster: Cluster) -> None:
    settings = Settings(database_url=cluster.url.replace("127.0.0.1:", "127.0.0.1:1"), secret="s")
    broken = re.sub(r"127\.0\.0\.1:\d+", "127.0.0.1:1", settings.database_url)
    with TestClient(
        make_app(settings.model_copy(update={"database_url": broken})), base_url="http://127.0.0.1"
    ) as client:
        answer = client.get("/", headers=PAGE)
        assert answer.status_code == 503
        assert answer.headers["retry-after"] == "3"
        assert 'http-equiv="refresh"' in answer.text
        assert (
            client.post("/api/plan", json=json.loads(EXAMPLES[0].read_text())).status_code == 200
        )  # needs no database


def test_pages_come_back_by_themselves_when_the_database_does(
    client: TestClient, cluster: Cluster, database_url: str
) -> None:
    name = database_url.rsplit("/", 1)[1]
    admin = cluster.url.replace("+psycopg", "").rsplit("/", 1)[0] + "/postgres"
    assert client.get("/", headers=PAGE).status_code == 200
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute(f"alter database {name} with allow_connections false")
        connection.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = %s", (name,))
        answer = client.get("/", headers=PAGE)
        assert answer.status_code == 503
        assert PROSE["nothing-is-lost"] in answer.text
        connection.execute(f"alter database {name} with allow_connections true")
    assert client.get("/", headers=PAGE).status_code == 200


def test_an_unforeseen_fault_is_an_apology_with_a_number(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def break_down(*_: object) -> None:
        raise RuntimeError("a secret of the house")

    monkeypatch.setattr("keeve.web.ways_in.api.routes.plan", break_down)
    answer = client.post("/api/plan", json=json.loads(EXAMPLES[0].read_text()))
    assert answer.status_code == 500
    assert "say number" in answer.json()["faults"][0]["sentence"]
    assert answer.headers["x-keeve-number"] in answer.text
    assert "default-src 'self'" in answer.headers["content-security-policy"]
    assert "secret of the house" not in answer.text
    assert client.get("/healthz").text == "well"


def test_jobs_are_found_by_words_of_their_name_place_or_mix(client: TestClient, token: str) -> None:
    new_job(client, token, "Garden wall")
    keep(client, token, new_job(client, token, "Boat slip"), job="Boat slip, 50 % done", mix="stucco-base")

    def found(words: str) -> list[str]:
        return re.findall(r'class="job-name"[^>]*>([^<]+)<', client.get("/", params={"find": words}, headers=PAGE).text)

    assert found("wall") == ["Garden wall"]
    assert found("  GARDEN   pellow ") == ["Garden wall"]
    assert found("base coat") == ["Boat slip, 50 % done"]
    assert found("pellow") == ["Garden wall"]
    assert found("50 %") == ["Boat slip, 50 % done"]
    assert found("_") == found("%wall") == found("\\") == []
    assert PROSE["no-job-has-moon"] in client.get("/?find=moon", headers=PAGE).text
    assert client.get("/", params={"find": "x" * 300}, headers=PAGE).status_code == 422


def test_static_addresses_carry_their_content(client: TestClient) -> None:
    page = client.get("/").text
    for name, kind in (("keeve.css", "text/css"), ("house/page.js", "text/javascript"), ("icon.svg", "image/svg+xml")):
        found = re.search(rf'"(/static/(\w+)/{re.escape(name)})"', page)
        assert found is not None
        answer = client.get(found[1])
        assert answer.headers["cache-control"] == "public, max-age=31536000, immutable"
        assert answer.headers["content-type"].startswith(kind)
        for wrong in (name, f"{'0' * len(found[2])}/{name}", f"{found[2]}/../{name}", f"{found[2]}/none.js", found[2]):
            assert client.get(f"/static/{wrong}").status_code == 404, wrong
        assert client.post(found[1]).status_code == 405


def test_what_a_module_imports_is_fetched_with_it(client: TestClient) -> None:
    """A page names all modules it needs, so that a browser need not read one to ask for the next."""
    folder = Path(static_files.STATIC)
    for page, needed in (("/", "house/words.js"), ("/book", "house/time.js")):
        html = client.get(page).text
        named = set(re.findall(r'"/static/\w+/([\w/]+\.js)"', html))
        assert needed in named
        for name in named:
            for imported in re.findall(r'^import .*"(\.[^"]+)"', (folder / name).read_text(), re.MULTILINE):
                assert (folder / name).parent.joinpath(imported).resolve().relative_to(folder).as_posix() in named


def test_the_secret_is_made_once(tmp_path: Path) -> None:
    assert kept_secret(tmp_path) == kept_secret(tmp_path)
    assert (tmp_path / "secret").stat().st_mode & 0o077 == 0


@pytest.mark.parametrize("units", ["metric", "us"])
def test_every_pattern_stands_on_one_page(client: TestClient, units: str) -> None:
    client.cookies.set("keeve_units", units)
    answer = client.get("/patterns")
    assert answer.status_code == 200
    assert answer.text.count("data-pattern") == 9
    # Whoever writes a macro shows it here.
    macros = {
        name
        for file in ("fields", "parts", "drawings")
        for name in re.findall(r"macro (\w+)\(", (HERE / "shared" / f"{file}.html").read_text(encoding="utf-8"))
    }
    shown = (render.WEB / "beside/patterns/page.html").read_text(encoding="utf-8")
    inner = {"taken_out"}  # it needs a row to be taken out
    assert {name for name in macros - inner if f"{name}" not in shown} == set()


def test_a_unit_weight_tells_what_a_batch_made(client: TestClient) -> None:
    weighed = {"batch_kg": 1856, "fresh_kg_m3": 2320, "without_air_kg_m3": 2400}
    # ASTM C138, from memory; by hand 1856 / 2320 and (2400 - 2320) / 2400.
    answer = client.post("/api/unit-weight", json=weighed).json()
    assert answer["yield_m3"] == pytest.approx(0.8)
    assert answer["air_percent"] == pytest.approx(100 / 30)
    assert client.post("/api/unit-weight", json={"batch_kg": 1, "fresh_kg_m3": 0}).status_code == 422
