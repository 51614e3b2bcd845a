"""Doses in the words of the person who measures them, in that person's units."""

import math
from typing import Final

from keeve.core.dosing import ADMIXTURE, ICE, title
from keeve.core.mix import Mix, Target
from keeve.core.procedure import StepTemplate
from keeve.core.said import Words, put
from keeve.core.ticket import (
    FillMark,
    StepPart,
    Ticket,
    TicketAdmixture,
    TicketCard,
    TicketDose,
    TicketStep,
    TicketTarget,
)
from keeve.core.units import System, say, show, show_length, show_litres, show_mass
from keeve.core.vessels import close_enough, people_count

_STRUCK_MM: Final = 5.0
"""A level nearer to the rim than this is struck, for all a trowel can do."""
_WHOLE: Final = 1e-6


def _plural(count: str, word: str) -> str:
    return f"{count} {word}" if count in ("1", "½", "⅓", "¼", "⅔", "¾") else f"{count} {word}s"


def bags(packs: float, word: str = "bag") -> str:
    """Say a number of bags [-], or of pails; empty when it is not a count of whole or half ones.

    Common practice, no source.

    >>> bags(2), bags(0.5, "pail"), bags(1.31)
    ('2 bags', '½ pail', '')
    """
    halves = packs * 2
    if abs(halves - round(halves)) > _WHOLE or round(halves) == 0:
        return ""
    return _plural(people_count(round(halves) / 2).words, word)


def fills(fill: FillMark, short: str, system: System, share: float = 1.0) -> str:
    """Say a dose, or a share [-] of it, in fills and their mark. Common practice, no source."""
    # A mark on a pail is drawn to a millimetre at best.
    down = f"{fill.mark_down_mm:.0f} mm" if system == "metric" else say(show_length(fill.mark_down_mm, system))
    mark = "struck" if fill.mark_down_mm < _STRUCK_MM else f"{down} below rim"
    return f"{fill_count(fill, short, share)}, {mark}"


def fill_count(fill: FillMark, short: str, share: float = 1.0) -> str:
    """Say the number of fills alone, of a share [-] of the dose. Common practice, no source."""
    count = fill.fills * share
    if abs(share - 1) < _WHOLE or abs(count - round(count)) < _WHOLE:
        return _plural(str(round(count)), short)
    whole = f"the {short}" if fill.fills == 1 else _plural(str(fill.fills), short)
    return f"{people_count(count).words} of {whole}"


def short_of(given: TicketDose, ticket: Ticket) -> str:
    """Return what the container of a dose is called in a sentence. Common practice, no source."""
    return ticket.measure(given.fill.container).short if given.fill else ""


def dose(given: TicketDose, ticket: Ticket, system: System, share: float = 1.0) -> str:
    """Say a dose, or a share [-] of it, the way it is measured: bags, fills, the scale. Common practice, no source."""
    if given.packs is not None and (counted := bags(given.packs * share, given.pack_word)):
        return counted
    if given.fill is not None:
        return fills(given.fill, short_of(given, ticket), system, share)
    return say(show_mass(given.batch_kg * share, system))


def struck(given: TicketDose, ticket: Ticket) -> tuple[str, bool]:
    """Say a dose in fills struck at the rim, and whether that is close enough. ASTM C685, from memory.

    Returns
    -------
    words, empty where it is counted in bags, weighed, struck anyway or too heavy so; and whether the tolerance holds
    """
    fill = given.fill
    if fill is None or fill.mark_down_mm < _STRUCK_MM or (given.packs is not None and bags(given.packs)):
        return "", True
    if fill.fills > math.ceil(fill.struck_exact):
        return "", True  # struck pails would be heavier than one should carry
    said = people_count(fill.struck_exact)
    percent = (said.value / fill.struck_exact - 1) * 100
    off = f", {abs(percent):.0f} % too {'much' if percent > 0 else 'little'}" if abs(percent) >= 0.5 else ""
    return f"or {_plural(said.words, short_of(given, ticket))} struck{off}", close_enough(given.role, percent)


def exact(given: TicketDose, system: System, share: float = 1.0) -> str:
    """Say the exact mass that goes with a share [-] of a `dose`. Common practice, no source."""
    return say(show_mass(given.batch_kg * share, system))


_SYRINGE_L: Final = 0.06
"""Up to this a syringe measures better than a jug."""


def admixture(given: TicketAdmixture, system: System) -> str:
    """Say an admixture with what can measure it: a syringe, a jug, or the fine scale. Common practice, no source."""
    if given.volume_l is None:
        return f"{say(show_mass(given.mass_kg, system))} on the fine scale"
    tool = "by syringe" if given.volume_l <= _SYRINGE_L else "by jug"
    return f"{say(show_litres(given.volume_l, system))} {tool}"


def water(card: TicketCard, system: System) -> str:
    """Say the water of a load: all at once, or the first pour and the sips. Common practice, no source."""
    first = say(show_litres(card.water.first_l, system))
    if card.water.hold_back_l < _WHOLE:
        return first
    return f"{first}, then sips of {say(show_litres(card.water.hold_back_l, system))}"


def short_lines(step: TicketStep, card: TicketCard, ticket: Ticket, system: System) -> tuple[tuple[str, str], ...]:
    """Say what goes in at a step for a drawing: name, and the amount without its mark. Common practice, no source."""
    lines = []
    for part, (name, amount, _) in zip(step.parts, step_lines(step, card, ticket, system), strict=True):
        whole = next((d for d in card.doses if d.key == part.key and d.packs is None), None)
        filled = whole.fill if whole is not None else None
        if whole is None or filled is None:
            lines.append((name, amount))
        else:
            lines.append((name, fill_count(filled, short_of(whole, ticket), part.share)))
    return tuple(lines)


def step_title(step: StepTemplate, mix: Mix) -> Words:
    """Say what a step of a procedure does with this mix's own materials. Common practice, no source."""
    roles = {add.of for add in step.adds}
    return title(step.title, [m.name for m in mix.materials() if m.role in roles])


def target(given: Target | TicketTarget, system: System) -> str:
    """Say a target consistency with its unit. Common practice, no source; the figures name their own."""
    if given.unit == "mm":
        low, high = (show_length(v, system) for v in (given.low, given.high))
        return f"{low[0]} to {say(high)}"
    if given.low == -given.high:
        return f"± {show(given.high, given.unit, system)}"
    return f"{given.low:g} to {given.high:g} {given.unit}"


def step_lines(step: TicketStep, card: TicketCard, ticket: Ticket, system: System) -> tuple[tuple[str, str, str], ...]:
    """Say what goes in at a step: name, amount as measured, exact amount. Common practice, no source."""
    return tuple(_step_line(part, card, ticket, system) for part in step.parts)


def _step_line(part: StepPart, card: TicketCard, ticket: Ticket, system: System) -> tuple[str, str, str]:
    if part.key == "water":
        return "Water", say(show_litres(part.batch_kg, system)), ""
    if part.key == ICE:
        return "Ice, crushed", say(show_mass(part.batch_kg, system)), ""
    if part.key.startswith(ADMIXTURE):
        given = next(a for a in card.admixtures if part.key == f"{ADMIXTURE}{a.key}")
        return put(given.name, system), admixture(given, system), ""
    whole = next(d for d in card.doses if d.key == part.key)
    amount = dose(whole, ticket, system, part.share)
    weight = exact(whole, system, part.share)
    return put(whole.name, system), amount, "" if amount == weight else weight
