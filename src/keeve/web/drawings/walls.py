"""Walls to scale: coats, masonry, pointing and infill."""

import math

from keeve.core.takeoff import shapes as kinds
from keeve.web.drawings.draft import Draft
from keeve.web.pages.shape_forms import GROUNDS
from keeve.words.showing import say, show_area


def _wall(draft: Draft, length: float, height: float, openings_m2: float, deep: str) -> None:
    draft.box("fill", 0, 0, length, height)
    if openings_m2 > 0:
        share = min(math.sqrt(openings_m2 * 1e6 / (length * height)), 1.2)
        wide, high = length * share, height * share
        draft.box("void", (length - wide) / 2, (height - high) / 2, wide, high)
        less = "" if draft.sketch else draft.tell("less {area}", area=say(show_area(openings_m2, draft.reader)))
        draft.word(length / 2, height / 2, less, dy=4)
    draft.above(length / 2, height, draft.mm(length))
    draft.right(length, height / 2, draft.mm(height))
    draft.below(length / 2, 0, deep)


def coat(draft: Draft, s: kinds.Coat) -> None:
    """Draw a wall with its coat."""
    _wall(
        draft,
        s.length_mm,
        s.height_mm,
        s.openings_m2,
        draft.tell("{thick} thick, {ground}", thick=draft.mm(s.thickness_mm), ground=GROUNDS[s.ground]),
    )


def _bricks(draft: Draft, long: float, high: float, joint: float, words: str) -> None:
    """Draw a piece of wall, three courses high, its stones to scale with their joints."""
    wide = 2 * long + 3 * joint
    draft.box("fill", 0, 0, wide, 3 * high + 4 * joint)
    for course in range(3):
        x = joint - (long + joint) / 2 * (course % 2)
        y = joint + course * (high + joint)
        while x < wide:
            left, right = max(x, 0.0), min(x + long, wide)
            if right > left:
                draft.box("post", left, y, right - left, high)
            x += long + joint
    draft.above(
        wide / 2,
        3 * high + 4 * joint,
        draft.tell("{long} × {high}, joint {joint}", long=draft.mm(long), high=draft.mm(high), joint=draft.mm(joint)),
    )
    draft.below(wide / 2, 0, words)


def masonry(draft: Draft, s: kinds.Masonry) -> None:
    """Draw units with the joints between them."""
    words = draft.tell("{leaves} × {thick} thick", leaves=str(s.leaves), thick=draft.mm(s.leaf_mm))
    if s.units is not None:
        words = draft.tell("{number} laid, {leaves}", number=str(s.units), leaves=words)
    elif s.length_mm and s.height_mm:
        words = f"{draft.mm(s.length_mm)} × {draft.mm(s.height_mm)}, {words}"
    _bricks(draft, s.unit_length_mm, s.unit_height_mm, s.joint_mm, words)


def pointing(draft: Draft, s: kinds.Pointing) -> None:
    """Draw the joints that are pointed."""
    if s.by == "wall" and s.unit_length_mm and s.unit_height_mm:
        deep = draft.tell("{depth} deep", depth=draft.mm(s.depth_mm))
        wall = f"{say(show_area(s.area_m2, draft.reader))}, {deep}" if s.area_m2 and not draft.sketch else deep
        _bricks(draft, s.unit_length_mm, s.unit_height_mm, s.joint_mm, wall)
        return
    draft.box("post", 0, 0, s.depth_mm * 2, s.joint_mm * 5)
    draft.box("fill", 0, s.joint_mm * 2, s.depth_mm, s.joint_mm)
    draft.below(
        s.depth_mm, 0, draft.tell("joint {joint}, {depth} deep", joint=draft.mm(s.joint_mm), depth=draft.mm(s.depth_mm))
    )


def infill(draft: Draft, s: kinds.Infill) -> None:
    """Draw a panel with its studs."""
    thick = draft.mm(s.thickness_mm)
    words = draft.tell("{thick} thick", thick=thick)
    if s.studs and s.stud_width_mm and s.stud_depth_mm:
        wide, deep = draft.mm(s.stud_width_mm), draft.mm(s.stud_depth_mm)
        words = draft.tell("{thick} thick, studs {wide} × {deep}", thick=thick, wide=wide, deep=deep)
    _wall(draft, s.length_mm, s.height_mm, s.openings_m2, words)
    if s.studs and s.stud_width_mm and s.studs <= 60:
        pitch = s.length_mm / s.studs
        for i in range(s.studs):
            draft.box("post", (i + 0.5) * pitch - s.stud_width_mm / 2, 0, s.stud_width_mm, s.height_mm)
