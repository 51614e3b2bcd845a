"""Every pattern of the pages in every state, on one page: to look at, to photograph and to check."""

from functools import cache
from typing import Any, Final

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.catalogue.sand_test import SandTest, judge_sand
from keeve.catalogue.trying import Tried
from keeve.core.planning.plan import plan
from keeve.web.asking.deps import ReadBy
from keeve.web.beside.book.sands import judged_values
from keeve.web.beside.book.shown import read
from keeve.web.drawings.sketches import Drawn, drawn
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.pages.asked_fields import asked_fields
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page
from keeve.web.stations.answering import answer_values
from keeve.words.reader import Reader

router = APIRouter(responses=REFUSALS)
_SHEET: Final = {
    "job": "Pad",
    "mix": "concrete-1-2-4",
    "mixer": "drum-small",
    "shapes": [
        {"kind": "bored_hole", "diameter_mm": 350, "depth_mm": 750, "post": "square", "post_mm": 150, "count": 4},
        {"kind": "slab", "length_mm": 1200, "width_mm": 800, "depth_mm": "95 ± 5 mm"},
    ],
    "moisture_percent": {"sharp-sand": 5, "gravel-20": 1},
}
_MORE_SHAPES: Final = (
    {"kind": "floor", "corners": "0 0; 4.2 0; 4.2 3.1; 2 3.1; 2 5; 0 5", "unit": "m", "depth_mm": 75},
    {"kind": "coat", "length_mm": 4000, "height_mm": 2400, "openings_m2": 2, "thickness_mm": 15},
    {"kind": "mould", "container": {"form": "box", "length_mm": 300, "width_mm": 200, "height_mm": 100},
     "model": {"form": "volume", "volume_l": 2}},
    {"kind": "bored_hole", "diameter_mm": 250, "depth_mm": 600, "post": "square", "post_mm": 200},
)  # fmt: skip
_SAND: Final = {
    "envelope": "c33-fine",
    "rows": [
        {"sieve_mm": size, "first": kept}
        for size, kept in ((4.75, 10), (2.36, 80), (1.18, 160), (0.6, 210), (0.3, 300), (0.15, 200))
    ],
    "first_pan_g": 40,
}


@cache
def _planned() -> Tried:
    request = resolve(JobSheet.model_validate(_SHEET), load_catalogue())
    return Tried(request, plan(request))


@router.get("/patterns", name="patterns", **PAGE)
def patterns(request: Request, reader: ReadBy) -> Response:
    """Show every pattern in every state."""
    return remembered(request, ("patterns",), 0, lambda: _every_pattern(request, reader))


def _every_pattern(request: Request, reader: Reader) -> Page:
    shelf, tried = load_catalogue(), _planned()
    gauge = shelf.gauges()[0]
    designed = shelf.mixes["concrete-designed"].basis
    shown: list[Drawn] = drawn([*_SHEET["shapes"], *_MORE_SHAPES], "sand")
    values: dict[str, Any] = answer_values("loads", tried, "-", reader)
    return page(
        request,
        "patterns/page.html",
        **values,
        **judged_values(judge_sand(SandTest.model_validate(_SAND), shelf)),
        asked=asked_fields(designed, {"slump_mm": "90 mm"}, "asked", reader, for_job=True),
        drawn=shown,
        gauge=gauge,
        one=read(shelf.mixes["stucco-base"], shelf, gauge, reader),
    )
