"""The program needs nothing but what its own lock names: what only the tests have is hidden from it."""

import json
import re
import subprocess
import sys
from importlib.metadata import packages_distributions
from pathlib import Path

import ezdxf
import openpyxl
import trimesh

ROOT = Path(__file__).parents[2]
HIDE = """
import sys
class Hidden:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] in HIDDEN:
            raise ModuleNotFoundError(f"No module named {name!r}", name=name)
sys.meta_path.insert(0, Hidden())
"""
READ = """
import json
from pathlib import Path
from keeve.formats.reading.file_reader import read
for kind, path in FILES:
    found = read(kind, Path(path))
    print(json.dumps([Path(path).name, found["volume"] if kind in ("stl", "obj", "ply") else len(found)]))
"""
SERVE = """
from keeve import cli
from keeve.web.app import make_app
from keeve.web.edge.settings import Settings
print(len(make_app(Settings(database_url="postgresql+psycopg://127.0.0.1:1/x", secret="x" * 20)).openapi()["paths"]))
"""
TEXTURED = """mtllib a.mtl
v 0 0 0
v 30 0 0
v 0 30 0
v 0 0 30
vt 0 0
vt 1 0
vt 0 1
vn 0 0 1
usemtl stone
g one
f 1/1/1 3/2/1 2/3/1
f 1/1/1 2/2/1 4/3/1
usemtl moss
g two
f 2/1/1 3/2/1 4/3/1
f 1/1/1 4/2/1 3/3/1
"""


def locked(name: str) -> set[str]:
    text = (ROOT / name).read_text(encoding="utf-8")
    return {one.lower().replace("_", "-") for one in re.findall(r"^([A-Za-z0-9._-]+)(?:\\[\\w+\\])?==", text, re.M)}


def hidden() -> list[str]:
    """Names of modules that only the tests' lock brings, or that nobody named at all."""
    shipped = locked("requirements.lock")
    assert "trimesh" in shipped
    assert "scipy" not in shipped
    packages = packages_distributions()
    return sorted(
        name for name, from_ in packages.items() if not {one.lower().replace("_", "-") for one in from_} & shipped
    )


def run(script: str, **given: object) -> list[str]:
    names = "".join(f"{name} = {value!r}\n" for name, value in given.items())
    done = subprocess.run(
        [sys.executable, "-c", names + HIDE + script], env={"PYTHONPATH": str(ROOT / "src")},
        capture_output=True, text=True, check=False, timeout=300,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    return done.stdout.splitlines()


def test_all_files_are_read_with_what_ships(tmp_path: Path) -> None:
    box = trimesh.creation.box((10, 20, 30))
    turned = trimesh.Trimesh(
        box.vertices, [face[::-1] if n == 3 else face for n, face in enumerate(box.faces)], process=False
    )
    turned.export(str(tmp_path / "turned.stl"))
    box.export(str(tmp_path / "box.ply"))
    (tmp_path / "textured.obj").write_text(TEXTURED)
    book = openpyxl.Workbook()
    for row in (["kind", "volume_l"], ["known", 18]):
        book.active.append(row)
    book.save(tmp_path / "list.xlsx")
    (tmp_path / "list.csv").write_text("kind,volume_l\nknown,18\n")
    drawing = ezdxf.new()
    drawing.modelspace().add_lwpolyline([(0, 0), (4, 0), (4, 3)], close=True)
    drawing.saveas(tmp_path / "floor.dxf")
    files = [(path.suffix[1:], str(path)) for path in sorted(tmp_path.iterdir())]
    found = dict(json.loads(line) for line in run(READ, HIDDEN=hidden(), FILES=files))
    assert round(found["turned.stl"]) == 6000
    assert round(found["box.ply"]) == 6000
    assert round(found["textured.obj"]) == 4500  # a corner of three edges of 30: 30^3 / 6
    assert found["list.xlsx"] == found["list.csv"] == 1


def test_the_program_starts_with_what_ships() -> None:
    names = hidden()
    assert {"scipy", "hypothesis", "pytest", "playwright"} <= set(names)
    assert int(run(SERVE, HIDDEN=names)[0]) > 50
