"""Files nobody sane would send: always a page with a sentence, never a trace, and the list untouched."""

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keeve.core.message.errors import TradeError
from keeve.formats.reading.shape_list import COLUMNS, check_row, read_csv, rows_of, write_csv
from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job

cells = st.dictionaries(
    st.sampled_from([*COLUMNS]),
    st.text(max_size=12) | st.sampled_from(["4 m", "95 ± 5", "slab", "-1", "1e999", "=1+1", "½"]),
    max_size=6,
)


@given(st.binary(max_size=300))
def test_no_bytes_break_the_reader_of_lists(data: bytes) -> None:
    try:
        said = str(read_csv(data))
    except TradeError as error:
        said = error.faults[0].sentence  # type: ignore[assignment]
    assert said


@given(cells, st.sampled_from(["slab", "floor", "stair", "masonry", "depths", "known", "moon", ""]))
def test_no_row_breaks_the_check_of_rows(row: dict[str, str], kind: str) -> None:
    for fault in check_row(row | {"kind": kind}):
        assert fault.sentence
        assert fault.field in COLUMNS or fault.field.split(".")[0] in (*COLUMNS, "unsure", "")


@given(
    st.lists(
        st.one_of(st.none(), st.integers(), st.text(max_size=4), cells.map(lambda row: row | {"kind": "slab"})),
        max_size=5,
    )
)
def test_whatever_a_sheet_holds_can_be_written_out(shapes: list[Any]) -> None:
    rows = rows_of(shapes)
    text = write_csv(rows)
    assert text.startswith("\ufeff")
    assert len(rows) == sum(isinstance(s, dict) for s in shapes)


JUNK = [
    {},
    {"many": "-3"},
    {"many": "9999999", "take": ["0"]},
    {"many": "x", "take": ["y"]},
    {"many": "2", "take": ["7", "-1", "1"], "1.kind": "slab"},
    {"many": "1", "take": ["0"], "0.kind": "<script>", "0.note": "<b>"},
    {"many": "1", "take": ["0"], "0.kind": "slab", "0.length_mm": "9" * 500, "0.width_mm": "1", "0.depth_mm": "1", "do": "take"},
]  # fmt: skip


@pytest.mark.parametrize("form", JUNK)
@pytest.mark.parametrize("where", ["take", "drawing"])
def test_no_form_breaks_the_preview_or_takes_anything_in(
    client: TestClient, token: str, form: dict[str, Any], where: str
) -> None:
    job = new_job(client, token)
    keep(client, token, job, shapes=[slab(note="Stays")])
    answer = client.post(f"{job}/import/{where}", data=form | {"token": token}, headers=PAGE)
    assert answer.status_code in (200, 422)
    assert "Traceback" not in answer.text
    assert "<script>" not in answer.text.replace('<script type="application/json"', "").replace("<script defer", "")
    assert "<b>" not in answer.text
    assert client.get(f"{job}/list.csv").text.count("\n") == 2


def test_a_list_that_would_overfill_the_job_is_refused_whole(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job, shapes=[slab() for _ in range(199)])
    rows = {f"{i}.{name}": value for i in range(2) for name, value in (("kind", "known"), ("volume_l", "3"))}
    form = {"token": token, "many": "2", "take": ["0", "1"], "do": "take"} | rows
    answer = client.post(f"{job}/import/take", data=form, headers=PAGE)
    assert PROSE["a-job-holds-200"] in answer.text
    assert client.get(f"{job}/list.csv").text.count("\n") == 200


def test_a_hole_in_an_outline_that_is_not_there_is_nobodys(client: TestClient, token: str) -> None:
    floor = {"layer": "A", "corners": [[0, 0], [4, 0], [4, 3]], "area": 6}
    text = json.dumps({"unit": "m", "left_out": 0, "loops": [floor, floor | {"hole_in": 7}, floor | {"hole_in": -3}]})
    form = {"token": token, "outlines": text, "take": ["0"], "unit": "m", "depth": "75 mm"}
    page = client.post(f"{new_job(client, token)}/import/drawing", data=form, headers=PAGE)
    assert PROSE["every-row-can-be"] in page.text
    assert "0.holes" not in page.text


OUTLINES = st.fixed_dictionaries(
    {"unit": st.sampled_from([None, "mm", "parsec"]), "left_out": st.integers(-1, 3)},
    optional={"loops": st.lists(st.dictionaries(st.sampled_from(["layer", "corners", "area", "hole_in"]), st.integers()), max_size=2)},
)  # fmt: skip


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=25)
@given(OUTLINES)
def test_a_drawing_changed_on_the_way_is_asked_for_again(
    client: TestClient, token: str, outlines: dict[str, Any]
) -> None:
    job = new_job(client, token)
    form = {"token": token, "outlines": json.dumps(outlines), "take": ["0"], "unit": "mm", "depth": "9"}
    answer = client.post(f"{job}/import/drawing", data=form, headers=PAGE)
    assert answer.status_code in (200, 422)
    assert "Traceback" not in answer.text
