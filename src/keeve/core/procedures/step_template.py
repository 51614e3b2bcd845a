"""One step as a way of mixing has it: what goes in, how it turns, how long."""

from typing import Final, Literal

from pydantic import Field

from keeve.core.materials.material import Role
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words
from keeve.core.procedures.consistency import FieldTest

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
    light_title: Words = ""
    light_detail: Words = ""
    """What is done where it is no more."""
    drawn: FieldTest | None = None
    """What is looked at while it is done, drawn."""
    closed: bool = False
    """Whether nothing may go in from here on."""
    per_pack: bool = False
    """Whether it is done once for each pack; its title may hold {number} and {count}."""
