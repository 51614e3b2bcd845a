"""The ticket: the one document that outlives a plan. Stored, printed, served and mixed from; free of language.

It holds everything a mixer needs and refers to nothing else. A ticket is never changed: a change of sheet makes a new
revision. Its shape has a version of its own; documents of older versions climb in `ticket_past`.
"""

from typing import Final, Literal

from pydantic import Field

from keeve.core.dosing.rounded import Rounded
from keeve.core.dosing.thumb import Thumb
from keeve.core.hardening.clock import CEMENT_REF_C, Stage, life_at_min
from keeve.core.materials.heap_dose import HeapDose
from keeve.core.materials.material import Role
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words
from keeve.core.message.working import Working
from keeve.core.procedures.consistency import FieldTest
from keeve.core.procedures.step_template import Draws, Speed, StepKind
from keeve.core.vessels.scales import Scale, Weighing
from keeve.core.vessels.tools import Count, Means
from keeve.core.vessels.vessels import Container, Mixer

VERSION: Final = 1


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
    packs: float | None = None
    pack_kg: float | None = None
    pack_word: str = "bag"
    fill: FillMark | None = None
    gauged_to_l: tuple[float, float] | None = None
    """Least and most room it may take in a gauge, where nobody looked at the heap."""
    gauged_kg_m3: float | None = None
    """Of cement by the pail: the bulk density it is counted at."""
    ratio_to: tuple[float, float] | None = None
    """Of cement by the pail: w/c with settled and with fluffy cement in it; none once a pail was weighed."""
    means: Means | None = None
    """How it is measured; tickets of before name none: packs, then the measure, then the scale."""
    count: Count | None = None
    """The same in whole or half measures, uncut by marks."""
    weighing: Weighing | None = None
    """The same on the crew's own scale."""
    error_percent: float = 0.0
    """What the chosen way does to the dose."""
    heap: HeapDose | None = None
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
    caps: Count | None = None
    """In caps or cups of the crew's own, where they measure it well enough."""


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
    if_dry_l: float = 0.0
    """How much more than the target goes in by small steps, should a heap that nobody looked at be dry."""
    brought: tuple[BroughtWater, ...]
    first_l: float
    hold_back_l: float
    sip_l: float
    """One careful step when the mix is too dry."""
    ice_kg: float = 0.0

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
    detail: Words = ""
    seconds: int = 0
    parts: tuple[StepPart, ...] = ()
    water_l: float = 0.0
    cautions: tuple[Words, ...] = ()
    """What to mind at this step."""
    drawn: FieldTest | None = None
    """What is looked at while it is done."""
    speed: Speed = ""
    draws: Draws = ""


class TicketCard(Frozen):
    """What one load is mixed from; loads of one size share a card."""

    volume_m3: float
    fresh_kg: float
    doses: tuple[TicketDose, ...]
    admixtures: tuple[TicketAdmixture, ...] = ()
    water: TicketWater
    steps: tuple[TicketStep, ...] = Field(min_length=1)
    meets: int = Field(ge=0)
    """Step in which water and binder meet: the working life runs from there."""
    seconds: int = 0
    rounded: Rounded | None = None
    """The load as it is really measured; tickets of before do not know."""

    @property
    def dry_kg(self) -> float:
        """Dry mass of all constituents [kg]."""
        return sum(d.dry_kg for d in self.doses)


class TicketLoad(Frozen):
    """One load the ticket plans."""

    card: int = Field(ge=0)
    volume_m3: float


class TicketTotal(Frozen):
    """One constituent over all loads of the ticket."""

    key: str
    name: Words
    dry_kg: float
    batch_kg: float
    packs: float | None = None


class Division(Frozen):
    """One way of dividing the order, for comparing."""

    strategy: str
    loads: int
    bags: int
    left_l: float
    # Tickets of before know these figures of none.
    minutes: float | None = None
    worst_percent: float | None = None
    """Error of the dose furthest off, signed."""
    worst: str = ""
    good: bool = True
    carries: int = 0
    """Bags and pails lifted, over all loads."""
    heaviest_kg: float = 0.0
    left_bag: float = 0.0
    """What stays in the last bag opened [bags]."""
    left_fills: tuple[str, float] | None = None
    """What on the list the rest would fill a share of, and the share."""


class TicketTarget(Frozen):
    """What a measured consistency should come to."""

    use: Words
    measure: str
    low: float
    high: float
    unit: str
    source: Words


class Look(Frozen):
    """What the mix must be like, and what may still be done to it."""

    test: Words
    dry: Words
    right: Words
    wet: Words
    targets: tuple[TicketTarget, ...] = ()
    drawn: FieldTest | None = None
    """The test that is drawn; tickets of before name none."""


class Rescue(Frozen):
    """What may be done to a load that is not right."""

    may_take_water: bool
    may_take_dry: bool
    too_dry: Words
    too_wet: Words
    stiffened: Words
    dry_kg_per_litre: float | None = None
    """Dry mix that takes up a litre too much; None where it may not be added."""


class MoreWater(Frozen):
    """What one step of water too much costs."""

    extra_l: float
    ratio_name: str
    ratio: float
    ratio_after: float
    strength_change_percent: float
    estimated: bool


class Bound(Frozen):
    """One thing that keeps a load from being bigger."""

    name: Words
    volume_m3: float


class NamedRatio(Frozen):
    """A ratio by which the trade judges the mix."""

    name: str
    value: float


class LoadKey(Frozen):
    """Which load: its number in the job, and the mixer it is made in."""

    number: int = Field(ge=1, le=100_000)
    mixer: str


class Ticket(Frozen):
    """Everything that is mixed from."""

    version: Literal[1] = 1
    core_version: str
    revision: int = Field(1, ge=1)
    """Counts the tickets of a job."""
    round: int = Field(1, ge=1)
    """Counts how often the whole order was begun: the same again tomorrow is round 2."""
    counted: tuple[LoadKey, ...] = ()
    """Loads that were made, or in the mixer, when this revision was made for the rest."""
    mix_key: str
    mix_name: Words
    mix_as: str
    """Equal where one load may teach another: mix, dry masses, water, admixtures, ice."""
    moisture_as: str
    """Equal where nobody said anything new of the heaps."""
    mixer: Mixer
    measures: tuple[Container, ...]
    """Containers the doses are measured with."""
    jug: Container
    scales: tuple[Scale, ...] = ()
    hose_l_min: float | None = None
    """What the hose gives, where water is counted in seconds of it."""
    water_means: Means | None = None
    mixer_why: Words = ""
    """Why this mixer, where nobody chose it."""
    net_m3: float
    order_m3: float
    left_m3: float
    """Of the order, what this ticket plans."""
    made_m3: float
    """What its loads make."""
    ratios: tuple[NamedRatio, ...]
    bounds: tuple[Bound, ...]
    strategy: str
    reason: Words
    recommended: str = ""
    """Way of dividing that Keeve would go; empty on tickets of before."""
    divisions: tuple[Division, ...]
    count: int
    bags: int
    cards: tuple[TicketCard, ...] = Field(min_length=1)
    loads: tuple[TicketLoad, ...] = Field(min_length=1)
    totals: tuple[TicketTotal, ...]
    pour_l: Window
    """Water to pour over all loads."""
    minutes_mixing: float
    life_min: float
    """As stated, at `life_ref_c`."""
    life_ref_c: float = CEMENT_REF_C
    air_c: float | None = None
    """Of the air it was planned for; None where nobody said."""
    wet_out_s: int = 0
    """How long water takes to show in the mix, before more is offered; tickets of before do not wait."""
    turn_again_min: float = 0.0
    """How often what waits in the mixer is turned; 0 for what is not kept."""
    stages: tuple[Stage, ...] = ()
    """Of plaster: what it goes through after the first powder."""
    cleaning: tuple[Words, ...] = ()
    """What is done with mixer and tools at the end."""
    leftovers: Words = ""
    """Where what is left over may go."""
    full_m3: float
    """No fuller than this with fresh mix."""
    by_dry_mass: bool = False
    """The placed volume follows the dry mass alone, as with hemp: water adds none."""
    look: Look
    rescue: Rescue
    more_water: MoreWater | None = None
    more_water_us: MoreWater | None = None
    """The same with a step of a jug in fluid ounces; tickets of before have it in litres only."""
    dry_cast_kg: float | None = None
    cautions: tuple[Words, ...] = ()
    temperatures: Words = ""
    warnings: tuple[Words, ...] = ()
    thumbs: tuple[Thumb, ...] = ()
    """Rules of thumb beside the sum."""
    batch_c: float | None = None
    """How warm the first load comes out, where it is known how warm its materials are."""
    workings: dict[str, Working] = {}
    """By the path of the figure they explain: `cards.0.water.pour.target`."""

    @property
    def bag_word(self) -> str:
        """What the packs are called: bag, pail, kit."""
        return next((d.pack_word for d in self.cards[0].doses if d.packs is not None), "bag")

    def numbers(self, card: int) -> list[int]:
        """Number the loads of a card within the ticket, from 1. Plain arithmetic."""
        return [number for number, load in enumerate(self.loads, 1) if load.card == card]

    @property
    def begins_c(self) -> float:
        """How warm a load is taken to be until somebody measures it [°C], own assumption: as reckoned, or the air."""
        known = (one for one in (self.batch_c, self.air_c) if one is not None)
        return next(known, self.life_ref_c)

    @property
    def life_now_min(self) -> float:
        """Working life as warm as it is begun [min]."""
        return life_at_min(self.life_min, self.life_ref_c, self.begins_c)

    def measure(self, key: str) -> Container:
        """Return the container of a dose. Plain arithmetic."""
        return next(c for c in self.measures if c.key == key)

    def scale(self, key: str) -> Scale:
        """Return the scale of a weighing. Plain arithmetic."""
        return next(one for one in self.scales if one.key == key)
