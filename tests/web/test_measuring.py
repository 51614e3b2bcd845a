"""The Measure station, lists, drawings and models as a browser's requests; hostile files and careless hands."""

import functools
import io
import re
import tempfile
import time
from pathlib import Path
from typing import Any

import ezdxf
import pytest
import trimesh
from fastapi.testclient import TestClient

from keeve.formats.reading.bounded import BoundedReader
from keeve.web.edge import bounds
from keeve.web.pages.shape_forms import FORMS, GROUPS
from keeve.web.ways_in.imports import models
from tests.conftest import slab
from tests.core.takeoff.test_shapes import BY_HAND, SHAPES
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job

CSV = b"kind;note;length_mm;width_mm;depth_mm\nslab;Path;4,2 m;0,9 m;100\nslab;Apron;four;3 m;95\n"


@pytest.fixture
def job(client: TestClient, token: str) -> str:
    return new_job(client, token)


def shapes_of(client: TestClient, job: str) -> list[Any]:
    text = client.get(f"{job}/list.csv").text
    return text.lstrip("\ufeff").splitlines()[1:]


@pytest.mark.parametrize(("kind", "fields", "_"), BY_HAND, ids=[f"{k}-{i}" for i, (k, _, _) in enumerate(BY_HAND)])
def test_every_shape_is_drawn_to_scale_and_its_form_keeps_what_was_typed(
    client: TestClient, token: str, job: str, kind: str, fields: dict[str, Any], _: float
) -> None:
    keep(client, token, job, shapes=[{"kind": kind} | fields])
    text = client.get(f"{job}/measure").text
    assert "shape-drawing" in text
    assert PROSE["worth-measuring-again"] in text or kind in ("weighed", "scan")
    for name, value in fields.items():
        if isinstance(value, str) and not name.startswith(
            ("read_at", "section", "ground", "by", "tub", "filled", "cast", "unit")
        ):
            shown = value.removesuffix(" m").removesuffix(" m²")
            assert f'value="{shown}"' in text, name


def test_every_kind_of_shape_has_a_form_and_every_field_of_a_form_is_one_of_its_shape() -> None:
    kinds = {
        s["properties"]["kind"]["const"]: s for s in SHAPES.json_schema()["$defs"].values() if "kind" in s["properties"]
    }
    assert set(kinds) == set(FORMS)
    for _, forms in GROUPS:
        for form in forms:
            assert {ask.name for ask in form.asks} <= set(kinds[form.kind]["properties"])
            asked = {ask.name for ask in form.asks} | {"kind"}
            if form.kind not in ("mould", "scan"):
                assert set(kinds[form.kind].get("required", [])) <= asked


def test_what_cannot_be_is_drawn_in_warning_and_what_cannot_be_read_is_not(client: TestClient) -> None:
    shapes = [
        {"kind": "bored_hole", "diameter_mm": 100, "depth_mm": 500, "post": "square", "post_mm": 300},
        {"kind": "tube", "outer_mm": 100, "inner_mm": 300, "height_mm": 90},
        {"kind": "ball", "diameter_mm": 100, "height_mm": 300},
        {"kind": "slab", "depth_mm": "?"},
        "x",
        slab(),
    ]
    text = client.post("/jobs/x/answer?view=measure", json={"shapes": shapes}).json()["drawn"]
    drawn = text.split("<div data-drawing>")[1:]
    assert ["wrong" in one for one in drawn] == [True, True, True, False, False, False]
    assert ["<svg" in one for one in drawn] == [True, True, True, True, False, True]
    assert ["sketch" in one for one in drawn] == [
        False,
        False,
        False,
        True,
        False,
        False,
    ]  # not measured yet: by letters
    assert client.post("/jobs/x/answer?view=measure", json={"shapes": "x"}).json()["drawn"] == ""
    assert "drawn" not in client.post("/jobs/x/answer?view=loads", json={"shapes": shapes}).json()


def test_the_answer_says_what_to_measure_again_and_how_far_it_goes(client: TestClient) -> None:
    sheet = {
        "mix": "concrete-1-2-4",
        "mixer": "drum-site",
        "shapes": [
            slab(6000, 4000, 80, note="Floor") | {"depth_mm": "80 ± 5"},
            {"kind": "known", "volume_l": 9, "off": True},
        ],
        "at_hand_bags": 10,
    }
    text = re.sub(r"<[^>]+>", "", client.post("/jobs/x/answer?view=measure", json=sheet).json()["answer"])
    text = " ".join(text.split())
    # By hand: 24 m² x 5 mm is 0.12 m³; a 25 kg bag makes 84.7 L, ten of them less a tenth cover 9.6 m² of 80 mm.
    assert PROSE["depth-mean-floor-5"] in text
    assert PROSE["10-bags-make-0"] in text
    assert "9.6" in text.split(PROSE["if-all-of-it"])[1]
    assert PROSE["1-is-switched-off"] in text


def test_the_api_measures_too(client: TestClient) -> None:
    sheet = {"mix": "concrete-1-2-4", "shapes": [slab(6000, 4000, "80 ± 5")], "at_hand_l": 66}
    found = client.post("/api/take-off", json=sheet).json()
    assert found["need"]["net_m3"] == pytest.approx(1.92)
    assert found["sureness"]["decisive"]["field"] == "depth_mm"
    assert found["sureness"]["decisive"]["volume_m3"] == pytest.approx(0.12)
    assert found["reach"]["rows"][0]["area_m2"] == pytest.approx(0.06 / 0.08)  # 66 L less a tenth over 80 mm


def send(client: TestClient, token: str, job: str, content: bytes, name: str) -> Any:
    files = {"file": (name, content, "application/octet-stream")}
    return client.post(f"{job}/import", data={"token": token}, files=files, headers=PAGE)


def test_a_list_is_looked_at_put_right_and_only_then_taken_in(client: TestClient, token: str, job: str) -> None:
    keep(client, token, job, shapes=[slab()])
    page = send(client, token, job, CSV, "list.csv")
    assert PROSE["1-row-is-not"] in page.text
    assert PROSE["cannot-be-read"] in page.text
    assert len(shapes_of(client, job)) == 1
    rows = {
        "token": token, "many": "2", "take": ["0", "1"],
        "0.kind": "slab", "0.note": "Path", "0.length_mm": "4,2 m", "0.width_mm": "0,9 m", "0.depth_mm": "100",
        "1.kind": "slab", "1.note": "Apron", "1.length_mm": "four", "1.width_mm": "3 m", "1.depth_mm": "95",
    }  # fmt: skip
    still = client.post(f"{job}/import/take", data=rows | {"do": "take"}, headers=PAGE)
    assert PROSE["1-row-is-not"] in still.text
    assert 'value="four"' in still.text
    assert len(shapes_of(client, job)) == 1
    left = client.post(f"{job}/import/take", data=rows | {"do": "take", "take": ["0"]}, headers=PAGE)
    assert left.status_code == 200
    assert len(shapes_of(client, job)) == 2
    good = rows | {"do": "take", "take": ["1"], "1.length_mm": "4 m"}
    client.post(f"{job}/import/take", data=good, headers=PAGE)
    assert len(shapes_of(client, job)) == 3
    assert "Apron" in client.get(f"{job}/measure").text


@pytest.mark.parametrize(
    ("content", "name", "words"),
    [
        (b"", "list.csv", "is empty"),
        (b"PK\x03\x04", "list.xlsx", "no workbook"),
        (b"kind\n", "list.txt", "then ends"),
        (b"nonsense", "plan.dxf", "no DXF drawing"),
        (b"solid", "bust.stl", "Read a model"),
    ],
)
def test_a_file_that_cannot_be_read_is_refused_in_words(
    client: TestClient, token: str, job: str, content: bytes, name: str, words: str
) -> None:
    answer = send(client, token, job, content, name)
    assert answer.status_code == 422
    assert words in answer.text
    assert "Traceback" not in answer.text


def test_the_list_goes_out_and_comes_back_in(client: TestClient, token: str, job: str) -> None:
    keep(client, token, job, shapes=[slab(note="=1+1"), {"kind": "floor", "corners": "0 0; 4 0; 4 3", "depth_mm": 75}])
    for name in ("list.csv", "list.xlsx"):
        out = client.get(f"{job}/{name}")
        assert name in out.headers["content-disposition"]
        page = send(client, token, job, out.content, name)
        assert "2 rows read" in page.text
        assert PROSE["every-row-can-be"] in page.text


def dxf(unit: int) -> bytes:
    made = ezdxf.new()
    made.header["$INSUNITS"] = unit
    made.modelspace().add_lwpolyline([(0, 0), (4, 0), (4, 3), (0, 3)], close=True, dxfattribs={"layer": "Floor"})
    made.modelspace().add_lwpolyline([(1, 1), (2, 1), (2, 2), (1, 2)], close=True)
    out = io.StringIO()
    made.write(out)
    return out.getvalue().encode()


def test_a_drawing_without_its_unit_asks_for_it(client: TestClient, token: str, job: str) -> None:
    page = send(client, token, job, dxf(0), "plan.dxf").text
    assert PROSE["the-file-does-not"] in page
    outlines = re.search(r'name="outlines" value="([^"]+)"', page)
    assert outlines is not None
    form = {"token": token, "outlines": outlines[1].replace("&#34;", '"'), "take": ["0"], "depth": "75 mm", "unit": ""}
    asked = client.post(f"{job}/import/drawing", data=form, headers=PAGE).text
    assert "choose one" in asked
    rows = client.post(f"{job}/import/drawing", data=form | {"unit": "m"}, headers=PAGE).text
    assert 'value="0 0; 4 0; 4 3; 0 3"' in rows
    assert 'value="1 1; 2 1; 2 2; 1 2"' in rows
    assert PROSE["every-row-can-be"] in rows
    lost = client.post(f"{job}/import/drawing", data=form | {"outlines": "{"}, headers=PAGE)
    assert PROSE["read-the-file-in"] in lost.text


def mesh(**_: Any) -> bytes:
    return bytes(trimesh.creation.box((100, 80, 120)).export(file_type="stl"))


def follow(client: TestClient, key: str, most_s: float = 20) -> dict[str, Any]:
    ends = time.monotonic() + most_s
    while time.monotonic() < ends:
        state: dict[str, Any] = client.get(f"/models/{key}").json()
        if state["done"]:
            return state
        time.sleep(0.05)
    raise AssertionError("the reading never ended")


def put(client: TestClient, token: str, job: str, content: bytes, name: str = "bust.stl") -> Any:
    return client.put(f"{job}/models?name={name}", content=content, headers={"x-keeve-token": token})


def test_a_model_is_read_and_its_unit_asked(client: TestClient, token: str, job: str) -> None:
    sent = put(client, token, job, mesh())
    assert sent.status_code == 202
    state = follow(client, sent.json()["key"])
    by_unit = {choice["unit"]: choice for choice in state["choices"]}
    assert "100 mm × 80 mm × 120 mm, 960 mL" in by_unit["mm"]["said"]
    assert by_unit["mm"]["likely"]
    assert not by_unit["m"]["likely"]
    fields = by_unit["mm"]["fields"] | {"kind": "scan"}
    plan = client.post("/api/plan", json={"mix": "casting-plaster-70", "shapes": [fields]}).json()
    # By hand: (100 + 50) x (80 + 50) x (120 + 25) mm less 0.96 L.
    assert plan["net_m3"] == pytest.approx(0.15 * 0.13 * 0.145 - 0.00096)
    assert put(client, token, job, mesh(), "cat.gif").status_code == 422
    assert put(client, "made up", job, mesh()).status_code == 403
    assert client.get("/models/nothing").status_code == 404


def test_a_reading_is_stopped_by_the_person(client: TestClient, token: str, job: str, monkeypatch: Any) -> None:
    monkeypatch.setattr(models, "BoundedReader", functools.partial(BoundedReader, reader=HOSTILE))
    key = put(client, token, job, b"hang").json()["key"]
    assert client.delete(f"/models/{key}", headers={"x-keeve-token": token}).status_code == 204
    assert follow(client, key)["faults"][0]["sentence"] == "Stopped."


HOSTILE = (str(Path(__file__).parents[1] / "hostile_reader.py"),)


@pytest.mark.parametrize("what", ["hang", "swell"])
def test_a_model_that_hangs_or_swells_leaves_the_server_answering(
    client: TestClient, token: str, job: str, monkeypatch: Any, what: str
) -> None:
    monkeypatch.setattr(models, "BoundedReader", functools.partial(BoundedReader, reader=HOSTILE))
    monkeypatch.setattr(models, "MESH_SECONDS", 5.0)
    key = put(client, token, job, what.encode()).json()["key"]
    slowest = 0.0
    while not client.get(f"/models/{key}").json()["done"]:
        began = time.monotonic()
        answer = client.post("/api/plan", json={"mix": "concrete-1-2-4", "shapes": [slab()]})
        slowest = max(slowest, time.monotonic() - began)
        assert answer.status_code == 200
        time.sleep(0.1)
    assert slowest < 3
    assert follow(client, key)["faults"][0]["hint"]
    assert client.get("/healthz").status_code == 200


def test_only_so_many_models_are_read_at_once(client: TestClient, token: str, job: str, monkeypatch: Any) -> None:
    monkeypatch.setattr(models, "BoundedReader", functools.partial(BoundedReader, reader=HOSTILE))
    keys = [put(client, token, job, b"hang").json()["key"] for _ in range(models.MOST_AT_ONCE)]
    assert PROSE["being-read-just-now"] in put(client, token, job, b"hang").json()["faults"][0]["sentence"]
    for key in keys:
        client.delete(f"/models/{key}", headers={"x-keeve-token": token})


def test_what_is_too_big_is_turned_away_also_when_it_does_not_say_how_long_it_is(
    client: TestClient, token: str, job: str, monkeypatch: Any, tmp_path: Path
) -> None:
    def pieces() -> Any:
        for _ in range(30):
            yield b" " * 100_000

    assert client.post("/api/plan", content=pieces()).status_code == 413
    assert client.post("/api/plan", content=b" " * 3_000_000).status_code == 413
    assert client.put(f"{job}/sheet", content=pieces(), headers={"x-keeve-token": token}).status_code == 413
    monkeypatch.setattr(bounds, "MOST_MODEL_BYTES", 1_000_000)
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    headers = {"x-keeve-token": token}
    assert client.put(f"{job}/models?name=a.stl", content=pieces(), headers=headers).status_code == 413
    assert [one for one in tmp_path.rglob("*") if one.is_file()] == []  # nothing is left behind
    assert client.get("/").status_code == 200
