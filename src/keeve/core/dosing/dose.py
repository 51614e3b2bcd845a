"""The amount of one constituent in one load, and how it is measured."""

from keeve.core.dosing.rounded import Measure
from keeve.core.materials.heap_dose import HeapDose
from keeve.core.materials.material import Role
from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words
from keeve.core.vessels.scales import Weighing
from keeve.core.vessels.tools import Count, Means
from keeve.core.vessels.vessels import Fill


class Dose(Frozen):
    """The amount of one constituent in one load."""

    material_key: str
    name: Words
    role: Role
    dry_kg: float
    batch_kg: float
    """As it goes on the scale, with the water it holds."""
    solid_l: float
    """Room it takes in the finished mix, with the water it brings."""
    gauged_l: float
    """Room it takes in a gauge, as it lies in the heap."""
    packs: float | None
    pack_kg: float | None
    """As it is sold and lifted: a wet pack with the water it holds."""
    pack_word: str = "bag"
    gauge: Fill | None
    gauge_tare_kg: float = 0.0
    """What that gauge weighs empty: it is lifted too."""
    gauged_to_l: tuple[float, float] | None = None
    """From and to, where nobody looked at the heap and it may bulk more or less."""
    means: Means
    """How it is measured."""
    heap: HeapDose | None = None
    """Of a heap that lies outside: what its water comes to."""
    count: Count | None = None
    weighing: Weighing | None = None
    measured_kg: float
    """Dry mass that the measure really holds."""
    half_step_percent: float = 0.0
    """Half of what its mark can be read to, of the dose."""

    def as_measure(self, brought_l: float = 0.0) -> Measure:
        """Return what of it is judged, with the free water it brings [L]. Plain arithmetic."""
        return Measure(
            self.role, self.means, self.dry_kg, self.measured_kg, self.solid_l, brought_l, self.half_step_percent
        )
