"""What a designed concrete asks for, in the order a form shows it."""

from typing import Final

from keeve.core.message.said import mark
from keeve.core.proportions.aim import EN_CLASSES
from keeve.core.proportions.asked import Asked

_YES_NO: Final = (("false", mark("no")), ("true", mark("yes")))
_SECTION: Final = (("false", mark("ordinary")), ("true", mark("thin")))
_EXPOSURE: Final = (
    ("none", mark("none")),
    ("mild", mark("mild")),
    ("moderate", mark("wet and frost")),
    ("severe", mark("severe: wet, frost, salt")),
)
_ATTACK: Final = (("none", mark("nothing")), ("sulfate or seawater", mark("sulfate or seawater")))
_SHAPE: Final = tuple(
    (shape, shape) for shape in (mark("crushed"), mark("sub-angular"), mark("part crushed"), mark("rounded"))
)
_SAND_BY: Final = tuple((way, way) for way in (mark("absolute volume"), mark("fresh density")))
ASKED: Final = (
    Asked("en_class", "Strength class", options=(("", mark("none")), *((name, name) for name in EN_CLASSES))),
    Asked("en_margin_mpa", "Mean over the class by", "strength", "6 to 12 MPa; 8 is usual."),
    Asked("specified_mpa", "Specified strength", "strength", "Without a test record the mean follows."),
    Asked("mean_mpa", "Mean strength, cylinder", "strength", "At 28 days; goes before."),
    Asked("slump_mm", "Slump", "near"),
    Asked("stone_mm", "Largest stone", "near"),
    Asked("fineness_modulus", "Fineness of the sand", hint="Fineness modulus, 2.4 to 3.0"),
    Asked("rodded_kg_m3", "Stone, dry-rodded", "density", job=False),
    Asked("exposure", "Weather on it", options=_EXPOSURE),
    Asked("air_entrained", "Air entrained", options=_YES_NO),
    Asked("attack", "Attacked by", options=_ATTACK),
    Asked("thin_section", "Section", options=_SECTION),
    Asked("stone_shape", "Stone", options=_SHAPE),
    Asked("sand_by", "Sand by", options=_SAND_BY),
    Asked("trial_slump_mm", "Trial load slumped", "near", "Corrects the water, w/c held.", folded=True),
    Asked("trial_air_percent", "Trial load had air", "%", folded=True),
    Asked("trial_fresh_kg_m3", "Trial load weighed", "density", "Fresh, by a struck measure.", folded=True),
    Asked("given_ratio", "w/c, given", hint="From an engineer's sheet: goes before the strength.", folded=True),
    Asked("given_water_kg_m3", "Water, given", "per m³", "Goes before slump and stone.", folded=True),
    Asked("given_air_percent", "Air, given", "%", folded=True),
    Asked("given_cementitious_kg_m3", "Cementitious, given", "per m³", "Goes before water and w/c.", folded=True),
    Asked("given_stone_bulk", "Stone, given", hint="Dry-rodded volume in a whole: 0.62", folded=True),
    Asked("fume_percent", "Silica fume", "%", "Of the cementitious, by mass.", folded=True),
    Asked("ash_percent", "Fly ash", "%", folded=True),
    Asked("slag_percent", "Slag", "%", folded=True),
)
