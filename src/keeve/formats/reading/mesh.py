"""Volumes of meshes: STL, OBJ, PLY. Runs in a process of its own (`reader`), because a mesh may be anything."""

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final

import numpy
import trimesh
from pydantic import Field

from keeve.core.message.errors import Code, Fault, Frozen, TakeoffError
from keeve.core.message.said import Amount, Said, Words, many, mark

KINDS: Final = ("stl", "obj", "ply")
MOST_TRIANGLES: Final = 5_000_000
LARGEST_HOLE_EDGES: Final = 60
"""Up to so many edges a hole is closed; more is missing than a nick: own choice."""
MOST_HOLES: Final = 1000
LARGEST_MISSING: Final = 0.25
"""Of the area that is there, what patches may add: a box without a lid lacks a fifth, loose triangles lack as much as
they have: own choice."""
ROWS: Final = 64
Progress = Callable[[str, float], None]


def _silent(_stage: str, _share: float) -> None:
    pass


class Scanned(Frozen):
    """What a mesh holds, in its own unit."""

    triangles: int
    volume: float = Field(description="in the cube of the file's unit")
    size: tuple[float, float, float]
    repaired: tuple[Words, ...] = ()
    """What was put right, in words."""
    outline: str = ""
    """Front view in shaded runs, as `Scan.outline` wants it."""


def read_mesh(path: Path, kind: str, tell: Progress = _silent) -> Scanned:
    """Read a mesh and find its volume.

    Parameters
    ----------
    path : of the file
    kind : stl, obj or ply
    tell : told the stage and how far it is, 0 to 1

    Returns
    -------
    volume, size and front view, in the file's unit

    Raises
    ------
    TakeoffError : no mesh, too many triangles, or one that stays open; says where

    Notes
    -----
    V = Σ a · (b × c) / 6 over the triangles, turned round where it comes out negative.

    References
    ----------
    Divergence theorem, plain arithmetic; the mesh is read by trimesh.
    """
    tell("reading", 0.05)
    mesh = _load(path, kind)
    tell("checking", 0.5)
    said: list[Words] = []
    if not mesh.is_watertight:
        mesh.merge_vertices()
    if not mesh.is_watertight:
        _close(mesh, said)
    tell("measuring", 0.7)
    if not mesh.is_winding_consistent:
        _turn(mesh)
        said.append(mark("Some triangles faced the wrong way and were turned."))
    volume = signed_volume(numpy.asarray(mesh.triangles))
    if volume < 0:
        volume = -volume
        said.append(mark("The whole mesh was inside out and was turned."))
    size = mesh.extents
    if not volume > 0 or not all(math.isfinite(v) and v > 0 for v in size):
        raise TakeoffError(Fault(Code.DOES_NOT_FIT, "This mesh encloses nothing.", "Export it again as a solid."))
    tell("drawing", 0.85)
    view = front_view(numpy.asarray(mesh.triangles))
    x, y, z = (float(side) for side in size)
    return Scanned(
        triangles=len(mesh.faces),
        volume=float(volume),
        size=(x, y, z),
        repaired=tuple(said),
        outline=view,
    )


def _load(path: Path, kind: str) -> Any:
    if kind not in KINDS:
        raise TakeoffError(
            Fault(
                Code.UNKNOWN,
                Said("Keeve reads no “{kind}” files.", kind=kind[:10]),
                "Save the model as STL, OBJ or PLY.",
            )
        )
    try:
        mesh: Any = _as_one(trimesh.load_scene(str(path), file_type=kind, process=False, skip_materials=True))
    except MemoryError:
        raise
    except Exception:  # readers of three formats fail in as many ways; the sentence is the same
        raise TakeoffError(
            Fault(
                Code.UNREADABLE,
                Said("This is no {kind} file that can be read.", kind=kind.upper()),
                "Export the model again.",
            )
        ) from None
    faces = getattr(mesh, "faces", None)
    if faces is None or len(faces) == 0:
        raise TakeoffError(Fault(Code.MISSING, "There is not one triangle in this file.", "Export the model again."))
    if len(faces) > MOST_TRIANGLES:
        raise TakeoffError(
            Fault(
                Code.TOO_MANY,
                Said(
                    "The model has {n} triangles; {most} can be read.",
                    n=Amount(len(faces), "whole"),
                    most=Amount(MOST_TRIANGLES, "whole"),
                ),
                "Export it coarser: a mould does not see the difference.",
            )
        )
    if not numpy.isfinite(mesh.vertices).all():
        raise TakeoffError(Fault(Code.UNREADABLE, "Some corners of the model are no numbers.", "Export it again."))
    mesh.merge_vertices()
    return mesh


def _as_one(scene: Any) -> Any:
    """Put the bodies of a file together, their corners and triangles alone.

    Colours and textures would only part corners that are one; and what trimesh does with them wants libraries that
    are of no use here.
    """
    bodies = [one for one in scene.geometry.values() if isinstance(one, trimesh.Trimesh)]
    if not bodies:
        return None
    shift = numpy.cumsum([0, *(len(body.vertices) for body in bodies[:-1])])
    faces = [body.faces + at for body, at in zip(bodies, shift, strict=True)]
    return trimesh.Trimesh(numpy.vstack([body.vertices for body in bodies]), numpy.vstack(faces), process=False)


def _turn(mesh: Any) -> None:
    """Turn triangles so that each body has one outside."""
    trimesh.repair.fix_winding(mesh)  # type: ignore[no-untyped-call]
    bodies = trimesh.graph.connected_components(
        mesh.face_adjacency, nodes=numpy.arange(len(mesh.faces)), engine="networkx"
    )
    faces, triangles = mesh.faces.copy(), numpy.asarray(mesh.triangles)
    for body in bodies:
        if signed_volume(triangles[body]) < 0:
            faces[body] = faces[body][:, ::-1]
    mesh.faces = faces


def _close(mesh: Any, said: list[Words]) -> None:
    """Close small holes, and say so; refuse what stays open, and say where."""
    edges = _open_edges(mesh)
    if not len(edges):
        raise TakeoffError(
            Fault(
                Code.DOES_NOT_FIT,
                "In this model more than two triangles meet at one edge: nobody can say what is inside.",
                "Join its parts where it was modelled, or measure it by water.",
            )
        )
    loops = _rings(edges)
    if loops and len(loops) <= MOST_HOLES and all(len(ring) <= LARGEST_HOLE_EDGES for ring in loops):
        added = [
            (ring[0], ring[i + 1], ring[i])  # a boundary edge runs with its triangle: the patch runs against it
            for ring in loops
            for i in range(1, len(ring) - 1)
        ]
        patches = numpy.array(added, dtype=mesh.faces.dtype)
        missing = _area(mesh.vertices[patches]) / max(_area(numpy.asarray(mesh.triangles)), 1e-300)
        mesh.faces = numpy.vstack([mesh.faces, patches])
        if missing <= LARGEST_MISSING and mesh.is_watertight:
            said.append(many("{n} small hole was closed.", "{n} small holes were closed.", len(loops)))
            return
    raise TakeoffError(_open_at(mesh, edges))


def _open_at(mesh: Any, edges: Any) -> Fault:
    """Say where a model stays open."""
    where = mesh.vertices[edges.reshape(-1)]
    low, high = where.min(axis=0), where.max(axis=0)
    middle = (low + high) / 2
    share = (middle - mesh.bounds[0]) / numpy.maximum(mesh.extents, 1e-12)
    return Fault(
        Code.DOES_NOT_FIT,
        Said(
            "The model is open: {n} edges have nothing beside them, {up}, {along}, {across} "
            "(about x {x}, y {y}, z {z} in the file's unit).",
            n=Amount(len(edges), "whole"),
            x=f"{middle[0]:.4g}",
            y=f"{middle[1]:.4g}",
            z=f"{middle[2]:.4g}",
            **_whereabouts(share),
        ),
        "Close it where it was modelled, or measure it by water.",
    )


def _area(triangles: Any) -> float:
    """Area of triangles, in the square of their unit."""
    a, b, c = (triangles[:, i] for i in range(3))
    return float(numpy.linalg.norm(numpy.cross(b - a, c - a), axis=1).sum() / 2)


_THIRDS: Final = {
    "along": (0, (mark("to the left"), mark("in the middle"), mark("to the right"))),
    "across": (1, (mark("in front"), mark("between front and back"), mark("at the back"))),
    "up": (2, (mark("low down"), mark("half way up"), mark("high up"))),
}


def _whereabouts(share: Any) -> dict[str, str]:
    """Name the third of the model, in each direction, where something is."""
    return {name: names[min(max(int(share[axis] * 3), 0), 2)] for name, (axis, names) in _THIRDS.items()}


def _open_edges(mesh: Any) -> Any:
    """Edges that belong to one triangle only, in the direction they run in it."""
    edges = numpy.asarray(mesh.edges)
    ordered = numpy.sort(edges, axis=1)
    _, first, counts = numpy.unique(ordered, axis=0, return_index=True, return_counts=True)
    return edges[first[counts == 1]]


def _rings(edges: Any) -> list[list[int]]:
    """Walk round the holes; empty where they do not run in rings."""
    after: dict[int, int] = {}
    for a, b in edges.tolist():
        if a in after:
            return []
        after[a] = b
    found = []
    while after:
        begin, at = after.popitem()
        ring = [begin]
        while at != begin:
            ring.append(at)
            if at not in after:
                return []
            at = after.pop(at)
        found.append(ring)
    return found


def signed_volume(triangles: Any) -> float:
    """Volume inside a closed mesh, negative where it is inside out.

    Parameters
    ----------
    triangles : corners, shape (n, 3, 3)

    Returns
    -------
    volume in the cube of their unit

    References
    ----------
    Divergence theorem: V = Σ a · (b × c) / 6; taken from the middle of the model, where the terms stay small.
    """
    middle = triangles.reshape(-1, 3).mean(axis=0)
    a, b, c = (triangles[:, i] - middle for i in range(3))
    return float(numpy.einsum("ij,ij->", a, numpy.cross(b, c)) / 6)


def front_view(triangles: Any) -> str:
    """Draw a model from the front in rows of shaded runs.

    Parameters
    ----------
    triangles : corners, shape (n, 3, 3); z is up, the view along y

    Returns
    -------
    rows from the top, `from-to:shade` in thousandths of the width, shade 1 (turned away) to 3 (towards the light)

    Notes
    -----
    Each triangle sets the cells its points fall into; the nearest decides the shade. A coarse mesh is sampled
    more densely, so that no cell stays empty.

    References
    ----------
    Own choice.
    """
    low, high = triangles.reshape(-1, 3).min(axis=0), triangles.reshape(-1, 3).max(axis=0)
    wide, tall = max(high[0] - low[0], 1e-12), max(high[2] - low[2], 1e-12)
    rows = ROWS
    columns = int(min(max(ROWS * wide / tall, 16), 160))
    normal = numpy.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    length = numpy.linalg.norm(normal, axis=1)
    light = numpy.abs(normal @ numpy.array([-0.35, -0.8, 0.5])) / numpy.maximum(length, 1e-30)
    shade = numpy.clip(1 + (light * 3).astype(int), 1, 3)
    depth = numpy.full((rows, columns), numpy.inf)
    image = numpy.zeros((rows, columns), dtype=int)
    for weights in _samples(triangles, wide / columns, tall / rows):
        points = numpy.einsum("k,nkj->nj", numpy.asarray(weights), triangles)
        i = numpy.clip(((high[2] - points[:, 2]) / tall * rows).astype(int), 0, rows - 1)
        j = numpy.clip(((points[:, 0] - low[0]) / wide * columns).astype(int), 0, columns - 1)
        order = numpy.argsort(-points[:, 1], kind="stable")  # the nearest last, so that it stays
        i, j, y, s = i[order], j[order], points[order, 1], shade[order]
        best = numpy.full((rows, columns), numpy.inf)
        tone = numpy.zeros((rows, columns), dtype=int)
        best[i, j], tone[i, j] = y, s
        nearer = best < depth
        depth[nearer], image[nearer] = best[nearer], tone[nearer]
    return "|".join(_runs(row) for row in image)


def _samples(triangles: Any, cell_x: float, cell_z: float) -> list[tuple[float, float, float]]:
    """Points in a triangle, enough that the largest leaves no cell empty."""
    span = triangles.max(axis=1) - triangles.min(axis=1)
    cells = max(float((span[:, 0] / cell_x).max()), float((span[:, 2] / cell_z).max()))
    n = int(min(max(cells * 1.5, 1), 160 if len(triangles) < 20_000 else 12 if len(triangles) < 200_000 else 1))
    return [(i / n, k / n, (n - i - k) / n) for i in range(n + 1) for k in range(n + 1 - i)]


def _runs(row: Any) -> str:
    found, columns = [], len(row)
    begin = 0
    for at in range(1, columns + 1):
        if at == columns or row[at] != row[begin]:
            if row[begin]:
                found.append(f"{begin * 1000 // columns}-{at * 1000 // columns}:{row[begin]}")
            begin = at
    return ",".join(found)
