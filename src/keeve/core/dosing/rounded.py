"""A load as it is really measured: what tins, marks and scales make of its proportions, its water and its volume."""

from typing import Final, NamedTuple

from keeve.core.materials.material import CEMENTITIOUS
from keeve.core.message.errors import Frozen
from keeve.core.vessels.scale_check import allowed_percent
from keeve.core.vessels.vessels import close_enough

Means = str
"""How a dose is measured: packs, marks, counts or scale."""


class Measure(NamedTuple):
    """One dose: what was wanted of it, and what the measure holds."""

    role: str
    means: Means
    wanted_kg: float
    """Dry."""
    measured_kg: float
    solid_l: float
    """Room it takes in the fresh mix as wanted, with the water it brings."""
    brought_l: float
    """Free water it brings as wanted, signed."""

    @property
    def share(self) -> float:
        """What is measured over what was wanted [-]."""
        return self.measured_kg / self.wanted_kg if self.wanted_kg > 0 else 1.0

    @property
    def error_percent(self) -> float:
        """Too much, or too little where negative [%]."""
        return (self.share - 1) * 100


class Rounded(Frozen):
    """A load as measured."""

    volume_m3: float
    pour_l: float
    """Water to pour, as the measure shows it."""
    water_error_percent: float
    ratio_name: str = ""
    ratio: float = 0.0
    """Free water over what the mix is judged by, as measured."""
    ratio_wanted: float = 0.0
    worst_percent: float
    """Error of the dose that is furthest off, signed."""
    worst: str
    """Key of that dose; `water` for water."""
    good: bool
    """Whether every dose keeps to its tolerance."""


def keeps(measure: Measure) -> bool:
    """Whether a dose is as close as it must be: C685 by volume, C94 by the scale, both from memory; packs always."""
    if measure.means == "packs":
        return True
    error = measure.error_percent
    if measure.means == "scale":
        return abs(error) <= allowed_percent(measure.role) + 1e-9
    return close_enough(measure.role, error)


RATIO_PERCENT: Final = 3.0
"""Water to cement or powder must come this near. House ruling."""
_JUDGED: Final = (("w/c", CEMENTITIOUS), ("w/p", frozenset({"plaster"})))


def as_measured(
    doses: dict[str, Measure],
    volume_m3: float,
    free_l: float,
    pour_l: float,
    pour_measured_l: float,
    *,
    by_dry_mass: bool = False,
) -> Rounded:
    """Work out a load from what its measures really hold.

    Parameters
    ----------
    doses : by key
    volume_m3 : of the load as wanted [m³]
    free_l : free water as wanted [L]
    pour_l : water to pour as wanted [L]
    pour_measured_l : the same as the jug, the scale or the hose measures it [L]
    by_dry_mass : whether the placed volume follows the dry mass alone, as with hemp

    Returns
    -------
    volume, ratio and errors as measured

    Notes
    -----
    Absolute volume: what is in besides air grows or shrinks, and the air with it. Heaps bring water with every
    kilogram, so more sand brings more.

    References
    ----------
    Absolute volumes, ACI 211.1-91, from memory. Tolerances: ASTM C94 and C685, from memory.

    >>> cement = Measure("cement", "counts", 10.0, 10.0, 3.2, 0.0)
    >>> sand = Measure("sand", "counts", 40.0, 42.0, 16.0, 1.0)
    >>> found = as_measured({"cement": cement, "sand": sand}, 0.026, 6.0, 5.0, 5.0)
    >>> round(found.ratio, 4), round(found.worst_percent, 3), round(found.volume_m3 * 1000, 3)
    (0.605, 5.0, 26.86)
    """
    if by_dry_mass:
        wanted = sum(m.wanted_kg for m in doses.values())
        made = sum(m.measured_kg for m in doses.values())
    else:
        wanted = sum(m.solid_l for m in doses.values()) + pour_l
        made = sum(m.solid_l * m.share for m in doses.values()) + pour_measured_l
    brought = sum(m.brought_l * (m.share - 1) for m in doses.values())
    free = free_l + brought + pour_measured_l - pour_l
    name, ratio, ratio_wanted = "", 0.0, 0.0
    for called, roles in _JUDGED:
        base = sum(m.wanted_kg for m in doses.values() if m.role in roles)
        if base > 0:
            real = sum(m.measured_kg for m in doses.values() if m.role in roles)
            name, ratio, ratio_wanted = called, free / real if real > 0 else 0.0, free_l / base
            break
    water_error = (pour_measured_l / pour_l - 1) * 100 if pour_l > 0 else 0.0
    errors = {key: m.error_percent for key, m in doses.items()} | {"water": water_error}
    worst = max(errors, key=lambda key: abs(errors[key]))
    ratio_good = not name or abs(ratio / ratio_wanted - 1) * 100 <= RATIO_PERCENT + 1e-9
    return Rounded(
        volume_m3=volume_m3 * made / wanted,
        pour_l=pour_measured_l,
        water_error_percent=water_error,
        ratio_name=name,
        ratio=ratio,
        ratio_wanted=ratio_wanted,
        worst_percent=errors[worst],
        worst=worst,
        good=ratio_good and all(keeps(m) for m in doses.values()),
    )
