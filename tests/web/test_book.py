"""The mix book as a crew uses it: mixes copied and changed, handed on, used in a job, put away; sands and cans."""

import json
import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from keeve.web.app import make_app
from keeve.web.edge.settings import Settings
from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job

HTML = PAGE | {"sec-fetch-dest": "document"}


def copy(client: TestClient, token: str, key: str) -> str:
    """Copy a mix; returns the key of the copy."""
    answer = client.post(f"/book/{key}/copy", data={"token": token}, follow_redirects=False)
    assert answer.status_code == 303
    return answer.headers["location"].split("/book/")[1].split("/")[0]


def change(client: TestClient, token: str, key: str, **entry: Any) -> None:
    answer = client.put(f"/book/{key}/entry", json={"sheet": entry}, headers={"x-keeve-token": token})
    assert answer.status_code == 200


def shown(text: str) -> str:
    """What a page says, without its marks."""
    return " ".join(re.sub(r"<[^>]+>", " ", text).split())


def test_every_mix_of_the_catalogue_opens_in_both_unit_systems(client: TestClient, token: str) -> None:
    keys = client.get("/api/mixes").json()
    for units in ("metric", "us"):
        client.post("/units", data={"units": units, "token": token})
        for key, name in keys.items():
            answer = client.get(f"/book/{key}", headers=HTML)
            assert answer.status_code == 200
            assert name in answer.text.replace("&amp;", "&")
            assert "None" not in shown(answer.text)


def test_two_mixes_stand_side_by_side_and_their_differences_are_marked(client: TestClient) -> None:
    text = client.get("/book/concrete-1-2-4?with=concrete-1-3-6", headers=HTML).text
    assert PROSE["free-water-in-1"] in text
    rows = re.findall(r'<tr class="([^"]*)"><th scope="row">([^<]+)</th><td>([^<]*)</td><td>([^<]*)</td>', text)
    by_name = {name: (mark, one, other) for mark, name, one, other in rows}
    mark, lean, leaner = by_name["Portland cement, in 1 m³"]
    assert mark == "differs"
    # Nominal mixes, common practice: 1:2:4 takes about 300 kg of cement to the cubic metre, 1:3:6 about 220.
    assert 280 < float(lean.split()[0]) < 330
    assert 190 < float(leaner.split()[0]) < 235
    assert all((one != other) == (mark == "differs") for mark, one, other in by_name.values())


def test_a_mix_is_copied_changed_and_used_in_a_job(client: TestClient, token: str) -> None:
    key = copy(client, token, "cement-mortar-1-3")
    page = client.get(f"/book/{key}/change").text
    assert "Began as" in page
    parts = [{"material": "portland-cement", "parts": "1"}, {"material": "sharp-sand", "parts": "4 1/2"}]
    change(client, token, key, name="Bedding mortar, ours", basis={"parts": parts})
    job = new_job(client, token)
    keep(client, token, job, mix=key)
    assert "Bedding mortar, ours" in client.get(f"{job}/mix").text

    def parts_of(mix: str) -> list[float]:
        ticket = client.post("/api/plan", json={"mix": mix, "shapes": [slab()]}).json()
        return [dose["dry_kg"] for dose in ticket["cards"][0]["doses"][:2]]

    cement, sand = parts_of(key)
    one, three = parts_of("cement-mortar-1-3")
    assert sand / cement == pytest.approx(1.5 * three / one, rel=1e-9)


def test_what_makes_no_mix_is_said_and_kept_and_jobs_go_on_with_the_last_that_did(
    client: TestClient, token: str
) -> None:
    key = copy(client, token, "cement-mortar-1-3")
    change(client, token, key, basis={"air_percent": "4"})
    before = client.get(f"/api/mixes/{key}").json()
    wrong = {"basis": {"air_percent": "lots"}}
    answer = client.post(f"/book/{key}/try", json=wrong)
    assert answer.status_code == 422
    (fault,) = answer.json()["faults"]
    assert fault["field"] == "basis.air_percent"
    assert "cannot be read" in fault["sentence"]
    change(client, token, key, **wrong)
    page = client.get(f"/book/{key}/change").text
    assert 'value="lots"' in page
    assert "cannot be read" in page
    assert client.get(f"/api/mixes/{key}").json() == before


@pytest.mark.parametrize(
    ("base", "entry", "field", "words"),
    [
        ("cement-mortar-1-3", {"basis": {"parts": [{"material": "", "parts": "1"}]}}, "basis.parts.0.material", "Choose what this is"),
        ("cement-mortar-1-3", {"basis": {"water_low": "0.4"}}, "basis.water_low", "no such figure"),
        ("cement-mortar-1-3", {"materials": {"sharp-sand": {"particle_density_kg_m3": "265"}}}, "materials.sharp-sand.particle_density_kg_m3", "For sand it is about 2\u202f650"),
        ("cement-mortar-1-3", {"waste_percent": "400"}, "waste_percent", "waste"),
        ("cement-mortar-1-3", {"name": "x" * 90}, "name", "too long"),
        ("cement-mortar-1-3", {"basis": {"parts": []}}, "basis.parts", "add a row"),
        ("casting-plaster-70", {"basis": {"water_to_powder": "70 plaster : 100 water"}}, "basis.water_to_powder", "turned round"),
        ("thin-panel", {"basis": {"cementitious": [{"material": "portland-cement", "ratio": "0.9"}]}}, "basis", "add up to 90 %"),
        ("concrete-bag-25kg", {"basis": {"water_low_l": "9"}}, "basis.water_target_l", "must rise"),
    ],
)  # fmt: skip
def test_bad_figures_of_an_own_mix_get_a_sentence_at_their_field(
    client: TestClient, token: str, base: str, entry: dict[str, Any], field: str, words: str
) -> None:
    key = copy(client, token, base)
    answer = client.post(f"/book/{key}/try", json=entry)
    assert answer.status_code == 422
    faults = answer.json()["faults"]
    assert any(f["field"].startswith(field) for f in faults), faults
    assert any(words in f"{f['sentence']} {f['hint']}" for f in faults), faults


def test_a_mix_in_use_stays_and_one_put_away_comes_back(client: TestClient, token: str) -> None:
    key = copy(client, token, "pervious")
    job = new_job(client, token, "Path")
    keep(client, token, job, mix=key, job="Path")
    refused = client.post(f"/book/{key}/away", data={"token": token}, headers=HTML)
    assert refused.status_code == 422
    assert PROSE["it-is-needed-for"] in refused.text
    keep(client, token, job, mix="pervious", job="Path")
    gone = client.post(f"/book/{key}/away", data={"token": token}, headers=HTML)
    assert PROSE["put-it-back"] in gone.text
    assert key not in client.get("/api/mixes").json()
    assert client.get(f"/book/{key}", headers=HTML).status_code == 404
    client.post(f"/book/{key}/back", data={"token": token})
    assert key in client.get("/api/mixes").json()


def test_the_mixes_that_ship_cannot_be_changed_or_put_away(client: TestClient, token: str) -> None:
    assert client.get("/book/pervious/change", headers=HTML).status_code == 404
    assert client.post("/book/pervious/away", data={"token": token}).status_code == 404
    assert client.put("/book/pervious/entry", json={"sheet": {}}, headers={"x-keeve-token": token}).status_code == 404


def bring(client: TestClient, token: str, content: bytes, name: str = "mix.json") -> Any:
    return client.post(
        "/book/bring", data={"token": token}, files={"file": (name, content, "application/json")}, headers=HTML
    )


def test_a_mix_handed_on_as_a_file_is_the_same_mix_where_it_arrives(client: TestClient, token: str) -> None:
    key = copy(client, token, "stucco-base")
    change(client, token, key, name="Gable base, ours", waste_percent="12")
    file = client.get(f"/book/{key}/file")
    assert f'filename="{key}.keeve-mix.json"' in file.headers["content-disposition"]
    before = set(client.get("/api/mixes").json())
    assert "Gable base, ours" in bring(client, token, file.content).text
    (fresh,) = set(client.get("/api/mixes").json()) - before
    sent, arrived = (client.get(f"/api/mixes/{k}").json()["mix"] for k in (key, fresh))
    assert sent | {"key": ""} == arrived | {"key": ""}
    by_api = client.post("/api/mixes", json=json.loads(file.content), headers={"x-keeve-token": token})
    assert by_api.status_code == 201
    assert by_api.json()["key"] in client.get("/api/mixes").json()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "not a mix that Keeve can read"),
        (b"PK\x03\x04 a sheet", "not a mix that Keeve can read"),
        (b'{"keeve_mix": 99, "mix": {}}', "not a mix that Keeve can read"),
        (b"[" * 4000, "not a mix that Keeve can read"),
    ],
)
def test_a_file_that_is_no_mix_is_refused_and_the_way_out_is_said(
    client: TestClient, token: str, content: bytes, words: str
) -> None:
    before = client.get("/api/mixes").json()
    answer = bring(client, token, content, "<b>mix</b>.json")
    assert answer.status_code == 422
    assert words in answer.text
    assert PROSE["ask-for-the-file"] in answer.text
    assert "<b>mix" not in answer.text
    assert client.get("/api/mixes").json() == before


def test_bringing_needs_the_token_of_this_visitor(client: TestClient, token: str) -> None:
    assert token
    assert bring(client, "made-up", b"{}").status_code == 403


def test_another_crew_sees_nothing_of_it(client: TestClient, token: str, database_url: str) -> None:
    key = copy(client, token, "pervious")
    client.post("/book/own/sands", data={"token": token, "name": "Pit"})
    others = make_app(Settings(database_url=database_url, secret="for tests", crew="Another yard"))
    with TestClient(others, base_url="http://127.0.0.1") as stranger:
        assert key not in stranger.get("/api/mixes").json()
        assert stranger.get(f"/book/{key}", headers=HTML).status_code == 404
        assert stranger.get(f"/book/{key}/change", headers=HTML).status_code == 404
        assert PROSE["no-sand-sieved-yet"] in stranger.get("/book/own/sands").text
        refused = stranger.post("/api/plan", json={"mix": key, "shapes": [slab()]})
        assert PROSE["there-is-no-mix"] in refused.json()["faults"][0]["sentence"]


def can(**more: str) -> dict[str, str]:
    label = {
        "name": "Slow set",
        "form": "liquid",
        "density_kg_l": "1,15",
        "solids_percent": "30",
        "least": "200",
        "most": "400",
        "unit": "mL/100 kg",
        "when": "in the water",
        "chloride": "",
    }
    return label | more


def new_can(client: TestClient, token: str) -> str:
    made = client.post("/book/own/admixtures", data={"token": token, "name": "Slow set"}, follow_redirects=False)
    return str(made.headers["location"])


def test_the_crews_own_can_stands_in_every_job_and_brings_its_water(client: TestClient, token: str) -> None:
    address = new_can(client, token)
    keep = {"sheet": can(), "base": {}, "version": 1}
    assert client.put(f"{address}/entry", json=keep, headers={"x-keeve-token": token}).status_code == 200
    key = address.rsplit("/", 1)[1]
    wanted = {
        "mix": "concrete-1-2-4",
        "shapes": [slab()],
        "admixtures": [{"admixture": key, "dose": "300 mL/100 kg"}],
    }
    (card, *_) = client.post("/api/plan", json=wanted).json()["cards"]
    cement_kg = next(d["dry_kg"] for d in card["doses"] if d["role"] == "cement")
    (dose,) = card["admixtures"]
    assert dose["volume_l"] == pytest.approx(0.3 * cement_kg / 100)
    assert dose["water_l"] == pytest.approx(dose["volume_l"] * 1.15 * 0.7)
    client.post(f"{address}/away", data={"token": token})
    assert "Slow set" not in client.get("/book/own/admixtures").text
    client.post(f"{address}/back", data={"token": token})
    assert "Slow set" in client.get("/book/own/admixtures").text


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"density_kg_l": "115"}, "at most"),
        ({"solids_percent": "130"}, "at most"),
        ({"least": "900"}, "least dose is more than the most"),
        ({"most": ""}, "still to be filled in"),
        ({"most": "a cup"}, "cannot be read"),
        ({"name": " "}, "still to be filled in"),
    ],
)
def test_a_label_copied_wrong_is_said_and_stays_as_typed(
    client: TestClient, token: str, wrong: dict[str, str], words: str
) -> None:
    address = new_can(client, token)
    answer = client.post(f"{address}/try", json=can(**wrong))
    assert answer.status_code == 422
    assert words in answer.json()["faults"][0]["sentence"]
    keep = {"sheet": can(**wrong), "base": {}, "version": 1}
    assert client.put(f"{address}/entry", json=keep, headers={"x-keeve-token": token}).status_code == 200
    page = client.get(address).text
    for value in (can() | wrong).values():
        assert not value.strip() or value in page


SHEET = {
    "name": "Pit sand",
    "envelope": "c33-fine",
    "rows": [
        {"sieve_mm": mm, "first": kept}
        for mm, kept in (("9.5", "0"), ("4.75", "20"), ("2.36", "80"), ("1.18", "150"), ("0.6", "250"), ("0.3", "300"), ("0.15", "150"))
    ],
    "first_pan_g": "50",
}  # fmt: skip


def test_a_sand_is_sieved_on_paper_and_its_fineness_serves_a_designed_mix(client: TestClient, token: str) -> None:
    began = client.post("/book/own/sands", data={"token": token, "name": "Pit sand"}, follow_redirects=False)
    address = began.headers["location"].split("127.0.0.1")[1]
    answer = client.post(f"{address}/try", json=SHEET)
    # By hand: kept on the series, summed: 2 + 10 + 25 + 50 + 80 + 95 = 262 percent.
    assert "2.62" in answer.text
    assert client.put(f"{address}/entry", json={"sheet": SHEET}, headers={"x-keeve-token": token}).status_code == 200
    assert "2.62" in client.get("/book/own/sands").text
    job = new_job(client, token)
    keep(client, token, job, mix="concrete-designed")
    assert "2.62" in client.get(f"{job}/mix").text
    assert client.post("/api/sand", json=SHEET).json()["first"]["fineness"]["result"] == pytest.approx(2.62)


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"envelope": "moon"}, "There is no such envelope"),
        ({"rows": []}, "Nothing was weighed yet"),
        ({"rows": SHEET["rows"][:2]}, "at least 3 sieves"),
        ({"first_sample_g": "1500"}, "sample"),
        ({"stated": "passing %"}, "passes"),
        ({"rows": [{"sieve_mm": "4.75", "first": "heavy"}]}, "cannot be read"),
    ],
)
def test_a_sieve_sheet_that_cannot_be_is_said(client: TestClient, more: dict[str, Any], words: str) -> None:
    answer = client.post("/api/sand", json=SHEET | more)
    said = answer.text if answer.status_code == 422 else " ".join(str(words) for words in answer.json()["warnings"])
    assert words in said


def test_the_scale_is_judged_by_the_api(client: TestClient) -> None:
    good = client.post("/api/weighed", json={"role": "cement", "wanted_kg": 25, "weighed": "25.2 kg"}).json()
    assert good["good"]
    assert good["percent"] == pytest.approx(0.8)
    slip = client.post("/api/weighed", json={"role": "cement", "wanted_kg": 25, "weighed": "2.5"})
    assert slip.status_code == 422
    assert PROSE["about-ten-times-off"] in slip.json()["faults"][0]["sentence"]


def test_two_mixes_are_set_side_by_side_in_the_readers_units(client: TestClient, token: str) -> None:
    client.post("/units", data={"units": "us", "token": token})
    text = client.get("/book/concrete-1-2-4?with=pervious", headers=HTML).text
    rows = dict(re.findall(r'<th scope="row">([^<]+)</th><td>([^<]*)</td>', text))
    # 295 kg to the cubic metre are 497 lb to the cubic yard (x 1.6856); 2361 kg/m³ are 147 lb/ft³.
    assert float(rows["Portland cement, in 1 yd³"].removesuffix(" lb")) == pytest.approx(295 * 1.6856, rel=0.005)
    assert float(rows["Fresh density"].removesuffix(" lb/ft³")) == pytest.approx(147.4, abs=0.2)
    assert "Air" in rows
    assert re.search(r"<td>–</td>", text)  # what one of the two has not


def test_a_mix_set_beside_itself_or_beside_nothing_is_shown_alone(client: TestClient) -> None:
    for other in ("pervious", "moon-dust", ""):
        text = client.get(f"/book/pervious?with={other}&gauge=thimble", headers=HTML).text
        assert "beside-table" not in text
        assert PROSE["how-it-is-mixed"] in text


def test_a_gauge_of_ones_choice_changes_the_gauges_and_not_the_masses(client: TestClient) -> None:
    gauges = re.findall(
        r'<option value="([^"]+)"', client.get("/book/concrete-1-2-4", headers=HTML).text.split('name="gauge"')[1]
    )
    pages = [shown(client.get(f"/book/concrete-1-2-4?gauge={key}", headers=HTML).text) for key in gauges[:3]]
    assert len(set(pages)) == 3
    assert all("295 kg" in page for page in pages)


def test_a_sand_put_away_leaves_the_list_and_unknown_ones_are_not_here(client: TestClient, token: str) -> None:
    began = client.post(
        "/book/own/sands", data={"token": token, "name": "Dune", "series": "european"}, follow_redirects=False
    )
    address = began.headers["location"].split("127.0.0.1")[1]
    page = client.get(address).text
    assert 'value="0.063"' in page
    assert "Dune" in client.get("/book/own/sands").text
    client.post(f"{address}/away", data={"token": token})
    assert "Dune" not in client.get("/book/own/sands").text
    assert client.get("/book/own/sands/own-nothing", headers=HTML).status_code == 404


def test_a_sand_typed_wrong_is_kept_as_typed(client: TestClient, token: str) -> None:
    began = client.post("/book/own/sands", data={"token": token}, follow_redirects=False)
    address = began.headers["location"].split("127.0.0.1")[1]
    wrong = {"name": "Pit", "rows": [{"sieve_mm": "4.75", "first": "heavy"}]}
    refused = client.post(f"{address}/try", json=wrong)
    assert refused.json()["faults"][0]["field"] == "rows.0.first"
    client.put(f"{address}/entry", json={"sheet": wrong}, headers={"x-keeve-token": token})
    page = client.get(address).text
    assert 'value="heavy"' in page
    assert "cannot be read" in page


def test_two_who_change_one_mix_or_one_sand_test_both_keep_what_they_typed(client: TestClient, token: str) -> None:
    key = copy(client, token, "cement-mortar-1-3")
    began = client.post("/book/own/sands", data={"token": token, "name": "Pit"}, follow_redirects=False)
    sand = began.headers["location"].split("127.0.0.1")[1]
    for address, page in ((f"/book/{key}", f"/book/{key}/change"), (sand, sand)):
        version = int(re.findall(r'data-version="(\d+)"', client.get(page).text)[0])

        def write(sheet: dict[str, Any], address: str = address, version: int = version) -> dict[str, Any]:
            body = {"sheet": sheet, "base": {"name": "Before"}, "version": version}
            return dict(client.put(f"{address}/entry", json=body, headers={"x-keeve-token": token}).json())

        assert write({"name": "Before", "use": "walls"})["sheet"] is None
        second = write({"name": "Mine"})
        assert second["sheet"] == {"name": "Mine", "use": "walls"}
        assert second["version"] == version + 2
        assert second["clashes"] == []
