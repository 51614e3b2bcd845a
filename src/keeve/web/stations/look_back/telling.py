"""What a job's loads tell, in sentences and drawings: sand, next load, and how even the work is."""

from collections import Counter
from typing import Any, Final

from keeve.core.lessons.briefing import brief
from keeve.core.lessons.evenness import Chart, by_group, individuals
from keeve.core.lessons.learning import Learned, Learning, learn
from keeve.core.measure.units import GAL_L
from keeve.core.run.brief import Brief
from keeve.core.run.events import Poured
from keeve.store.rows.logs import Log
from keeve.web.asking.deps import Desk
from keeve.web.asking.heap_told import heap_events
from keeve.web.drawings.sand import draw_even, draw_sand
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import say, show_litres

QT_L: Final = GAL_L / 4
UNSURE_PERCENT: Final = 0.8
"""Of a load whose sand nobody knew nothing was expected: it is on no chart of evenness. Own assumption."""
MOST_SAID: Final = 3
"""So many loads that stand out are named; more would not be read."""


def learned(at: Desk, log: Log) -> Learning:
    """Read a job's log for what its sand was, with what was told of the heap in the yard."""
    return learn(log.run, log.tickets, heap_events(at, log))


def next_water(learning: Learning, told: Brief | None, reader: Reader) -> list[str]:
    """Say what the sand is believed to be, and what the next load wants."""
    if learning.heap is None or learning.now is None or not learning.loads:
        return []
    name, now = put(learning.heap.name, reader), learning.now
    said = [
        t(reader, "{heap}: about {percent} % of water now, give or take {sd}.", heap=name,
          percent=f"{max(now.percent, 0):.1f}", sd=f"{now.load_sd:.1f}")
    ]  # fmt: skip
    if told is not None and told.leads == "sand":
        expected, first = (say(show_litres(one, reader)) for one in (told.target_l, told.first_l))
        said.append(
            t(reader, "The next load wants about {expected}: pour {first} first, then look.", expected=expected,
              first=first)
        )  # fmt: skip
    return said


def _outstanding(chart: Chart, loads: list[Learned], reader: Reader) -> list[str]:
    """Name the loads that stand out, in the words of the trade."""
    found = []
    for point, load in zip(chart.points, loads, strict=True):
        far = (
            abs(point.value - chart.mean) > (chart.high - chart.mean) / 2
        )  # of a jump the end that is off, not its return
        if {"beyond", "jump"} & set(point.signals) and far:
            found.append(_off(load, point.value, reader))
    runs = [load for point, load in zip(chart.points, loads, strict=True) if "run" in point.signals]
    if runs:
        found.append(_drifted(runs[0], chart, reader))
    return found[:MOST_SAID]


def _off(load: Learned, off_l: float, reader: Reader) -> str:
    litres, number = say(show_litres(abs(off_l), reader)), str(load.number)
    if off_l > 0:
        return t(reader, "Load {number} took {litres} more than expected: who mixed it, from where in the heap?",
                 number=number, litres=litres)  # fmt: skip
    return t(reader, "Load {number} took {litres} less than expected: who mixed it, from where in the heap?",
             number=number, litres=litres)  # fmt: skip


def _drifted(load: Learned, chart: Chart, reader: Reader) -> str:
    above = next(p.value for p in chart.points if "run" in p.signals) > chart.mean
    if above:
        return t(reader, "Up to load {number} eight in a row took more than usual: another sand, another measure?",
                 number=str(load.number))  # fmt: skip
    return t(reader, "Up to load {number} eight in a row took less than usual: another sand, another measure?",
             number=str(load.number))  # fmt: skip


def _whose(loads: list[Learned], log: Log, reader: Reader) -> list[tuple[str, tuple[str, ...]]]:
    """Say by what loads are set beside each other, and whose each is: the phone that poured, and the mixer."""
    poured: dict[tuple[int, str], Counter[str]] = {}
    for event in log.events:
        if isinstance(event, Poured):
            poured.setdefault((event.load, event.mixer), Counter())[event.phone.split(".", 1)[0]] += 1
    mixers = {one.mixer.key: put(one.mixer.name, reader) for one in log.tickets.values()}
    found = []
    for load in loads:
        hands = poured.get((load.number, load.mixer))
        phone = t(reader, "phone {name}", name=hands.most_common(1)[0][0][:8]) if hands else ""
        found.append((phone, mixers.get(load.mixer, load.mixer)))
    return [
        (t(reader, "By phone"), tuple(one for one, _ in found)),
        (t(reader, "By mixer"), tuple(one for _, one in found)),
    ]


def what_it_tells(learning: Learning, log: Log, reader: Reader) -> dict[str, Any]:
    """Put what a job's loads tell into drawings and sentences for its page."""
    following = log.run.next
    told = brief(log.tickets[following.ticket], following, learning, us=reader.us) if following else None
    per_litre, unit = (1 / QT_L, "qt") if reader.us else (1.0, "L")
    known = [one for one in learning.loads if one.ended == "accepted" and one.before.sd < UNSURE_PERCENT]
    loads = sorted(known, key=lambda one: one.at_ms)
    off_l = [one.poured_l - one.told.expected_l for one in loads]
    chart = individuals(off_l)
    outstanding = _outstanding(chart, loads, reader)
    if chart.limited and not outstanding:
        outstanding = [t(reader, "No load stands out.")]
    return {
        "sand": draw_sand(learning, per_litre),
        "sand_said": next_water(learning, told, reader),
        "even": draw_even(chart, tuple(one.number for one in loads), per_litre) if chart.limited else None,
        "even_said": outstanding,
        "groups": [(head, found) for head, names in _whose(loads, log, reader) if (found := by_group(off_l, names))],
        "water_unit": unit,
    }
