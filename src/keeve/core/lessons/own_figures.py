"""A crew's own figures of a mix, read from its loads: how fast it goes off, what a bag makes, how fast it is placed."""

from collections.abc import Iterable, Mapping
from statistics import median
from typing import Final, Literal, NamedTuple

from pydantic import Field

from keeve.core.hardening.clock import CEMENT_REF_C, life_at_min, stages_of
from keeve.core.message.errors import Frozen
from keeve.core.mixes.mix import Mix
from keeve.core.run.models import LoadState, Run
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.ticket import Ticket

What = Literal["clock", "makes", "pace"]
LEAST: Final[dict[What, int]] = {"clock": 2, "makes": 1, "pace": 3}
"""So often it must have been seen before it is offered: own assumption."""
MOST: Final = 40
"""The latest so many count: stock and hands change. Own assumption."""
_BELIEVED: Final[dict[What, tuple[float, float]]] = {"clock": (0.3, 3.0), "makes": (0.6, 1.5), "pace": (0.1, 2000.0)}
"""What lies outside was tapped late or measured wrong: own assumption."""
_SHORTEST_MIN: Final = 0.5


class OwnFigures(Frozen):
    """Figures of a crew's own that its plans of a mix go by, in the place of the book's."""

    clock: float | None = Field(None, ge=0.3, le=3)
    """Real working life and stages over the book's [-]."""
    makes: float | None = Field(None, ge=0.6, le=1.5)
    """Real volume over the label's or the book's [-]."""
    pace: float | None = Field(None, ge=0.1, le=2000)
    """How fast the mix is placed [L/min]."""


class Worked(NamedTuple):
    """A job that was mixed."""

    run: Run
    tickets: Mapping[int, Ticket]
    filled_l: float | None = None
    """What its accepted loads really filled, where somebody said so [L]."""


class OwnFigure(NamedTuple):
    """A figure, and what it stands on."""

    what: What
    value: float
    low: float
    high: float
    """The least and the most of what was seen."""
    seen: int
    enough: bool


def takes(mix: Mix, what: What) -> bool:
    """Whether a mix's plan has a use for a figure: only what a label or a lift claims is made to a claim.

    Own assumption.
    """
    if what == "makes":
        return mix.basis.claims_yield
    return what != "clock" or bool(mix.stages) or stiffens(mix)


def stiffens(mix: Mix) -> bool:
    """Whether a mix's clock is told by the time it stiffens at: cement and lime, whose stages nobody marks.

    Own assumption.
    """
    return not mix.stages and mix.bagged().role != "plaster"


def own_figures(
    worked: Iterable[Worked], mix: Mix, stiffened: Iterable[tuple[float, float]] = ()
) -> tuple[OwnFigure, ...]:
    """Read what a crew's loads tell of a mix.

    Parameters
    ----------
    worked : jobs that were made of it, the latest first
    mix : as the book has it
    stiffened : after how long its loads stiffened [min], and in an air of [°C], the latest first

    Returns
    -------
    each figure that was seen at all: clock [-], makes [-], pace [L/min]; the median of what was seen

    References
    ----------
    Plain arithmetic; the median, for one tap too late must not count: common practice. What stiffened in another air is
    held against the book's life in that air, as `life_at_min`.
    """
    seen: dict[What, list[float]] = {"clock": [], "makes": [], "pace": []}
    if stiffens(mix):
        seen["clock"] += [
            minutes / life_at_min(mix.working_life_min, CEMENT_REF_C, air_c) for minutes, air_c in stiffened
        ]
    for one in worked:
        seen["makes"] += _filled(one)
        for load, card in _loads(one):
            seen["pace"] += _pace(load, card)
            seen["makes"] += _made(load, card)
            seen["clock"] += _clock(load, mix)
    found = []
    for what, values in seen.items():
        low, high = _BELIEVED[what]
        good = [value for value in values if low <= value <= high][:MOST]
        if good and takes(mix, what):
            found.append(OwnFigure(what, median(good), min(good), max(good), len(good), len(good) >= LEAST[what]))
    return tuple(found)


def _loads(one: Worked) -> list[tuple[LoadState, TicketCard]]:
    """Accepted loads that have a card, the latest first."""
    return [
        (load, one.tickets[load.ticket].cards[load.card])
        for load in reversed(one.run.loads)
        if load.ended == "accepted" and load.card is not None and load.ticket in one.tickets
    ]


def _pace(load: LoadState, card: TicketCard) -> list[float]:
    """Litres a minute from the time a load was right to the time it was used up [L/min]."""
    if load.ended_ms is None or card.steps[load.step].kind != "use":
        return []
    minutes = (load.ended_ms - load.since_ms) / 60_000
    return [load.made_m3 * 1000 / minutes] if minutes >= _SHORTEST_MIN and load.made_m3 > 0 else []


def _made(load: LoadState, card: TicketCard) -> list[float]:
    """Volume by the weighed fresh mix over the one planned [-]: yield = mass ÷ density, ASTM C138, from memory."""
    density_kg_m3 = load.measured.get("density", 0.0)
    if density_kg_m3 <= 0 or load.dry_added_kg > 0 or load.made_m3 <= 0:
        return []
    mass_kg = sum(dose.batch_kg for dose in card.doses) + load.poured_l
    return [mass_kg / density_kg_m3 / load.made_m3]


def _filled(one: Worked) -> list[float]:
    """What was really filled over what the accepted loads should have made [-]."""
    made_l = sum(load.made_m3 for load in one.run.loads if load.ended == "accepted") * 1000
    return [one.filled_l / made_l] if one.filled_l is not None and made_l > 0 else []


def _clock(load: LoadState, mix: Mix) -> list[float]:
    """Real time of the last stage that was seen over the book's [-]."""
    if load.first_powder_ms is None or not load.stages:
        return []
    key = max(load.stages, key=lambda one: load.stages[one])
    stage = next((one for one in stages_of(mix.stages, mix.working_life_min) if one.key == key), None)
    took_min = (load.stages[key] - load.first_powder_ms) / 60_000
    return [took_min / stage.from_min] if stage is not None and stage.from_min > 0 and took_min > 0 else []


def with_own(mix: Mix, own: OwnFigures | None, changed: Mapping[str, object]) -> Mix:
    """Return a mix with a crew's own figures in it; what a job changes itself stands.

    Parameters
    ----------
    mix : with the job's changes in it
    own : figures in use [-]; None changes nothing
    changed : what the job changes, by name

    References
    ----------
    Plain arithmetic: life × clock; yield of a bag × makes; hemp placed ÷ makes.
    """
    if own is None:
        return mix
    more: dict[str, object] = {}
    if own.clock is not None:
        more["working_life_min"] = mix.working_life_min * own.clock
    if own.makes is not None and mix.basis.claims_yield:
        more["basis"] = mix.basis.yielding(own.makes, changed)
    return mix.model_copy(update=more) if more else mix
