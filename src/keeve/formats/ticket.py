"""The load ticket as plain text, for a terminal, a message or a nail on the wall."""

from keeve.core import saying
from keeve.core.said import put
from keeve.core.ticket import Ticket, TicketCard
from keeve.core.units import System, say, show_litres, show_space


def ticket(given: Ticket, job: str, system: System = "metric") -> str:
    """Write a ticket as text a person can mix from.

    Parameters
    ----------
    given : the ticket
    job : name of the job; may be empty
    system : units of the reader

    Returns
    -------
    lines of text
    """
    loads = f"{given.count} {'load' if given.count == 1 else 'loads'}"
    lines = [
        f"{job or 'Job'}: {put(given.mix_name, system)}",
        f"Fill {say(show_space(given.net_m3, system))}, mix {say(show_space(given.made_m3, system))} "
        f"in {loads}. {put(given.reason, system)}",
    ]
    for index, card in enumerate(given.cards):
        numbers = [number for number, load in enumerate(given.loads, 1) if load.card == index]
        which = f"Load {numbers[0]}" if len(numbers) == 1 else f"Loads {numbers[0]} to {numbers[-1]}, each"
        lines += ["", f"{which}: {say(show_litres(card.volume_m3 * 1000, system))}", *_card(card, given, system)]
    look = given.look
    dry, right, wet = (put(words, system) for words in (look.dry, look.right, look.wet))
    lines += ["", put(look.test, system), f"  dry:   {dry}", f"  right: {right}", f"  wet:   {wet}"]
    stiffened = put(given.rescue.stiffened, system)
    lines += ["", f"Use within {given.life_min:g} min of the water going in. {stiffened}"]
    lines += [f"! {put(warning, system)}" for warning in given.warnings]
    lines += [f"* {put(caution, system)}" for caution in given.cautions]
    return "\n".join(lines)


def _card(card: TicketCard, given: Ticket, system: System) -> list[str]:
    lines = [
        f"  {put(d.name, system):<24} {saying.dose(d, given, system):<36} {saying.exact(d, system)}" for d in card.doses
    ]
    lines += [f"  {put(a.name, system):<24} {saying.admixture(a, system)}, {a.when}" for a in card.admixtures]
    lines.append(f"  {'Water':<24} {saying.water(card, system)}")
    lines += [f"  {'never past':<24} {say(show_litres(card.water.pour.high, system))}", ""]
    for number, step in enumerate(card.steps, 1):
        said = saying.step_lines(step, card, given, system)
        amounts = "; ".join(f"{name}: {amount}" for name, amount, _ in said)
        timer = f" [{step.seconds // 60}:{step.seconds % 60:02d}]" if step.seconds else ""
        lines.append(f"  {number}. {put(step.title, system)}{timer}{' – ' + amounts if amounts else ''}")
        if step.detail:
            lines.append(f"     {put(step.detail, system)}")
    return lines
