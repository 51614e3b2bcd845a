"""What the pages of the mix book show of a mix, worked out once for the templates."""

from dataclasses import dataclass

from keeve.catalogue import Catalogue
from keeve.catalogue.own_mix import doubts
from keeve.core.conditions.cautions import cautions_of
from keeve.core.dosing.per_pack import Portion, portions
from keeve.core.measure.units import YD3_M3
from keeve.core.message.errors import TradeError
from keeve.core.message.said import WHOLE, Said, Words, mark
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.base import Proportions
from keeve.core.proportions.plausible import outside
from keeve.core.proportions.ratios import judged
from keeve.core.vessels.vessels import Container, Mixer
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import show


@dataclass(frozen=True, slots=True)
class ShownMix:
    """One mix as the book shows it."""

    mix: Mix
    proportions: Proportions
    portions: tuple[Portion, ...]
    suited: tuple[Mixer, ...]
    doubts: tuple[Words, ...]
    """What is unusual about it."""
    bagged: Words
    """The material whose bags are counted."""
    cautions: tuple[Words, ...]
    """What can hurt at it."""
    sand_state: str
    """How the parts of sand are meant, where they are by volume."""

    @property
    def ratios(self) -> dict[str, float]:
        """Ratios the trade judges it by."""
        return {r.name: r.value for r in judged(self.proportions)}


def read(mix: Mix, shelf: Catalogue, gauge: Container, reader: Reader) -> ShownMix:
    """Work out what the book shows of a mix.

    Raises
    ------
    TradeError : the mix cannot be made
    """
    made = mix.basis.proportions()
    strange = outside(mix.kin, made) if mix.basis.judged else ()
    whole_m3 = YD3_M3 if reader.us else 1.0
    return ShownMix(
        mix=mix,
        proportions=made,
        portions=portions(mix, made, gauge, whole_m3),
        suited=shelf.mixers_for(mix),
        bagged=mix.bagged().name,
        cautions=tuple(cautions_of(mix, made).values()),
        sand_state=mix.basis.sand_as(),
        doubts=(*doubts(mix), *(fault.sentence for fault in strange)),
    )


def try_read(mix: Mix, shelf: Catalogue, gauge: Container, reader: Reader) -> ShownMix | None:
    """Work a mix out where it can be made."""
    try:
        return read(mix, shelf, gauge, reader)
    except TradeError:
        return None


@dataclass(frozen=True, slots=True)
class CompareLine:
    """One line of two mixes side by side."""

    name: str
    one: str
    other: str

    @property
    def differs(self) -> bool:
        """Whether the two say something else."""
        return self.one != self.other


def _facts(given: ShownMix, reader: Reader) -> dict[str, str]:
    """Say what two mixes are compared by: name of each line, and its value."""
    made, mix = given.proportions, given.mix
    low, target, high = (show(litres, "L in 1 m³", reader) for litres in made.water)
    named: list[tuple[Words, str]] = [
        *(
            (
                Said("{material}, in {where}", material=c.material.name, where=WHOLE),
                show(c.dry_kg_m3, "kg in 1 m³", reader),
            )
            for c in made.constituents
        ),
        (Said("Free water, in {where}", where=WHOLE), target),
        (mark("Its window"), t(reader, "{low} to {high}", low=low, high=high)),
        *((name, show(value, "ratio", reader)) for name, value in given.ratios.items()),
        (mark("Air"), show(round(made.air * 100, 1), "%", reader)),
        (mark("Fresh density"), show(made.fresh_kg_m3, "kg/m³", reader)),
        (mark("Waste allowance"), show(mix.waste_percent, "%", reader)),
        (mark("Working life"), show(mix.working_life_min, "min", reader)),
        (mark("Mixed in"), ", ".join(dict.fromkeys(t(reader, m.kind) for m in given.suited)) or "–"),
        (mark("Must look like"), put(mix.consistency.right, reader)),
        (mark("Stiffened"), put(mix.late_water.stiffened, reader)),
        (mark("Weather"), put(mix.temperatures.sentence, reader) if mix.temperatures else "–"),
    ]
    pack = next((p for p in given.portions if p.of == "pack"), None)
    if pack is not None:
        made_l, mass = show(pack.made_m3 * 1000, "L", reader), show(pack.pack_kg or 0.0, "kg", reader)
        named.append(
            (
                Said("One {pack} makes", pack=pack.pack_word),
                t(reader, "{volume} of {mass}", volume=made_l, mass=mass),
            )
        )
    return {put(name, reader): value for name, value in named}


def differences(one: ShownMix, other: ShownMix, reader: Reader) -> tuple[CompareLine, ...]:
    """Set two mixes side by side, line by line."""
    left, right = _facts(one, reader), _facts(other, reader)
    return tuple(CompareLine(name, left.get(name, "–"), right.get(name, "–")) for name in {**left, **right})
