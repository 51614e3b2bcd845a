"""Sheets and files nobody sane would send, for tests and for a script: made from good ones, each spoilt somewhere."""

import copy
import io
import json
import random
import struct
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

import ezdxf

EXAMPLES: Final = sorted((Path(__file__).parents[1] / "examples").glob("*.json"))
LONG: Final = "9" * 5000
SPOILT: Final[tuple[Any, ...]] = (
    None, True, False, 0, -1, 1e308, -1e-308, 2**70, "", " ", "-", "0", "1e999", "-5", "1/0", "²", "½", "٣", "∞", "nan", LONG,
    "(" * 150, "1" + "+1" * 90, "4 m ± 9 m", "<script>alert(1)</script>", "{litres}", "{}", "%s%n", "../../etc/passwd",
    "'; drop table jobs; --", "ﷺ" * 40, "a\u0301" * 80, "\ufeff1", "own-none", [], {}, [[]], {"a": {"b": []}}, [1] * 60,
    {"kind": "slab"}, ["x"] * 40, "2026-13-45", 12.5, "12,5", "12.500,5", "1 200", "5 %", "500 %", "1 t", "3 parsec",
)  # fmt: skip


def _spots(document: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    yield path
    if isinstance(document, dict):
        for key, value in document.items():
            yield from _spots(value, (*path, key))
    elif isinstance(document, list):
        for at, value in enumerate(document):
            yield from _spots(value, (*path, at))


def _put(document: Any, path: tuple[Any, ...], value: Any) -> None:
    for key in path[:-1]:
        document = document[key]
    if isinstance(document, dict | list):
        document[path[-1]] = value


NAMES: Final = ("job", "place", "mix", "mixer", "shapes", "changes", "waste_percent", "moisture_percent", "looked_at",
                "bulking_percent", "struck_kg", "temperatures", "admixtures", "gauges", "jug", "strategy", "ice_percent",
                "residue_l", "at_hand_bags", "place_l_min", "ratio_cap", "steel", "unusual_ok", "\u2063", "", "__proto__")  # fmt: skip


def sheets(many: int, seed: int = 3) -> Iterator[dict[str, Any]]:
    """Make sheets of the examples with one to six spots spoilt each."""
    draw = random.Random(seed)
    good = [json.loads(path.read_text(encoding="utf-8")) for path in EXAMPLES]
    for _ in range(many):
        sheet = copy.deepcopy(draw.choice(good))
        for _ in range(draw.randint(1, 6)):
            spots = [path for path in _spots(sheet) if path]
            path = draw.choice(spots) if spots and draw.random() < 0.7 else (draw.choice(NAMES),)
            _put(sheet, path, copy.deepcopy(draw.choice(SPOILT)))
        yield sheet


def _stl(triangles: int, said: int | None = None) -> bytes:
    one = struct.pack("<12fH", *([0.0] * 3), 0, 0, 0, 1, 0, 0, 0, 1, 0, 0)
    return b"\0" * 80 + struct.pack("<I", triangles if said is None else said) + one * triangles


def _bomb(megabytes: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("[Content_Types].xml", b"<x/>")
        packed.writestr("xl/workbook.xml", b" " * megabytes * 1_000_000)
    return out.getvalue()


def _deep_xml() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/workbook.xml", b"<a>" * 100_000 + b"</a>" * 100_000)
        laughs = b"".join(b'<!ENTITY l%d "%s">' % (n, b"&l%d;" % (n - 1) * 10) for n in range(1, 10))
        packed.writestr("[Content_Types].xml", b'<!DOCTYPE x [<!ENTITY l0 "ha">' + laughs + b"]><x>&l9;</x>")
    return out.getvalue()


def _drawing(many: int = 1) -> bytes:
    drawing = ezdxf.new()
    for n in range(many):
        corners = [(10.0 * n, 0), (10.0 * n + 4.0, 0), (10.0 * n + 4.0, 3.0)]
        drawing.modelspace().add_lwpolyline(corners, close=True, dxfattribs={"layer": "WALLS"})
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


def files() -> list[tuple[str, bytes]]:
    """Return fifty files by name: lists, workbooks, drawings and models that are broken, huge inside, or something else."""
    head = b"kind,length_mm,width_mm,depth_mm,note\n"
    dxf = _drawing()
    quoted = b'kind,note\nslab,"' + b"x" * 200_000
    return [
        ("empty.csv", b""), ("zeros.csv", b"\0" * 4000), ("mark.csv", b"\xef\xbb\xbf"), ("half.csv", b"\xff\xfe\x00k"),
        ("open-quote.csv", quoted), ("wide.csv", b"," * 100_000), ("long.csv", head + b"slab,1,1,1,x\n" * 50_000),
        ("one-line.csv", b"kind," + b"x" * 3_000_000), ("bell.csv", head + b"slab,1,1,1,a\x07b\n"),
        ("turned.csv", head + "slab,1,1,1,a\u202eb\n".encode()), ("formula.csv", head + b"slab,=1+1,@x,+2,=cmd|'/c'!A1\n"),
        ("numbers.csv", head + b"slab,1e999,nan,inf,-0\n"), ("raised.csv", head + "slab,²,½,٣,∞\n".encode()),
        ("nested.csv", head + b'slab,"4 m\n5 m","(((((",")",""\n'), ("semi.csv", head.replace(b",", b";") + b"slab;1;2;3;\n"),
        ("huge-cell.csv", head + b"slab,1,1,1," + b"y" * 1_000_000 + b"\n"), ("picture.csv", b"\x89PNG\r\n\x1a\n" + b"\0" * 300),
        ("same.csv", b"kind,kind,kind\nslab,floor,stair\n"), ("html.csv", b"<html><script>alert(1)</script></html>"),
        ("nothing.xlsx", b""), ("cat.xlsx", b"a cat"), ("half.xlsx", _bomb(1)[:300]), ("bomb.xlsx", _bomb(900)),
        ("deep.xlsx", _deep_xml()), ("pk.xlsx", b"PK\x03\x04" + b"\0" * 200), ("list-that-is.csv", _bomb(2)),
        ("nothing.dxf", b""), ("cat.dxf", b"a cat"), ("binary.dxf", b"AutoCAD Binary DXF\r\n\x1a\x00" + b"\xff" * 400),
        ("cut.dxf", dxf[: len(dxf) // 2]),
        ("nan.dxf", dxf.replace(b"\n4.0\n", b"\nnan\n")), ("endless.dxf", dxf.replace(b"\n4.0\n", b"\ninf\n")),
        ("far.dxf", dxf.replace(b"\n4.0\n", b"\n1e308\n").replace(b"\n3.0\n", b"\n-1e308\n")),
        ("words.dxf", dxf.replace(b"\n4.0\n", b"\nfour\n")), ("layer.dxf", dxf.replace(b"WALLS", b"<b>\x07\xe2\x80\xae")),
        ("lines.dxf", b"0\n" * 300_000), ("entities.dxf", b"0\nSECTION\n2\nENTITIES\n" + b"0\nCIRCLE\n" * 40_000),
        ("many.dxf", _drawing(2000)), ("empty.stl", b""), ("flat.stl", _stl(300)), ("lies.stl", _stl(2, 4_000_000_000)), ("short.stl", _stl(9)[:200]),
        ("nan.stl", b"\0" * 80 + struct.pack("<I", 4) + struct.pack("<12fH", *([float("nan")] * 12), 0) * 4),
        ("words.stl", b"solid x\n" + b"facet normal 0 0 1\nouter loop\nvertex a b c\n" * 2000),
        ("open.stl", b"solid x\nfacet normal 0 0 1\nouter loop\n"), ("cat.obj", b"a cat\n" * 1000),
        ("index.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 999999999\n"), ("minus.obj", b"v 0 0 0\nf -1 -2 -3\n"),
        ("loop.obj", b"v 1e308 0 0\nv 0 1e308 0\nv 0 0 1e308\nv 0 0 0\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"),
        ("lib.obj", b"mtllib ../../../../etc/passwd\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"),
        ("head.ply", b"ply\nformat ascii 1.0\nelement vertex 999999999\nproperty float x\nend_header\n1\n"),
        ("binary.ply", b"ply\nformat binary_little_endian 1.0\nelement vertex 3\nproperty double x\nend_header\n\0\0"),
    ]  # fmt: skip
