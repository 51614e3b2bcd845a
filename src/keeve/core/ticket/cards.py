"""The card of a ticket: what one load is mixed from, how it is measured, and step by step how it is made."""

from typing import Literal

from pydantic import Field

from keeve.core.dosing.rounded import Rounded
from keeve.core.materials.heap_dose import HeapDose
from keeve.core.materials.material import Role
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words
from keeve.core.procedures.consistency import FieldTest
from keeve.core.procedures.step_template import Draws, Speed, StepKind
from keeve.core.vessels.instruments import Drawn
from keeve.core.vessels.scales import Weighing
from keeve.core.vessels.tools import Count, Means, WaterBy


class Window(Frozen):
    """Lowest, target and highest water [L]; the highest is never passed."""

    low: float
    target: float
    high: float


class FillMark(Frozen):
    """A dose as fills of a container: so many, each to the same mark."""

    container: str
    """Key of the container among the ticket's measures."""
    fills: int
    mark_down_mm: float
    """From the rim down to the level surface; 0 is struck."""
    mark_up_mm: float
    struck_exact: float
    """The same volume in fills struck at the rim."""


class TicketDose(Frozen):
    """One constituent of a load, the way it is measured: packs, fills with a mark, or the scale."""

    key: str
    name: Words
    role: Role
    dry_kg: float
    batch_kg: float
    """As it goes on the scale, with the water it holds."""
    solid_l: float
    """Room it takes in the finished mix, with the water it brings."""
    gauged_l: float
    packs: float | None
    pack_kg: float | None
    pack_word: str
    fill: FillMark | None
    gauged_to_l: tuple[float, float] | None
    """Least and most room it may take in a gauge, where nobody looked at the heap."""
    gauged_kg_m3: float | None
    """Of cement by the pail: the bulk density it is counted at."""
    ratio_to: tuple[float, float] | None
    """Of cement by the pail: w/c with settled and with fluffy cement in it; none once a pail was weighed."""
    means: Means | None
    """How it is measured; tickets of before name none: packs, then the measure, then the scale."""
    count: Count | None
    """The same in whole or half measures, uncut by marks."""
    weighing: Weighing | None
    """The same on the crew's own scale."""
    error_percent: float
    """What the chosen way does to the dose."""
    keeps: bool
    """Whether that is as close as it must be; tickets of before were not asked."""
    heap: HeapDose | None
    """Of a heap that lies outside: what its water comes to; tickets of before do not know."""


class TicketAdmixture(Frozen):
    """An admixture in one load."""

    key: str
    name: Words
    when: str
    mass_kg: float
    volume_l: float | None
    """Of a liquid."""
    water_l: float
    caps: Count | None
    """In caps or cups of the crew's own, where they measure it well enough."""
    drawn: Drawn | None
    """Else, of a liquid: in a jug or a syringe; tickets of before do not say."""


class BroughtWater(Frozen):
    """One line of the water account, signed as it counts toward the free water."""

    key: str
    name: Words
    litres: float
    by: Literal["heap", "pack", "admixture", "ice"]
    """Heaps and packs bring it with every kilogram; admixture and ice come once."""


class TicketWater(Frozen):
    """Where one load's free water comes from [L]."""

    free: Window
    pour: Window
    if_dry_l: float
    """How much more than the target goes in by small steps, should a heap that nobody looked at be dry."""
    brought: tuple[BroughtWater, ...]
    first_l: float
    hold_back_l: float
    by: WaterBy
    """What it is measured with."""
    sip_l: float
    """One careful step when the mix is too dry."""
    sip_us_l: float
    """The same in the marks of a US reader."""
    by_drops: bool
    """Whether the last of it is told by drops."""
    limited: bool
    """Whether the highest is a limit of w/c, and no matter of consistency; tickets of before do not say."""
    ice_kg: float

    @property
    def brought_l(self) -> float:
        """Water in the mix before anything is poured [L]."""
        return sum(line.litres for line in self.brought)

    @property
    def once_l(self) -> float:
        """Water that comes once, however much dry mix is added later: admixtures and ice [L]."""
        return sum(line.litres for line in self.brought if line.by in ("admixture", "ice"))


class StepPart(Frozen):
    """Part of a dose that goes in at one step."""

    key: str
    """Key of the dose; `water`, `ice`, or `admixture:` and a key."""
    share: float
    batch_kg: float
    solid_l: float


class TicketStep(Frozen):
    """One step of the work."""

    kind: StepKind
    title: Words
    detail: Words
    seconds: int
    parts: tuple[StepPart, ...]
    water_l: float
    cautions: tuple[Words, ...]
    """What to mind at this step."""
    drawn: FieldTest | None
    """What is looked at while it is done."""
    speed: Speed
    draws: Draws


class TicketCard(Frozen):
    """What one load is mixed from; loads of one size share a card."""

    volume_m3: float
    fresh_kg: float
    doses: tuple[TicketDose, ...]
    admixtures: tuple[TicketAdmixture, ...]
    water: TicketWater
    steps: tuple[TicketStep, ...] = Field(min_length=1)
    meets: int = Field(ge=0)
    """Step in which water and binder meet: the working life runs from there."""
    seconds: int
    rounded: Rounded | None
    """The load as it is really measured; tickets of before do not know."""

    @property
    def dry_kg(self) -> float:
        """Dry mass of all constituents [kg]."""
        return sum(d.dry_kg for d in self.doses)
