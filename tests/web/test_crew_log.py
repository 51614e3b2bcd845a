"""The batch log of a yard: loads of all jobs, found by words, two side by side."""

import csv
import io
import re

import openpyxl
from fastapi.testclient import TestClient

from tests.prose import PROSE
from tests.web.test_runs import Yard


def mixed(client: TestClient, token: str, name: str, *litres: float) -> Yard:
    yard = Yard(client, token)
    key = yard.job.rsplit("/", 1)[1]
    client.post(f"/jobs/{key}/name", data={"token": token, "name": name, "place": ""})
    yard.begin()
    for number, one in enumerate(litres):
        yard.phone.mix(number * 20, one, slot=number)
    yard.send()
    return yard


def test_loads_of_all_jobs_are_found_and_set_side_by_side(client: TestClient, token: str) -> None:
    assert PROSE["nothing-was-mixed-yet"] in client.get("/log").text
    mixed(client, token, "Sill", 9.1, 9.4)
    mixed(client, token, "Footing", 8.8)
    html = client.get("/log").text
    keys = re.findall(r'name="load" value="([^"]+)"', html)
    assert len(keys) == 3
    assert "9.40 L" in html
    only = client.get("/log", params={"find": "footing"}).text
    assert ("8.80 L" in only, "9.40 L" in only) == (True, False)
    assert PROSE["no-load-is-found"] in client.get("/log", params={"find": "<b>no</b>"}).text
    pair = client.get("/log", params={"load": keys[:2]}).text
    assert PROSE["two-loads-side-by"] in pair
    assert pair.count('class="differs"') >= 2
    assert PROSE["two-loads-side-by"] not in client.get("/log", params={"load": ["x", "y"]}).text
    assert PROSE["two-loads-side-by"] in client.get("/log", params={"load": keys}).text  # of three the first two


def test_a_note_stands_beside_its_load_and_finds_it_and_mixes_are_set_side_by_side(
    client: TestClient, token: str
) -> None:
    sill = mixed(client, token, "Sill", 9.1, 9.4, 9.2)
    mortar = Yard(client, token, mix="cement-mortar-1-3", mixer="drum-site")
    mortar.begin()
    for number in range(3):
        mortar.phone.mix(number * 20, 10.0, slot=number)
    mortar.send()
    sill.post("/notes", says="Tarp was off this morning", on_load="2")
    html = client.get("/log", params={"find": "tarp"}).text
    assert "Tarp was off this morning" in html
    assert len(re.findall(r'name="load" value="', html)) == 1
    whole = client.get("/log").text
    assert "By mix" in whole
    assert whole.count("Scatter") == 1  # one phone: nothing to set beside it


def test_the_log_goes_out_as_files_that_begin_no_formula(client: TestClient, token: str) -> None:
    sill = mixed(client, token, "=SUM(A1:A9)", 9.1, 9.4)
    mixed(client, token, "Footing", 8.8)
    sill.post("/notes", says="@home, +1 sip", on_load="2")
    rows = list(csv.DictReader(io.StringIO(client.get("/log.csv").content.decode("utf-8-sig"))))
    assert sorted((row["job"], row["water_poured_l"]) for row in rows) == [
        ("'=SUM(A1:A9)", "9.1"),
        ("'=SUM(A1:A9)", "9.4"),
        ("Footing", "8.8"),
    ]
    assert [row["notes"] for row in rows if row["notes"]] == ["'@home, '+1 sip"]  # nor where a comma would part cells
    told = client.get("/log.json", params={"find": "footing"}).json()
    assert [(one["job"], one["load"]) for one in told] == [("Footing", "1")]
    sheet = openpyxl.load_workbook(io.BytesIO(client.get("/log.xlsx").content)).active
    assert sheet is not None
    assert sheet.max_row == 4
    heads = [cell.value for cell in sheet[1]]
    poured = heads.index("water_poured_l")
    assert {row[poured].value for row in sheet.iter_rows(min_row=2)} == {9.1, 9.4, 8.8}
    assert client.get("/log.exe").status_code == 422
