"""The job sheet: a job as a person writes it down, with names from the catalogue in place of whole records."""

from typing import Annotated, Any, Final, TypeVar

from pydantic import BeforeValidator, ConfigDict, Discriminator, Field, Tag, ValidationError

from keeve.catalogue.loader import Catalogue, load_catalogue
from keeve.catalogue.starting import read_start
from keeve.core.conditions.temperature import MaterialTemperatures
from keeve.core.conditions.weather import AirNow
from keeve.core.dividing.dividing import Strategy
from keeve.core.lessons.own_figures import OwnFigures, with_own
from keeve.core.materials.heap_doors import Bulking, HeapMoisture
from keeve.core.measure.quantities import (
    Mass,
    NoneOrMany,
    Plain,
    Ratio,
    Share,
    ShareOrNone,
    Temperature,
    Volume,
    Waste,
)
from keeve.core.message.errors import Code, Fault, Frozen, MixError, TradeError, faults_of
from keeve.core.message.said import Names, Said, Words, mark
from keeve.core.mixes.admixtures import Admixture, Wanted, read_dose
from keeve.core.mixes.mix import LATE_WATER, Mix
from keeve.core.mixes.schools import with_schools
from keeve.core.planning.plan import Plan, plan
from keeve.core.planning.request import PlanRequest
from keeve.core.proportions.changing import changed_basis
from keeve.core.proportions.exposure import ExposureClasses
from keeve.core.takeoff.need import take_off
from keeve.core.takeoff.shapes import Shape
from keeve.core.vessels.scales import Scale
from keeve.core.vessels.tools import Means
from keeve.core.vessels.vessels import Container, Mixer

_Found = TypeVar("_Found")


def _by_name(value: object) -> str:
    return ":name" if isinstance(value, str) else ":own"


NamedMixer = Annotated[Annotated[str, Tag(":name")] | Annotated[Mixer, Tag(":own")], Discriminator(_by_name)]
NamedScale = Annotated[Annotated[str, Tag(":name")] | Annotated[Scale, Tag(":own")], Discriminator(_by_name)]
NamedContainer = Annotated[Annotated[str, Tag(":name")] | Annotated[Container, Tag(":own")], Discriminator(_by_name)]


def _dose(given: object) -> object:
    if not isinstance(given, str):
        raise MixError(Fault(Code.UNREADABLE, "Write a dose with its unit.", "Write it like 400 mL/100 kg or 0.3 %."))
    read_dose(given)
    return given


class AdmixtureEntry(Frozen):
    """An admixture by its name, or one's own, and its dose with a unit."""

    admixture: Annotated[Annotated[str, Tag(":name")] | Annotated[Admixture, Tag(":own")], Discriminator(_by_name)]
    dose: Annotated[str, BeforeValidator(_dose), Field(max_length=40)]
    acts_percent: ShareOrNone | None = Field(None, le=45)
    """How much it cuts the water, or how much air it sets; empty takes the middle of its label, 0 nothing."""
    hold_cement: bool = False
    """Of a reducer in a design: keep the cement, so that w/c falls."""


class JobSheet(Frozen):
    """A job: what to fill, with which mix, mixer and measures."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "job": "Gate-post holes",
                    "shapes": [
                        {
                            "kind": "bored_hole",
                            "diameter_mm": 300,
                            "depth_mm": "600 mm",
                            "post": "square",
                            "post_mm": "100 mm",
                            "count": 4,
                        }
                    ],
                    "mix": "concrete-bag-25kg",
                    "mixer": "drum-small",
                },
                {
                    "job": "Corbel, half moulds",
                    "shapes": [
                        {
                            "kind": "mould",
                            "container": {"form": "volume", "volume_l": "210 in3"},
                            "model": {"form": "volume", "volume_l": "63 in3"},
                            "share_percent": "1/2",
                            "count": 2,
                        }
                    ],
                    "mix": "casting-plaster-70",
                },
            ]
        }
    )

    job: str = Field("", max_length=120)
    place: str = Field("", max_length=120)
    shapes: tuple[Shape, ...] = Field((), max_length=200)
    start: Annotated[str, Field(max_length=200)] = ""
    """What is at hand and wants using, in the place of shapes: 4 tins of sand, 1 bag, what the mixer takes."""
    waste_percent: Waste | None = None
    residue_l: Annotated[Volume, Field(le=2000)] | None = None
    """What stays in mixer and pump at the end."""
    mix: Annotated[
        Annotated[str, Field(max_length=80), Tag(":name")] | Annotated[Mix, Tag(":own")], Discriminator(_by_name)
    ]
    """A mix of the catalogue, or one's own as an exchange file holds it."""
    changes: dict[Annotated[str, Field(max_length=40)], Any] = Field({}, max_length=40)
    """What this job does differently: figures of the mix's own basis by their names (a mix's file shows them), besides
    `pack_kg`, the size of the binder's bag, and `schools`, the way of each school by its key."""
    moisture_percent: dict[str, HeapMoisture] = Field({}, max_length=20)
    """By material key; 5, a pan test such as 1060/1000, or a meter's 6 wet."""
    looked_at: dict[str, Annotated[str, Field(max_length=40)]] = Field({}, max_length=20)
    """By material key: when somebody last said how wet the heap is; what it looks like holds for a day's work."""
    bulking_percent: dict[str, Bulking] = Field({}, max_length=20)
    """By material key; a jar test such as 150/120."""
    struck_kg: dict[str, Mass] = Field({}, max_length=20)
    """By material key: what the first of the gauges weighs, filled with it and struck."""
    ice_percent: Share | None = None
    """How much of the water to add goes in as ice, by mass."""
    temperatures: Annotated[MaterialTemperatures | None, BeforeValidator(lambda given: given or None)] = None
    """How warm water, aggregate and binder are."""
    wanted_c: Annotated[Temperature, Field(ge=2, le=40)] | None = None
    """How warm a load should come out; empty is 20 °C."""
    weather: Annotated[AirNow | None, BeforeValidator(lambda given: given or None)] = None
    """The air it is mixed in, of this morning."""
    weather_at: Annotated[str, Field(max_length=40)] = ""
    """When somebody said so: it holds for six hours."""
    copied_from: Annotated[str, Field(max_length=40)] = ""
    """Of a job that came in from another yard's file beside one of its number: that number."""
    heap_changed: dict[str, Annotated[str, Field(max_length=40)]] = Field({}, max_length=20)
    """By material key: when rain, a delivery or the bottom of the heap last made it as wet as nobody knows."""
    aged: dict[str, Annotated[float, Field(gt=0, le=1)]] = Field({}, max_length=20)
    """By material key: what old stock leaves of the working life."""
    own: dict[Annotated[str, Field(max_length=80)], OwnFigures] = Field({}, max_length=60)
    """By mix key: what the crew's own loads told of it, where it goes by that."""
    exposure_classes: ExposureClasses = ()
    """XC4, XF3 – or F2, S1: the mix is set against them."""
    ratio_cap: Ratio | None = None
    """Water to cementitious that may never be passed."""
    mixer: NamedMixer | None = None
    """A mixer of the catalogue, one's own, or empty for the usual one."""
    gauges: tuple[NamedContainer, ...] | None = Field(None, max_length=20)
    """Pails and buckets at hand; empty takes all of the catalogue's."""
    jug: NamedContainer | None = None
    scales: tuple[NamedScale, ...] = Field((), max_length=6)
    """Scales at hand, of the catalogue or one's own; empty weighs on whatever common scale is there."""
    measured: dict[Annotated[str, Field(max_length=40)], Means] = Field({}, max_length=20)
    """How each constituent is measured, by material key, and `water`: packs, marks, counts or scale."""
    hose_l_min: Volume | None = None
    """What the hose gives in a minute."""
    bags_a_load: Plain | None = None
    """Bags in each load, where somebody says so."""
    strategy: Strategy | None = None
    place_l_min: Volume | None = None
    admixtures: tuple[AdmixtureEntry, ...] = Field((), max_length=6)
    steel: bool = False
    """Whether steel lies in the work."""
    unusual_ok: bool = False
    """Whether a mix outside the plausible envelope is meant."""
    follows: str = Field("", max_length=40)
    """Number of the job whose coat lies below this one: between them is its waiting."""
    at_hand_bags: NoneOrMany | None = None
    """Bags at hand, to say how far they go."""
    at_hand_l: Volume | None = None
    """Fresh mix at hand, likewise."""


_UNKNOWN: Final = {
    "mix": mark("There is no mix called “{key}”."),
    "mixer": mark("There is no mixer called “{key}”."),
    "admixture": mark("There is no admixture called “{key}”."),
    "heap": mark("There is no heap called “{key}”."),
    "container": mark("There is no container called “{key}”."),
    "scale": mark("There is no scale called “{key}”."),
}


def _unknown(what: str, key: str, known: list[str], field: str) -> TradeError:
    return TradeError(
        Fault(
            Code.UNKNOWN,
            Said(_UNKNOWN[what], key=key[:40]),
            Said("Known are: {known}.", known=", ".join(known)),
            field=field,
        )
    )


class _BesidesBasis(Frozen):
    """What a job may set of a mix that is no figure of its basis."""

    pack_kg: Mass | None = None
    schools: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=40)]] = Field({}, max_length=20)
    late_water: Annotated[str, Field(max_length=60)] | None = None
    """As sheets of before name the way of the school about late water."""


def changed_mix(mix: Mix, changes: dict[str, Any]) -> Mix:
    """Return the mix with a job's changes in it.

    Raises
    ------
    MixError : a change that this kind of mix cannot take, or figures that contradict each other
    """
    besides = {name: value for name, value in changes.items() if name in _BesidesBasis.model_fields}
    typed = {name: value for name, value in changes.items() if name not in besides}
    try:
        read = _BesidesBasis.model_validate(besides)
        mix = with_schools(mix, read.schools | _late_way(mix, read.late_water))
        basis = changed_basis(mix.basis, typed, {m.key: m for m in mix.materials()}, mix.name)
    except (MixError, ValidationError) as error:
        faults = error.faults if isinstance(error, MixError) else faults_of(error)
        raise MixError(*(fault.under("changes") for fault in faults)) from error
    return mix.model_copy(update={"basis": basis, "pack_kg": read.pack_kg or mix.pack_kg})


def _late_way(mix: Mix, named: str | None) -> dict[str, str]:
    """Find the way that a sheet of before names by its words."""
    if named is None:
        return {}
    school = next((one for one in mix.schools if one.key == LATE_WATER), None)
    ways = school.ways if school else ()
    found = next((way.key for way in ways if way.name == named), None)
    if found is None:
        raise MixError(
            Fault(
                Code.UNKNOWN,
                Said("No school of {mix} says “{school}”.", mix=mix.name, school=named),
                Said("Others than its own: {known}.", known=Names(tuple(way.name for way in ways)))
                if ways
                else "It has no others than its own.",
                field="late_water",
            )
        )
    return {LATE_WATER: found}


def resolve(sheet: JobSheet, catalogue: Catalogue) -> PlanRequest:
    """Put the catalogue's records in the place of their names.

    Parameters
    ----------
    sheet : the job as written down
    catalogue : where the names are looked up

    Returns
    -------
    a request that depends on nothing else

    Raises
    ------
    TradeError : a name the catalogue does not have, with those it has
    MixError : a change the mix cannot take
    """
    stated = sheet.mix
    if isinstance(stated, str):
        if stated not in catalogue.mixes:
            raise _unknown("mix", stated, list(catalogue.mixes), "mix")
        stated = catalogue.mixes[stated]
    ours = sheet.own.get(stated.key)
    mix = _ours(changed_mix(stated, sheet.changes), ours, sheet)
    mixer, why = _mixer(sheet, mix, catalogue)
    gauges = _gauges(sheet, catalogue)
    start, bags = read_start(sheet.start, mix, mixer, gauges, catalogue) if sheet.start.strip() else (None, None)
    return PlanRequest(
        shapes=sheet.shapes,
        **{name: getattr(sheet, name) for name in _AS_TYPED},
        mix=mix,
        moisture_percent=_heaps(sheet.moisture_percent, "moisture_percent", mix, catalogue),
        bulking_percent=_heaps(sheet.bulking_percent, "bulking_percent", mix, catalogue),
        struck_kg=_heaps(sheet.struck_kg, "struck_kg", mix, catalogue),
        air=sheet.weather,
        mixer=mixer,
        mixer_why=why,
        gauges=gauges,
        jug=_container(sheet.jug or ("jug-2" if mixer.kind == "bucket" else "jug-5"), catalogue, "jug"),
        scales=tuple(_scale(one, catalogue) for one in sheet.scales),
        measured=_measured(sheet, mix, catalogue),
        bags_a_load=sheet.bags_a_load or bags,
        start=start,
        start_said=sheet.start.strip(),
        place_l_min=sheet.place_l_min or (ours.pace if ours else None),
        admixtures=tuple(_wanted(i, entry, catalogue) for i, entry in enumerate(sheet.admixtures)),
    )


_AS_TYPED: Final = (
    "waste_percent", "residue_l", "ice_percent", "temperatures", "exposure_classes", "ratio_cap", "hose_l_min",
    "strategy", "steel", "unusual_ok", "at_hand_bags", "at_hand_l",
)  # fmt: skip
"""What a request takes from a sheet as it stands there."""


def _ours(mix: Mix, ours: OwnFigures | None, sheet: JobSheet) -> Mix:
    """Return the mix with what the crew's loads told of it, and no longer life than its old stock leaves."""
    share = min((sheet.aged.get(material.key, 1.0) for material in mix.materials()), default=1.0)
    own = with_own(mix, ours, sheet.changes)
    life_min = min(own.working_life_min, mix.working_life_min * share) if share < 1 else own.working_life_min
    return own if life_min == own.working_life_min else own.model_copy(update={"working_life_min": life_min})


def _mixer(sheet: JobSheet, mix: Mix, catalogue: Catalogue) -> tuple[Mixer, Words]:
    """Return the mixer that was chosen, or the usual one that is right for the size of the job, and why."""
    mixer = sheet.mixer
    if not mixer:
        return catalogue.right_sized(mix, _rough_m3(sheet, mix))
    if isinstance(mixer, str):
        if mixer not in catalogue.mixers:
            raise _unknown("mixer", mixer, list(catalogue.mixers), "mixer")
        mixer = catalogue.mixers[mixer]
    return mixer, ""


def _rough_m3(sheet: JobSheet, mix: Mix) -> float | None:
    """Return what is to be mixed [m³], as far as it is measured."""
    if sheet.start:
        return None
    try:
        return take_off(sheet.shapes, sheet.waste_percent, mix.waste_percent, sheet.residue_l or 0.0).order_m3
    except TradeError:
        return None


def _heaps(given: dict[str, _Found], field: str, mix: Mix, catalogue: Catalogue) -> dict[str, _Found]:
    """Return what was found of the heaps of a mix; those of another stay on the sheet, for one may go back to it."""
    mine = [material.key for material in mix.materials()]
    for key in given:
        if key not in mine and key not in catalogue.materials:
            raise _unknown("heap", key, mine, f"{field}.{key[:40]}")
    return {key: value for key, value in given.items() if key in mine}


def _measured(sheet: JobSheet, mix: Mix, catalogue: Catalogue) -> dict[str, Means]:
    water = {key: means for key, means in sheet.measured.items() if key == "water"}
    heaps = {key: means for key, means in sheet.measured.items() if key != "water"}
    return _heaps(heaps, "measured", mix, catalogue) | water


def _wanted(index: int, entry: AdmixtureEntry, catalogue: Catalogue) -> Wanted:
    label = entry.admixture
    if isinstance(label, str):
        if label not in catalogue.admixtures:
            raise _unknown("admixture", label, list(catalogue.admixtures), f"admixtures.{index}.admixture")
        label = catalogue.admixtures[label]
    amount, unit = read_dose(entry.dose)
    return Wanted(
        admixture=label, amount=amount, unit=unit, acts_percent=entry.acts_percent, hold_cement=entry.hold_cement
    )


def _container(given: str | Container, catalogue: Catalogue, field: str) -> Container:
    if isinstance(given, Container):
        return given
    if given not in catalogue.containers:
        raise _unknown("container", given, list(catalogue.containers), field)
    return catalogue.containers[given]


def _gauges(sheet: JobSheet, catalogue: Catalogue) -> tuple[Container, ...]:
    if sheet.gauges is None:
        return catalogue.usual_gauges()
    return tuple(_container(one, catalogue, "gauges") for one in sheet.gauges)


def _scale(given: str | Scale, catalogue: Catalogue) -> Scale:
    if isinstance(given, Scale):
        return given
    if given not in catalogue.scales:
        raise _unknown("scale", given, list(catalogue.scales), "scales")
    return catalogue.scales[given]


def plan_sheet(sheet: JobSheet) -> Plan:
    """Plan a job sheet with the catalogue that ships.

    Raises
    ------
    TradeError : as `resolve` and `plan`
    """
    return plan(resolve(sheet, load_catalogue()))
