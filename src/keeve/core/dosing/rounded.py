"""A load as it is really measured: what tins, marks and scales make of its proportions, its water and its volume."""

from typing import Final, NamedTuple

from keeve.core.materials.material import CEMENTITIOUS
from keeve.core.message.errors import Frozen
from keeve.core.vessels.tolerance import SLACK, allowed_by_volume, allowed_percent

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
    half_step_percent: float = 0.0
    """Half of what its mark can be read to, of the dose."""

    @property
    def share(self) -> float:
        """What is measured over what was wanted [-]."""
        return self.measured_kg / self.wanted_kg if self.wanted_kg > 0 else 1.0

    @property
    def error_percent(self) -> float:
        """Too much, or too little where negative [%]."""
        return (self.share - 1) * 100

    @property
    def strain(self) -> float:
        """How much of what is allowed the error takes [-]: over 1 it is too far off.

        C685 by volume, C94 by the scale, both from memory; packs always hold. Half a step of a mark is excused where
        the mark is fit for the dose at all: house ruling.
        """
        if self.means == "packs":
            return 0.0
        if self.means == "scale":
            return abs(self.error_percent) / allowed_percent(self.role)
        low, high = allowed_by_volume(self.role)
        if self.half_step_percent <= max(-low, high) and abs(self.error_percent) <= self.half_step_percent:
            return min(abs(self.error_percent) / max(-low, high), 1.0)
        return self.error_percent / (high if self.error_percent > 0 else low)


class Off(Frozen):
    """What is further off than it may be."""

    key: str
    """Key of the dose; `ratio` for water to cement or powder."""
    percent: float
    """Too much, or too little where negative."""


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
    """Error of the dose that is furthest off beside what it may be, signed."""
    worst: str
    """Key of that dose; `water` for water."""
    strain: float
    """How much of what is allowed that takes."""
    failing: tuple[Off, ...]
    """Whatever is further off than it may be, worst first."""

    @property
    def good(self) -> bool:
        """Whether every dose keeps to its tolerance, and the ratio to its own."""
        return not self.failing


def keeps(measure: Measure) -> bool:
    """Whether a dose is as close as it must be [-]. As `Measure.strain`; what is exactly right always is."""
    return measure.strain <= 1 + SLACK


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
    strains = {key: m.strain for key, m in doses.items()} | {"water": abs(water_error) / RATIO_PERCENT}
    worst = max(strains, key=lambda key: strains[key])
    failing = [(m.strain, Off(key=key, percent=m.error_percent)) for key, m in doses.items() if not keeps(m)]
    off = (ratio / ratio_wanted - 1) * 100 if name else 0.0
    if abs(off) / RATIO_PERCENT > 1 + SLACK:
        failing.append((abs(off) / RATIO_PERCENT, Off(key="ratio", percent=off)))
    return Rounded(
        volume_m3=volume_m3 * made / wanted,
        pour_l=pour_measured_l,
        water_error_percent=water_error,
        ratio_name=name,
        ratio=ratio,
        ratio_wanted=ratio_wanted,
        worst_percent=errors[worst],
        worst=worst,
        strain=strains[worst],
        failing=tuple(one for _, one in sorted(failing, key=lambda pair: -pair[0])),
    )
