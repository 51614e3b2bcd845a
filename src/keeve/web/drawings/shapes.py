"""Shapes to scale with the measures as entered, also those that cannot be: a slip at the tape must be seen."""

import math
from collections.abc import Callable
from functools import cache
from typing import Any, Final

from keeve.core.takeoff import shapes as kinds
from keeve.core.takeoff.flat import UNIT_MM
from keeve.core.takeoff.outline import signed_area
from keeve.core.takeoff.shapes import Shape
from keeve.formats.reading.dxf_outlines import Outlines
from keeve.web.drawings import walls
from keeve.web.drawings.draft import Draft, Points, Stroke, arc
from keeve.web.drawings.sketches import lengths, sample
from keeve.words.reader import METRIC, Reader
from keeve.words.showing import measured, say, show_litres


def _plan_and_section(draft: Draft, length: float, width: float, section: Points, deep: str) -> None:
    """Draw a rectangle from above, and under it the cut along its length."""
    long, short = max(length, width), min(length, width)
    gap = max(long, short) * 0.06
    top = max(y for _, y in section)
    draft.box("plan", 0, gap + top, long, short)
    draft.outline("fill", section)
    draft.above(long / 2, gap + top + short, draft.mm(long))
    draft.right(long, gap + top + short / 2, draft.mm(short))
    draft.below(long / 2, 0, deep)


def _slab(draft: Draft, s: kinds.Slab | kinds.Strip) -> None:
    long = max(s.length_mm, s.width_mm)
    section = [(0.0, 0.0), (long, 0.0), (long, s.depth_mm), (0.0, s.depth_mm)]
    _plan_and_section(draft, s.length_mm, s.width_mm, section, draft.tell("{depth} deep", depth=draft.mm(s.depth_mm)))


def _floor(draft: Draft, s: kinds.Floor) -> None:
    k = UNIT_MM[s.unit]
    ring = [(x * k, y * k) for x, y in s.corners]
    draft.outline("fill", ring)
    for hole in s.holes:
        draft.outline("void", [(x * k, y * k) for x, y in hole])
    # The cut under it, far enough down that the lowest side can be named between them.
    left, right = min(x for x, _ in ring), max(x for x, _ in ring)
    low = min(y for _, y in ring)
    top = low - max(right - left, max(y for _, y in ring) - low) * 0.17
    draft.box("fill", left, top - s.depth_mm, right - left, s.depth_mm)
    draft.below((left + right) / 2, top - s.depth_mm, draft.tell("{depth} deep", depth=draft.mm(s.depth_mm)))
    if len(ring) <= 12:
        _name_sides(draft, ring)


def _name_sides(draft: Draft, ring: Points) -> None:
    """Write each side's length outside the outline; both sides of a re-entrant corner inside, where there is room."""
    sense = 1 if signed_area(tuple(ring)) > 0 else -1
    count = len(ring)

    def re_entrant(i: int) -> bool:
        (ax, ay), (bx, by), (cx, cy) = ring[i - 1], ring[i % count], ring[(i + 1) % count]
        return sense * ((bx - ax) * (cy - by) - (by - ay) * (cx - bx)) < 0

    for i, (ax, ay) in enumerate(ring):
        bx, by = ring[(i + 1) % count]
        x, y = (ax + bx) / 2, (ay + by) / 2
        text = draft.mm(math.hypot(bx - ax, by - ay))
        inwards = re_entrant(i) or re_entrant(i + 1)
        if abs(bx - ax) >= abs(by - ay):
            (draft.below if (sense * (bx - ax) > 0) != inwards else draft.above)(x, y, text)
        else:
            (draft.right if (sense * (by - ay) > 0) != inwards else draft.left)(x, y, text)


def _depths(draft: Draft, s: kinds.Depths) -> None:
    draft.box("fill", 0, 0, s.length_mm, s.width_mm)
    down, right = len(s.readings), max(len(row) for row in s.readings)
    if down <= 7 and right <= 7 and not draft.sketch:
        edge = s.read_at == "edges and between"
        for i, row in enumerate(s.readings):
            for j, depth in enumerate(row):
                x = (j / max(right - 1, 1) if edge else (j + 0.5) / right) * s.length_mm
                y = (1 - (i / max(down - 1, 1) if edge else (i + 0.5) / down)) * s.width_mm
                draft.word(x, y, measured(depth, "mm", draft.reader).number, dy=4)
    draft.word(s.length_mm / 2, 0, draft.mm(s.length_mm), dy=20)
    draft.word(s.length_mm, s.width_mm / 4, draft.mm(s.width_mm), dx=16, dy=5, anchor="start")


def _fall(draft: Draft, s: kinds.Fall) -> None:
    gap = max(s.low_mm, s.high_mm) + s.length_mm * 0.06
    draft.box("plan", 0, gap, s.length_mm, s.width_mm)
    draft.outline("fill", [(0, 0), (s.length_mm, 0), (s.length_mm, s.high_mm), (0, s.low_mm)])
    draft.above(s.length_mm / 2, gap + s.width_mm, draft.mm(s.length_mm))
    draft.right(s.length_mm, gap + s.width_mm / 2, draft.mm(s.width_mm))
    draft.word(0, 0, draft.mm(s.low_mm), dy=15)
    draft.word(s.length_mm, 0, draft.mm(s.high_mm), dy=15)


def _kerb(draft: Draft, s: kinds.Kerb) -> None:
    off = (s.foot_mm - s.top_mm) / 2
    draft.outline("fill", [(0, 0), (s.foot_mm, 0), (s.foot_mm - off, s.height_mm), (off, s.height_mm)])
    draft.above(s.foot_mm / 2, s.height_mm, draft.mm(s.top_mm))
    draft.right(max(s.foot_mm, s.foot_mm - off), s.height_mm / 2, draft.mm(s.height_mm))
    draft.below(
        s.foot_mm / 2, 0, draft.tell("{wide}, {length} long", wide=draft.mm(s.foot_mm), length=draft.mm(s.length_mm))
    )


def _stair(draft: Draft, s: kinds.Stair) -> None:
    g, r, n = s.going_mm, s.rise_mm, s.steps
    up: Points = [(0.0, 0.0)]
    for i in range(n):
        up += [(i * g, (i + 1) * r), ((i + 1) * g, (i + 1) * r)]
    slope = math.hypot(g, r)
    if s.landing_mm:
        thick = f" × {draft.mm(s.landing_thick_mm)}" if s.landing_thick_mm else ""
        draft.word(n * g + s.landing_mm, n * r - s.landing_thick_mm, draft.mm(s.landing_mm) + thick, dy=14)
    drop = s.waist_mm * slope / g  # measured plumb under the slope
    if s.landing_mm:
        end = n * g + s.landing_mm
        up += [(end, n * r), (end, n * r - s.landing_thick_mm), (n * g, n * r - s.landing_thick_mm)]
    under = [(n * g, n * r - drop), (0.0, -drop)] if s.waist_mm else [(n * g, 0.0)]
    draft.outline("fill", up + under)
    draft.above(n * g - g / 2, n * r, draft.mm(g))
    draft.left(0, r / 2, draft.mm(r))
    if s.waist_mm:
        draft.word(
            n * g * 0.6,
            n * r * 0.6 - drop,
            draft.tell("waist {thick}", thick=draft.mm(s.waist_mm)),
            dx=6,
            dy=12,
            anchor="start",
        )
    draft.below(
        n * g / 2, min(-drop, 0.0), draft.tell("{number} steps, {wide} wide", number=str(n), wide=draft.mm(s.width_mm))
    )


def _standing(draft: Draft, wide: float, high: float, *, post: float = 0.0, ground: bool = False) -> None:
    """Draw a round hole or column in section, with a post in it or without."""
    draft.box("fill", -wide / 2, 0, wide, high)
    if ground:
        out = max(wide, post) * 0.9
        draft.outline("ground", [(-out, high), (-wide / 2, high)])
        draft.outline("ground", [(wide / 2, high), (out, high)])
    if post:
        draft.box("post", -post / 2, 0, post, high * 1.15)
        draft.word(post / 2, high * 1.15, draft.tell("post {thick}", thick=draft.mm(post)), dx=4, dy=4, anchor="start")
    draft.below(0, 0, f"Ø {draft.mm(wide)}")
    draft.left(-wide / 2, high / 2, draft.mm(high))


def _bored(draft: Draft, s: kinds.BoredHole) -> None:
    post = s.post_mm if s.post != "none" and s.post_mm else 0.0
    _standing(draft, s.diameter_mm, s.depth_mm, post=post, ground=True)


def _column(draft: Draft, s: kinds.Column) -> None:
    if s.section == "rectangle":
        length, width = s.length_mm or 0.0, s.width_mm or 0.0
        plan: Points = [(0, 0), (length, 0), (length, width), (0, width)]
        across = length
        words = f"{draft.mm(length)} × {draft.mm(width)}"
    else:
        across = s.across_mm or 0.0
        radius = across / 2 / math.cos(math.pi / s.sides)
        plan = [
            (
                radius + radius * math.cos(2 * math.pi * (i + 0.5) / s.sides),
                radius + radius * math.sin(2 * math.pi * (i + 0.5) / s.sides),
            )
            for i in range(s.sides)
        ]
        words = draft.tell("{number} sides, {wide} across", number=str(s.sides), wide=draft.mm(across))
    wide = max(x for x, _ in plan)
    draft.outline("plan", plan)
    x = wide * 1.25
    draft.box("fill", x, 0, across, s.height_mm)
    draft.right(x + across, s.height_mm / 2, draft.mm(s.height_mm))
    draft.below(x / 2 + across / 2, 0, words)


def _tube(draft: Draft, s: kinds.Tube) -> None:
    wide = max(s.outer_mm, s.inner_mm)
    draft.box("fill", -s.outer_mm / 2, 0, s.outer_mm, s.height_mm)
    draft.box("void", -s.inner_mm / 2, 0, s.inner_mm, s.height_mm)
    draft.above(0, s.height_mm, draft.tell("inside {wide}", wide=draft.mm(s.inner_mm)))
    draft.below(0, 0, draft.tell("outside {wide}", wide=draft.mm(s.outer_mm)))
    draft.right(wide / 2, s.height_mm / 2, draft.mm(s.height_mm))


def _trapezoid(draft: Draft, low: float, high: float, up: float) -> None:
    draft.outline("fill", [(-low / 2, 0), (low / 2, 0), (high / 2, up), (-high / 2, up)])
    draft.right(max(low, high) / 2, up / 2, draft.mm(up))


def _cone(draft: Draft, s: kinds.Cone) -> None:
    _trapezoid(draft, s.lower_mm, s.upper_mm, s.height_mm)
    draft.above(0, s.height_mm, f"Ø {draft.mm(s.upper_mm)}")
    draft.below(0, 0, f"Ø {draft.mm(s.lower_mm)}")


def _tub(draft: Draft, s: kinds.Tub) -> None:
    _trapezoid(draft, s.lower_length_mm, s.upper_length_mm, s.height_mm)
    draft.above(0, s.height_mm, f"{draft.mm(s.upper_length_mm)} × {draft.mm(s.upper_width_mm)}")
    draft.below(0, 0, f"{draft.mm(s.lower_length_mm)} × {draft.mm(s.lower_width_mm)}")


def _ball(draft: Draft, s: kinds.Ball) -> None:
    radius = s.diameter_mm / 2
    height = s.height_mm if s.height_mm is not None else s.diameter_mm
    draft.outline("plan", arc((0, 0), radius))
    if height >= s.diameter_mm:
        draft.outline("fill", arc((0, 0), radius))
    else:
        side = math.acos((radius - height) / radius)
        draft.outline("fill", arc((0, 0), radius, math.pi / 2 - side, math.pi / 2 + side))
    if height > s.diameter_mm:
        draft.outline("ground", [(radius * 1.2, radius), (radius * 1.2, radius - height)])
    draft.below(0, min(-radius, radius - height), f"Ø {draft.mm(s.diameter_mm)}")
    if s.height_mm is not None:
        draft.right(radius, radius - height / 2, draft.mm(height))


def _prism(draft: Draft, s: kinds.Prism) -> None:
    draft.outline("fill", [(0, 0), (s.base_mm, 0), (s.base_mm / 2, s.height_mm)])
    draft.right(s.base_mm * 0.8, s.height_mm / 2, draft.mm(s.height_mm))
    draft.below(
        s.base_mm / 2, 0, draft.tell("{wide}, {length} long", wide=draft.mm(s.base_mm), length=draft.mm(s.length_mm))
    )


def _extent(body: kinds.Body) -> tuple[float, float, float]:
    """Lower and upper width and height of a body in section [mm]; a known volume is drawn as a cube."""
    if body.form == "volume":
        side = ((body.volume_l or 0.0) * 1e6) ** (1 / 3)
        return side, side, side
    if body.form == "pail":
        return body.lower_mm or 0.0, body.upper_mm or 0.0, body.height_mm or 0.0
    wide = (body.diameter_mm if body.form == "cylinder" else body.length_mm) or 0.0
    return wide, wide, body.height_mm or 0.0


def _mould(draft: Draft, s: kinds.Mould) -> None:
    low, high, up = _extent(s.container)
    draft.outline("fill", [(-low / 2, 0), (low / 2, 0), (high / 2, up), (-high / 2, up)])
    if s.container.form != "volume":
        across = f" × {draft.mm(s.container.width_mm)}" if s.container.form == "box" and s.container.width_mm else ""
        draft.below(0, 0, draft.mm(low) + across)
        draft.right(max(low, high) / 2, up / 2, draft.mm(up))
    else:
        draft.below(0, 0, say(show_litres(s.container.volume_l or 0.0, draft.reader)))
    if s.model:
        low, high, up = _extent(s.model)
        draft.outline("post", [(-low / 2, 0), (low / 2, 0), (high / 2, up), (-high / 2, up)])
        known = say(show_litres(s.model.volume_l, draft.reader)) if s.model.volume_l and not draft.sketch else ""
        words = draft.tell("model {volume}", volume=known) if known else draft.tell("model")
        draft.word(0, up / 2, words, dy=4)


def _scan(draft: Draft, s: kinds.Scan) -> None:
    k = s.scale_percent / 100
    wide, _, high = s.size_x_mm * k, s.size_y_mm * k, s.size_z_mm * k
    up = 0.0
    if s.cast != "model":
        room_wide, _, room_high = s.room_mm()
        up = s.under_mm
        draft.box("fill", -room_wide / 2, 0, room_wide, room_high)
        draft.below(0, 0, draft.mm(room_wide))
        draft.right(room_wide / 2, room_high / 2, draft.mm(room_high))
    for shade, points in view_runs(s.outline):
        draft.outline(f"shade-{shade}", [(-wide / 2 + x * wide, up + y * high) for x, y in points])
    if not s.outline:
        draft.box("post", -wide / 2, up, wide, high)
    if s.cast == "model":
        draft.below(0, 0, draft.mm(wide))
        draft.right(wide / 2, high / 2, draft.mm(high))


def view_runs(outline: str) -> list[tuple[str, Points]]:
    """Read the front view of a scan: rows from the top, each `from-to:shade` in thousandths of the width.

    >>> view_runs("0-500:1|250-750:2")[0]
    ('1', [(0.0, 0.5), (0.5, 0.5), (0.5, 1.0), (0.0, 1.0)])
    """
    rows = outline.split("|") if outline else []
    found: list[tuple[str, Points]] = []
    for i, row in enumerate(rows):
        low, high = 1 - (i + 1) / len(rows), 1 - i / len(rows)
        for run in row.split(","):
            span, _, shade = run.partition(":")
            begin, _, end = span.partition("-")
            if not (begin.isdigit() and end.isdigit() and shade in ("1", "2", "3")):
                continue
            left, right = int(begin) / 1000, int(end) / 1000
            found.append((shade, [(left, low), (right, low), (right, high), (left, high)]))
    return found


def _displaced(draft: Draft, s: kinds.Displaced) -> None:
    wide = (s.diameter_mm if s.tub == "round" else s.length_mm) or max(s.after_mm, s.before_mm) * 1.5
    high = max(s.after_mm, s.before_mm) * 1.2
    draft.box("plan", 0, 0, wide, high)
    low, top = min(s.before_mm, s.after_mm), max(s.before_mm, s.after_mm)
    draft.box("fill", 0, low, wide, top - low)
    draft.outline("water", [(0, s.before_mm), (wide, s.before_mm)])
    draft.outline("water", [(0, s.after_mm), (wide, s.after_mm)])
    draft.left(0, s.before_mm, draft.tell("before {height}", height=draft.mm(s.before_mm)))
    draft.right(wide, s.after_mm, draft.tell("after {height}", height=draft.mm(s.after_mm)))
    draft.below(wide / 2, 0, draft.mm(wide))


def _cube(draft: Draft, volume_l: float) -> None:
    side = (volume_l * 1e6) ** (1 / 3)
    draft.box("fill", 0, 0, side, side)
    if not draft.sketch:
        draft.below(side / 2, 0, draft.tell("as a cube: {side}", side=draft.mm(side)))


def _weighed(draft: Draft, s: kinds.Weighed) -> None:
    litres = max(s.full_kg - s.empty_kg, 0.0) / (s.fill_kg_l or 1.0)
    if litres:
        _cube(draft, litres)


def _known(draft: Draft, s: kinds.KnownVolume) -> None:
    _cube(draft, s.volume_l)


def _cylinder(draft: Draft, s: kinds.Cylinder) -> None:
    _standing(draft, s.diameter_mm, s.height_mm)


_DRAWN: Final[dict[type[Any], Callable[[Draft, Any], None]]] = {
    kinds.Slab: _slab,
    kinds.Strip: _slab,
    kinds.Floor: _floor,
    kinds.Depths: _depths,
    kinds.Fall: _fall,
    kinds.Kerb: _kerb,
    kinds.Stair: _stair,
    kinds.BoredHole: _bored,
    kinds.Cylinder: _cylinder,
    kinds.Column: _column,
    kinds.Tube: _tube,
    kinds.Cone: _cone,
    kinds.Tub: _tub,
    kinds.Ball: _ball,
    kinds.Prism: _prism,
    kinds.Coat: walls.coat,
    kinds.Masonry: walls.masonry,
    kinds.Pointing: walls.pointing,
    kinds.Infill: walls.infill,
    kinds.Mould: _mould,
    kinds.Scan: _scan,
    kinds.Displaced: _displaced,
    kinds.Weighed: _weighed,
    kinds.KnownVolume: _known,
}


def shape(given: Shape, reader: Reader, said: dict[str, str] | None = None) -> tuple[Stroke, ...]:
    """Draw a shape to scale with its measures, whether it can be or not.

    Parameters
    ----------
    given : the shape
    reader : in whose units measures are written
    said : by a field, what is written in the place of its measure
    """
    draft = Draft(reader, lengths(given, given.kind), said)
    _DRAWN[type(given)](draft, given)
    return draft.lines()


@cache
def outline(kind: str) -> tuple[Stroke, ...]:
    """Draw what a kind of shape looks like, without measures; nothing for one that is read from a file."""
    given = sample(kind)
    return tuple(line for line in shape(given, METRIC) if line.kind != "word") if given is not None else ()


def loops_plan(outlines: Outlines) -> tuple[Stroke, ...]:
    """Draw every outline of a drawing in its place, numbered."""
    draft = Draft(METRIC)
    for number, loop in enumerate(outlines.loops, 1):
        if len(loop.corners) < 2:
            continue
        kind = "open" if loop.wrong else "hole" if loop.hole_in is not None else "closed"
        ring = list(loop.corners)
        draft.outline(kind, ring if loop.wrong else [*ring, ring[0]])
        x, y = (sum(v) / len(ring) for v in zip(*ring, strict=True))
        draft.word(x, y, str(number), dy=4)
    return draft.lines()
