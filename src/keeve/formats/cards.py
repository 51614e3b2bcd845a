"""A mix of the book, and a sand test, as plain text."""

from keeve.catalogue import SandResult
from keeve.catalogue.own_mix import doubts
from keeve.core.judging import judged
from keeve.core.mix import Mix
from keeve.core.portion import Portion, portions
from keeve.core.said import put
from keeve.core.units import YD3_M3, System, counted, say, show_litres, show_mass, show_space
from keeve.core.vessels import Container


def mix_card(mix: Mix, gauge: Container, system: System = "metric") -> str:
    """Write a mix as it stands in the book: per volume, per pack, per gauge of binder.

    Parameters
    ----------
    mix : the mix
    gauge : container the binder is measured with, struck
    system : units of the reader

    Returns
    -------
    lines of text

    Raises
    ------
    MixError : the mix cannot be made
    """
    made = mix.basis.proportions()
    ratios = ", ".join(f"{r.name} {r.value:.2f}" for r in judged(made))
    lines = [f"{mix.name} ({mix.key})", mix.use, f"Stated as {mix.basis.basis}; masses dry. {ratios}".rstrip()]
    for portion in portions(mix, made, gauge, YD3_M3 if system == "us" else 1.0):
        lines += ["", *_portion(portion, gauge, system)]
    target = mix.consistency
    lines += ["", target.test, f"  dry:   {target.dry}", f"  right: {target.right}", f"  wet:   {target.wet}"]
    lines += ["", f"Use within {mix.working_life_min:g} min. {mix.late_water.stiffened}"]
    lines += [f"Not in a {kind}. {why}" for kind, why in mix.refused.items()]
    lines += [f"! {put(words, system)}" for words in doubts(mix)]
    lines += [f"* {caution.sentence}" for caution in mix.cautions]
    return "\n".join([*lines, f"From: {mix.source}."])


def _portion(portion: Portion, gauge: Container, system: System) -> list[str]:
    made = say(show_litres(portion.made_m3 * 1000, system))
    heads = {
        "volume": say(show_space(portion.made_m3, system)),
        "pack": f"One {portion.pack_word} of {say(show_mass(portion.pack_kg or 0.0, system))} makes {made}",
        "gauge": f"One {gauge.short} of binder makes {made}",
    }
    lines = [heads[portion.of]]
    for dose in portion.doses:
        many = "s" if dose.gauges and dose.gauges > 1.005 else ""
        gauges = f"  {counted(dose.gauges)} {gauge.short}{many}" if portion.of == "gauge" and dose.gauges else ""
        lines.append(f"  {dose.name:<28} {say(show_mass(dose.dry_kg, system)):>10}{gauges}")
    low, target, high = (say(show_litres(litres, system)) for litres in portion.water_l)
    return [*lines, f"  {'Free water':<28} {target:>10}  {low} to {high}"]


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
    names = [result.first.grading.name, *([result.second.grading.name, "Blend"] if result.second else [])]
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
    return "\n".join([*lines, *(f"! {words}" for words in result.warnings)])
