"""A mix: what it is for, how it is stated, and all a person needs to know to make it well."""

from typing import Any, Final, Literal

from pydantic import Field, model_validator

from keeve.core.hardening.clock import PLAIN_WET_OUT_S, Stage
from keeve.core.hardening.waiting import NextCoat, Waiting, Wetting
from keeve.core.materials.material import BINDERS, Material
from keeve.core.measure.quantities import Mass, Minutes, Temperature, Waste
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.procedures.consistency import TEST_OF_FAMILY, FieldTest
from keeve.core.procedures.procedure import Procedure
from keeve.core.procedures.step_template import StepTemplate
from keeve.core.proportions.any_basis import AnyBasis
from keeve.core.proportions.family import Family, family_of
from keeve.core.proportions.standard import Standard
from keeve.core.vessels.vessels import MixerKind


class Consistency(Frozen):
    """What the mix must be like, in words a person can check with hand, trowel or eye."""

    test: Words
    dry: Words
    right: Words
    wet: Words
    drawn: FieldTest | None = None
    """Which of the drawn tests it is, where its family does another."""


class Caution(Frozen):
    """Something that hurts people, and what keeps it from doing so."""

    key: str
    sentence: Words


class LateWater(Frozen):
    """Whether a mix that has stiffened or is too dry may take water, and one too wet may take dry."""

    allowed: Literal["to the ceiling", "never"]
    too_dry: Words
    too_wet: Words
    dry_may_be_added: bool
    stiffened: Words
    within_min: float | None = Field(None, gt=0)
    """How long its standard lets it be used at most, where `stiffened` says {within}."""

    @classmethod
    def of(cls, record: dict[str, Any]) -> "LateWater":
        """Read a record of the catalogue; what it says holds as long as its standard lets it [min]."""
        found = {key: value for key, value in record.items() if key != "source"}
        if "within_min" in found:
            found["stiffened"] = Said(found["stiffened"], within=Amount(found["within_min"], "min"))
        return cls.model_validate(found)


class Temperatures(Frozen):
    """Between which temperatures of air and ground the work may be done."""

    low_c: Temperature = Field(ge=-10, le=30)
    high_c: Temperature = Field(ge=10, le=60)
    sentence: Words
    source: Words


class Target(Frozen):
    """What a measured consistency should come to, for one use."""

    use: Words
    measure: Literal["slump", "slump flow", "flow", "density"]
    low: float
    high: float
    unit: Literal["mm", "%", "kg/m³"]
    source: Words


class Way(Frozen):
    """One answer to a question of a school, and what it changes; empty for what Keeve does anyway."""

    key: str
    name: Words
    says: Words = ""
    """What it changes, for the ticket."""
    waste_percent: Waste | None = None
    by_scale: bool = False
    """Whether everything goes by the scale."""
    life_factor: float = Field(1.0, gt=0, le=2)
    mix_factor: float = Field(1.0, gt=0, le=3)
    """Times the seconds of every step of mixing."""
    rest: Literal["", "none", "again"] = ""
    """Whether the rest and the mixing after it are left out, or put in."""
    before: StepTemplate | None = None
    mix: StepTemplate | None = None
    """In the place of the first step of mixing."""
    after: StepTemplate | None = None
    instead: dict[str, Procedure] = {}
    """Procedures in the place of others, by the key of those."""
    late_water: LateWater | None = None
    takes: str = ""
    """Mix of the catalogue whose statement and steps it takes."""
    basis: AnyBasis | None = None
    procedures: dict[MixerKind, Procedure] = {}


class School(Frozen):
    """A question good practitioners answer differently, with the answer Keeve starts from."""

    key: str
    question: Words
    ways: tuple[Way, ...] = Field(min_length=2)
    default: str
    """Key of the way that Keeve goes."""
    why: Words

    @model_validator(mode="before")
    @classmethod
    def _from_sentences(cls, given: Any) -> Any:
        """Read a school of before, when its ways were sentences that changed nothing."""
        if not isinstance(given, dict) or "key" in given:
            return given
        ways = [{"key": str(i), "name": way} for i, way in enumerate(given.get("ways") or ())]
        own = {"key": "default", "name": given.get("default", "")}
        return given | {"key": str(given.get("question", ""))[:40], "ways": [own, *ways], "default": "default"}

    def way(self, key: str) -> Way | None:
        """Find a way by its key."""
        return next((way for way in self.ways if way.key == key), None)


class MixingTime(Frozen):
    """How long a mixer may turn, counted after the last constituent."""

    low_min: float = Field(gt=0, le=120)
    high_min: float = Field(gt=0, le=120)
    source: Words


LATE_WATER: Final = "late water"
"""Key of the school about water into what has stiffened."""


class Mix(Frozen):
    """One mix with everything good practice says about it."""

    key: str
    name: Words
    use: Words
    family: str
    basis: AnyBasis
    pack_kg: Mass | None = Field(None, le=2000)
    """Size of the binder's bag in use."""
    waste_percent: Waste
    working_life_min: Minutes
    consistency: Consistency
    late_water: LateWater
    procedures: dict[MixerKind, Procedure]
    refused: dict[MixerKind, Words] = {}
    """Mixers that must not be used, with the reason."""
    cautions: tuple[Caution, ...] = ()
    temperatures: Temperatures | None = None
    targets: tuple[Target, ...] = ()
    mixing_times: dict[MixerKind, MixingTime] = {}
    schools: tuple[School, ...] = ()
    by_scale: bool = False
    """Whether all of it goes by the scale, by choice."""
    says: tuple[Words, ...] = ()
    """What the schools that were chosen changed."""
    most_packs: dict[str, float] = {}
    """Packs that go into a load at most, by mixer: label and practice."""
    wet_out_s: int = Field(PLAIN_WET_OUT_S, ge=0, le=3600)
    """How long water takes to show."""
    turn_again_min: float = Field(0.0, ge=0, le=600)
    """How often what waits in the mixer is turned; 0 for what is not kept."""
    waits: tuple[Waiting, ...] = ()
    """What comes in the hours and days after the placing."""
    next_coat: NextCoat | None = None
    """What follows on the same wall."""
    other_coats: tuple[NextCoat, ...] = ()
    """What else may follow there."""
    wetting: Wetting | None = None
    """How the ground is wetted before."""
    stages: tuple[Stage, ...] = ()
    """Of plaster, at the working life of the table."""
    cleaning: dict[MixerKind, tuple[Words, ...]] = {}
    leftovers: Words = ""
    standard: Standard | None = None
    """The row of a standard's proportion table it keeps to."""
    source: Words

    @model_validator(mode="before")
    @classmethod
    def _from_rules(cls, given: Any) -> Any:
        """Read a mix of before, when other schools about late water were rules by their words beside it."""
        if not isinstance(given, dict) or "other_late_water" not in given:
            return given
        rules = given["other_late_water"] or {}
        kept = {name: value for name, value in given.items() if name != "other_late_water"}
        if not isinstance(rules, dict) or not rules:
            return kept
        ways = [
            {"key": f"rule {i}", "name": name, "says": name, "late_water": rule}
            for i, (name, rule) in enumerate(rules.items())
        ]
        asked = {
            "key": LATE_WATER,
            "question": mark("Once it has stiffened"),
            "ways": [{"key": "own", "name": mark("as this mix has it")}, *ways],
            "default": "own",
            "why": "",
        }
        return kept | {"schools": [*(given.get("schools") or ()), asked]}

    @property
    def kin(self) -> Family:
        """What is known of its family."""
        return family_of(self.family)

    @property
    def field_test(self) -> FieldTest | None:
        """Return the drawn test it is judged by."""
        return self.consistency.drawn or TEST_OF_FAMILY.get(self.family)

    def bagged(self) -> Material:
        """Return the material whose bags decide the loads: the first binder."""
        materials = self.materials()
        return next((m for m in materials if m.role in BINDERS), materials[0])

    def bag_kg(self) -> float | None:
        """Return the mass of one bag of it [kg], if it comes in bags."""
        return self.basis.own_bag_kg() or self.pack_kg

    def sold_kg(self) -> float | None:
        """Return what a pack of it weighs as it is sold and lifted [kg]: a wet one with the water it holds."""
        bag_kg = self.bag_kg()
        return None if bag_kg is None else bag_kg * (1 + self.bagged().held_water_percent / 100)

    def materials(self) -> tuple[Material, ...]:
        """Return every dry material of the mix."""
        return self.basis.materials()
