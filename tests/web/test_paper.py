"""The ticket on paper and as files, read back by libraries that had no part in writing it; stock and buying."""

import csv
import io
import json
from typing import Any

import openpyxl
import pypdfium2
import pytest
import zxingcpp
from fastapi.testclient import TestClient
from weasyprint.urls import FatalURLFetchingError

from keeve.core.ticket.ticket import Ticket
from keeve.formats.writing.pdf import as_pdf
from keeve.web.edge.static_files import STATIC
from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job

SHEET = {"shapes": [slab()], "mix": "concrete-1-2-4", "mixer": "drum-site",
         "moisture_percent": {"sharp-sand": "5 %", "gravel-20": "1 %"}}  # fmt: skip


@pytest.fixture
def job(client: TestClient, token: str) -> str:
    made = new_job(client, token)
    keep(client, token, made, **SHEET)
    return made


def text_of(pdf: bytes) -> str:
    document = pypdfium2.PdfDocument(pdf)
    return " ".join(" ".join(page.get_textpage().get_text_bounded().split()) for page in document)


@pytest.mark.parametrize(("paper", "wide_mm"), [("a4", 210), ("a5", 148), ("letter", 215.9), ("roll", 80)])
def test_all_that_is_needed_stands_on_each_size_of_paper(
    client: TestClient, job: str, paper: str, wide_mm: float
) -> None:
    answer = client.get(f"{job}/ticket.pdf?paper={paper}")
    assert answer.headers["content-type"] == "application/pdf"
    document = pypdfium2.PdfDocument(answer.content)
    wide, high = document[0].get_size()
    assert wide / 72 * 25.4 == pytest.approx(wide_mm, abs=0.2)
    if paper == "roll":  # cut where it ends
        assert len(document) == 1
        assert high < 2000
    text = text_of(answer.content)
    plan = client.get(f"{job}/loads", headers=PAGE).text
    for words in ("Portland cement", "Sharp sand", "Gravel 20 mm", "Water to pour", "Must look like", "never past",
                  "Use within 90 min", "alkal", "Local code and licensed practice"):  # fmt: skip
        assert words.lower() in text.lower(), words
    for dose in json.loads(client.get(f"{job}/ticket.json").text)["cards"][0]["doses"]:
        fill = dose["fill"]
        if fill and dose["means"] == "marks" and fill["mark_down_mm"] > 3:
            assert f"{fill['mark_down_mm']:.0f} mm" in text
            assert f"{fill['mark_down_mm']:.0f} mm" in plan


def test_the_code_on_it_leads_to_the_run(client: TestClient, job: str) -> None:
    pdf = client.get(f"{job}/ticket.pdf").content
    image = pypdfium2.PdfDocument(pdf)[0].render(scale=3).to_numpy()
    (code,) = zxingcpp.read_barcodes(image)
    assert code.text == f"http://127.0.0.1{job}/mixer"


def test_nothing_on_paper_rests_on_colour(client: TestClient, job: str) -> None:
    image = pypdfium2.PdfDocument(client.get(f"{job}/ticket.pdf").content)[0].render(scale=1).to_numpy().astype(int)
    assert (abs(image[..., 0] - image[..., 1]) <= 3).all()
    assert (abs(image[..., 1] - image[..., 2]) <= 3).all()


@pytest.mark.parametrize("address", ["file:///etc/passwd", "http://127.0.0.1:1/x.css", "../render.py"])
def test_nothing_but_what_ships_is_put_on_paper(address: str) -> None:
    page = f'<html><head><link rel="stylesheet" href="{address}"></head><body>x</body></html>'
    with pytest.raises(FatalURLFetchingError, match=PROSE["only-what-ships"]):
        as_pdf(page, "a4", STATIC)


def test_hostile_names_are_letters_on_paper(client: TestClient, token: str, job: str) -> None:
    keep(client, token, job, **(SHEET | {"job": "<img src=/etc/passwd> & </style>", "place": "{{ 7*7 }}"}))
    text = text_of(client.get(f"{job}/ticket.pdf").content)
    assert "<img src=/etc/passwd> & </style>" in text
    assert "{{ 7*7 }}" in text


def test_the_ticket_as_a_file_says_what_the_plan_says(client: TestClient, job: str) -> None:
    ticket = Ticket.model_validate_json(client.get(f"{job}/ticket.json").content)
    rows = list(csv.DictReader(io.StringIO(client.get(f"{job}/ticket.csv").content.decode("utf-8-sig"))))
    assert sum(float(row["dry_kg"] or 0) for row in rows) == pytest.approx(
        sum(ticket.cards[load.card].dry_kg for load in ticket.loads), rel=1e-5
    )
    assert len(rows) == ticket.count * 4
    sheet = openpyxl.load_workbook(io.BytesIO(client.get(f"{job}/ticket.xlsx").content)).active
    assert sheet is not None
    assert sheet.max_row == len(rows) + 1
    assert sheet.cell(2, 4).value == pytest.approx(ticket.cards[0].doses[0].batch_kg, rel=1e-5)


def test_what_cannot_be_planned_has_no_paper_and_says_why(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    assert client.get(f"{job}/ticket.pdf").status_code == 422
    assert client.get(f"{job}/ticket.pdf?revision=3").status_code == 422
    assert client.get(f"{job}/ticket.doc").status_code == 422
    assert client.get(f"{job}/ticket.pdf?paper=a0").status_code == 422


def stocked(client: TestClient, token: str, **entry: Any) -> str:
    made = client.post("/stock", data={"material": entry["material"], "token": token}, follow_redirects=False)
    key = made.headers["location"].rsplit("/", 1)[1]
    kept = client.put(f"/stock/{key}/entry", json={"sheet": entry}, headers={"x-keeve-token": token})
    assert kept.status_code == 200
    return key


def test_stock_is_counted_priced_and_taken_off_the_list(client: TestClient, token: str, job: str) -> None:
    empty = client.get("/buying?spare=0", headers=PAGE).text
    assert "Portland cement" in empty
    stocked(
        client,
        token,
        material="portland-cement",
        pack_kg="25 kg",
        packs="2",
        opened_percent="50 %",
        price="10",
        currency="€",
    )
    rows = csv.DictReader(io.StringIO(client.get("/buying.csv?spare=0").content.decode("utf-8-sig")))
    cement = next(row for row in rows if row["material"] == "Portland cement")
    assert float(cement["in_stock_kg"]) == 62.5
    short = max(float(cement["needed_kg"]) - 62.5, 0)
    assert int(cement["packs"]) == -(-short // 25)
    assert float(cement["cost_bought"]) == int(cement["packs"]) * 10
    assert "€" in client.get("/buying", headers=PAGE).text
    assert "62.5 kg" in client.get("/stock", headers=PAGE).text
    assert "Portland cement" in text_of(client.get("/buying.pdf").content)
    assert client.get("/buying.xlsx").content.startswith(b"PK")


def test_a_price_without_a_currency_is_told_at_its_field_and_what_was_entered_stays(
    client: TestClient, token: str
) -> None:
    entry = {"material": "sharp-sand", "pack_kg": "850", "packs": "1", "price": "52"}
    key = stocked(client, token, **entry)
    tried = client.post(f"/stock/{key}/try", json=entry)
    assert tried.status_code == 422
    assert [fault["field"] for fault in tried.json()["faults"]] == ["currency"]
    page = client.get(f"/stock/{key}", headers=PAGE).text
    assert 'value="52"' in page
    client.post(f"/stock/{key}/away", data={"token": token})
    assert key not in client.get("/stock", headers=PAGE).text
