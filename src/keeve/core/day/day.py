"""The day's line: when each load is mixed, tipped and placed, so that none outlives its working life."""

import math
from collections import defaultdict
from itertools import pairwise
from typing import Final, Literal, NamedTuple

from keeve.core.message.errors import Code, Fault, LoadError
from keeve.core.message.said import Amount, Said, mark

MOST_LOADS: Final = 2000
_CLOSE: Final = 1e-9


class Task(NamedTuple):
    """One load to be mixed and placed."""

    job: str
    number: int
    mixer: str
    mix_min: float
    """From the start of the mixer to the load being ready."""
    met_min: float
    """From the start of the mixer to binder and water meeting: the life runs from there."""
    place_min: float
    life_min: float
    ready_min: float = 0.0
    """Not mixed before [min of the day]."""
    shut: tuple["Closed", ...] = ()
    """Weather that forbids this work and not another's."""
    airs: tuple[tuple[float, float], ...] = ()
    """From when on [min of the day] a load would last how long [min], in order; before the first `life_min`."""

    def life_ends_min(self, mixed_min: float) -> float:
        """Return when a load mixed from a moment on is past its life [min of the day].

        Common practice, no source; house ruling: ∫ dt / life = 1, the life of each air until the next.
        """
        at, left, life = mixed_min + self.met_min, 1.0, self.life_min
        for from_min, next_life in self.airs:
            if from_min > at:
                used = (from_min - at) / life
                if used >= left:
                    break
                at, left = from_min, left - used
            life = next_life
        return at + left * life


class Closed(NamedTuple):
    """When nothing is mixed [min of the day]: a rest of the crew, or weather that forbids the work."""

    begin_min: float
    end_min: float
    kind: Literal["rest", "weather"]
    """A load may lie through a rest and be placed on after it, as far as its life allows; weather stops placing."""


class Laid(NamedTuple):
    """A load on the line [min of the day]."""

    task: Task
    mixed_min: float
    """When the mixer starts on it."""
    tipped_min: float
    placed_min: float
    """When the last of it is placed."""

    @property
    def life_ends_min(self) -> float:
        """Return when it is past its life [min of the day]. As `Task.life_ends_min`: house ruling."""
        return self.task.life_ends_min(self.mixed_min)


class Line(NamedTuple):
    """A day laid out."""

    loads: tuple[Laid, ...]
    left: tuple[Task, ...]
    """Loads that do not go in before the day ends."""
    waits_min: float
    """How long the crew stands between placings, rests and weather not counted."""


def _through(closed: tuple[Closed, ...], begin: float, end: float) -> tuple[float, Closed | None]:
    """Place from `begin` to `end`: when it ends if rests in between are sat out, and what forbids it."""
    at, left = begin, end - begin
    for one in closed:
        if one.end_min <= at + _CLOSE:
            continue
        if one.begin_min >= at + left - _CLOSE:
            break
        if one.kind == "weather" or (one.begin_min < at - _CLOSE and at == begin):
            return at + left, one
        left -= max(one.begin_min - at, 0.0)
        at = one.end_min
    return at + left, None


def _meets(closed: tuple[Closed, ...], begin: float, end: float) -> Closed | None:
    """Return what a mixing from `begin` to `end` runs into."""
    return next((c for c in closed if c.begin_min < end - _CLOSE and c.end_min > begin + _CLOSE), None)


def _tip(task: Task, closed: tuple[Closed, ...], tip: float) -> tuple[float, float] | float:
    """Tip at a moment: that moment and when it is placed; or the next moment worth trying."""
    closed = tuple(sorted((*closed, *task.shut))) if task.shut else closed
    blocked = _meets(closed, tip - task.mix_min, tip)
    if blocked is not None:
        return blocked.end_min + task.mix_min
    placed, weather = _through(closed, tip, tip + task.place_min)
    if weather is not None:
        return max(weather.end_min, tip + _CLOSE) + task.mix_min
    if placed > task.life_ends_min(tip - task.mix_min) + _CLOSE:
        rest = next((c for c in closed if c.kind == "rest" and tip - _CLOSE <= c.begin_min < placed), None)
        after_rest = rest.end_min + task.mix_min if rest is not None else math.inf
        # In changing air a minute later may do; in air that stays, nothing but another side of the rest does.
        return min(after_rest, math.floor(tip) + 1.0) if task.airs else after_rest
    return tip, placed


def check_task(task: Task) -> None:
    """Refuse a load that outlives itself however it is laid.

    Raises
    ------
    LoadError : placed at once and without a rest it is still past its life [min]

    References
    ----------
    Common practice, no source.
    """
    takes = task.mix_min - task.met_min + task.place_min
    life = max(task.life_min, *(life for _, life in task.airs)) if task.airs else task.life_min
    if min(task.mix_min, task.place_min, task.met_min, task.life_min) < 0 or takes > life + _CLOSE:
        raise LoadError(
            Fault(
                Code.OUT_OF_RANGE,
                Said(
                    "A load of {job} is placed after {takes} min and lasts {life} min.",
                    job=task.job,
                    takes=Amount(round(takes), "whole"),
                    life=Amount(round(life), "whole"),
                ),
                mark("Make the loads smaller, place faster, or take more hands."),
                field="place_l_min",
            )
        )


def lay_out(
    tasks: tuple[Task, ...], mixers: dict[str, int], begin_min: float, end_min: float, closed: tuple[Closed, ...] = ()
) -> Line:
    """Lay loads out over a day, in their order.

    Parameters
    ----------
    tasks : loads, in the order they are placed; one crew places them one after the other
    mixers : how many there are of each
    begin_min, end_min : of the working day [min of the day]
    closed : rests and weather, in which nothing is mixed

    Returns
    -------
    the loads with their times: no load past its life; then the earliest end of the last placing; then the crew waits as
    little as may be, so the first loads begin as late as they can. What does not go in is left.

    Raises
    ------
    LoadError : a load that outlives itself however it is laid, or too many loads

    Notes
    -----
    A mixer is busy until its load is tipped. For a given order the earliest tip of each load is never worse for those
    after it: placed and freed no later. From the end backward each is then moved as late as its follower and its mixer
    allow.

    References
    ----------
    House rulings, plain arithmetic; never beaten by trying all minutes of small days (the tests do).

    >>> day = lay_out((Task("a", 1, "drum", 10, 2, 20, 60), Task("a", 2, "drum", 10, 2, 20, 60)), {"drum": 1}, 480, 720)
    >>> [(one.mixed_min, one.tipped_min, one.placed_min) for one in day.loads], day.waits_min
    ([(480, 490, 510), (500, 510, 530)], 0)
    """
    if len(tasks) > MOST_LOADS:
        raise LoadError(
            Fault(
                Code.TOO_MANY,
                mark("No day holds so many loads."),
                "",
                field="loads",
                value=len(tasks),
                limit=MOST_LOADS,
            )
        )
    rests = tuple(sorted(closed))
    laid: list[Laid] = []
    free: dict[str, list[float]] = defaultdict(list)
    placed = begin_min
    for at, task in enumerate(tasks):
        check_task(task)
        used = free[task.mixer]
        many = max(mixers.get(task.mixer, 1), 1)
        freed = used[-many] if len(used) >= many else begin_min
        tip = max(placed, freed + task.mix_min, begin_min + task.mix_min, task.ready_min + task.mix_min)
        found = _first(task, rests, tip, end_min)
        if found is None:
            return _tightened(laid, tasks[at:], mixers, rests)
        tip, placed = found
        used.append(tip)
        laid.append(Laid(task, tip - task.mix_min, tip, placed))
    return _tightened(laid, (), mixers, rests)


def _first(task: Task, closed: tuple[Closed, ...], tip: float, end_min: float) -> tuple[float, float] | None:
    """Find the first tip from a moment on that may be, and when it is placed; None where the day ends before."""
    while True:
        found = _tip(task, closed, tip)
        if isinstance(found, tuple):
            return found if found[1] <= end_min + _CLOSE else None
        if found <= tip:  # nothing moves any more: the load fits between no two rests
            return None
        tip = found
        if tip > end_min:
            return None


def _tightened(laid: list[Laid], left: tuple[Task, ...], mixers: dict[str, int], closed: tuple[Closed, ...]) -> Line:
    """Move loads as late as those after them allow: the crew waits less, and nothing stands in a mixer."""
    later = list(laid)
    next_of: dict[str, list[float]] = defaultdict(list)  # starts of the loads after, latest first
    for at in range(len(later) - 1, -1, -1):
        one = later[at]
        if at < len(later) - 1:
            many = max(mixers.get(one.task.mixer, 1), 1)
            starts = next_of[one.task.mixer]
            bound = starts[-many] if len(starts) >= many else float("inf")
            later[at] = _latest(one, closed, min(later[at + 1].tipped_min, float("inf")), bound)
        next_of[one.task.mixer].append(later[at].mixed_min)
    waits = sum(
        max(after.tipped_min - before.placed_min - _shut(closed, before.placed_min, after.tipped_min), 0.0)
        for before, after in pairwise(later)
    )
    return Line(tuple(later), left, waits)


def _shut(closed: tuple[Closed, ...], begin: float, end: float) -> float:
    return sum(max(min(one.end_min, end) - max(one.begin_min, begin), 0.0) for one in closed)


def _back(closed: tuple[Closed, ...], end: float, place_min: float) -> float:
    """Go back from the end of a placing to its beginning, through the rests in between."""
    at, left = end, place_min
    for one in reversed(closed):
        if one.kind != "rest" or one.begin_min >= at:
            continue
        if one.end_min <= at - left:
            break
        left -= max(at - one.end_min, 0.0)
        at = one.begin_min
    return at - left


def _latest(one: Laid, closed: tuple[Closed, ...], placed_by: float, tipped_by: float) -> Laid:
    """Move a load as late as may be: placed before its follower is tipped, its mixer free when it is wanted."""
    task = one.task
    shut = (*closed, *task.shut)
    anchors = [placed_by, *(c.begin_min for c in shut)]
    ends = {tipped_by, *(c.begin_min for c in shut), *(_back(closed, end, task.place_min) for end in anchors)}
    if task.airs and placed_by < math.inf:  # which minute is the latest depends on the air of each
        ends |= set(map(float, range(math.ceil(one.tipped_min), math.floor(placed_by) + 1)))
    for tip in sorted((e for e in ends if e > one.tipped_min + _CLOSE), reverse=True):
        if tip > tipped_by + _CLOSE:
            continue
        found = _tip(task, closed, tip)
        if isinstance(found, tuple) and found[1] <= placed_by + _CLOSE:
            return Laid(task, tip - task.mix_min, tip, found[1])
    return one
