"""What the pages of the mix book show of a mix, worked out once for the templates."""

from dataclasses import dataclass

from keeve.catalogue import Catalogue
from keeve.catalogue.own_mix import doubts
from keeve.core.envelope import outside
from keeve.core.errors import TradeError
from keeve.core.judging import judged
from keeve.core.mix import Mix
from keeve.core.portion import Portion, portions
from keeve.core.proportions import Proportions
from keeve.core.said import Words
from keeve.core.units import YD3_M3, System, say, show, show_litres, show_mass
from keeve.core.vessels import Container, Mixer


@dataclass(frozen=True, slots=True)
class Read:
    """One mix as the book shows it."""

    mix: Mix
    proportions: Proportions
    portions: tuple[Portion, ...]
    suited: tuple[Mixer, ...]
    doubts: tuple[Words, ...]
    """What is unusual about it."""

    @property
    def ratios(self) -> dict[str, float]:
        """Ratios the trade judges it by."""
        return {r.name: r.value for r in judged(self.proportions)}


def read(mix: Mix, shelf: Catalogue, gauge: Container, units: System) -> Read:
    """Work out what the book shows of a mix.

    Raises
    ------
    TradeError : the mix cannot be made
    """
    made = mix.basis.proportions()
    strange = () if mix.basis.basis == "premix bag" else outside(mix.family, made)
    whole_m3 = YD3_M3 if units == "us" else 1.0
    return Read(
        mix=mix,
        proportions=made,
        portions=portions(mix, made, gauge, whole_m3),
        suited=shelf.mixers_for(mix),
        doubts=(*doubts(mix), *(fault.sentence for fault in strange)),
    )


def try_read(mix: Mix, shelf: Catalogue, gauge: Container, units: System) -> Read | None:
    """Work a mix out where it can be made."""
    try:
        return read(mix, shelf, gauge, units)
    except TradeError:
        return None


@dataclass(frozen=True, slots=True)
class Difference:
    """One line of two mixes side by side."""

    name: str
    one: str
    other: str

    @property
    def differs(self) -> bool:
        """Whether the two say something else."""
        return self.one != self.other


def _density(value: float, units: System) -> str:
    return f"{value * 0.06242796:.1f} lb/ft³" if units == "us" else f"{value:.0f} kg/m³"


def differences(one: Read, other: Read, units: System) -> tuple[Difference, ...]:
    """Set two mixes side by side, line by line."""
    whole_m3 = YD3_M3 if units == "us" else 1.0
    where = "yd³" if units == "us" else "m³"

    def facts(given: Read) -> dict[str, str]:
        made = given.proportions
        lines = {
            f"{c.material.name}, in 1 {where}": say(show_mass(c.dry_kg_m3 * whole_m3, units)) for c in made.constituents
        }
        water = tuple(say(show_litres(w * whole_m3, units)) for w in made.water)
        lines |= {
            f"Free water, in 1 {where}": water[1],
            "Its window": f"{water[0]} to {water[2]}",
            **{name: f"{value:.2f}" for name, value in given.ratios.items()},
            "Air": f"{made.air * 100:.1f} %",
            "Fresh density": _density(made.fresh_kg_m3, units),
            "Waste allowance": f"{given.mix.waste_percent:g} %",
            "Working life": f"{given.mix.working_life_min:g} min",
            "Mixed in": ", ".join(dict.fromkeys(m.kind for m in given.suited)) or "–",
            "Must look like": given.mix.consistency.right,
            "Stiffened": given.mix.late_water.stiffened,
            "Weather": given.mix.temperatures.sentence if given.mix.temperatures else "–",
        }
        pack = next((p for p in given.portions if p.of == "pack"), None)
        if pack is not None:
            lines[f"One {pack.pack_word} makes"] = (
                f"{say(show_litres(pack.made_m3 * 1000, units))} of {show(pack.pack_kg or 0.0, 'kg', units)}"
            )
        return lines

    left, right = facts(one), facts(other)
    return tuple(Difference(name, left.get(name, "–"), right.get(name, "–")) for name in {**left, **right})
