"""The record of a job: its pages read back by a library of their own, its tables by others."""

import csv
import io

import openpyxl
import pypdfium2
from fastapi.testclient import TestClient

from tests.prose import PROSE
from tests.web.test_pages import new_job
from tests.web.test_proofs import Lab


def text_of(pdf: bytes) -> str:
    document = pypdfium2.PdfDocument(pdf)
    return "\n".join(page.get_textpage().get_text_range() for page in document)


def test_the_record_says_what_went_in_and_what_was_tested(client: TestClient, token: str) -> None:
    lab = Lab(client, token)
    lab.post("asked", mpa="30")
    key = lab.cast("K7", load="1")
    lab.post("result", of=key, found="33", by="stress", at="2026-10-12")
    answer = client.get(f"{lab.yard.job}/record.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    said = text_of(answer.content)
    for words in ("9.00 L", "Portland cement", "K7", "33.0 MPa", "1 load used", "Too few results to judge"):
        assert words in said, words
    assert len(pypdfium2.PdfDocument(answer.content)) <= 2


def test_its_loads_are_tables_that_others_read(client: TestClient, token: str) -> None:
    lab = Lab(client, token)
    rows = list(csv.DictReader(io.StringIO(client.get(f"{lab.yard.job}/record.csv").content.decode("utf-8-sig"))))
    assert [(row["load"], row["water_poured_l"], row["ended"]) for row in rows] == [("1", "9", "accepted")]
    sheet = openpyxl.load_workbook(io.BytesIO(client.get(f"{lab.yard.job}/record.xlsx").content)).active
    assert sheet is not None
    assert sheet["G2"].value == 9
    assert client.get(f"{lab.yard.job}/record.json").json()["accepted"] == 1


def test_before_the_first_load_there_is_none(client: TestClient, token: str) -> None:
    answer = client.get(f"{new_job(client, token)}/record.pdf")
    assert (answer.status_code, PROSE["nothing-was-mixed-yet-2"] in answer.text) == (422, True)
