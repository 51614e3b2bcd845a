"""A heap's part in a load: how wet it was taken to be, and what its water comes to were it wetter or drier."""

from typing import Final

from keeve.core.materials.looks import HeapWater
from keeve.core.message.errors import Frozen

KNOTS_PERCENT: Final = (0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0)
HALVINGS: Final = 60


class HeapDose(Frozen):
    """What one load takes of a heap."""

    water: HeapWater
    """How wet the heap was taken to be [%]."""
    absorption_percent: float
    dry_kg: tuple[float, ...]
    """Dry mass in the dose at each of the knots' moistures, measured the way the ticket says: a weighed mass holds less
    dry sand the wetter it is, a pail as its bulking has it."""

    def dry_at_kg(self, percent: float) -> float:
        """Return the dry mass in the dose at a moisture [%], straight between the knots. Plain arithmetic."""
        if percent <= KNOTS_PERCENT[0]:
            return self.dry_kg[0]
        for at in range(1, len(KNOTS_PERCENT)):
            low, high = KNOTS_PERCENT[at - 1], KNOTS_PERCENT[at]
            if percent <= high:
                part = (percent - low) / (high - low)
                return self.dry_kg[at - 1] * (1 - part) + self.dry_kg[at] * part
        return self.dry_kg[-1]

    def brings_l(self, percent: float) -> float:
        """Return the free water the dose brings at a moisture [L]; less than none where it drinks.

        Dry mass × (moisture − absorption): ACI 211.1-91, section 6.3.8, from memory.
        """
        return self.dry_at_kg(percent) * (percent - self.absorption_percent) / 100

    def percent_for(self, litres: float) -> float:
        """Return the moisture at which the dose brings so much free water [%], 0 to 12 of it.

        `brings_l` turned round, by halving: plain arithmetic.
        """
        low, high = KNOTS_PERCENT[0], KNOTS_PERCENT[-1]
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            low, high = (middle, high) if self.brings_l(middle) < litres else (low, middle)
        return (low + high) / 2
