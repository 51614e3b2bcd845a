"""Reads the TOML beside it once, checks every record, and refuses to start on a slip of the finger."""

import tomllib
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from typing import Any, Final, NamedTuple, get_args, get_origin

from keeve.catalogue.texts import with_quantities
from keeve.core.dividing.dividing import LEAST_LOAD_SHARE
from keeve.core.hardening.clock import Stage
from keeve.core.hardening.waiting import NextCoat, Waiting, Wetting
from keeve.core.materials.grading import Envelope
from keeve.core.materials.material import Material
from keeve.core.message.errors import Code, Fault, Frozen, TradeError
from keeve.core.message.said import Amount, Said, Words
from keeve.core.mixes.admixtures import Admixture
from keeve.core.mixes.mix import Caution, LateWater, Mix, MixingTime, School, Target, Temperatures, Way
from keeve.core.procedures.procedure import Procedure
from keeve.core.proportions.base import BASES
from keeve.core.proportions.standard import Standard
from keeve.core.vessels.scales import Scale
from keeve.core.vessels.vessels import Container, Mixer, brim_l
from keeve.core.yard.checks import Check

Record = dict[str, Any]
_AFTER_THE_WATER: Final = (
    "cleaning",
    "leftovers",
    "stages",
    "waits",
    "next_coat",
    "other_coats",
    "wetting",
    "wet_out_s",
    "turn_again_min",
)
OWN: Final = "own-"
"""Begins the key of everything that is a crew's own."""


class TradeWord(Frozen):
    """A word of the trade, in one sentence."""

    key: str
    name: Words
    sentence: Words


@dataclass(frozen=True, slots=True, eq=False)  # told apart by which it is: it is looked at, never compared
class Catalogue:
    """Every record by its key, in the order of the files."""

    materials: dict[str, Material]
    mixes: dict[str, Mix]
    mixers: dict[str, Mixer]
    containers: dict[str, Container]
    scales: dict[str, Scale]
    admixtures: dict[str, Admixture]
    envelopes: dict[str, Envelope]
    glossary: dict[str, TradeWord]
    checks: dict[str, Check]
    """What is looked at before the first load."""
    found_by: dict[str, tuple[str, ...]]
    """Words of the trade by which each mix is looked for, besides its name and use."""

    def with_own(
        self,
        mixes: tuple[Mix, ...],
        admixtures: tuple[Admixture, ...],
        vessels: tuple[Container | Mixer | Scale, ...] = (),
    ) -> "Catalogue":
        """Return the catalogue with a crew's own mixes and admixtures before those that ship, and its vessels."""
        return replace(
            self,
            mixes={m.key: self._grown(m) for m in mixes} | self.mixes,
            admixtures={a.key: a for a in admixtures} | self.admixtures,
            # After those that ship: a vessel of one's own is chosen, or taken for what is too little for the usual one.
            mixers=self.mixers | {v.key: v for v in vessels if isinstance(v, Mixer)},
            containers=self.containers | {v.key: v for v in vessels if isinstance(v, Container)},
            scales=self.scales | {v.key: v for v in vessels if isinstance(v, Scale)},
        )

    def _grown(self, mix: Mix) -> Mix:
        """Give an own mix kept before that was known what its kind says of the time after the water."""
        like = next((one for one in self.mixes.values() if one.family == mix.family), None)
        if mix.cleaning or mix.leftovers or like is None:
            return mix
        return mix.model_copy(update={name: getattr(like, name) for name in _AFTER_THE_WATER})

    def gauges(self) -> tuple[Container, ...]:
        """Return the containers dry materials are measured with."""
        return tuple(c for c in self.containers.values() if c.mark_l is None)

    def usual_gauges(self) -> tuple[Container, ...]:
        """Return the measures taken where none is chosen: a vessel of one's own is chosen, never taken unasked."""
        return tuple(c for c in self.gauges() if not c.key.startswith(OWN))

    def jugs(self) -> tuple[Container, ...]:
        """Return the containers water is measured with."""
        return tuple(c for c in self.containers.values() if c.mark_l is not None)

    def mixers_for(self, mix: Mix) -> tuple[Mixer, ...]:
        """Return the mixers that suit a mix, the usual kind first."""
        return tuple(m for kind in mix.procedures for m in self.mixers.values() if m.kind == kind)

    def usual_mixer(self, mix: Mix) -> Mixer:
        """Return the mixer taken where none is named: the first that takes one pack which may not be divided."""
        suited = self.mixers_for(mix)
        return next((m for m in suited if m.mixed_l >= mix.basis.pack_l() and not m.only_small), suited[0])

    def right_sized(self, mix: Mix, order_m3: float | None) -> tuple[Mixer, Words]:
        """Return the mixer taken where none is named, and why where the order [m³] speaks against the usual one.

        A load under a third of what a mixer takes is thrown about, or lost on its walls: then the smallest of its kind
        that takes it at once is taken, of a crew's own first; of another kind only for a tenth of it. Common practice,
        no source.
        """
        usual = self.usual_mixer(mix)
        order_l = (order_m3 or 0.0) * 1000
        if order_m3 is None or mix.basis.divide == "never" or order_l >= usual.mixed_l * LEAST_LOAD_SHARE:
            return usual, ""
        kinds = {usual.kind} | ({"bucket", "tray"} if order_l < usual.mixed_l * MUCH_TOO_BIG else set())
        smaller = [m for m in self.mixers_for(mix) if m.mixed_l < usual.mixed_l]
        takes = {m.key: _takes_l(m, mix) for m in smaller if m.kind in kinds}
        best = min(
            (key for key in takes if takes[key] >= order_l),
            key=lambda key: (not key.startswith(OWN) or order_l < takes[key] * LEAST_LOAD_SHARE, takes[key]),
            default=None,
        )
        if best is None:
            return usual, ""
        return self.mixers[best], Said(
            "{usual} is too big for {volume}: it would stick to its walls.",
            usual=usual.name,
            volume=Amount(order_l, "L"),
        )


MUCH_TOO_BIG: Final = 0.1


def _takes_l(mixer: Mixer, mix: Mix) -> float:
    """Fresh mix that goes into a vessel at once [L], the room for powder above its water reckoned with."""
    share = mix.basis.water_share()
    if share is None:
        return mixer.mixed_l
    try:
        water = mix.basis.proportions().water.target / 1000
    except TradeError:
        return mixer.mixed_l
    return min(mixer.mixed_l, brim_l(mixer.section) * share / water) if water > 0 else mixer.mixed_l


def _read(name: str) -> Record:
    text = resources.files("keeve.catalogue").joinpath("data", f"{name}.toml").read_text(encoding="utf-8")
    return with_quantities(tomllib.loads(text))  # type: ignore[no-any-return]


def _sourced(record: Record) -> Record:
    if not record.get("source"):
        raise TradeError(Fault(Code.MISSING, Said("The record {key} names no source.", key=str(record.get("key")))))
    return record


def _keyed(records: list[Record]) -> dict[str, Record]:
    keyed = {record["key"]: record for record in records}
    if len(keyed) != len(records):
        raise TradeError(Fault(Code.UNKNOWN, "Two records share one key.", ""))
    return keyed


def _look_up(table: dict[str, Any], key: str, what: str) -> Any:
    if key not in table:
        raise TradeError(
            Fault(Code.UNKNOWN, Said("The catalogue has no {what} called {key}.", what=what, key=str(key)))
        )
    return table[key]


def _vessel(record: Record) -> Record:
    """Rings are written as bare rows in the file: height, width and, for a rectangular vessel, depth."""
    names = ("height_mm", "width_mm", "depth_mm")
    rings = [dict(zip(names, row, strict=False)) for row in record["rings"]]
    return {k: v for k, v in record.items() if k != "rings"} | {"section": {"rings": rings}}


def _envelope(record: Record) -> Record:
    """Bounds are written as bare rows in the file: sieve, low, high."""
    bounds = [dict(zip(("sieve_mm", "low", "high"), row, strict=True)) for row in record["bounds"]]
    return _sourced(record) | {"bounds": bounds}


def _basis(record: Record, materials: dict[str, Material]) -> Record:
    """Put materials in the place of their keys; tables of key and amount become lists of records."""
    kind = BASES[record["basis"]]
    return {name: _held(kind.model_fields[name].annotation, value, materials) for name, value in record.items()}


def _held(annotation: Any, value: Any, materials: dict[str, Material]) -> Any:
    """Put materials into the value of one field, by what the basis says it holds."""
    kinds = (annotation, *get_args(annotation))
    if Material in kinds:
        return _look_up(materials, value, "material")
    models = (k for k in kinds if isinstance(k, type) and issubclass(k, Frozen))
    holder = next((k for k in models if "material" in k.model_fields), None)
    if holder is None:
        return value
    if get_origin(annotation) is not tuple:
        return value | {"material": _look_up(materials, value["material"], "material")}
    amount = next(name for name in holder.model_fields if name != "material")
    return [{"material": _look_up(materials, key, "material"), amount: parts} for key, parts in value.items()]


_SELECTORS = ("families", "not_families", "bases", "not_bases", "mixes", "not_mixes", "kinds")


def plain(row: Record) -> Record:
    """Return a record of practice without what says whose it is."""
    return {k: v for k, v in row.items() if k not in _SELECTORS}


def _practice(record: Record, shelves: "_Shelves") -> Record:
    """Find what the file of practice holds for one mix."""
    table = shelves.practice

    def mine(name: str) -> list[Record]:
        return [
            row
            for row in table[name]
            if record["key"] not in row.get("not_mixes", ())
            and record["basis"]["basis"] not in row.get("not_bases", ())
            and (
                ("not_families" in row and record["family"] not in row["not_families"])
                or record["family"] in row.get("families", ())
                or record["basis"]["basis"] in row.get("bases", ())
                or record["key"] in row.get("mixes", ())
            )
        ]

    times = {
        kind: MixingTime.model_validate(plain(_sourced(row)))
        for row in mine("mixing_time")
        for kind in row["kinds"]
        if kind in record["procedures"]
    }
    return {
        "temperatures": next((Temperatures.model_validate(plain(_sourced(r))) for r in mine("temperature")), None),
        "targets": tuple(Target.model_validate(plain(_sourced(r))) for r in mine("target")),
        "mixing_times": times,
        **_afterwards(mine, set(record["procedures"])),
        "schools": tuple(school for r in mine("school") if (school := _school(plain(r), record, shelves))),
    }


def _afterwards(mine: Callable[[str], list[Record]], kinds: set[str]) -> Record:
    """Find what comes after the water: how long it takes to show, stages, cleaning, leftovers."""
    cleaning = {
        kind: tuple(row["clean"])
        for row in mine("cleaning")
        for kind in row["kinds"]
        if _sourced(row) and kind in kinds
    }
    waits = [_sourced(row)["wet_out_s"] for row in mine("wet_out")]
    turned = [_sourced(row)["every_min"] for row in mine("turn_again")]
    stages = [stage for row in mine("stages") for stage in _sourced(row)["stage"]]
    after = [one for row in mine("waiting") for one in _sourced(row)["waits"]]
    left = [_sourced(row)["leftover"] for row in mine("leftover")]
    return {
        "cleaning": cleaning,
        "next_coat": next((NextCoat.model_validate(_sourced(row)["next_coat"]) for row in mine("coat")), None),
        "other_coats": tuple(
            NextCoat.model_validate(one) for row in mine("coat") for one in row.get("other_coats", ())
        ),
        "wetting": next((Wetting.model_validate(plain(_sourced(row))) for row in mine("wetting")), None),
        "waits": tuple(Waiting.model_validate(one) for one in after),
        "stages": tuple(Stage.model_validate(stage) for stage in stages),
        "leftovers": next(iter(left), ""),
        **({"wet_out_s": waits[0]} if waits else {}),
        **({"turn_again_min": turned[0]} if turned else {}),
    }


def _school(row: Record, record: Record, shelves: "_Shelves") -> School | None:
    """Read a question for one mix: ways that would replace none of its procedures fall away, and the last alone too."""
    mine = set(record["procedures"].values())
    ways = []
    for way in row["ways"]:
        instead = {key: shelves.procedures[name] for key, name in way.get("instead", {}).items() if key in mine}
        if way.get("instead") and not instead:
            continue
        late = (
            {"late_water": _look_up(shelves.late_water, way["late_water"], "late-water rule")}
            if "late_water" in way
            else {}
        )
        ways.append(way | {"instead": instead} | late)
    return School.model_validate(row | {"ways": ways}) if len(ways) > 1 else None


def _taken(mix: Mix, mixes: dict[str, Mix]) -> Mix:
    """Put into the ways that take another mix what they take of it."""

    def whole(way: Way) -> Way:
        if not way.takes:
            return way
        other = _look_up(mixes, way.takes, "mix")
        return way.model_copy(update={"basis": other.basis, "procedures": other.procedures})

    schools = tuple(s.model_copy(update={"ways": tuple(whole(w) for w in s.ways)}) for s in mix.schools)
    return mix.model_copy(update={"schools": schools})


class _Shelves(NamedTuple):
    """What a mix's record names by key."""

    materials: dict[str, Material]
    procedures: dict[str, Procedure]
    cautions: dict[str, Caution]
    late_water: dict[str, LateWater]
    standards: dict[str, Standard]
    practice: Record


def _procedures(records: dict[str, Record]) -> dict[str, Procedure]:  # one that is like another takes its steps
    like = {key: records[record.pop("like")]["step"] for key, record in records.items() if "like" in record}
    return {key: _procedure(({"step": like[key]} if key in like else {}) | one) for key, one in records.items()}


def _procedure(record: Record) -> Procedure:
    return Procedure.model_validate({"steps": record.pop("step")} | _sourced(record))


def _mix(record: Record, shelves: _Shelves) -> Mix:
    named = {
        "basis": _basis(record["basis"], shelves.materials),
        "late_water": _look_up(shelves.late_water, record["late_water"], "late-water rule"),
        "cautions": tuple(_look_up(shelves.cautions, key, "caution") for key in record["cautions"]),
        "procedures": {
            kind: _look_up(shelves.procedures, key, "procedure") for kind, key in record["procedures"].items()
        },
    }
    if "standard" in record:
        named["standard"] = _look_up(shelves.standards, record["standard"], "row of a standard")
    return Mix.model_validate(_sourced(record) | _practice(record, shelves) | named)


def _mixes(shelves: _Shelves) -> dict[str, Mix]:
    mixes = {key: _mix(record, shelves) for key, record in _keyed(_read("mixes")["mix"]).items()}
    return {key: _taken(mix, mixes) for key, mix in mixes.items()}


def _found_by(rows: list[Record], mixes: set[str]) -> dict[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = dict.fromkeys(sorted(mixes), ())
    for row in rows:
        for key in row["mixes"]:
            found[_look_up(dict.fromkeys(mixes, key), key, "mix")] += tuple(row["words"])
    return found


@cache
def load_catalogue() -> Catalogue:
    """Load and check the whole catalogue.

    Returns
    -------
    the catalogue; the same object at every call

    Raises
    ------
    TradeError, pydantic.ValidationError : a record is wrong, unknown or without a source
    """
    vessels = _read("vessels")
    shelves = _Shelves(
        materials={k: Material.model_validate(_sourced(r)) for k, r in _keyed(_read("materials")["material"]).items()},
        procedures=_procedures(_keyed(_read("procedures")["procedure"])),
        cautions={k: Caution.model_validate(r) for k, r in _keyed(_read("cautions")["caution"]).items()},
        late_water={k: LateWater.of(_sourced(r)) for k, r in _read("late_water")["late_water"].items()},
        standards={k: Standard.model_validate(_sourced(r)) for k, r in _keyed(_read("standards")["standard"]).items()},
        practice=_read("practice"),
    )
    return Catalogue(
        materials=shelves.materials,
        envelopes={k: Envelope.model_validate(_envelope(r)) for k, r in _keyed(_read("envelopes")["envelope"]).items()},
        admixtures={
            k: Admixture.model_validate(_sourced(r)) for k, r in _keyed(_read("admixtures")["admixture"]).items()
        },
        mixes=_mixes(shelves),
        glossary={k: TradeWord.model_validate(r) for k, r in _keyed(_read("glossary")["word"]).items()},
        checks={k: Check.model_validate(_sourced(r)) for k, r in _keyed(_read("checks")["check"]).items()},
        found_by=_found_by(_read("finding")["word"], set(_keyed(_read("mixes")["mix"]))),
        mixers={k: Mixer.model_validate(_vessel(_sourced(r))) for k, r in _keyed(vessels["mixer"]).items()},
        containers={k: Container.model_validate(_vessel(_sourced(r))) for k, r in _keyed(vessels["container"]).items()},
        scales={k: Scale.model_validate(_sourced(r)) for k, r in _keyed(vessels["scale"]).items()},
    )
