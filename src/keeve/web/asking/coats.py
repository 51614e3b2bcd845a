"""The coats that come on top of what a job makes."""

from typing import Any

from keeve.catalogue import Catalogue
from keeve.core.hardening.waiting import NextCoat
from keeve.core.message.said import Words
from keeve.store.tables import JobRow


def coats_above(shelf: Catalogue, mix_key: str) -> list[tuple[NextCoat, Words]]:
    """List the coats that may come on top of a mix, the usual one first, with their names."""
    mix = shelf.mixes.get(mix_key)
    above = (mix.next_coat, *mix.other_coats) if mix is not None else ()
    return [(one, one.called or shelf.mixes[one.mix].name) for one in above if one is not None]


def coat_above(sheet: dict[str, Any], job: JobRow, following: NextCoat, name: str) -> dict[str, Any]:
    """Return the sheet of the next coat on the same wall: its own mix and thickness, nothing of the first heap."""
    shapes = sheet.get("shapes")
    walls = [
        shape | {"thickness_mm": f"{following.thickness_mm:g} mm", "ground": "smooth"}
        for shape in (shapes if isinstance(shapes, list) else [])
        if isinstance(shape, dict) and shape.get("kind") == "coat"
    ]
    # Two coats of one wall that stand in one sheet are one wall.
    areas: dict[str, dict[str, Any]] = {}
    for shape in walls:
        areas.setdefault(str({k: v for k, v in shape.items() if k not in ("note", "thickness_mm", "ground")}), shape)
    return {
        "job": name, "place": sheet.get("place", ""), "mix": following.mix, "changes": {}, "follows": str(job.id),
        "shapes": list(areas.values()),
    }  # fmt: skip
