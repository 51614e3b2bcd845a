"""What changes when a new ticket is taken in the middle of a job: loads, bags, water, dose by dose, step by step."""

from collections.abc import Iterator
from difflib import SequenceMatcher
from itertools import zip_longest

from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words, as_typed, mark
from keeve.core.ticket.cards import TicketDose, TicketStep
from keeve.core.ticket.ticket import Ticket

_SAME = 1e-6


class Figure(Frozen):
    """One figure of what is still to make, before and after."""

    what: Words
    before: float
    after: float
    unit: str

    @property
    def changed(self) -> bool:
        """Whether it is another."""
        return abs(self.before - self.after) > _SAME * max(abs(self.before), abs(self.after))


class DoseChange(Frozen):
    """One constituent of the next load, before and after; none where it was not, or is not any more, in the mix."""

    name: Words
    before: TicketDose | None
    after: TicketDose | None


class StepChange(Frozen):
    """A step that is another, new, or gone; none on the side where it is not."""

    before: TicketStep | None
    after: TicketStep | None


class Difference(Frozen):
    """What a new ticket changes; empty where it changes nothing."""

    names: tuple[tuple[Words, Words, Words], ...]
    """What has another name now: mix, mixer."""
    figures: tuple[Figure, ...]
    """Changed or not."""
    doses: tuple[DoseChange, ...]
    steps: tuple[StepChange, ...] = ()
    """Of the next load."""

    @property
    def nothing(self) -> bool:
        """Whether nothing changes."""
        return not (self.names or self.doses or self.steps or any(f.changed for f in self.figures))


def difference(before: Ticket, to_fill: tuple[int, ...], after: Ticket) -> Difference:
    """Set a new ticket against what was still to make of the old one.

    Parameters
    ----------
    before : the ticket that was mixed from
    to_fill : cards of its loads still to make
    after : the new ticket, for what is still to fill

    Returns
    -------
    what changes: figures of all that is still to make [kg, L, m³], doses of the next load

    References
    ----------
    Plain arithmetic.
    """
    names: list[tuple[Words, Words, Words]] = [
        (what, old, new)
        for what, old, new in (
            (mark("Mix"), before.mix_name, after.mix_name),
            (mark("Mixed in"), before.mixer.name, after.mixer.name),
        )
        if old != new
    ]
    old_cards = [before.cards[i] for i in to_fill]
    new_cards = [after.cards[load.card] for load in after.loads]
    rows: list[tuple[Words, float, float, str]] = [
        (mark("Loads still to make"), len(old_cards), len(new_cards), ""),
        (mark("Mix still to make"), sum(c.volume_m3 for c in old_cards), sum(c.volume_m3 for c in new_cards), "m³"),
        (
            mark("Water to pour into them"),
            sum(c.water.pour.target for c in old_cards),
            sum(c.water.pour.target for c in new_cards),
            "L",
        ),
    ]
    if any(d.packs is not None for card in (*old_cards, *new_cards) for d in card.doses):
        packs = [sum(d.packs or 0.0 for card in cards for d in card.doses) for cards in (old_cards, new_cards)]
        rows.append((mark("Bags for them"), packs[0], packs[1], ""))
    first_old = old_cards[0] if old_cards else before.cards[0]
    old_doses = {d.key: d for d in first_old.doses}
    new_doses = {d.key: d for d in new_cards[0].doses}
    water = (first_old.water.pour.target, new_cards[0].water.pour.target)
    rows.append((mark("Water to pour into the next load"), *water, "L"))
    doses = [
        DoseChange(
            name=(new_doses.get(key) or old_doses[key]).name, before=old_doses.get(key), after=new_doses.get(key)
        )
        for key in {**old_doses, **new_doses}
    ]
    return Difference(
        names=tuple(names),
        figures=tuple(Figure(what=w, before=b, after=a, unit=u) for w, b, a, u in rows),
        doses=tuple(d for d in doses if not _alike(d)),
        steps=tuple(_steps(first_old.steps, new_cards[0].steps)),
    )


def _steps(before: tuple[TicketStep, ...], after: tuple[TicketStep, ...]) -> Iterator[StepChange]:
    """Pair the steps that differ in what is done or how long; those between which nothing changed fall away."""
    for tag, i1, i2, j1, j2 in SequenceMatcher(
        None, [*map(_done, before)], [*map(_done, after)], autojunk=False
    ).get_opcodes():
        if tag != "equal":
            for old, new in zip_longest(before[i1:i2], after[j1:j2]):
                yield StepChange(before=old, after=new)


def _done(step: TicketStep) -> tuple[Words, int]:
    """What is done at a step, by its message and quantities, and how long."""
    return as_typed(step.title) or step.title, step.seconds


def _alike(change: DoseChange) -> bool:
    if change.before is None or change.after is None:
        return False
    old, new = change.before, change.after
    return (
        abs(old.dry_kg - new.dry_kg) <= _SAME * old.dry_kg and abs(old.batch_kg - new.batch_kg) <= _SAME * old.batch_kg
    )
