"""The order of work at the mixer, as data: what goes in when, for how long, and where to look."""

from typing import Final, Literal

from pydantic import Field, model_validator

from keeve.core.materials.material import Role
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words
from keeve.core.procedures.consistency import FieldTest
from keeve.core.procedures.procedure_rules import check_order

StepKind = Literal[
    "prepare", "add", "water", "sips", "mix", "break", "wait", "scrape", "drain", "rinse", "judge", "use"
]
TURNED: Final = ("mix", "break")
"""Kinds of step in which the load is turned: mixed, or its set broken."""
Speed = Literal["", "slow", "full", "stopped"]
"""Of the drum or the paddle; nothing said is the machine's own, or hands."""
Draws = Literal["", "down", "up"]
"""Which way a paddle moves the mix."""
Of = Role | Literal["water"]
WaterShare = Literal["first", "hold back", "all"]


class Addition(Frozen):
    """Some of one constituent."""

    of: Of
    share: float | WaterShare = 1.0
    """Share of the load's dose; of water: the first pour, the hold-back, or all of it."""
    only: str = ""
    """Key of the one material of its role that goes in here."""
    but: str = ""
    """Key of the one material of its role that does not."""

    def takes(self, key: str, role: str) -> bool:
        """Whether a material goes in with it."""
        return role == self.of and (not self.only or key == self.only) and (not self.but or key != self.but)


class StepTemplate(Frozen):
    """One step as the catalogue states it, for a load of any size."""

    kind: StepKind
    title: Words
    """May hold {names}: the materials that go in."""
    detail: Words = ""
    adds: tuple[Addition, ...] = ()
    seconds: int = Field(0, ge=0, le=7200)
    """What the timer runs, from the moment the step begins; 0 is no timer."""
    speed: Speed = ""
    draws: Draws = ""
    heavy_kg: float = Field(0.0, ge=0)
    heavy_seconds: int = Field(0, ge=0, le=7200)
    """What it runs where more powder than so much is in the load."""
    drawn: FieldTest | None = None
    """What is looked at while it is done, drawn."""
    closed: bool = False
    """Whether nothing may go in from here on."""
    per_pack: bool = False
    """Whether it is done once for each pack; its title may hold {number} and {count}."""


class Procedure(Frozen):
    """The steps for one way of mixing."""

    key: str
    name: Words
    hold_back_share: float = Field(0.0, ge=0, le=0.6)
    first_to: Literal["share", "low end"] = "share"
    """Whether the first water goes up to that share, or up to the lowest water of the mix."""
    hand_l: float = Field(0.0, ge=0)
    """Fresh mix for which its times are, where it is turned by hand [L]; a smaller load takes less. 0: by machine."""
    steps: tuple[StepTemplate, ...] = Field(min_length=1)
    source: Words

    @model_validator(mode="after")
    def _everything_goes_in_once(self) -> "Procedure":
        sums: dict[str, float] = {}
        for step in self.steps:
            for add in step.adds:
                part = f"{add.of}{' ' + add.only if add.only else ''}{' but ' + add.but if add.but else ''}"
                sums[part] = sums.get(part, 0.0) + self.share_of(add)
        for of, total in sums.items():
            if abs(total - 1) > 1e-6:
                raise MixError(
                    Fault(
                        Code.OUT_OF_RANGE,
                        Said(
                            "{procedure}: the shares of {what} add up to {total}, not 1.",
                            procedure=self.key,
                            what=str(of),
                            total=Amount(total, ""),
                        ),
                    )
                )
        check_order(self)
        return self

    def share_of(self, add: Addition) -> float:
        """Share of the load's dose [-] that an addition means. Plain arithmetic."""
        if isinstance(add.share, float):
            return add.share
        return {"first": 1 - self.hold_back_share, "hold back": self.hold_back_share, "all": 1.0}[add.share]


class StepDose(Frozen):
    """Part of a dose that goes in at one step."""

    material_key: str
    """Key of the dose in the load's list; `water` for water."""
    share: float
    batch_kg: float
    solid_l: float
    """Room it takes in the finished mix."""


class Step(Frozen):
    """One step for a load of a given size."""

    kind: StepKind
    title: Words
    detail: Words
    seconds: int
    doses: tuple[StepDose, ...]
    water_l: float
    """Water poured in this step."""
    drawn: FieldTest | None = None
    speed: Speed = ""
    draws: Draws = ""
