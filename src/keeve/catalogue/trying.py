"""Plans a sheet as it was typed, and says what is wrong with it instead of failing."""

import hashlib
import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cached_property, lru_cache
from typing import Any, Final, NamedTuple

from pydantic import ValidationError

from keeve.catalogue.loader import Catalogue
from keeve.catalogue.sheet import JobSheet, resolve
from keeve.core.materials.looks import SAND_LOOKS
from keeve.core.measure.moments import of_our_days
from keeve.core.message.errors import Fault, TradeError, faults_of
from keeve.core.message.said import plain
from keeve.core.mixes.mix import Mix
from keeve.core.planning.plan import Plan, plan
from keeve.core.planning.request import PlanRequest
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticketing import issue
from keeve.core.yard.checks import WEATHER_HOLDS


class Outlook(NamedTuple):
    """What the list of jobs says of a sheet."""

    state: str
    to_fill_m3: float | None
    mix_name: str
    loads: int


@dataclass(frozen=True)
class Tried:
    """A plan, or why there is none."""

    request: PlanRequest | None = None
    plan: Plan | None = None
    faults: tuple[Fault, ...] = ()

    @property
    def mix(self) -> Mix | None:
        """Return the mix planned with."""
        return self.request.mix if self.request else None

    @cached_property
    def ticket(self) -> Ticket | None:
        """Return the ticket of the plan."""
        return issue(self.request, self.plan) if self.request and self.plan else None

    @cached_property
    def brief(self) -> Ticket | None:
        """Return the ticket without the other ways of dividing, where nobody asks for them."""
        return issue(self.request, self.plan, compared=False) if self.request and self.plan else None


def pruned(document: Any) -> Any:
    """Drop empty entries: an empty field is a field not filled in."""
    if isinstance(document, dict):
        return {k: pruned(v) for k, v in document.items() if v not in ("", None)}
    return [pruned(v) for v in document if v not in ("", None)] if isinstance(document, list) else document


LOOK_HOLDS: Final = timedelta(hours=16)
"""A look at a heap is for one day's work: by tomorrow it has drained, dried or been rained on."""


def _moments(typed: Any, name: str) -> dict[str, datetime]:
    """Return the moments a sheet keeps by material; what is none is left out."""
    times = typed.get(name) if isinstance(typed, dict) else None
    found = {}
    for key, text in times.items() if isinstance(times, dict) else ():
        try:
            at = of_our_days(datetime.fromisoformat(str(text).replace("Z", "+00:00")))
        except ValueError:
            continue
        if at.tzinfo is not None:
            found[str(key)] = at
    return found


def _told(typed: Any) -> dict[str, Any]:
    """Return how wet each heap is said to be."""
    heaps = typed.get("moisture_percent") if isinstance(typed, dict) else None
    return heaps if isinstance(heaps, dict) else {}


def _is_look(given: Any) -> bool:
    return str(given).strip().lower() in SAND_LOOKS


def old_looks(typed: Any, now: datetime) -> frozenset[str]:
    """Find the heaps that were looked at on another day, and those that changed since anybody said how wet they are."""
    at, told = _moments(typed, "looked_at"), _told(typed)
    of_before = {key for key, given in told.items() if _is_look(given) and key in at and now - at[key] > LOOK_HOLDS}
    return frozenset(of_before | changed_heaps(typed))


def changed_heaps(typed: Any) -> frozenset[str]:
    """Find the heaps that were rained on, uncovered, delivered or used down since anybody said how wet they are."""
    at, changed = _moments(typed, "looked_at"), _moments(typed, "heap_changed")
    return frozenset(key for key in _told(typed) if key in changed and (key not in at or at[key] < changed[key]))


def air_is_old(typed: Any, now: datetime) -> bool:
    """Whether the air of a sheet is of another time of day."""
    at = _air_at(typed)
    return at is not None and now - at > WEATHER_HOLDS


def _air_at(typed: Any) -> datetime | None:
    """Return when somebody said how the air is."""
    return _moments({"at": {"": typed.get("weather_at")}}, "at").get("") if isinstance(typed, dict) else None


def looks_hold_until(typed: Any, now: datetime) -> datetime | None:
    """Say when the next look at a heap, or at the sky, grows old; None where none does."""
    at, told = _moments(typed, "looked_at"), _told(typed)
    ends = [at[key] + LOOK_HOLDS for key, given in told.items() if _is_look(given) and key in at]
    air = _air_at(typed)
    ends += [air + WEATHER_HOLDS] if air is not None else []
    return min((one for one in ends if one >= now), default=None)


def try_plan(typed: Any, catalogue: Catalogue, already_m3: float = 0.0, now: datetime | None = None) -> Tried:
    """Plan a sheet as typed, less what was made of it already; looks of another day do not count `now`."""
    old = old_looks(typed, now) if now is not None else frozenset()
    if now is not None and air_is_old(typed, now):
        typed = {key: value for key, value in typed.items() if key != "weather"}
    if old:
        fresh = {key: look for key, look in typed["moisture_percent"].items() if key not in old}
        typed = typed | {"moisture_percent": fresh}
    return _tried(json.dumps(typed, sort_keys=True), catalogue, already_m3)


# A sheet that was just answered is soon kept, and then shown: it is worked out once.
@lru_cache(maxsize=32)
def _tried(typed: str, catalogue: Catalogue, already_m3: float) -> Tried:
    try:
        request = resolve(JobSheet.model_validate(pruned(json.loads(typed))), catalogue)
        if already_m3 > 0:
            request = request.model_copy(update={"already_m3": already_m3})
        return Tried(request, plan(request))
    except ValidationError as error:
        return Tried(faults=faults_of(error))
    except TradeError as error:
        return Tried(faults=error.faults)


def outlook(typed: Any, catalogue: Catalogue) -> Outlook:
    """Say how far a sheet has come."""
    tried = try_plan(typed, catalogue)
    key = typed.get("mix") if isinstance(typed, dict) else None
    known = catalogue.mixes.get(key) if isinstance(key, str) else None
    mix_name = plain(known.name) if known else str(key or "")[:120]
    if tried.plan is None:
        return Outlook("measure", None, mix_name, 0)
    return Outlook("ready", tried.plan.need.net_m3, mix_name, len(tried.plan.loads))


def made_from(request: PlanRequest) -> str:
    """Print what decides a ticket, so that a later sheet can be told to be another; notes and names are not in it."""
    text = request.model_dump_json(exclude={"already_m3", "at_hand_bags", "at_hand_l"})
    return hashlib.sha256(text.encode()).hexdigest()
