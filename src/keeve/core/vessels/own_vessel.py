"""A vessel of one's own: by its inside measures, by what was poured into it, or by both."""

import math
from itertools import pairwise
from typing import Final, Literal, NamedTuple

from pydantic import Field

from keeve.core.measure.quantities import Length, Mass, Plain, Volume
from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import mark, measured, verbatim
from keeve.core.vessels.profile import bowl, carried_on, filled_profile
from keeve.core.vessels.tilted import tilted_brim_l
from keeve.core.vessels.tolerance import SLACK
from keeve.core.vessels.vessels import Container, Mixer, MixerKind, Ring, Section, brim_l, volume_l

Use = Literal[
    "measure", "jug", "scoop", "drum", "pan", "mortar", "bucket", "bowl", "tray", "barrow", "sheet", "two_buckets"
]
_KIND: Final[dict[str, MixerKind]] = {
    "drum": "drum", "pan": "pan", "mortar": "pan", "bucket": "bucket", "bowl": "bucket", "tray": "tray",
    "barrow": "tray", "sheet": "tray", "two_buckets": "tray",
}  # fmt: skip
"""How a load is mixed in it: on a sheet and between two buckets it is turned by hand, as in a tray."""
Word = Literal["", "pail", "bucket", "tin", "box", "shovel", "trowel", "spoon", "cap", "jug"]
CONTRADICTS: Final = 0.05
"""A fill and the measures that differ by more contradict each other. House ruling."""
TAPERS: Final = 1.25
"""A measure so much wider at its bottom than at its rim was written down upside down: own assumption."""
MOST_L: Final[dict[str, float]] = {"measure": 100.0, "jug": 30.0, "scoop": 15.0}
"""Of what is carried by hand; mixers are as large as they are: own assumption."""
# Usual shares, as `usual_mixed_l` takes them: common practice, no source.
MIXED_OF_GROSS: Final = 0.62
BUCKET_DEEP: Final = 2 / 3
TRAY_FULL: Final = 0.5
DRY_OF_GROSS: Final = 0.9
SHEET_MM: Final = 150.0
"""A heap on a sheet or a board is turned no deeper: common practice, no source."""
LEAST_L: Final = 0.002
"""A cap of a bottle is a measure too."""


_ACROSS_MM: Final = 9000.0
_MOST_MM: Final = {"depth_mm": 5000.0} | dict.fromkeys(
    ("bottom_mm", "top_mm", "bottom_wide_mm", "top_wide_mm"), _ACROSS_MM
)
"""Of what is mixed in on a site: own assumption."""


class FilledTo(Frozen):
    """What a vessel held when it stood full to a height."""

    height_mm: Length
    holds_l: Volume | None = None
    water_kg: Mass | None = None

    @property
    def litres(self) -> float | None:
        """What was in [L]: a kilogram of water is a litre within 0.3 %. From memory."""
        return self.holds_l or self.water_kg


class VesselSheet(Frozen):
    """A vessel as its owner describes it."""

    name: str = Field(min_length=1, max_length=80)
    use: Use = "measure"
    form: Literal["round", "box"] = "round"
    depth_mm: Length | None = None
    bottom_mm: Length | None = None
    """Across the bottom inside, or its longer side; empty is as at the rim."""
    top_mm: Length | None = None
    """Across the rim inside; empty is as at the bottom."""
    bottom_wide_mm: Length | None = None
    """The other side of a box; empty is square."""
    top_wide_mm: Length | None = None
    holds_l: Volume | None = None
    """Poured in with a jug until it stood level with the rim."""
    water_kg: Mass | None = None
    """Or weighed full of water, less the empty vessel."""
    fills: tuple[FilledTo, ...] = Field((), max_length=8)
    """Filled to several heights, whatever its form: the topmost is its rim."""
    scoops: Plain | None = Field(None, ge=1, le=200)
    """So many of a shovel or a trowel …"""
    into_l: Volume | None = None
    """… filled a vessel that holds so much."""
    heaped: bool = False
    """Whether it is counted heaped, as it was when it was measured."""
    word: Word = ""
    """What it is called in a sentence; empty takes its name."""
    tare_kg: Mass | None = None
    """What it weighs empty."""
    mark_l: Volume | None = None
    """Smallest mark of a jug."""
    mixed_l: Volume | None = None
    """Fresh mix it is rated for; empty takes the usual share."""
    most_kg: Mass | None = None
    tilt_deg: Plain | None = Field(None, ge=0, le=80)
    """How far a drum leans from upright while it turns; empty is mouth up."""


class OwnVessel(NamedTuple):
    """A vessel made of its sheet."""

    vessel: Container | Mixer
    brim_l: float
    by_measures_l: float | None
    """By its measures alone, where there are enough of them."""
    filled_l: float | None
    """What went in."""


def vessel_of(sheet: VesselSheet, key: str) -> OwnVessel:
    """Make a vessel of what its owner says of it.

    Parameters
    ----------
    sheet : measures, fills or both
    key : it is kept by

    Returns
    -------
    container or mixer; where measures and a fill are given, the widths are set right so that the brim is the fill

    Raises
    ------
    LoadError : too little is said, or what is said contradicts itself; with its field

    Notes
    -----
    A volume grows with the square of all widths: they are multiplied by √(fill / volume by measures). Without a depth
    it is fill ÷ area; without widths the vessel is drawn as straight and round.

    References
    ----------
    Frustum and prismatoid, plain arithmetic. A kilogram of water is a litre, within 0.3 % below 25 °C: from memory.

    >>> tin = VesselSheet(name="Tin", depth_mm=150, top_mm=100)
    >>> round(vessel_of(tin, "own-tin").brim_l, 3)
    1.178
    >>> pail = VesselSheet(name="Pail", depth_mm=366, bottom_mm=262, top_mm=300, holds_l=23)
    >>> round(vessel_of(pail, "own-pail").brim_l, 6)
    23.0
    """
    _check_measures(sheet)
    filled = _filled_l(sheet)
    section, by_measures = _section(sheet, filled)
    brim = brim_l(section)
    _check_size(sheet, brim)
    made = _container(sheet, key, section) if sheet.use in MOST_L else _mixer(sheet, key, section, brim)
    return OwnVessel(made, brim, by_measures, filled)


def _filled_l(sheet: VesselSheet) -> float | None:
    """Return what went in [L]: poured or weighed, and alike where it was both."""
    poured, weighed = sheet.holds_l or _counted_l(sheet), sheet.water_kg
    if poured and weighed and abs(poured - weighed) > CONTRADICTS * poured:
        msg = mark("Its water was weighed as {value}, but {limit} were poured in.")
        raise _refused(Code.DOES_NOT_FIT, msg, mark("Fill it once more."), "water_kg", weighed, poured)
    return poured or weighed


def _section(sheet: VesselSheet, filled_l: float | None) -> tuple[Section, float | None]:
    if sheet.fills:
        return _by_fills(sheet)
    across = sheet.top_mm or sheet.bottom_mm
    if across is not None and sheet.depth_mm is not None:
        by_measures = _ringed(sheet, sheet.depth_mm)
        brim = brim_l(by_measures)
        if filled_l is None:
            return by_measures, brim
        if abs(filled_l - brim) > CONTRADICTS * filled_l:
            msg = mark("It was filled with {value}, but by its measures it holds {limit}.")
            raise _refused(
                Code.DOES_NOT_FIT,
                msg,
                mark("Measure inside, or fill it once more."),
                "holds_l" if sheet.holds_l else "water_kg",
                filled_l,
                brim,
            )
        return _ringed(sheet, sheet.depth_mm, math.sqrt(filled_l / brim)), brim
    if filled_l is None and sheet.mixed_l is not None and sheet.use not in MOST_L:
        filled_l = sheet.mixed_l / _RATED_OF_GROSS[_KIND[sheet.use]]  # only its rating is known: drawn as it would be
    if filled_l is None:
        hint = mark("Measure it inside – across and deep – or fill it by a jug.")
        if sheet.use == "scoop":
            hint = mark("Count how many of them fill a bucket you know.")
        missing = "depth_mm" if across is not None else "top_mm"
        raise LoadError(Fault(Code.MISSING, "Nobody can say yet what it holds.", hint, field=missing))
    if across is not None:
        return _ringed(sheet, filled_l / brim_l(_ringed(sheet, 1.0))), None
    # Only what it holds is known: straight and round, and as deep as it is wide unless its depth is said.
    depth = sheet.depth_mm or (filled_l * 1e6 * 4 / math.pi) ** (1 / 3)
    width = math.sqrt(filled_l * 1e6 / depth * 4 / math.pi)
    return Section(rings=(Ring(height_mm=0, width_mm=width), Ring(height_mm=depth, width_mm=width))), None


_RATED_OF_GROSS: Final[dict[MixerKind, float]] = {
    "drum": MIXED_OF_GROSS, "pan": MIXED_OF_GROSS, "bucket": BUCKET_DEEP, "tray": TRAY_FULL,
}  # fmt: skip


def _by_fills(sheet: VesselSheet) -> tuple[Section, float | None]:
    """Form a vessel by what it held at several heights, up to its rim; and say what it holds by its measures alone."""
    steps: list[tuple[float, float]] = []
    for i, one in enumerate(sheet.fills):
        if one.litres is None:
            hint = mark("Say what was poured in to that height, or what its water weighs.")
            raise LoadError(Fault(Code.MISSING, "Nobody said what it held there.", hint, field=f"fills.{i}.holds_l"))
        steps.append((one.height_mm, one.litres))
    steps.sort()
    for i, ((low_mm, low_l), (high_mm, high_l)) in enumerate(pairwise(steps)):
        if high_mm <= low_mm or high_l <= low_l:
            msg = mark("Filled higher it must hold more: {value} is not more than {limit}.")
            raise _refused(
                Code.DOES_NOT_FIT, msg, mark("Copy the two once more."), f"fills.{i + 1}.holds_l", high_l, low_l
            )
    section = filled_profile(tuple(steps))
    if sheet.depth_mm is None:
        return section, None
    if steps[-1][0] > sheet.depth_mm * (1 + SLACK):
        msg = mark("It was filled to {value}, and its rim is at {limit}.")
        field = f"fills.{len(steps) - 1}.height_mm"
        raise _refused(Code.DOES_NOT_FIT, msg, mark("Measure both inside."), field, steps[-1][0], sheet.depth_mm, "mm")
    by_measures = _ringed(sheet, sheet.depth_mm) if sheet.top_mm or sheet.bottom_mm else None
    for i, (height_mm, litres) in enumerate(steps if by_measures else ()):
        there = volume_l(by_measures, height_mm) if by_measures else litres
        if abs(litres - there) > CONTRADICTS * litres:
            msg = mark("Filled so high it held {value}, but by its measures {limit}.")
            hint = mark("Measure inside, or fill it once more.")
            raise _refused(Code.DOES_NOT_FIT, msg, hint, f"fills.{i}.holds_l", litres, there)
    rim_mm = sheet.top_mm if sheet.form == "round" else None
    return carried_on(section, sheet.depth_mm, rim_mm), brim_l(by_measures) if by_measures else None


def _counted_l(sheet: VesselSheet) -> float | None:
    """Volume of one shovel by counting them into a vessel [L]."""
    if sheet.scoops is None or sheet.into_l is None:
        return None
    return sheet.into_l / sheet.scoops


def _refused(
    code: Code, msg: str, hint: str, field: str, value: float, limit: float | None, unit: str = "L"
) -> LoadError:
    return LoadError(
        Fault(code, measured(msg, value, limit, unit), hint, field=field, value=value, limit=limit, unit=unit)
    )


def _check_measures(sheet: VesselSheet) -> None:
    for field, most in _MOST_MM.items():
        value = getattr(sheet, field)
        if value is not None and value > most:
            msg = mark("No vessel measures {value}: {limit} is the most that can be drawn.")
            raise _refused(Code.OUT_OF_RANGE, msg, mark("Check the unit."), field, value, most, "mm")


def _ringed(sheet: VesselSheet, depth_mm: float, wider: float = 1.0) -> Section:
    top, bottom = sheet.top_mm or sheet.bottom_mm, sheet.bottom_mm or sheet.top_mm
    if top is None or bottom is None:  # asked before
        raise LoadError(Fault(Code.MISSING, "It is measured across inside.", "", field="top_mm"))
    if sheet.use == "bowl" and sheet.form == "round":
        return bowl(wider * top, depth_mm, wider * bottom if sheet.bottom_mm and sheet.top_mm else 0.0)
    if sheet.form == "round":
        sides: tuple[float | None, float | None] = (None, None)
    else:
        sides = (
            wider * (sheet.bottom_wide_mm or sheet.top_wide_mm or bottom),
            wider * (sheet.top_wide_mm or sheet.bottom_wide_mm or top),
        )
    return Section(
        rings=(
            Ring(height_mm=0, width_mm=wider * bottom, depth_mm=sides[0]),
            Ring(height_mm=depth_mm, width_mm=wider * top, depth_mm=sides[1]),
        )
    )


def _check_size(sheet: VesselSheet, brim: float) -> None:
    top, bottom, most = sheet.top_mm, sheet.bottom_mm, MOST_L.get(sheet.use)
    if most is not None and top and bottom and bottom > TAPERS * top:
        msg = mark("It is {value} across the bottom and only {limit} at the rim.")
        raise _refused(Code.INVERTED, msg, mark("Exchange the two."), "bottom_mm", bottom, top, "mm")
    if most is not None and brim > most:
        msg = mark("That holds {value}: nobody lifts it. What is filled by hand holds {limit} at most.")
        hint = "Check its measures, or enter it as what is mixed in."
        raise _refused(Code.OUT_OF_RANGE, msg, hint, "scoops" if sheet.scoops else "depth_mm", brim, most)
    if brim < LEAST_L:
        msg = mark("That holds only {value}.")
        raise _refused(Code.OUT_OF_RANGE, msg, mark("Check the unit of its measures."), "depth_mm", brim, None)


def _container(sheet: VesselSheet, key: str, section: Section) -> Container:
    marks = sheet.mark_l if sheet.use == "jug" else None
    if sheet.use == "jug" and marks is None:
        hint = mark("Say how far apart they are: 0.1 L, 2 fl oz.")
        raise LoadError(Fault(Code.MISSING, "A jug is read at its marks.", hint, field="mark_l"))
    brim = brim_l(section)
    if marks is not None and marks > brim / 2:
        msg = mark("Marks every {value} are too coarse for a jug that holds {limit}.")
        hint = "Say how far apart its smallest marks are."
        raise _refused(Code.OUT_OF_RANGE, msg, hint, "mark_l", marks, brim)
    return Container(
        key=key,
        name=verbatim(sheet.name),
        short=sheet.word or verbatim(sheet.name),
        section=section,
        mark_l=marks,
        tare_kg=sheet.tare_kg,
        scoop=sheet.use == "scoop",
        heaped=sheet.use == "scoop" and sheet.heaped,
        source=_SOURCE,
    )


_SOURCE: Final = mark("measured by its owner")


def usual_mixed_l(use: Use, section: Section) -> float:
    """Fresh mix that goes into a mixer of a kind.

    Parameters
    ----------
    use : drum, pan, bucket or tray
    section : its inside

    Returns
    -------
    volume [L]: 0.62 of a drum's or a pan's gross volume, a bucket two thirds deep, a tray half full

    References
    ----------
    Common practice, no source.
    """
    if use in ("bucket", "bowl"):
        return volume_l(section, section.depth_mm * BUCKET_DEEP)
    return brim_l(section) * (TRAY_FULL if _KIND[use] == "tray" else MIXED_OF_GROSS)


def _mixer(sheet: VesselSheet, key: str, section: Section, brim: float) -> Mixer:
    tilt = (sheet.tilt_deg or 0.0) if sheet.use == "drum" and sheet.form == "round" else 0.0
    if tilt:
        brim = tilted_brim_l(section, tilt)
        if brim < LEAST_L:
            msg = mark("Tilted so far it holds only {value}.")
            raise _refused(Code.OUT_OF_RANGE, msg, mark("Tilt it less."), "tilt_deg", brim, None)
    mixed = sheet.mixed_l or (brim * MIXED_OF_GROSS if tilt else usual_mixed_l(sheet.use, section))
    if mixed > brim:
        msg = mark("It cannot mix {value}: it holds {limit} to the rim.")
        raise _refused(Code.DOES_NOT_FIT, msg, mark("Leave it empty for the usual share."), "mixed_l", mixed, brim)
    return Mixer(
        key=key,
        name=verbatim(sheet.name),
        kind=_KIND[sheet.use],
        section=section,
        mixed_l=mixed,
        dry_share=DRY_OF_GROSS if sheet.use in ("drum", "pan", "mortar") else 1.0,
        max_kg=sheet.most_kg,
        tilt_deg=tilt,
        source=_SOURCE,
    )
