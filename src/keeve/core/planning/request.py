"""Everything a plan depends on, whole."""

from pydantic import Field

from keeve.core.conditions.temperature import MaterialTemperatures
from keeve.core.conditions.weather import AirNow
from keeve.core.dividing.dividing import Strategy
from keeve.core.dividing.start import Start
from keeve.core.materials.heap_doors import Bulking, HeapMoisture
from keeve.core.materials.moisture import Heaps, with_jar
from keeve.core.measure import quantities
from keeve.core.measure.quantities import Mass, NoneOrMany, Plain, Share, Volume, Waste
from keeve.core.message.errors import MISSING, Frozen
from keeve.core.message.said import Words, mark
from keeve.core.mixes.admixtures import Wanted
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.exposure import ExposureClasses
from keeve.core.takeoff.shapes import Shape
from keeve.core.vessels.scales import Scale
from keeve.core.vessels.tools import Means, Tools
from keeve.core.vessels.vessels import Container, Mixer, brim_l

MISSING["mix"] = mark("Choose a mix first: without one nobody can say what goes in.")


class PlanRequest(Frozen):
    """Everything a plan depends on, whole: no key in it needs looking up."""

    shapes: tuple[Shape, ...] = Field((), max_length=200)
    waste_percent: Waste | None = None
    """The job's waste allowance; empty takes the usual one."""
    residue_l: Volume | None = None
    """What stays in mixer and pump at the end."""
    mix: Mix
    moisture_percent: dict[str, HeapMoisture] = {}
    """Total moisture of each aggregate by material key."""
    bulking_percent: dict[str, Bulking] = {}
    """Bulking of a sand by a jar test, by material key; goes before the table."""
    struck_kg: dict[str, Mass] = {}
    """What the first of the gauges weighs of a material, struck; goes before every other word on its density."""
    ice_percent: Share | None = None
    """How much of the water to add goes in as ice, by mass."""
    temperatures: MaterialTemperatures | None = None
    """How warm the materials are."""
    air: AirNow | None = None
    """The air it is mixed in, where somebody said so."""
    exposure_classes: ExposureClasses = ()
    """As on the drawing, by EN 206 or ACI 318."""
    ratio_cap: quantities.Ratio | None = None
    """Water to cementitious that may never be passed; empty sets no cap of its own."""
    mixer: Mixer
    mixer_why: Words = ""
    """Why this one, where nobody chose it."""
    gauges: tuple[Container, ...] = ()
    jug: Container
    scales: tuple[Scale, ...] = Field((), max_length=6)
    measured: dict[str, Means] = {}
    """How a constituent is measured, by material key; `water` for water. Empty takes what is usual."""
    hose_l_min: Volume | None = None
    """What the hose gives in a minute, where water is counted in seconds of it."""
    strategy: Strategy | None = None
    """How the order is divided; empty takes the recommended way."""
    bags_a_load: Plain | None = None
    """Bags in each load, where somebody said so."""
    start_said: str = Field("", max_length=200)
    """The start as it was typed."""
    start: Start | None = None
    """What is at hand and wants using, in the place of shapes: a bag, four tins of sand, what the drum takes."""
    place_l_min: Volume | None = None
    """How much mix is placed in a minute."""
    admixtures: tuple[Wanted, ...] = Field((), max_length=6)
    steel: bool = False
    """Whether steel lies in the work."""
    unusual_ok: bool = False
    """Whether a mix outside the plausible envelope is meant."""
    already_m3: float = Field(0.0, ge=0, le=1e6)
    """Made already for the same order; loads are planned for the rest."""
    at_hand_bags: NoneOrMany | None = None
    """Bags at hand, for how far they go."""
    at_hand_l: Volume | None = None
    """Fresh mix at hand, for the same."""

    @property
    def heaps(self) -> Heaps:
        """What is known of the heaps."""
        brim = brim_l(self.gauges[0].section) / 1000 if self.gauges else 1.0
        jars = {m.key: m for m in self.mix.materials() if m.key in self.bulking_percent}
        told = {key: with_jar(m, self.moisture_percent.get(key), self.bulking_percent[key]) for key, m in jars.items()}
        water = self.moisture_percent | {key: one for key, one in told.items() if one is not None}
        return Heaps(water, self.bulking_percent, {key: kg / brim for key, kg in self.struck_kg.items()})

    @property
    def tools(self) -> Tools:
        """What is at hand for one load."""
        vessels = tuple(c for c in self.gauges if not c.scoop and c.tare_kg is not None)
        return Tools(self.gauges, self.jug, self.scales, vessels, dict(self.measured), None, self.hose_l_min)
