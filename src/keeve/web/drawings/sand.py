"""What the loads told, drawn: the water of each, the moisture it implies with its band, and how even the work is."""

from typing import Final, NamedTuple

from keeve.core.lessons.evenness import Chart
from keeve.core.lessons.learning import HeapEvent, Learned, Learning

WIDE: Final = 920.0
LEFT: Final = 54.0
HIGH: Final = 150.0
LEAST_STEP: Final = 16.0
"""A load is at least so wide: of hundreds the drawing is pushed along."""
_NUMBERED: Final = 30
"""So many loads are numbered each; of more, every fifth, every tenth."""


class Mark(NamedTuple):
    """A load on a drawing: where it stands, and the load itself."""

    x: float
    y: float
    number: int
    said: bool
    """Whether its number is written below."""


class Line(NamedTuple):
    """A level that is named at the left edge."""

    y: float
    value: float


class Sand(NamedTuple):
    """Water and moisture, load by load."""

    width: float
    step: float
    poured: tuple[Mark, ...]
    expected: tuple[tuple[float, float], ...]
    first: tuple[tuple[float, float], ...]
    water_lines: tuple[Line, ...]
    told: tuple[Mark, ...]
    """Moistures that loads tell."""
    believed: str
    band: str
    """Points of the line believed, and of its band."""
    percent_lines: tuple[Line, ...]
    events: tuple[tuple[float, str], ...]
    """What happened to the heap: x, kind."""


class Even(NamedTuple):
    """The chart of evenness."""

    width: float
    marks: tuple[tuple[Mark, bool], ...]
    """Each load, and whether it is a signal."""
    path: str
    mean_y: float
    low_y: float | None
    high_y: float | None
    lines: tuple[Line, ...]


def _levels(low: float, high: float) -> tuple[float, ...]:
    """Choose round values between two, four or five of them."""
    span = max(high - low, 1e-9)
    step = next(s * 10.0**p for p in range(-3, 6) for s in (1, 2, 5) if span / (s * 10.0**p) <= 5)
    first = -(-low // step) * step
    return tuple(first + n * step for n in range(int((high - first) / step + 1e-9) + 1))


class _Scale(NamedTuple):
    low: float
    high: float

    def y(self, value: float) -> float:
        return 12 + (self.high - value) / max(self.high - self.low, 1e-9) * (HIGH - 24)

    def lines(self) -> tuple[Line, ...]:
        return tuple(Line(self.y(one), one) for one in _levels(self.low, self.high))


def _step(many: int) -> float:
    return max((WIDE - LEFT - 20) / max(many, 1), LEAST_STEP)


def _said(at: int, many: int) -> bool:
    every = 1 if many <= _NUMBERED else 5 if many <= _NUMBERED * 4 else 10
    return (at + 1) % every == 0 or every == 1


def _between(loads: tuple[Learned, ...], event: HeapEvent) -> float:
    """Return after how many loads something happened."""
    return sum(1 for one in loads if one.at_ms < event.at_ms)


def draw_sand(learning: Learning, per_litre: float = 1.0) -> Sand | None:
    """Draw what the loads told of the sand; None where none did. `per_litre` is the reader's unit of water."""
    loads = tuple(sorted(learning.loads, key=lambda one: one.at_ms))
    if not loads:
        return None
    many, step = len(loads), _step(len(loads))

    def x(at: float) -> float:
        return LEFT + (at + 0.5) * step

    litres = [value * per_litre for one in loads for value in (one.poured_l, one.told.expected_l, one.told.first_l)]
    water = _Scale(min(litres), max(*litres, min(litres) + 0.5))
    percents = [one.after.percent + sign * one.after.sd for one in loads for sign in (-1, 1)]
    percents += [one.percent for one in loads if one.percent is not None]
    sand = _Scale(max(min(percents), 0.0), max(*percents, min(percents) + 1))
    upper = [f"{x(n):.1f},{sand.y(one.after.percent + one.after.sd):.1f}" for n, one in enumerate(loads)]
    lower = [f"{x(n):.1f},{sand.y(max(one.after.percent - one.after.sd, 0)):.1f}" for n, one in enumerate(loads)]
    return Sand(
        width=LEFT + many * step + 20,
        step=step,
        poured=tuple(
            Mark(x(n), water.y(one.poured_l * per_litre), one.number, _said(n, many)) for n, one in enumerate(loads)
        ),
        expected=tuple((x(n), water.y(one.told.expected_l * per_litre)) for n, one in enumerate(loads)),
        first=tuple((x(n), water.y(one.told.first_l * per_litre)) for n, one in enumerate(loads)),
        water_lines=water.lines(),
        told=tuple(
            Mark(x(n), sand.y(one.percent), one.number, said=False)
            for n, one in enumerate(loads)
            if one.percent is not None
        ),
        believed=" ".join(f"{x(n):.1f},{sand.y(one.after.percent):.1f}" for n, one in enumerate(loads)),
        band=" ".join([*upper, *reversed(lower)]),
        percent_lines=sand.lines(),
        events=tuple((x(_between(loads, one) - 0.5), one.kind) for one in learning.events),
    )


def draw_even(chart: Chart, numbers: tuple[int, ...], per_litre: float = 1.0) -> Even | None:
    """Draw the chart of evenness; None where there are no two loads."""
    if len(chart.points) < 2:
        return None
    many, step = len(chart.points), _step(len(chart.points))
    values = [one.value * per_litre for one in chart.points]
    bounds = [chart.low * per_litre, chart.high * per_litre] if chart.limited else []
    spread = [*values, *bounds, chart.mean * per_litre]
    scale = _Scale(min(spread), max(*spread, min(spread) + 0.5))
    points = [(LEFT + (n + 0.5) * step, scale.y(value)) for n, value in enumerate(values)]
    marks = tuple(
        (Mark(x, y, number, _said(n, many)), bool(one.signals))
        for n, ((x, y), number, one) in enumerate(zip(points, numbers, chart.points, strict=True))
    )
    return Even(
        width=LEFT + many * step + 20,
        marks=marks,
        path=" ".join(f"{x:.1f},{y:.1f}" for x, y in points),
        mean_y=scale.y(chart.mean * per_litre),
        low_y=scale.y(chart.low * per_litre) if chart.limited else None,
        high_y=scale.y(chart.high * per_litre) if chart.limited else None,
        lines=scale.lines(),
    )
