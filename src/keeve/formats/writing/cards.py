"""A mix of the book, and a sand test, as plain text."""

from keeve.catalogue import SandResult
from keeve.catalogue.own_mix import doubts
from keeve.core.conditions.cautions import cautions_of
from keeve.core.dosing.per_pack import Portion, portions
from keeve.core.measure.units import YD3_M3
from keeve.core.mixes.mix import Mix
from keeve.core.proportions.ratios import judged
from keeve.core.vessels.vessels import Container
from keeve.words import saying
from keeve.words.putting import put, t
from keeve.words.reader import METRIC, Reader
from keeve.words.showing import say, show_litres, show_mass, show_space


def mix_card(mix: Mix, gauge: Container, reader: Reader = METRIC) -> str:
    """Write a mix as it stands in the book: per volume, per pack, per gauge of binder.

    Parameters
    ----------
    mix : the mix
    gauge : container the binder is measured with, struck
    reader : units and language

    Returns
    -------
    lines of text

    Raises
    ------
    MixError : the mix cannot be made
    """
    made = mix.basis.proportions()
    ratios = ", ".join(f"{r.name} {r.value:.2f}" for r in judged(made))
    stated = t(reader, "Stated as {basis}; masses dry.", basis=mix.basis.basis)
    lines = [f"{put(mix.name, reader)} ({mix.key})", put(mix.use, reader), f"{stated} {ratios}".rstrip()]
    for portion in portions(mix, made, gauge, YD3_M3 if reader.us else 1.0):
        lines += ["", *_portion(portion, gauge, reader)]
    target = mix.consistency
    looks = (("dry:", target.dry), ("right:", target.right), ("wet:", target.wet))
    lines += ["", put(target.test, reader)]
    lines += [f"  {t(reader, name):<6} {put(words, reader)}" for name, words in looks]
    life = t(reader, "Use within {minutes} min.", minutes=f"{mix.working_life_min:g}")
    lines += ["", f"{life} {put(mix.late_water.stiffened, reader)}"]
    lines += [t(reader, "Not in a {mixer}. {why}", mixer=kind, why=why) for kind, why in mix.refused.items()]
    lines += [f"! {put(words, reader)}" for words in doubts(mix)]
    lines += [f"* {put(words, reader)}" for words in cautions_of(mix, made).values()]
    return "\n".join([*lines, t(reader, "From: {source}.", source=mix.source)])


def _portion(portion: Portion, gauge: Container, reader: Reader) -> list[str]:
    made = say(show_litres(portion.made_m3 * 1000, reader))
    if portion.of == "volume":
        head = say(show_space(portion.made_m3, reader))
    elif portion.of == "pack":
        pack = say(show_mass(portion.pack_kg or 0.0, reader))
        head = t(reader, "One {pack} of {mass} makes {made}", pack=portion.pack_word, mass=pack, made=made)
    else:
        head = t(reader, "One {gauge} of binder makes {made}", gauge=gauge.short, made=made)
    lines = [head]
    for dose in portion.doses:
        of_gauge = dose.gauges if portion.of == "gauge" else None
        gauges = f"  {saying.packs(of_gauge, gauge.short, reader)}" if of_gauge else ""
        lines.append(f"  {put(dose.name, reader):<28} {say(show_mass(dose.dry_kg, reader)):>10}{gauges}")
    low, target, high = (say(show_litres(litres, reader)) for litres in portion.water_l)
    span = t(reader, "{low} to {high}", low=low, high=high)
    return [*lines, f"  {t(reader, 'Free water'):<28} {target:>10}  {span}"]


def sand_card(result: SandResult) -> str:
    """Write what the sieves say of one sand, or of two and their best blend.

    Parameters
    ----------
    result : the judged test

    Returns
    -------
    lines of text
    """
    sides = [side for side in (result.first, result.second, result.blended) if side]
    names = [put(side.grading.name) for side in sides[:2]] + (["Blend"] if result.second else [])
    lines = [f"{result.envelope.name}: {result.envelope.use}", ""]
    lines.append(f"{'Sieve, mm':<12}" + "".join(f"{name[:18]:>20}" for name in names) + f"{'wanted':>14}")
    for bound in result.envelope.bounds:
        passed = "".join(f"{side.grading.at(bound.sieve_mm):>18.0f} %" for side in sides)
        lines.append(f"{bound.sieve_mm:<12g}{passed}{f'{bound.low:g} to {bound.high:g}':>14}")
    fineness = "".join(f"{f'{side.fineness.result:.2f}' if side.fineness else '–':>20}" for side in sides)
    lines += [f"{'Fineness':<12}{fineness}", ""]
    if result.blend:
        share = result.blend.first_share * 100
        lines.append(f"Best blend: {share:.0f} of {names[0]} to {100 - share:.0f} of {names[1]}, by mass.")
    for name, side in zip(names, sides, strict=True):
        lines.append(f"{name}: {'inside' if not side.misses else f'outside at {len(side.misses)} sieves'}.")
    return "\n".join([*lines, *(f"! {put(words)}" for words in result.warnings)])
