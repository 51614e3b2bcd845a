"""Doses in the words of the person who measures them, in that person's units."""

import math
from typing import Final

from keeve.core.dosing.steps import ADMIXTURE, ICE, title
from keeve.core.message.said import ROUND, WHOLE, Words
from keeve.core.mixes.mix import Mix, Target
from keeve.core.procedures.step_template import StepTemplate
from keeve.core.ticket.cards import FillMark, StepPart, TicketAdmixture, TicketCard, TicketDose, TicketStep
from keeve.core.ticket.ticket import Ticket, TicketTarget
from keeve.core.vessels.instruments import FINE_JUG, SCALE, SYRINGES, US_FINE_JUG, Drawn, weigh_on
from keeve.core.vessels.tolerance import close_enough
from keeve.core.vessels.tools import scale_for_water
from keeve.core.vessels.vessels import is_struck, people_count
from keeve.words.measuring import counted_words, counts, on_scale, readings
from keeve.words.putting import put, t
from keeve.words.reader import Reader, decimal_mark
from keeve.words.showing import counted, measured, say, show, show_density, show_litres, show_mark, show_mass

_WHOLE: Final = 1e-6
_OFFERED_PERCENT: Final = 5.0
"""Struck fills that are further off are not offered at all: house choice."""


def word_of(count: float, word: str, reader: Reader) -> str:
    """Say the word for so many packs [-], without the number. Common practice, no source."""
    return put(counted_words("", count, word), reader).strip()


def forms_of(word: Words, reader: Reader) -> tuple[str, str]:
    """Return how one and how many of a measure are said, the number still to be put in as {count}."""
    one, other = (put(counted_words("{count}", n, word), reader) for n in (1, 2))
    return one, other


def packs(count: float, word: Words, reader: Reader) -> str:
    """Say any number of packs or measures [-], to two figures. Common practice, no source."""
    return put(counted_words(counted(count, reader), count, word), reader)


def bags(packs: float, reader: Reader, word: str = "bag") -> str:
    """Say a number of bags [-], or of pails; empty when it is not a count of whole or half ones.

    Common practice, no source.

    >>> from keeve.words.reader import METRIC
    >>> bags(2, METRIC), bags(0.5, METRIC, "pail"), bags(1.31, METRIC)
    ('2 bags', '½ pail', '')
    """
    halves = packs * 2
    if abs(halves - round(halves)) > _WHOLE or round(halves) == 0:
        return ""
    said = people_count(round(halves) / 2)
    return put(counted_words(said.words, said.value, word), reader)


def fills(fill: FillMark, short: Words, reader: Reader, share: float = 1.0) -> str:
    """Say a dose, or a share [-] of it, in fills and their mark. Common practice, no source."""
    count = fill_count(fill, short, reader, share)
    if struck_fill(fill):
        return t(reader, "{count}, struck", count=count)
    down = say(show_mark(fill.mark_down_mm, reader))
    return t(reader, "{count}, {down} below rim", count=count, down=down)


def struck_fill(fill: FillMark) -> bool:
    """Whether a fill is struck, and no mark is needed. As `is_struck`."""
    return is_struck(fill.mark_down_mm, fill.fills, fill.struck_exact)


def pack_mass(given: TicketDose, reader: Reader) -> str:
    """Say what one pack of a dose weighs. Common practice, no source."""
    return show(given.pack_kg, f"{ROUND}kg", reader) if given.pack_kg else ""


def fill_count(fill: FillMark, short: Words, reader: Reader, share: float = 1.0) -> str:
    """Say the number of fills alone, of a share [-] of the dose. Common practice, no source."""
    count = fill.fills * share
    if abs(share - 1) < _WHOLE or abs(count - round(count)) < _WHOLE:
        return put(counted_words(str(round(count)), round(count), short), reader)
    part = people_count(count).words
    if fill.fills == 1:
        return t(reader, "{part} of the {measure}", part=part, measure=short)
    return t(reader, "{part} of {whole}", part=part, whole=counted_words(str(fill.fills), fill.fills, short))


def short_of(given: TicketDose, ticket: Ticket) -> Words:
    """Return what the container of a dose is called in a sentence. Common practice, no source."""
    return ticket.measure(given.fill.container).short if given.fill else ""


def dose(given: TicketDose, ticket: Ticket, reader: Reader, share: float = 1.0) -> str:
    """Say a dose, or a share [-] of it, the way it is measured: bags, fills, the scale. Common practice, no source."""
    means = given.means
    if means in (None, "packs") and given.packs is not None:
        said = bags(given.packs * share, reader, given.pack_word)
        if said:
            return said
    if means == "counts" and given.count is not None:
        return counts(given.count, ticket, reader, share)
    if means == "scale" and given.weighing is not None and abs(share - 1) < _WHOLE:
        return readings(given.weighing, ticket, reader)
    if means in (None, "marks", "packs") and given.fill is not None:
        return fills(given.fill, short_of(given, ticket), reader, share)
    return weighed(given.role, given.batch_kg * share, reader)


def weighed(role: str, mass_kg: float, reader: Reader) -> str:
    """Say a dose on the scale [kg], and which where it is no common one. Common practice, no source."""
    choice = weigh_on(role, mass_kg)
    mass = say(show_mass(mass_kg, reader))
    if choice.instrument is SCALE:
        return mass
    if choice.good:
        return t(reader, "{mass} on the fine scale", mass=mass)
    return t(reader, "{mass}: weigh ten times as much, mix it even and take a tenth", mass=mass)


def other_ways(given: TicketDose, ticket: Ticket, reader: Reader) -> list[str]:
    """List the other ways to measure a dose than the one that was chosen. Common practice, no source."""
    if given.means is None:
        return []
    found: dict[str, str] = {}
    if given.packs is not None and (said := bags(given.packs, reader, given.pack_word)):
        found["packs"] = said
    if given.fill is not None:
        found["marks"] = fills(given.fill, short_of(given, ticket), reader)
    if given.count is not None:
        found["counts"] = counts(given.count, ticket, reader)
    if given.weighing is not None:
        found["scale"] = readings(given.weighing, ticket, reader)
    return [words for means, words in found.items() if means != given.means]


def by_pail(given: TicketDose, reader: Reader) -> str:
    """Say at what density cement by the pail is counted and what that may hide; empty for every other dose.

    Common practice, no source.
    """
    if given.gauged_kg_m3 is None or given.means == "scale" or (given.packs is not None and bags(given.packs, reader)):
        return ""
    density = say(show_density(given.gauged_kg_m3, reader))
    if given.ratio_to is None:
        return t(reader, "counted at {density}, as weighed", density=density)
    low, high = (show(value, "ratio", reader) for value in given.ratio_to)
    return t(
        reader,
        "counted at {density}; settled to fluffy cement makes w/c {low} to {high}: weigh one struck measure",
        density=density,
        low=low,
        high=high,
    )


def struck(given: TicketDose, ticket: Ticket, reader: Reader) -> tuple[str, bool]:
    """Say a dose in fills struck at the rim, and whether that is close enough. ASTM C685, from memory.

    Returns
    -------
    words, empty where it is counted in bags, weighed, struck anyway or too heavy so; and whether the tolerance holds
    """
    fill = given.fill
    if (
        fill is None
        or given.means not in (None, "marks")
        or is_struck(fill.mark_down_mm, fill.fills, fill.struck_exact)
        or (given.packs is not None and bags(given.packs, reader))
    ):
        return "", True
    if fill.fills > math.ceil(fill.struck_exact):
        return "", True  # struck pails would be heavier than one should carry
    said = people_count(fill.struck_exact)
    percent = (said.value / fill.struck_exact - 1) * 100
    if abs(percent) > _OFFERED_PERCENT:
        return "", True  # heard in passing it would be taken for the dose
    count = counted_words(said.words, said.value, short_of(given, ticket))
    off = f"{abs(percent):.0f}"
    if abs(percent) < 0.5:
        words = t(reader, "or {count} struck", count=count)
    elif percent > 0:
        words = t(reader, "or {count} struck, {off} % too much", count=count, off=off)
    else:
        words = t(reader, "or {count} struck, {off} % too little", count=count, off=off)
    return words, close_enough(given.role, percent)


def spread(given: TicketDose, ticket: Ticket, reader: Reader) -> str:
    """Say between what a dose may lie in its gauge whose heap nobody looked at. Common practice, no source.

    Returns
    -------
    words with the least and the most in struck measures; empty where it is known
    """
    if given.gauged_to_l is None or given.fill is None or given.means == "scale":
        return ""
    brim = given.gauged_l / given.fill.struck_exact
    least, most = (counted(litres / brim, reader) for litres in given.gauged_to_l)
    short = short_of(given, ticket)
    return t(reader, "{least} to {most} × {measure} struck: less of drier sand", least=least, most=most, measure=short)


def beside(given: TicketDose, ticket: Ticket, reader: Reader) -> list[str]:
    """List what must be known of a dose by the pail besides its marks. Common practice, no source."""
    return [words for words in (spread(given, ticket, reader), by_pail(given, reader)) if words]


def exact(given: TicketDose, reader: Reader, share: float = 1.0) -> str:
    """Say the exact mass that goes with a share [-] of a `dose`. Common practice, no source."""
    return say(show_mass(given.batch_kg * share, reader))


def admixture(given: TicketAdmixture, ticket: Ticket, reader: Reader) -> str:
    """Say an admixture with what can measure it: caps of the crew's own, a syringe, a jug, or the fine scale.

    Common practice, no source.
    """
    if given.volume_l is None:
        return weighed("admixture", given.mass_kg, reader)
    volume = say(show_litres(given.volume_l, reader))
    if given.caps is not None:
        word = ticket.measure(given.caps.container).short
        said = put(counted_words(people_count(given.caps.count).words, given.caps.count, word), reader)
        return t(reader, "{count} ({amount})", count=said, amount=volume)
    return drawn(given.drawn, volume, reader) if given.drawn is not None else volume


def drawn(given: Drawn, exact: str, reader: Reader) -> str:
    """Say a liquid to the marks of what measures it: 12.5 mL by 10 mL syringe: 10 + 2.5. Common practice, no source."""
    if not given.good:
        return t(reader, "{volume}: too little for any syringe – make bigger loads", volume=exact)
    reads = to_mark(given.read_l, given.step_l, given.us_step_l, reader)
    if reader.us and given.us_step_l and given.by == FINE_JUG.key:
        name = put(US_FINE_JUG, reader)
    else:
        name = put(given.name, reader)
    if given.diluted:
        return t(
            reader,
            "{volume}: one part in {parts} of water, then {thin} of that by {instrument}",
            volume=exact, parts=str(given.diluted), thin=reads, instrument=name,
        )  # fmt: skip
    if given.fills == 1 or given.us_step_l:
        return t(reader, "{amount} by {instrument}", amount=reads, instrument=name)
    each, last = (_millilitres(one, given.step_l, reader) for one in (given.full_l, given.last_l))
    shares = " + ".join([each] * (given.fills - 1) + [last])
    return t(reader, "{amount} by {instrument}: {shares}", amount=reads, instrument=name, shares=shares)


def _millilitres(volume_l: float, step_l: float, reader: Reader) -> str:
    places = max(0, -math.floor(math.log10(step_l * 1000) + 1e-9))
    return f"{volume_l * 1000:.{places}f}".replace(".", decimal_mark(reader.language))


def to_mark(volume_l: float, step_l: float, us_step_l: float, reader: Reader) -> str:
    """Say a volume [L] to a mark of what it is read on. Common practice, no source.

    >>> from keeve.words.reader import METRIC, US
    >>> to_mark(0.0125, 0.0005, 0.0, US), to_mark(0.35, 0.1, 0.118294, US), to_mark(0.35, 0.05, 0.059, METRIC)
    ('12.5 mL', '12 fl oz', '350 mL')
    """
    if not us_step_l and step_l < SYRINGES[0].step * 1.01:
        return f"{_millilitres(volume_l, step_l, reader)} mL"
    step = us_step_l if reader.us and us_step_l else step_l
    return show(round(volume_l / step) * step, f"{ROUND}L", reader)


def admixture_rates(given: TicketAdmixture, card: TicketCard, reader: Reader) -> str:
    """Say how much of an admixture goes into a cubic metre or yard, and into a bag, beside what the load takes.

    Plain arithmetic.
    """
    amount, unit = (given.mass_kg, "kg") if given.volume_l is None else (given.volume_l, "L")
    per_whole = show(amount / card.volume_m3, f"{unit} in 1 m³", reader)
    whole = show(WHOLE.value, WHOLE.unit, reader)
    packs = next((d.packs for d in card.doses if d.packs), None)
    if packs is None:
        return t(reader, "{amount} in {whole}", amount=per_whole, whole=whole)
    per_bag = show(amount / packs, unit, reader)
    return t(reader, "{amount} in {whole} · {by_bag} for a bag", amount=per_whole, whole=whole, by_bag=per_bag)


def water_by(card: TicketCard, ticket: Ticket, reader: Reader) -> str:
    """Say what the water of a small load is measured with, where the marks of the jug are too coarse; else nothing.

    Common practice, no source.
    """
    total_l = card.water.pour.target
    if total_l < _WHOLE:
        return ""
    if ticket.water_means == "counts" and ticket.hose_l_min:
        seconds, first = (round(litres / ticket.hose_l_min * 60) for litres in (total_l, card.water.first_l))
        return t(reader, "{first} s of the hose first, {all} s in all", first=str(first), all=str(seconds))
    by = card.water.by
    if by.means == "scale" and not by.name and ticket.scales:
        return _weighed_water(total_l, ticket, reader)
    if by.means == "drawn":
        name = US_FINE_JUG if reader.us and by.us_step_l else by.name
        return t(reader, "by {instrument}", instrument=name)
    if by.means == "scale":
        return t(reader, "on the fine scale: {mass}", mass=say(show_mass(total_l, reader)))
    return ""


def _weighed_water(total_l: float, ticket: Ticket, reader: Reader) -> str:
    best = scale_for_water(total_l, ticket.scales)
    times = math.ceil(total_l / best.most_kg - _WHOLE)
    each = on_scale(total_l / max(times, 1), best.step_kg, best.unit, reader)
    if times <= 1:
        return t(reader, "on the scale: {mass}", mass=each)
    return t(reader, "on the scale, {n} times {mass}", n=str(times), mass=each)


def water(card: TicketCard, reader: Reader) -> str:
    """Say the water of a load: all of it, or the first pour and how much more in sips. Common practice, no source."""
    first = say(show_litres(card.water.first_l, reader))
    more_l = card.water.hold_back_l + card.water.if_dry_l
    if more_l < _WHOLE:
        return first
    more = say(show_litres(more_l, reader))
    if card.water.by_drops:
        return t(reader, "{first}, then drop by drop up to {more} more", first=first, more=more)
    if sip_l(card, reader) >= more_l:
        return t(reader, "{first}, then up to {more} more", first=first, more=more)
    sip = to_mark(sip_l(card, reader), card.water.by.step_l, card.water.by.us_step_l, reader)
    return t(reader, "{first}, then up to {more} more in sips of {sip}", first=first, more=more, sip=sip)


def sip_l(card: TicketCard, reader: Reader) -> float:
    """Return one careful step of water [L], in the marks its reader reads. As `dosing.water.sip_l`."""
    return card.water.sip_us_l if reader.us else card.water.sip_l


def short_lines(step: TicketStep, card: TicketCard, ticket: Ticket, reader: Reader) -> tuple[tuple[str, str], ...]:
    """Say what goes in at a step for a drawing: name, and the amount without its mark. Common practice, no source."""
    lines = []
    doses = {d.key: d for d in card.doses}
    for part, (name, amount, _) in zip(step.parts, step_lines(step, card, ticket, reader), strict=True):
        whole = doses.get(part.key)
        if whole is not None and whole.means == "scale" and whole.weighing is not None:
            lines.append((name, exact(whole, reader, part.share)))
        elif whole is None or whole.fill is None or whole.packs is not None or whole.means == "counts":
            lines.append((name, amount))
        else:
            lines.append((name, fill_count(whole.fill, short_of(whole, ticket), reader, part.share)))
    return tuple(lines)


def step_title(step: StepTemplate, mix: Mix) -> Words:
    """Say what a step of a procedure does with this mix's own materials. Common practice, no source."""
    roles = {add.of for add in step.adds}
    return title(step.title, [m.name for m in mix.materials() if m.role in roles])


def target(given: Target | TicketTarget, reader: Reader) -> str:
    """Say a target consistency with its unit. Common practice, no source; the figures name their own."""
    low, high = (measured(v, f"{ROUND}{given.unit}", reader) for v in (given.low, given.high))
    if given.low == -given.high:
        return f"± {say(high)}"
    return t(reader, "{low} to {high}", low=low.number if low.unit == high.unit else say(low), high=say(high))


def step_lines(step: TicketStep, card: TicketCard, ticket: Ticket, reader: Reader) -> tuple[tuple[str, str, str], ...]:
    """Say what goes in at a step: name, amount as measured, exact amount. Common practice, no source."""
    watered = [one for one in card.steps if any(part.key == "water" for part in one.parts)]
    if_dry_l = card.water.if_dry_l if watered and watered[0] is not step and watered[-1] is step else 0.0
    return tuple(
        (t(reader, "Water"), t(reader, "up to {most}", most=say(show_litres(part.batch_kg + if_dry_l, reader))), "")
        if part.key == "water" and if_dry_l > _WHOLE  # the sips of the card go on until it is right
        else _step_line(part, card, ticket, reader)
        for part in step.parts
    )


def _step_line(part: StepPart, card: TicketCard, ticket: Ticket, reader: Reader) -> tuple[str, str, str]:
    if part.key == "water":
        return t(reader, "Water"), say(show_litres(part.batch_kg, reader)), ""
    if part.key == ICE:
        return t(reader, "Ice, crushed"), say(show_mass(part.batch_kg, reader)), ""
    if part.key.startswith(ADMIXTURE):
        given = next(a for a in card.admixtures if part.key == f"{ADMIXTURE}{a.key}")
        return put(given.name, reader), admixture(given, ticket, reader), ""
    whole = next(d for d in card.doses if d.key == part.key)
    amount = dose(whole, ticket, reader, part.share)
    weight = exact(whole, reader, part.share)
    return put(whole.name, reader), amount, "" if amount == weight else weight
