"""The order of work at the mixer, as data: what goes in when, for how long, and where to look."""

from typing import Literal

from pydantic import Field, model_validator

from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words
from keeve.core.procedures.consistency import FieldTest
from keeve.core.procedures.procedure_rules import check_order
from keeve.core.procedures.step_template import Addition, Draws, Speed, StepKind, StepTemplate


class Procedure(Frozen):
    """The steps for one way of mixing."""

    key: str
    name: Words
    hold_back_share: float = Field(0.0, ge=0, le=0.6)
    first_to: Literal["share", "low end"] = "share"
    """Whether the first water goes up to that share, or up to the lowest water of the mix."""
    by_drops: bool = False
    """Whether its last water goes in by drops, never in sips."""
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
        check_order(self.key, self.steps, self.hold_back_share)
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
