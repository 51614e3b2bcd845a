"""Lists and drawings as people really send them."""

import zipfile
from pathlib import Path

import ezdxf
import openpyxl
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from keeve.core.message.errors import TakeoffError
from keeve.core.message.said import plain
from keeve.formats.reading.dxf_outlines import read_dxf, row_of
from keeve.formats.reading.shape_list import (
    COLUMNS,
    MODELS,
    check_row,
    read_csv,
    read_xlsx,
    shape_of,
    write_csv,
    write_xlsx,
)
from tests.prose import PROSE

SLAB = {"kind": "slab", "note": "Floor", "length_mm": "4,2 m", "width_mm": "3 m", "depth_mm": "95 ± 5"}


@pytest.mark.parametrize(
    "text",
    [
        "kind,note,length_mm,width_mm,depth_mm\nslab,Floor,\"4,2 m\",3 m,95 ± 5\n",
        "kind;note;length_mm;width_mm;depth_mm\nslab;Floor;4,2 m;3 m;95 ± 5\n",
        "kind\tnote\tlength_mm\twidth_mm\tdepth_mm\nslab\tFloor\t4,2 m\t3 m\t95 ± 5\n",
        "\ufeffKind;Note;Length mm;Width mm;Depth mm\r\n\r\nslab;Floor;4,2 m;3 m;95 ± 5\r\n;;;;\r\n",
    ],
    ids=["comma", "semicolon", "tab", "mark and empty rows"],
)  # fmt: skip
def test_a_list_is_read_whatever_separates_it(text: str) -> None:
    (row,) = read_csv(text.encode())
    assert row == SLAB
    assert shape_of(row).volume()[0] == pytest.approx(4.2 * 3 * 0.095)


def test_a_list_in_an_old_code_page_is_read() -> None:
    (row,) = read_csv("kind;note;volume_l\nknown;Türsturz;18\n".encode("cp1252"))
    assert row["note"] == "Türsturz"


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "is empty"),
        (b"\n \n", "is empty"),
        (b"4 m;3 m;95\n", "no .kind."),
        (b"kind;weight_of_the_cat\nslab;3\n", "weight_of_the_cat"),
        (b"kind;note\n", "and then ends"),
        (b"kind;volume_l\n" + b"known;1\n" * 201, "more than 200 rows"),
        (b"\x89PNG\r\n\x1a\n\0\0\0", "no text file"),
    ],
)
def test_a_list_that_cannot_be_is_refused_whole(data: bytes, words: str) -> None:
    with pytest.raises(TakeoffError, match=words):
        read_csv(data)


@pytest.mark.parametrize(
    ("row", "field", "words"),
    [
        ({"kind": "slab", "length_mm": "four"}, "length_mm", "cannot be read"),
        ({"kind": "slab", "length_mm": "4 m", "width_mm": "3 m"}, "depth_mm", "still to be filled in"),
        ({"kind": "dome"}, "kind", "no kind of shape"),
        ({}, "kind", "no kind of shape"),
        ({"kind": "known", "volume_l": "3", "depth_mm": "3"}, "depth_mm", "has no"),
        ({"kind": "floor", "corners": "0 0; 2 2; 2 0; 0 2", "depth_mm": "75"}, "corners", "crosses itself"),
        ({"kind": "known", "volume_l": "3", "count": "many"}, "count", "whole number"),
    ],
)
def test_a_bad_row_says_its_cell(row: dict[str, str], field: str, words: str) -> None:
    faults = check_row(row)
    assert [f.field for f in faults if words in plain(f.sentence)] == [field]


def test_what_is_written_comes_back(tmp_path: Path) -> None:
    rows = [SLAB, {"kind": "floor", "corners": "0 0; 4 0; 4 3", "unit": "m", "depth_mm": "75", "count": "2"},
            {"kind": "known", "note": "=HYPERLINK(1)", "volume_l": "18"}]  # fmt: skip
    assert read_csv(write_csv(rows).encode()) == rows
    path = tmp_path / "list.xlsx"
    path.write_bytes(write_xlsx(rows))
    assert read_xlsx(path) == rows
    # No spreadsheet may take a note for a formula.
    assert "'=HYPERLINK" in write_csv(rows)
    assert all(cell.data_type in ("s", "n") for line in openpyxl.load_workbook(path).worksheets[0] for cell in line)


NOTES = st.text(st.characters(blacklist_categories=("Cs", "Cc", "Cf")) | st.sampled_from("';,=+-@\" "), max_size=30)


@example(["'0", "''=1", "'.5; '=2"])
@given(st.lists(NOTES, min_size=1, max_size=4))
def test_notes_survive_the_way_out_and_in(notes: list[str]) -> None:
    rows = [{"kind": "known", "note": note.strip(), "volume_l": "1"} for note in notes if note.strip()]
    if rows:
        assert read_csv(write_csv(rows).encode()) == rows


@given(NOTES, st.sampled_from(";,\t|"))
def test_no_cell_begins_a_formula_whatever_a_spreadsheet_parts_cells_at(note: str, separator: str) -> None:
    text = write_csv([{"kind": "known", "note": note, "volume_l": "1"}])
    for line in text.splitlines():
        for cell in line.split(separator):
            assert cell.strip('\ufeff" \t\xa0')[:1] not in set("=+-@"), cell


@pytest.mark.parametrize("letter", ["\x07", "\x1b", "\u202e", "\x00", "\ufffe\u2066"])
def test_letters_that_cannot_be_kept_are_told_with_their_row(letter: str, tmp_path: Path) -> None:
    with pytest.raises(TakeoffError, match=PROSE["this-is-no-text"]):
        read_csv(f"kind;note;volume_l\nknown;good;18\nknown;b{letter}d;18\n".encode())
    if letter.isprintable() or letter in "\u202e":
        path = tmp_path / "list.xlsx"
        path.write_bytes(write_xlsx([{"kind": "known", "note": f"b{letter}d", "volume_l": "18"}]))
        with pytest.raises(TakeoffError, match="Row 2 holds letters"):
            read_xlsx(path)


def test_numbers_and_formulas_of_a_workbook(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.append(["kind", "diameter_mm", "height_mm", "count"])
    sheet.append(["cylinder", 300, 900.5, 2])
    book.save(tmp_path / "plain.xlsx")
    (row,) = read_xlsx(tmp_path / "plain.xlsx")
    assert shape_of(row).model_dump()["height_mm"] == pytest.approx(900.5)
    sheet.append(["cylinder", "=2*150", 900, 1])
    book.save(tmp_path / "formula.xlsx")
    with pytest.raises(TakeoffError, match=PROSE["row-3-column-2"]):
        read_xlsx(tmp_path / "formula.xlsx")


def test_a_workbook_that_unpacks_to_a_flood_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "bomb.xlsx"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * 80_000_000)
    assert path.stat().st_size < 100_000
    with pytest.raises(TakeoffError, match=PROSE["unpacks-to-far-more"]):
        read_xlsx(path)
    path.write_bytes(b"PK\x03\x04 no")
    with pytest.raises(TakeoffError, match="no workbook"):
        read_xlsx(path)


def test_every_column_belongs_to_a_kind() -> None:
    for kind, model in MODELS.items():
        assert {n for n, f in model.model_fields.items() if f.is_required()} <= set(COLUMNS), kind


def drawing(folder: Path, unit: int = 4) -> Path:
    made = ezdxf.new()
    made.header["$INSUNITS"] = unit
    space = made.modelspace()
    space.add_lwpolyline(
        [(0, 0), (4200, 0), (4200, 3100), (2000, 3100), (2000, 5000), (0, 5000)],
        close=True,
        dxfattribs={"layer": "FLOOR"},
    )
    space.add_lwpolyline(
        [(500, 500), (1200, 500), (1200, 1200), (500, 1200)], close=True, dxfattribs={"layer": "FLOOR"}
    )
    space.add_circle((6000, 1000), 300, dxfattribs={"layer": "PIER"})
    space.add_lwpolyline([(5000, 3000), (6000, 3000), (6000, 4000)], dxfattribs={"layer": "WALL"})
    space.add_lwpolyline([(7000, 3000, 0, 0, 1), (8000, 3000, 0, 0, 1)], close=True, dxfattribs={"layer": "ROUND"})
    space.add_lwpolyline([(0, 6000), (1000, 7000), (1000, 6000), (0, 7000)], close=True, dxfattribs={"layer": "KNOT"})
    hatch = space.add_hatch(dxfattribs={"layer": "PAD"})
    hatch.paths.add_polyline_path([(5000, -2000), (6000, -2000), (6000, -1000), (5000, -1000)], is_closed=True)
    space.add_line((0, 0), (1, 1))
    path = folder / "plan.dxf"
    made.saveas(path)
    return path


def test_outlines_of_a_drawing(tmp_path: Path) -> None:
    found = read_dxf(drawing(tmp_path))
    assert found.unit == "mm"
    assert found.left_out == 1
    by_layer = {loop.layer: loop for loop in found.loops if loop.hole_in is None}
    # By hand: 4.2 x 3.1 + 2 x 1.9 m² less 0.7 x 0.7.
    assert [loop.hole_in for loop in found.loops[:2]] == [None, 0]
    floor = shape_of(row_of(found, 0, "mm", "100 mm"))
    assert floor.volume()[0] == pytest.approx((4.2 * 3.1 + 2 * 1.9 - 0.49) * 0.1)
    pier = shape_of(row_of(found, 2, "mm", "1 m"))
    assert pier.kind == "cylinder"
    assert pier.diameter_mm == pytest.approx(600)
    assert by_layer["ROUND"].area == pytest.approx(3.14159 / 4 * 1e6, rel=1e-3)  # two half circles as bulges
    assert by_layer["PAD"].area == pytest.approx(1e6)
    assert "gap of 1414 between 5000, 3000 and 6000, 4000" in plain(by_layer["WALL"].wrong)
    assert "crosses itself" in plain(by_layer["KNOT"].wrong)


def test_a_drawing_without_a_unit_says_none_and_another_is_no_drawing(tmp_path: Path) -> None:
    assert read_dxf(drawing(tmp_path, unit=0)).unit is None
    bad = tmp_path / "bad.dxf"
    bad.write_bytes(b"a cat\n" * 30)
    with pytest.raises(TakeoffError, match=r"no DXF drawing|no closed outline"):
        read_dxf(bad)
    empty = ezdxf.new()
    empty.saveas(tmp_path / "empty.dxf")
    with pytest.raises(TakeoffError, match=PROSE["no-closed-outline"]):
        read_dxf(tmp_path / "empty.dxf")


def test_the_page_about_lists_names_every_column() -> None:
    page = (Path(__file__).parents[2] / "docs" / "lists.md").read_text(encoding="utf-8")
    lines = {line.split("`")[1]: line for line in page.splitlines() if line.startswith("| `")}
    assert set(lines) == set(MODELS)
    for kind, model in MODELS.items():
        _, _, must, may, _ = lines[kind].split("|")
        named = {name: (must if field.is_required() else may) for name, field in model.model_fields.items()}
        for name, cell in named.items():
            if name in COLUMNS and name not in ("kind", "note", "group", "count", "waste_percent"):
                assert f"`{name}`" in cell, f"{kind}: {name}"
