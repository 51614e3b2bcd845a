"""What stands in Lantern Yard: measures, mixers and scales of its own, as its people described them."""

from typing import Any, Final

THINGS: Final[dict[str, dict[str, Any]]] = {
    "tin": {
        "name": "Sand tin", "use": "measure", "form": "round", "word": "tin", "depth_mm": "212 mm", "top_mm": "176 mm",
        "tare_kg": "0.3 kg",
    },
    "lime bucket": {
        "name": "Lime bucket", "use": "measure", "form": "round", "word": "bucket", "depth_mm": "265 mm",
        "top_mm": "295 mm", "bottom_mm": "230 mm", "water_kg": "14.6 kg", "tare_kg": "0.86 kg",
    },
    "shovel": {
        "name": "Round shovel", "use": "scoop", "word": "shovel", "scoops": "5", "into_l": "22.7 L", "heaped": "true",
    },
    "trowel": {
        "name": "Gauging trowel", "use": "scoop", "word": "trowel", "scoops": "20", "into_l": "5 L", "heaped": "true",
    },
    "tub": {
        "name": "Blue tub", "use": "bucket",
        "fills": [
            {"height_mm": "100 mm", "holds_l": "11.5 L"},
            {"height_mm": "200 mm", "holds_l": "24.6 L"},
            {"height_mm": "310 mm", "holds_l": "41 L"},
        ],
    },
    "bowl": {"name": "Rubber bowl", "use": "bowl", "form": "round", "depth_mm": "110 mm", "top_mm": "190 mm",
             "bottom_mm": "90 mm"},
    "barrow": {"name": "Green barrow", "use": "barrow", "form": "box", "depth_mm": "240 mm", "top_mm": "840 mm",
               "top_wide_mm": "560 mm", "bottom_mm": "560 mm", "bottom_wide_mm": "400 mm"},
    "drum": {"name": "Yard drum", "use": "drum", "form": "round", "depth_mm": "640 mm", "top_mm": "400 mm",
             "bottom_mm": "560 mm", "tilt_deg": "30", "most_kg": "230 kg"},
    "hanging scale": {"name": "Scale in the loft", "use": "scale_hanging", "carries_kg": "50 kg", "step_kg": "20 g",
                      "unit": "kg"},
    "bench scale": {"name": "Plaster bench scale", "use": "scale_bench", "carries_kg": "15 kg", "step_kg": "5 g",
                    "unit": "kg"},
}  # fmt: skip

STOCK: Final[tuple[dict[str, Any], ...]] = (
    {"material": "portland-cement", "pack_kg": "25 kg", "packs": "4", "opened_percent": "40 %", "price": "9.40",
     "currency": "€", "delivered": "2026-09-10"},
    {"material": "sharp-sand", "pack_kg": "850 kg", "packs": "1", "opened_percent": "30 %", "price": "52",
     "currency": "€"},
    {"material": "casting-plaster", "pack_kg": "25 kg", "packs": "1", "price": "17.50", "currency": "€",
     "delivered": "2026-05-04"},
    {"material": "hemp-shiv", "pack_kg": "20 kg", "packs": "2", "price": "28", "currency": "€"},
)  # fmt: skip

USED: Final[dict[str, dict[str, Any]]] = {
    "Hemp-lime panel": {"gauges": ["lime bucket"], "scales": ["hanging scale"]},
    "Corbel, half moulds": {"scales": ["bench scale"]},
    "Garden wall, repointing": {"gauges": ["tin", "lime bucket"]},
}
"""What of it each job is measured with, by the job's name."""


def with_own(sheet: dict[str, Any], keys: dict[str, str]) -> dict[str, Any]:
    """Put the yard's own things into a job that is measured with them."""
    used = USED.get(sheet["job"], {})
    return sheet | {field: [keys[name] for name in names] for field, names in used.items()}
