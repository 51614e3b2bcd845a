"""The shapes a person can measure, each with the volume it asks for."""

from typing import Annotated

from pydantic import Discriminator, Tag

from keeve.core.takeoff.flat import Depths, Fall, Floor, Kerb, Slab, Stair, Strip
from keeve.core.takeoff.moulds import Body, Displaced, KnownVolume, Mould, Scan, Weighed
from keeve.core.takeoff.upright import Ball, BoredHole, Column, Cone, Cylinder, Prism, Tub, Tube
from keeve.core.takeoff.walls import Coat, Infill, Masonry, Pointing

__all__ = [
    "Ball", "Body", "BoredHole", "Coat", "Column", "Cone", "Cylinder", "Depths", "Displaced", "Fall", "Floor",
    "Infill", "Kerb", "KnownVolume", "Masonry", "Mould", "Pointing", "Prism", "Scan", "Shape", "Slab", "Stair",
    "Strip", "Tub", "Tube", "Weighed",
]  # fmt: skip


def _kind(value: object) -> str | None:
    kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
    return f":{kind}" if kind else None


Shape = Annotated[
    Annotated[Slab, Tag(":slab")]
    | Annotated[Floor, Tag(":floor")]
    | Annotated[Depths, Tag(":depths")]
    | Annotated[Fall, Tag(":fall")]
    | Annotated[Strip, Tag(":strip")]
    | Annotated[Kerb, Tag(":kerb")]
    | Annotated[Stair, Tag(":stair")]
    | Annotated[BoredHole, Tag(":bored_hole")]
    | Annotated[Column, Tag(":column")]
    | Annotated[Cylinder, Tag(":cylinder")]
    | Annotated[Tube, Tag(":tube")]
    | Annotated[Coat, Tag(":coat")]
    | Annotated[Masonry, Tag(":masonry")]
    | Annotated[Pointing, Tag(":pointing")]
    | Annotated[Infill, Tag(":infill")]
    | Annotated[Mould, Tag(":mould")]
    | Annotated[Scan, Tag(":scan")]
    | Annotated[Cone, Tag(":cone")]
    | Annotated[Tub, Tag(":tub")]
    | Annotated[Ball, Tag(":ball")]
    | Annotated[Prism, Tag(":prism")]
    | Annotated[Displaced, Tag(":displaced")]
    | Annotated[Weighed, Tag(":weighed")]
    | Annotated[KnownVolume, Tag(":known")],
    Discriminator(_kind),
]
