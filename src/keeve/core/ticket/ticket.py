"""The ticket: the one document that outlives a plan. Stored, printed, served and mixed from; free of language.

It holds everything a mixer needs and refers to nothing else. A ticket is never changed: a change of sheet makes a new
revision. Its shape is a contract: each part says all it holds, a test keeps its schema, and a change of it is a new
version, to which documents of older versions climb in `ticket_past`. What a newer program wrote besides is kept.
"""

from typing import Any, Final, Literal

from pydantic import Field, PrivateAttr

from keeve.core.dosing.thumb import Thumb
from keeve.core.hardening.clock import Stage, life_at_min
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words
from keeve.core.message.working import Working
from keeve.core.procedures.consistency import FieldTest
from keeve.core.ticket.cards import TicketCard, Window
from keeve.core.vessels.scales import Scale
from keeve.core.vessels.tools import Means
from keeve.core.vessels.vessels import Container, Mixer

VERSION: Final = 2


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
    packs: float | None


class Division(Frozen):
    """One way of dividing the order, for comparing."""

    strategy: str
    loads: int
    bags: int
    left_l: float
    # Tickets of before know these figures of none.
    minutes: float | None
    worst_percent: float | None
    """Error of the dose furthest off, signed."""
    worst: str
    good: bool
    carries: int
    """Bags and pails lifted, over all loads."""
    heaviest_kg: float
    left_bag: float
    """What stays in the last bag opened [bags]."""
    left_fills: tuple[str, float] | None
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
    targets: tuple[TicketTarget, ...]
    drawn: FieldTest | None
    """The test that is drawn; tickets of before name none."""


class Rescue(Frozen):
    """What may be done to a load that is not right."""

    may_take_water: bool
    may_take_dry: bool
    too_dry: Words
    too_wet: Words
    stiffened: Words
    dry_kg_per_litre: float | None
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

    version: Literal[2] = 2
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
    scales: tuple[Scale, ...]
    hose_l_min: float | None
    """What the hose gives, where water is counted in seconds of it."""
    water_means: Means | None
    mixer_why: Words
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
    recommended: str
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
    life_ref_c: float
    air_c: float | None
    """Of the air it was planned for; None where nobody said."""
    wet_out_s: int
    """How long water takes to show in the mix, before more is offered; tickets of before do not wait."""
    turn_again_min: float
    """How often what waits in the mixer is turned; 0 for what is not kept."""
    stages: tuple[Stage, ...]
    """Of plaster: what it goes through after the first powder."""
    cleaning: tuple[Words, ...]
    """What is done with mixer and tools at the end."""
    leftovers: Words
    """Where what is left over may go."""
    full_m3: float
    """No fuller than this with fresh mix."""
    by_dry_mass: bool
    """The placed volume follows the dry mass alone, as with hemp: water adds none."""
    look: Look
    rescue: Rescue
    more_water: MoreWater | None
    more_water_us: MoreWater | None
    """The same with a step of a jug in fluid ounces; tickets of before have it in litres only."""
    dry_cast_kg: float | None
    cautions: tuple[Words, ...]
    temperatures: Words
    warnings: tuple[Words, ...]
    thumbs: tuple[Thumb, ...]
    """Rules of thumb beside the sum."""
    batch_c: float | None
    """How warm the first load comes out, where it is known how warm its materials are."""
    workings: dict[str, Working]
    """By the path of the figure they explain: `cards.0.water.pour.target`."""
    _beside: tuple[tuple[tuple[str | int, ...], Any], ...] = PrivateAttr(())
    """Of a document of a newer program: what this one does not know, by its place."""

    def document(self) -> dict[str, Any]:
        """Return it as it is kept and handed on, with what a newer program wrote besides. Plain arithmetic."""
        document = self.model_dump(mode="json")
        for path, value in self._beside:
            inside: Any = document
            for part in path[:-1]:
                inside = inside[part]
            inside[path[-1]] = value
        return document

    def with_beside(self, beside: tuple[tuple[tuple[str | int, ...], Any], ...]) -> "Ticket":
        """Return the same, keeping what is not known of its document. Plain arithmetic."""
        self._beside = beside
        return self

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
