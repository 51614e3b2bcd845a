"""The load ticket as plain text, for a terminal, a message or a nail on the wall."""

from keeve.core.message.said import Amount, Said, many
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.ticket import Look, Ticket
from keeve.words import measuring, saying
from keeve.words.putting import put, t
from keeve.words.reader import METRIC, Reader
from keeve.words.showing import say, show_litres


def ticket(given: Ticket, job: str, reader: Reader = METRIC) -> str:
    """Write a ticket as text a person can mix from.

    Parameters
    ----------
    given : the ticket
    job : name of the job; may be empty
    reader : units and language

    Returns
    -------
    lines of text
    """
    fill = Said(
        "Fill {net}, mix {made} in {loads}.",
        net=Amount(given.net_m3, "m³"),
        made=Amount(given.made_m3, "m³"),
        loads=many("{n} load", "{n} loads", given.count),
    )
    lines = [
        f"{job or t(reader, 'Job')}: {put(given.mix_name, reader)}",
        f"{put(fill, reader)} {put(given.reason, reader)}",
    ]
    for index, card in enumerate(given.cards):
        numbers = [number for number, load in enumerate(given.loads, 1) if load.card == index]
        volume = say(show_litres(card.volume_m3 * 1000, reader))
        lines += ["", f"{_which(numbers, reader)}: {volume}", *_card(card, given, reader)]
    lines += ["", *_look(given.look, reader), ""]
    life = t(reader, "Use within {minutes} min of the water going in.", minutes=f"{given.life_now_min:.0f}")
    lines.append(f"{life} {put(given.rescue.stiffened, reader)}")
    lines += [f"! {put(warning, reader)}" for warning in given.warnings]
    lines += [f"* {put(caution, reader)}" for caution in given.cautions]
    return "\n".join(lines)


def _which(numbers: list[int], reader: Reader) -> str:
    if len(numbers) == 1:
        return t(reader, "Load {number}", number=str(numbers[0]))
    return t(reader, "Loads {first} to {last}, each", first=str(numbers[0]), last=str(numbers[-1]))


def _look(look: Look, reader: Reader) -> list[str]:
    said = [
        (t(reader, "dry:"), look.dry),
        (t(reader, "right:"), look.right),
        (t(reader, "wet:"), look.wet),
    ]
    return [put(look.test, reader), *(f"  {name:<6} {put(words, reader)}" for name, words in said)]


def _card(card: TicketCard, given: Ticket, reader: Reader) -> list[str]:
    lines = []
    for d in card.doses:
        lines.append(f"  {put(d.name, reader):<24} {saying.dose(d, given, reader):<36} {saying.exact(d, reader)}")
        off, _ = measuring.off(d, reader)
        lines += [f"  {'':<24} {words}" for words in (*([off] if off else []), *saying.beside(d, given, reader))]
    lines += [
        f"  {put(a.name, reader):<24} {saying.admixture(a, given, reader)}, {put(a.when, reader)}"
        for a in card.admixtures
    ]
    most = say(show_litres(card.water.pour.high, reader))
    water = f"{saying.water(card, reader)} {saying.water_by(card, given, reader)}"
    lines.append(f"  {t(reader, 'Water'):<24} {water}".rstrip())
    lines += [f"  {t(reader, 'never past'):<24} {most}"]
    lines += [*(f"! {words}" for words in measuring.verdicts(card, reader)), ""]
    for number, step in enumerate(card.steps, 1):
        said = saying.step_lines(step, card, given, reader)
        amounts = "; ".join(f"{name}: {amount}" for name, amount, _ in said)
        timer = f" [{step.seconds // 60}:{step.seconds % 60:02d}]" if step.seconds else ""
        lines.append(f"  {number}. {put(step.title, reader)}{timer}{' – ' + amounts if amounts else ''}")
        if step.detail:
            lines.append(f"     {put(step.detail, reader)}")
    return lines
