"""Job sheets of the yard: what the crew measured at the lock-keeper's house."""

from typing import Any, Final

PLACE: Final = "Lock-keeper's house, Pellow Reach"


def _job(name: str, mix: str, *shapes: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"job": name, "place": PLACE, "mix": mix, "changes": {}, "shapes": list(shapes)} | more


GATE_POSTS: Final = _job(
    "Gate-post holes",
    "concrete-1-2-4",
    {
        "kind": "bored_hole",
        "note": "Gate posts",
        "diameter_mm": "350 mm",
        "depth_mm": "750 mm",
        "post": "square",
        "post_mm": "150 mm",
        "count": "2",
    },
    {
        "kind": "bored_hole",
        "note": "Rail posts",
        "diameter_mm": "300 mm",
        "depth_mm": "600 mm",
        "post": "square",
        "post_mm": "100 mm",
        "count": "3",
    },
    moisture_percent={"sharp-sand": "5 %", "gravel-20": "1 %"},
    mixer="drum-site",
)

CORBEL: Final = _job(
    "Corbel, half moulds",
    "casting-plaster-70",
    {
        "kind": "mould",
        "note": "Two halves of the corbel mould",
        "container": {"form": "box", "length_mm": "340 mm", "width_mm": "260 mm", "height_mm": "280 mm"},
        "model": {"form": "volume", "volume_l": "7.4 L"},
        "share_percent": "50 %",
        "count": "2",
    },
    mixer="paddle-bucket",
)

WORKSHOP_FLOOR: Final = _job(
    "Workshop floor, screed",
    "screed-semi-dry",
    {
        "kind": "floor",
        "note": "Round the forge's foot",
        "corners": "0 0; 5.2 0; 5.2 2.6; 3.1 2.6; 3.1 4.4; 0 4.4",
        "holes": "0.6 0.8; 1.5 0.8; 1.5 1.6; 0.6 1.6",
        "unit": "m",
        "depth_mm": "65 ± 8 mm",
    },
    mixer="pan-forced",
)

GARDEN_WALL: Final = _job(
    "Garden wall, repointing",
    "lime-pointing-1-2-5",
    {
        "kind": "pointing",
        "note": "Both faces",
        "by": "wall",
        "area_m2": "2*(7.4*1.3) m²",
        "unit_length_mm": "225 mm",
        "unit_height_mm": "70 mm",
        "joint_mm": "12 mm",
        "depth_mm": "25 ± 5 mm",
    },
)

GABLE: Final = _job(
    "Gable, scratch and brown",
    "stucco-base",
    {
        "kind": "coat",
        "note": "Scratch coat",
        "group": "Gable",
        "length_mm": "6.2 m",
        "height_mm": "2.9 + 1.1 m",
        "openings_m2": "1.2*1.1 + 0.5 m²",
        "thickness_mm": "10 mm",
        "ground": "lath or stone",
    },
    {
        "kind": "coat",
        "note": "Brown coat",
        "group": "Gable",
        "length_mm": "6.2 m",
        "height_mm": "2.9 + 1.1 m",
        "openings_m2": "1.2*1.1 + 0.5 m²",
        "thickness_mm": "9 mm",
        "ground": "smooth",
    },
)

PORCH_STEPS: Final = _job(
    "Porch steps",
    "concrete-1-1h-3",
    {
        "kind": "stair",
        "note": "Flight with landing",
        "steps": "4",
        "going_mm": "280 mm",
        "rise_mm": "170 mm",
        "width_mm": "1100 mm",
        "waist_mm": "120 mm",
        "landing_mm": "900 mm",
        "landing_thick_mm": "130 mm",
    },
)

HEMP_PANEL: Final = _job(
    "Hemp-lime panel",
    "hemp-lime-wall",
    {
        "kind": "infill",
        "note": "Kitchen panel",
        "length_mm": "2.4 m",
        "height_mm": "2.2 m",
        "thickness_mm": "200 mm",
        "studs": "4",
        "stud_width_mm": "50 mm",
        "stud_depth_mm": "100 mm",
    },
)

WASH_STAND: Final = _job(
    "Thin wash-stand",
    "thin-panel",
    {"kind": "slab", "note": "Top and apron", "length_mm": "900 mm", "width_mm": "480 mm", "depth_mm": "25 mm"},
    mixer="paddle-bucket",
)

PATH: Final = _job(
    "Pervious path",
    "pervious",
    {"kind": "slab", "note": "Gate to porch", "length_mm": "6 m", "width_mm": "1.2 m", "depth_mm": "100 mm"},
    moisture_percent={"gravel-10": "1.5 %"},
    mixer="drum-site",
)

TO_MEASURE: Final = (PATH, WASH_STAND, HEMP_PANEL, PORCH_STEPS, GABLE, GARDEN_WALL, WORKSHOP_FLOOR)
"""Jobs that are measured and not begun."""
