"""Meshes against closed forms and a reference library; broken ones refused with where."""

import time
from pathlib import Path
from typing import Any

import numpy
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.message.errors import TakeoffError
from keeve.core.message.said import plain, read_words
from keeve.formats.reading import warm
from keeve.formats.reading.bounded import BoundedReader, read_now
from keeve.formats.reading.mesh import front_view, read_mesh, signed_volume
from keeve.formats.reading.warm import Split
from keeve.web.drawings.shapes import view_runs
from tests.prose import PROSE

HOSTILE = (str(Path(__file__).parents[1] / "hostile_reader.py"),)


def saved(mesh: trimesh.Trimesh, folder: Path, kind: str = "stl", **more: Any) -> Path:
    path = folder / f"model.{kind}"
    mesh.export(str(path), **more)
    return path


@pytest.mark.parametrize("kind", ["stl", "obj", "ply", "ascii"])
def test_a_box_holds_its_edges_whatever_it_is_saved_as(kind: str, tmp_path: Path) -> None:
    box = trimesh.creation.box((100, 80, 120))
    more = {"file_type": "stl_ascii"} if kind == "ascii" else {}
    path = saved(box, tmp_path, "stl" if kind == "ascii" else kind, **more)
    found = read_mesh(path, path.suffix[1:])
    assert found.volume == pytest.approx(100 * 80 * 120)
    assert found.size == pytest.approx((100, 80, 120))
    assert found.repaired == ()


@pytest.mark.parametrize(
    "mesh",
    [
        trimesh.creation.icosphere(subdivisions=3, radius=50),
        trimesh.creation.cylinder(radius=30, height=90),
        trimesh.creation.annulus(r_min=10, r_max=30, height=40),
        trimesh.creation.torus(major_radius=40, minor_radius=10),
    ],
    ids=["ball", "cylinder", "ring", "torus"],
)
def test_volumes_are_those_of_trimesh(mesh: trimesh.Trimesh, tmp_path: Path) -> None:
    mesh.apply_translation((1000, -2000, 500))
    assert read_mesh(saved(mesh, tmp_path), "stl").volume == pytest.approx(mesh.volume, rel=1e-5)  # STL holds 32 bits


def test_a_ball_of_many_triangles_is_a_ball() -> None:
    ball = trimesh.creation.icosphere(subdivisions=6, radius=1)
    assert signed_volume(numpy.asarray(ball.triangles)) == pytest.approx(4 / 3 * numpy.pi, rel=1e-3)


@given(st.floats(-500, 500), st.floats(0.1, 20))
def test_the_volume_does_not_hang_on_where_the_model_stands(shift: float, scale: float) -> None:
    mesh = trimesh.creation.icosphere(subdivisions=1, radius=10)
    moved = numpy.asarray(mesh.triangles) * scale + shift
    assert signed_volume(moved) == pytest.approx(mesh.volume * scale**3, rel=1e-9)
    assert signed_volume(moved[:, ::-1]) == pytest.approx(-mesh.volume * scale**3, rel=1e-9)


def test_a_small_hole_is_closed_and_said(tmp_path: Path) -> None:
    box = trimesh.creation.box((100, 80, 120))
    box.faces = box.faces[:-1]
    found = read_mesh(saved(box, tmp_path), "stl")
    assert found.volume == pytest.approx(100 * 80 * 120)
    assert [plain(one) for one in found.repaired] == [PROSE["1-small-hole-was"]]


def test_a_cloud_of_loose_triangles_is_no_body(tmp_path: Path) -> None:
    draw = numpy.random.default_rng(5)
    for many in (1, 2, 40, 3000):
        corners = draw.normal(size=(many, 1, 3)) * 100 + draw.normal(size=(many, 3, 3))
        cloud = trimesh.Trimesh(corners.reshape(-1, 3), numpy.arange(many * 3).reshape(-1, 3), process=False)
        with pytest.raises(TakeoffError, match=r"is open|encloses nothing"):
            read_mesh(saved(cloud, tmp_path), "stl")
    sheet = trimesh.Trimesh([[0, 0, 0], [9, 0, 0], [9, 9, 0], [0, 9, 0]], [[0, 1, 2], [0, 2, 3]], process=False)
    with pytest.raises(TakeoffError, match=r"is open|encloses nothing"):
        read_mesh(saved(sheet, tmp_path), "stl")


def test_a_box_without_its_lid_is_closed(tmp_path: Path) -> None:
    box = trimesh.creation.box((100, 80, 120))
    box.faces = box.faces[box.face_normals[:, 2] < 0.5]
    assert read_mesh(saved(box, tmp_path), "stl").volume == pytest.approx(100 * 80 * 120)


def test_two_bodies_of_which_one_has_turned_triangles_count_both(tmp_path: Path) -> None:
    boxes = [trimesh.creation.box((10, 10, 10)), trimesh.creation.box((20, 20, 20))]
    boxes[1].apply_translation((50, 0, 0))
    faces = numpy.vstack([boxes[0].faces, boxes[1].faces + 8])
    faces[13] = faces[13][::-1]
    both = trimesh.Trimesh(numpy.vstack([box.vertices for box in boxes]), faces, process=False)
    assert read_mesh(saved(both, tmp_path), "stl").volume == pytest.approx(1000 + 8000)


def test_flipped_triangles_are_turned_and_said(tmp_path: Path) -> None:
    ball = trimesh.creation.icosphere(subdivisions=2, radius=50)
    faces = ball.faces.copy()
    faces[::7] = faces[::7, ::-1]
    found = read_mesh(saved(trimesh.Trimesh(ball.vertices, faces, process=False), tmp_path), "stl")
    assert found.volume == pytest.approx(ball.volume, rel=1e-5)
    assert "wrong way" in " ".join(map(plain, found.repaired))
    inside_out = trimesh.Trimesh(ball.vertices, ball.faces[:, ::-1], process=False)
    assert read_mesh(saved(inside_out, tmp_path), "stl").volume == pytest.approx(ball.volume, rel=1e-5)


def test_an_open_model_is_refused_and_told_where(tmp_path: Path) -> None:
    ball = trimesh.creation.icosphere(subdivisions=5, radius=50)
    middles = ball.triangles_center
    ball.faces = ball.faces[middles[:, 2] < 40]  # the crown is missing
    with pytest.raises(TakeoffError, match=PROSE["high-up-in-the"]):
        read_mesh(saved(ball, tmp_path), "stl")


@pytest.mark.parametrize(
    ("content", "kind", "words"),
    [
        (b"", "stl", "can be read|not one triangle"),
        (b"solid nothing\nendsolid nothing\n", "stl", "can be read|not one triangle"),
        (b"\x00" * 500, "stl", "can be read|not one triangle"),
        (b"a cat", "obj", "can be read|not one triangle"),
        (b"ply\nformat ascii 1.0\n", "ply", "can be read|not one triangle"),
        (b"v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n", "obj", "open|encloses nothing"),
        (b"x", "blend", "reads no"),
    ],
)
def test_what_is_no_model_is_refused_in_words(content: bytes, kind: str, words: str, tmp_path: Path) -> None:
    path = tmp_path / f"x.{kind}"
    path.write_bytes(content)
    with pytest.raises(TakeoffError, match=words):
        read_mesh(path, kind)


def test_a_reader_split_off_is_bounded_as_any(tmp_path: Path) -> None:
    ball = saved(trimesh.creation.icosphere(subdivisions=6, radius=50), tmp_path)
    for more, words in (
        ({"most_seconds": 0.001}, "took longer than"),
        ({"most_seconds": 60, "most_bytes": 60_000_000}, "memory"),
    ):
        reading = BoundedReader("stl", ball, **more)
        assert isinstance(reading._process, Split)
        assert reading.done.wait(60)
        assert reading.result is None
        assert words in plain(read_words(reading.faults[0]["sentence"]))
    reading = BoundedReader("stl", ball, most_seconds=60)
    reading.cancel()
    assert reading.done.wait(60)
    assert plain(read_words(reading.faults[0]["sentence"])) == "Stopped."


def test_files_are_read_though_who_splits_readers_off_has_died(tmp_path: Path) -> None:
    box = saved(trimesh.creation.box((10, 20, 30)), tmp_path)
    process = warm._keeper._process
    assert process is not None
    process.kill()
    process.wait()
    for _ in range(3):  # at first by a reader of its own, soon by one split off again
        assert read_now("stl", box)["volume"] == pytest.approx(6000)
    reading = BoundedReader("stl", box, most_seconds=60)
    assert isinstance(reading._process, Split)
    assert reading.done.wait(60)


def test_the_front_view_is_the_shape_of_the_model() -> None:
    ball = trimesh.creation.icosphere(subdivisions=4, radius=50)
    runs = view_runs(front_view(numpy.asarray(ball.triangles)))
    area = sum((points[1][0] - points[0][0]) * (points[2][1] - points[1][1]) for _, points in runs)
    assert area == pytest.approx(numpy.pi / 4, rel=0.06)  # a disc in its square
    box = front_view(numpy.asarray(trimesh.creation.box((10, 10, 40)).triangles))
    area = sum((p[1][0] - p[0][0]) * (p[2][1] - p[1][1]) for _, p in view_runs(box))
    assert area == pytest.approx(1, rel=0.03)


def test_a_reader_in_its_own_process_gives_the_same(tmp_path: Path) -> None:
    found = read_now("stl", saved(trimesh.creation.box((10, 20, 30)), tmp_path))
    assert found["volume"] == pytest.approx(6000)


@pytest.mark.parametrize(
    ("what", "seconds", "words"),
    [("hang", 0.5, "longer than"), ("swell", 20, "memory"), ("die", 20, "memory"), ("nonsense", 20, "memory")],
)
def test_a_reader_that_misbehaves_is_stopped_and_said(what: str, seconds: float, words: str, tmp_path: Path) -> None:
    path = tmp_path / "file"
    path.write_text(what)
    began = time.monotonic()
    reading = BoundedReader("stl", path, most_seconds=seconds, most_bytes=1_500_000_000, reader=HOSTILE)
    assert reading.done.wait(15)
    assert time.monotonic() - began < 15
    assert reading.result is None
    assert words in plain(read_words(reading.faults[0]["sentence"]))


def test_a_reading_can_be_stopped(tmp_path: Path) -> None:
    path = tmp_path / "file"
    path.write_text("hang")
    reading = BoundedReader("stl", path, most_seconds=60, reader=HOSTILE)
    reading.cancel()
    assert reading.done.wait(5)
    assert reading.faults[0]["sentence"] == "Stopped."
