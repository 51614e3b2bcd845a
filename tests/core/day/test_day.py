"""The day's line: never past a life, never beaten by trying every minute, waits as short as may be."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.day.day import Closed, Laid, Line, Task, lay_out
from keeve.core.message.errors import LoadError


def placed_through(closed: list[Closed], tip: float, place: float) -> float | None:
    """When a placing ends that sits out its rests; None where weather or a rest at its beginning forbids it."""
    at, left = tip, place
    for one in sorted(closed):
        if one.end_min <= at:
            continue
        if one.begin_min >= at + left:
            break
        if one.begin_min < at or one.kind == "weather":
            return None
        left -= one.begin_min - at
        at = one.end_min
    return at + left


def worn(task: Task, met: float, until: float) -> float:
    """Share of a life that is used up, in steps of a quarter of a minute."""
    found, at = 0.0, met
    while at < until:
        life = next((life for begins, life in reversed(task.airs) if begins <= at), task.life_min)
        found += 0.25 / life
        at += 0.25
    return found


def allowed(
    loads: list[tuple[Task, int]], mixers: dict[str, int], begin: int, end: int, closed: list[Closed]
) -> float | None:
    """The end of the last placing of loads tipped at these minutes; None where something forbids it."""
    placed: float = begin
    tips: dict[str, list[int]] = {}
    for task, tip in loads:
        start = tip - task.mix_min
        before = tips.setdefault(task.mixer, [])
        many = mixers[task.mixer]
        if start < max(begin, task.ready_min) or tip < placed:
            return None
        if len(before) >= many and start < before[-many]:
            return None
        mine = [*closed, *task.shut]
        if any(c.begin_min < tip and c.end_min > start for c in mine):
            return None
        done = placed_through(mine, tip, task.place_min)
        if done is None or done > end or worn(task, start + task.met_min, done) > 1 + 1e-9:
            return None
        before.append(tip)
        placed = done
    return placed


def waits(line: Line, closed: list[Closed]) -> float:
    found = 0.0
    for before, after in itertools.pairwise(line.loads):
        shut = sum(max(min(c.end_min, after.tipped_min) - max(c.begin_min, before.placed_min), 0) for c in closed)
        found += after.tipped_min - before.placed_min - shut
    return found


@st.composite
def days(draw: st.DrawFn) -> tuple[list[Task], dict[str, int], int, list[Closed]]:
    end = draw(st.integers(14, 22))
    tasks = []
    for number in range(draw(st.integers(1, 3))):
        mix = draw(st.integers(1, 3))
        met = draw(st.integers(0, mix))
        place = draw(st.integers(1, 5))
        life = mix - met + place + draw(st.integers(0, 5))
        ready = draw(st.sampled_from([0, 0, 3, 6]))
        rain = draw(st.sampled_from([None, None, 2, 5, 9]))
        shut = () if rain is None else (Closed(rain, rain + draw(st.integers(1, 3)), "weather"),)
        heat = draw(st.sampled_from([(), (), ((4.0, 2.0), (9.0, 8.0)), ((3.0, 9.0), (6.0, 3.0)), ((5.0, 1.0),)]))
        mixer = draw(st.sampled_from(["drum", "pan"]))
        tasks.append(Task("a", number + 1, mixer, mix, met, place, life, ready, shut, heat))
    closed, at = [], 0
    for _ in range(draw(st.integers(0, 2))):
        at += draw(st.integers(1, 7))
        wide = draw(st.integers(1, 4))
        closed.append(Closed(at, at + wide, draw(st.sampled_from(["rest", "weather"]))))
        at += wide
    return tasks, {"drum": draw(st.integers(1, 2)), "pan": 1}, end, closed


@given(days())
def test_the_line_is_never_beaten_by_trying_every_minute(
    day: tuple[list[Task], dict[str, int], int, list[Closed]],
) -> None:
    tasks, mixers, end, closed = day
    line = lay_out(tuple(tasks), mixers, 0, end, tuple(closed))
    tips = [(one.task, round(one.tipped_min)) for one in line.loads]
    own = allowed(tips, mixers, 0, end, closed)
    assert own is not None
    if line.loads:
        assert line.loads[-1].placed_min == own
    # Every minute at which these loads may be tipped: none lets one more go in, ends earlier, or waits less.
    best_end, least_wait, more = float("inf"), float("inf"), False
    many = len(line.loads)
    for minutes in itertools.product(range(end + 1), repeat=min(many + 1, len(tasks))):
        tried = list(zip(tasks, minutes, strict=False))
        more = more or (len(tried) > many and allowed(tried, mixers, 0, end, closed) is not None)
        found = allowed(tried[:many], mixers, 0, end, closed)
        if found is None or not many:
            continue
        wait = _wait(tried[:many], closed)
        best_end, least_wait = min((best_end, least_wait), (found, wait))
    assert not more
    if many:
        assert own == best_end
        assert waits(line, closed) == line.waits_min
        assert line.waits_min <= least_wait + 1e-9


def _wait(loads: list[tuple[Task, int]], closed: list[Closed]) -> float:
    laid = [
        Laid(task, tip - task.mix_min, tip, placed_through([*closed, *task.shut], tip, task.place_min) or 0.0)
        for task, tip in loads
    ]
    return waits(Line(tuple(laid), (), 0.0), closed)


def test_two_mixers_feed_one_crew_without_a_wait() -> None:
    tasks = tuple(Task("a", n, "drum", 20, 5, 12, 60) for n in range(1, 5))
    one, two = (lay_out(tasks, {"drum": n}, 480, 960) for n in (1, 2))
    # One drum: 20 minutes of mixing for each 12 of placing, so the crew waits 8 between two. Plain arithmetic.
    assert (one.waits_min, one.loads[-1].placed_min) == (24, 480 + 4 * 20 + 12)
    assert two.loads[-1].placed_min < one.loads[-1].placed_min
    assert two.waits_min < one.waits_min


def test_a_rest_falls_into_placing_only_where_the_life_allows() -> None:
    noon = (Closed(720, 750, "rest"),)
    long_lived = lay_out((Task("wall", 1, "drum", 10, 5, 40, 120),), {"drum": 1}, 690, 900, noon)
    plaster = lay_out((Task("corbel", 1, "bowl", 10, 5, 40, 50),), {"bowl": 1}, 690, 900, noon)
    assert (long_lived.loads[0].tipped_min, long_lived.loads[0].placed_min) == (700, 770)
    assert (plaster.loads[0].mixed_min, plaster.loads[0].placed_min) == (750, 800)


def test_rain_at_noon_stops_mixing_before_it_and_what_does_not_go_in_is_left() -> None:
    rain = (Closed(720, 840, "weather"),)
    tasks = tuple(Task("path", n, "drum", 10, 5, 30, 60) for n in range(1, 9))
    line = lay_out(tasks, {"drum": 1}, 600, 900, rain)
    assert all(one.placed_min <= 720 or one.mixed_min >= 840 for one in line.loads)
    assert [task.number for task in line.left] == list(range(len(line.loads) + 1, 9))
    assert line.left


def test_a_load_that_outlives_itself_is_refused_with_the_way_out() -> None:
    with pytest.raises(LoadError, match="lasts 20 min") as error:
        lay_out((Task("Gable", 1, "drum", 5, 5, 30, 20),), {"drum": 1}, 480, 960)
    assert "smaller" in str(error.value.faults[0].hint)


def test_the_heat_of_noon_shortens_a_life_and_the_morning_does_not_feel_it() -> None:
    # 60 min at first, 20 from noon on: a load met at 11:40 has a third of its life behind it at noon, then 2/3 of 20 min.
    task = Task("wall", 1, "drum", 10, 5, 30, 60, 0, (), ((720.0, 20.0), (900.0, 60.0)))
    assert task.life_ends_min(695.0) == pytest.approx(720 + 2 / 3 * 20)
    assert task.life_ends_min(500.0) == 565
    line = lay_out((task._replace(ready_min=800),), {"drum": 1}, 480, 1200)
    # 30 minutes to place do not fit into 20: it is laid where enough of them fall after three, when it is cool again.
    only = line.loads[0]
    assert 870 < only.mixed_min < 900
    assert only.placed_min <= only.life_ends_min
