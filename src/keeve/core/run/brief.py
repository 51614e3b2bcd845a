"""The brief of a load: what is told of its water at the mixer, kept with the entry that begins or changes it.

Doses are those of the ticket and card it names. It is written once, by the phone that shows it; nobody rewrites it.
"""

import json
import math
from typing import Annotated, Final, Literal, NamedTuple

from pydantic import ConfigDict, Field, model_validator
from pydantic_core import PydanticCustomError

from keeve.core.message.errors import Frozen
from keeve.core.ticket.cards import TicketCard

VERSION: Final = 1
"""Of how a brief is reckoned; 0 are entries from before, that told three figures and no brief."""
MOST_L: Final = 5000.0
MOST_BESIDE: Final = 4000
"""Letters of what an entry tells beside what its kind is known to tell."""
MARK_SLACK: Final = 1e-6
Leads = Literal["ticket", "load", "sand"]
"""Whose figures lead: the ticket's, those of the last load that was right, or what the loads tell of the sand."""
Why = Literal["begin", "look", "ticket", "way"]


class Believed(Frozen):
    """How wet the heap was believed to be."""

    percent: float = Field(ge=-1000, le=1000)
    sd_percent: float = Field(ge=0, le=1000)
    at_ms: int = Field(ge=0, le=2**53)
    """When anything was last learned of it."""


class Brief(Frozen):
    """Water of one load [L], as it was told."""

    model_config = ConfigDict(extra="allow")

    version: int = Field(VERSION, ge=0, le=1000)
    why: Why = "begin"
    card: int = Field(0, ge=0, le=1000)
    leads: Leads
    taught_by: int | None = None
    """Number of the load whose water leads."""
    believed: Believed | None = None
    mark_l: float = Field(0.0, ge=0, le=MOST_L)
    """Smallest mark its figures were rounded to; 0 where they stand as the ticket has them."""
    expected_l: float = Field(ge=0, le=MOST_L)
    """What the load should want, exact."""
    target_l: float = Field(ge=0, le=MOST_L)
    first_l: float = Field(ge=0, le=MOST_L)
    """Goes in before anybody looks."""
    ceiling_l: float | None = Field(None, ge=0, le=MOST_L)
    """Never past this; None takes the ticket's highest."""
    steps_l: tuple[Annotated[float, Field(ge=-MARK_SLACK, le=MOST_L)], ...] = Field((), max_length=100)
    """Of each step of the card; none where the program was older."""

    @model_validator(mode="after")
    def _not_endless(self) -> "Brief":
        if self.model_extra and len(json.dumps(self.model_extra)) > MOST_BESIDE:
            raise PydanticCustomError("entry_too_large", "An entry of the log is no longer than that.")
        return self


class Lead(NamedTuple):
    """Exact figures a load is to be begun with [L]."""

    leads: Leads
    expected_l: float
    first_l: float | None
    """None holds back the procedure's share."""
    ceiling_l: float
    taught_by: int | None = None


def down_to(litres: float, mark_l: float) -> float:
    """Round down to a mark of the vessel; without one nothing is rounded [L]. Plain arithmetic.

    >>> round(down_to(7.47, 0.25), 2), down_to(7.47, 0)
    (7.25, 7.47)
    """
    return litres if mark_l <= 0 else math.floor(litres / mark_l + MARK_SLACK) * mark_l


def nearest(litres: float, mark_l: float) -> float:
    """Round to the nearest mark of the vessel; without one nothing is rounded [L]. Plain arithmetic.

    >>> nearest(7.47, 0.25), nearest(7.47, 0)
    (7.5, 7.47)
    """
    return down_to(litres + mark_l / 2, mark_l)


def before_sips_l(card: TicketCard) -> float:
    """Return the ticket's water of all steps but the sips [L]. Plain arithmetic."""
    return sum(one.water_l for one in card.steps if one.kind != "sips")


def steps_l(card: TicketCard, target_l: float, first_l: float, mark_l: float = 0.0) -> tuple[float, ...]:
    """Part a load's water over its steps.

    Parameters
    ----------
    card : of the load
    target_l : what to pour in all [L]
    first_l : of it before the sips [L]
    mark_l : smallest mark [L]; 0 rounds nothing

    Returns
    -------
    water of each step [L]: the first water as the ticket parts its own, each pour ending on a mark; the sips the rest

    References
    ----------
    Plain arithmetic.
    """
    before = before_sips_l(card)
    share = first_l / before if before > 0 else 0.0
    found, asked, told, held = [], 0.0, 0.0, max(target_l - first_l, 0.0)
    for step in card.steps:
        if step.kind == "sips":
            found.append(held)
            held = 0.0
            continue
        asked += step.water_l * share
        upto = asked if asked >= first_l - MARK_SLACK else down_to(asked, mark_l)
        found.append(upto - told)
        told = upto
    return tuple(found)


def first_of(card: TicketCard, target_l: float, first_l: float | None) -> float:
    """Return what goes in before the sips [L]; where nobody said, the ticket's share of it. Plain arithmetic."""
    if first_l is not None:
        return min(first_l, target_l) if before_sips_l(card) > 0 else 0.0
    return before_sips_l(card) * target_l / card.water.pour.target if card.water.pour.target > 0 else target_l


def written(card: TicketCard, lead: Lead, mark_l: float) -> Brief:
    """Write the figures of a load down.

    Parameters
    ----------
    card : of the load
    lead : what leads it, exact [L]
    mark_l : smallest mark of what the water is measured with [L]; what the ticket tells stays as it is printed

    Returns
    -------
    the brief: first water and highest rounded down to a mark, the target to the nearest

    References
    ----------
    House ruling, common practice: what is held back is the difference of two marks.
    """
    mark = 0.0 if lead.leads == "ticket" else mark_l
    target = nearest(min(lead.expected_l, lead.ceiling_l), mark)
    target = target if target <= lead.ceiling_l + MARK_SLACK else down_to(lead.ceiling_l, mark)
    sipped = any(one.kind == "sips" for one in card.steps)
    first = first_of(card, target, lead.first_l)
    first = first if lead.first_l is None and not sipped else down_to(first, mark)
    return Brief(
        leads=lead.leads,
        taught_by=lead.taught_by,
        mark_l=mark,
        expected_l=lead.expected_l,
        target_l=target,
        first_l=first,
        ceiling_l=max(down_to(lead.ceiling_l, mark), target),
        steps_l=steps_l(card, target, first, mark),
    )


def asked_l(card: TicketCard, aim_l: float, told: Brief | None) -> tuple[float, tuple[float, ...]]:
    """Part what a load is to take in all over its steps.

    Parameters
    ----------
    card : of the load
    aim_l : what to pour in all, dry mix that was added counted [L]
    told : what was told of it

    Returns
    -------
    water before the sips [L]; water of each step [L], as told, and in its shares with the dry mix that was added

    References
    ----------
    Plain arithmetic.
    """
    if told is None or told.target_l <= 0 or len(told.steps_l) != len(card.steps):
        first = first_of(card, aim_l, None if told is None else told.first_l)
        return first, steps_l(card, aim_l, first)
    more = aim_l / told.target_l
    return told.first_l * more, tuple(one * more for one in told.steps_l)


def of_before(expected_l: float, first_l: float, ceiling_l: float | None) -> Brief:
    """Return what an entry of an earlier version told, as a brief [L]. Common practice, no source."""
    target = expected_l if ceiling_l is None else min(expected_l, ceiling_l)
    first = min(first_l, target)
    return Brief(version=0, leads="sand", expected_l=expected_l, target_l=target, first_l=first, ceiling_l=ceiling_l)
