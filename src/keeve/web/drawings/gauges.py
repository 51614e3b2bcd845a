"""The gauge strip: one load as it would be lined up beside the mixer, each fill of each vessel as a picture."""

import math
from typing import Final, NamedTuple

from keeve.core.dosing.steps import ADMIXTURE
from keeve.core.message.said import ROUND
from keeve.core.ticket.cards import FillMark, TicketAdmixture, TicketCard, TicketDose, TicketStep
from keeve.core.ticket.ticket import Ticket
from keeve.core.vessels.instruments import jug_full_l
from keeve.core.vessels.tools import Count
from keeve.core.vessels.vessels import Container, brim_l, fill_height_mm, people_count, volume_l
from keeve.web.drawings.common import SectionScale, hatch_of
from keeve.words import saying
from keeve.words.measuring import off, on_scale, tare
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import say, show, show_litres, show_mark

HIGH: Final = 84.0
"""Of the tallest vessel of the ticket."""
LEAST_HIGH: Final = 46.0
_NO_DROP: Final = 1e-3
"""Less than this share of a jug is nothing its marks tell: own assumption."""
MOST_DRAWN: Final = 8
CAP_LOOKS: Final = 3.0
"""A cap is drawn so much smaller than a measure as high as the strip: at its true size nobody would see it."""
SOME_DRAWN: Final = 3
"""Of more than that: then the number says it."""
MANY: Final = 4
"""More vessels than so many are drawn smaller, all to one scale."""
SMALLER: Final = 1.5
GAP: Final = 8.0
WIDEST: Final = 272.0
"""Of a row, before a second one begins."""
LABEL: Final = 18.0
"""Room for a line of 14 px below."""
LETTER: Final = 8.4
_WHOLE: Final = 1e-6


class Picture(NamedTuple):
    """One vessel, bag or shovel, in units of the drawing."""

    kind: str
    hatch: str
    outline: str
    fill: str
    x: float
    width: float
    level: tuple[float, float, float] | None
    """Where a mark is drawn: from x, to x, y."""
    label: str
    label_y: float
    on_scale: str
    """What scale it hangs on or stands on; empty for none."""
    ground: float
    top: float


class Laid(NamedTuple):
    """Pictures side by side, as they enter a row."""

    pictures: tuple[Picture, ...]
    more: str
    width: float
    height: float


class Row(NamedTuple):
    """What one constituent takes."""

    key: str
    name: str
    big: str
    exact: str
    laid: Laid
    besides: tuple[str, ...] = ()
    off: str = ""
    """What the measure does to the dose, where it matters."""
    off_bad: bool = False
    others: tuple[str, ...] = ()
    """The same in other measures."""


class Shape(NamedTuple):
    """A picture before it has a place."""

    kind: str
    hatch: str
    outline: list[tuple[float, float]]
    fill: list[tuple[float, float]]
    width: float
    level: tuple[float, float, float] | None
    label: str
    on_scale: str = ""

    @property
    def high(self) -> float:
        """How high it stands."""
        return max(-y for _, y in self.outline)


def _points(text: str) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in (pair.split(",") for pair in text.split())]


def vessel(
    hatch: str,
    container: Container,
    up_mm: float,
    tallest_mm: float,
    label: str = "",
    on: str = "",
    *,
    marked: bool = False,
) -> Shape:
    """Draw a vessel filled so high [mm], to the scale of the tallest beside it."""
    scale = SectionScale(container.section)
    deep = container.section.depth_mm
    scale.per_mm = max(HIGH / tallest_mm, LEAST_HIGH / deep)
    widest = max(r.width_mm for r in container.section.rings) * scale.per_mm
    if widest > HIGH * 1.3:
        scale.per_mm *= HIGH * 1.3 / widest
        widest = HIGH * 1.3
    scale.middle, scale.bottom = widest / 2, 0.0
    level = (scale.middle - scale.half(up_mm), scale.middle + scale.half(up_mm), scale.y(up_mm)) if marked else None
    return Shape(
        "vessel",
        hatch,
        _points(scale.wall()),
        _points(scale.band(0.0, max(up_mm, deep * 0.02))),
        widest,
        level,
        label,
        on,
    )


def _scoop(hatch: str) -> Shape:
    """A shovel or a trowel with its heap, handle up."""
    blade = [(0.0, -22.0), (10.0, 0.0), (34.0, 0.0), (44.0, -22.0)]
    heap = [(2.0, -19.0), (11.0, -31.0), (22.0, -35.0), (33.0, -31.0), (42.0, -19.0), (34.0, -1.0), (10.0, -1.0)]
    return Shape("scoop", hatch, [*blade, (58.0, -52.0)], heap, 58.0, None, "", "")


def _bag(hatch: str, part: float, label: str) -> Shape:
    w, h = 54.0, 74.0
    outline = [(0.0, -h + 9), (6.0, -h), (w - 6, -h), (w, -h + 9), (w, -7.0), (w - 6, 0.0), (6.0, 0.0), (0.0, -7.0)]
    top = -h * part
    fill = outline if part >= 1 else [(0.0, top), (w, top), (w, -7.0), (w - 6, 0.0), (6.0, 0.0), (0.0, -7.0)]
    return Shape("bag", hatch, outline, fill, w, None, label)


def _heap(hatch: str, label: str, kind: str) -> Shape:
    """A dose on the scale by itself."""
    heap = [(4.0, 0.0), (16.0, -26.0), (27.0, -32.0), (38.0, -26.0), (50.0, 0.0)]
    return Shape("heap", hatch, heap, heap, 54.0, None, label, kind or "bench")


def _syringe(label: str) -> Shape:
    body = [
        (0.0, -14.0),
        (44.0, -14.0),
        (44.0, -10.0),
        (60.0, -9.0),
        (60.0, -6.0),
        (44.0, -5.0),
        (44.0, 0.0),
        (0.0, 0.0),
    ]
    return Shape(
        "syringe", "water", body, [(16.0, -13.0), (43.0, -13.0), (43.0, -1.0), (16.0, -1.0)], 60.0, None, label
    )


def moved(points: list[tuple[float, float]], dx: float, dy: float) -> str:
    """Write points down, moved."""
    return " ".join(f"{x + dx:.1f},{y + dy:.1f}" for x, y in points)


def _lines(wide_of: list[float]) -> list[list[int]]:
    """Break a row where it grows too wide: pictures shrunk to fit would have labels nobody can read."""
    lines: list[list[int]] = [[]]
    x = 0.0
    for i, wide in enumerate(wide_of):
        if lines[-1] and x + wide > WIDEST:
            lines.append([])
            x = 0.0
        lines[-1].append(i)
        x += wide + GAP
    return lines


def _placed(s: Shape, dx: float, ground: float, label: str, label_y: float) -> Picture:
    """Put a picture in its place."""
    level = (s.level[0] + dx, s.level[1] + dx, s.level[2] + ground) if s.level else None
    outline, fill = moved(s.outline, dx, ground), moved(s.fill, dx, ground)
    top = ground - s.high
    return Picture(s.kind, s.hatch, outline, fill, dx, s.width, level, label, label_y, s.on_scale, ground, top)


def _laid(shapes: list[Shape], count: int, reader: Reader) -> Laid:
    """Stand shapes side by side on one ground, or on two."""
    drawn = shapes[:SOME_DRAWN] if count > MOST_DRAWN else shapes
    above = max((34.0 for s in drawn if s.on_scale == "hanging"), default=0.0)
    below = max((16.0 for s in drawn if s.on_scale in ("bench", "kitchen")), default=0.0)
    high = max((s.high for s in drawn), default=HIGH)
    same = len({s.label for s in drawn}) == 1
    label_high = LABEL if any(s.label for s in drawn) else 4.0
    wide_of = [
        max(s.width, 0.0 if same and len(drawn) > 1 else LETTER * len(s.label) + 4, 50.0 if s.on_scale else 0.0)
        for s in drawn
    ]
    found, right, top = [], 0.0, 0.0
    for number, line in enumerate(_lines(wide_of)):
        x, ground = 3.0, top + above + high + 4
        labels = label_high if not same or number == 0 else 4.0
        for i in line:
            s, dx = drawn[i], x + (wide_of[i] - drawn[i].width) / 2
            label = s.label if not same or i == 0 else ""
            found.append(_placed(s, dx, ground, label, ground + below + labels - 4))
            x += wide_of[i] + GAP
        right, top = max(right, x - GAP), ground + below + labels
    more = t(reader, "× {count}", count=str(count)) if count > len(drawn) else ""
    least = LETTER * len(drawn[0].label) + 8 if same and drawn else 0.0
    return Laid(tuple(found), more, max(right + 4, least) + (38.0 if more else 0.0), top)


def _dose_shapes(
    dose: TicketDose, ticket: Ticket, tallest: float, reader: Reader, share: float = 1.0
) -> tuple[list[Shape], int]:
    """Draw what a dose, or its share that goes in at one step, is measured with."""
    hatch, means = hatch_of(dose.role), dose.means
    if _vessels_of(dose) > MANY:
        tallest *= SMALLER
    if means in (None, "packs") and dose.packs and saying.bags(dose.packs * share, reader, dose.pack_word):
        packs = dose.packs * share
        whole = int(packs + _WHOLE)
        rest = packs - whole
        label = saying.pack_mass(dose, reader)
        bags = [_bag(hatch, 1.0, label)] * min(whole, MOST_DRAWN) + (
            [_bag(hatch, rest, label)] if rest > _WHOLE else []
        )
        return bags, math.ceil(packs - _WHOLE)
    if means == "scale" and dose.weighing is not None and share > 1 - _WHOLE:
        return _weighed(dose, ticket, tallest, reader)
    if means == "counts" and dose.count is not None:
        container = ticket.measure(dose.count.container)
        count = dose.count.count * share
        whole = int(count + _WHOLE)
        rest = count - whole
        if container.scoop:
            return [_scoop(hatch)] * min(whole, MOST_DRAWN), whole
        deep = container.section.depth_mm
        one = vessel(hatch, container, deep, tallest, t(reader, "struck"))
        up_mm = fill_height_mm(container.section, rest * brim_l(container.section))
        label = people_count(rest).words
        part = [vessel(hatch, container, up_mm, tallest, label, marked=True)] if rest > _WHOLE else []
        return [one] * min(whole, MOST_DRAWN) + part, whole + len(part)
    if means in (None, "marks", "packs") and dose.fill is not None:
        return _marked(hatch, dose.fill, ticket, tallest, reader, share)
    return [_heap(hatch, saying.exact(dose, reader, share), "bench")], 1


def _marked(
    hatch: str, fill: FillMark, ticket: Ticket, tallest: float, reader: Reader, share: float
) -> tuple[list[Shape], int]:
    """Draw fills to one mark; of a share that is no whole number of them, the last as far as it goes."""
    struck, container = saying.struck_fill(fill), ticket.measure(fill.container)
    label = t(reader, "struck") if struck else t(reader, "{down} down", down=say(show_mark(fill.mark_down_mm, reader)))
    one = vessel(hatch, container, fill.mark_up_mm, tallest, label, marked=not struck)
    fills = fill.fills * share
    whole = int(fills + _WHOLE)
    rest = fills - whole
    if rest <= _WHOLE:
        return [one] * min(whole, MOST_DRAWN), whole
    litres = volume_l(container.section, fill.mark_up_mm) * rest
    part = vessel(hatch, container, fill_height_mm(container.section, litres), tallest, people_count(rest).words)
    return [one] * min(whole, MOST_DRAWN) + [part], whole + 1


def _vessels_of(dose: TicketDose) -> float:
    """How many vessels a dose is measured in."""
    if dose.means == "scale" and dose.weighing is not None:
        return dose.weighing.vessels
    if dose.means == "counts" and dose.count is not None:
        return dose.count.count
    return dose.fill.fills if dose.fill is not None else 0


def _weighed(dose: TicketDose, ticket: Ticket, tallest: float, reader: Reader) -> tuple[list[Shape], int]:
    weighing = dose.weighing
    if weighing is None:
        return [], 0
    kind = ticket.scale(weighing.scale).kind
    shows = [weighing.reading_kg] * (weighing.vessels - 1) + [weighing.last_kg]
    labels = [on_scale(kg, weighing.step_kg, weighing.unit, reader) for kg in shows]
    hatch = hatch_of(dose.role)
    if weighing.vessel is None:
        return [_heap(hatch, label, kind) for label in labels], weighing.vessels
    container = ticket.measure(weighing.vessel)
    each_l = min(dose.gauged_l / weighing.vessels, brim_l(container.section))
    up = fill_height_mm(container.section, each_l)
    return [vessel(hatch, container, up, tallest, label, kind) for label in labels], weighing.vessels


def _jugs(ticket: Ticket, pour: float, tallest: float, reader: Reader) -> Laid:
    """Draw water [L] in the jug: so many full, and the last to its mark."""
    jug = ticket.jug
    jug_l = jug_full_l(brim_l(jug.section), us=reader.us)
    times = int(pour / jug_l + _NO_DROP)
    fills = [jug_l] * min(times, MOST_DRAWN) + [pour - times * jug_l] * (pour / jug_l - times > _NO_DROP)
    labels = [show(one, f"{ROUND}L" if one == jug_l else "L", reader) for one in fills]
    levels = [fill_height_mm(jug.section, one) for one in fills]
    shapes = [vessel("water", jug, up, tallest, label, marked=True) for up, label in zip(levels, labels, strict=True)]
    return _laid(shapes, times + (len(fills) > min(times, MOST_DRAWN)), reader)


def _water_row(card: TicketCard, ticket: Ticket, tallest: float, reader: Reader) -> Row:
    laid = _jugs(ticket, max(card.water.first_l, 0.0), tallest, reader)
    by = saying.water_by(card, ticket, reader)
    exact = show(card.water.pour.target, "L", reader)
    if card.water.hold_back_l > 0:
        exact = t(reader, "{all} with what is held back", all=exact)
    name, big = t(reader, "Water to pour"), saying.water(card, reader)
    return Row("water", name, big, exact, laid, (by,) if by else ())


def _caps(caps: Count, ticket: Ticket, reader: Reader) -> Laid:
    """Draw a dose in caps, whole ones first."""
    cap = ticket.measure(caps.container)
    deep, whole = cap.section.depth_mm, int(caps.count)
    part = fill_height_mm(cap.section, brim_l(cap.section) * (caps.count - whole)) if caps.count > whole else 0.0
    shapes = [vessel("water", cap, up, deep * CAP_LOOKS) for up in ([deep] * whole + [part] * (part > 0))[:MOST_DRAWN]]
    return _laid(shapes, math.ceil(caps.count), reader)


def _liquid(given: TicketAdmixture, ticket: Ticket, reader: Reader) -> Laid:
    """Draw an admixture as it is measured: in caps, a syringe, a cup, or on the fine scale."""
    if given.caps is not None:
        return _caps(given.caps, ticket, reader)
    label = say(show_litres(given.volume_l, reader)) if given.volume_l is not None else ""
    if given.volume_l is None:
        shape = _heap("plaster", saying.weighed("admixture", given.mass_kg, reader), "kitchen")
    elif given.drawn is not None and given.drawn.by.startswith("syringe"):
        shape = _syringe(label)
    else:
        cup = [(2.0, -40.0), (6.0, 0.0), (34.0, 0.0), (38.0, -40.0)]
        shape = Shape("vessel", "water", cup, [(4.0, -24.0), (6.0, 0.0), (34.0, 0.0), (36.0, -24.0)], 40.0, None, label)
    return _laid([shape], 1, reader)


def _admixture_row(given: TicketAdmixture, card: TicketCard, ticket: Ticket, reader: Reader) -> Row:
    rates = saying.admixture_rates(given, card, reader)
    name, big = put(given.name, reader), saying.admixture(given, ticket, reader)
    laid = _liquid(given, ticket, reader)
    return Row(f"admixture:{given.key}", name, big, put(given.when, reader), laid, (rates,))


def rows(card: TicketCard, ticket: Ticket, reader: Reader) -> tuple[Row, ...]:
    """Line up what one load takes: constituents, admixtures, water."""
    tallest = max((c.section.depth_mm for c in (*ticket.measures, ticket.jug)), default=1.0)
    found = [_dose_row(dose, ticket, tallest, reader) for dose in card.doses]
    found += [_admixture_row(given, card, ticket, reader) for given in card.admixtures]
    return (*found, _water_row(card, ticket, tallest, reader))


def step_pictures(step: TicketStep, card: TicketCard, ticket: Ticket, reader: Reader) -> tuple[Laid, ...]:
    """Draw what goes in at one step, each part as it is measured; water is drawn by the page itself."""
    tallest = max((c.section.depth_mm for c in (*ticket.measures, ticket.jug)), default=1.0)
    doses = {dose.key: dose for dose in card.doses}
    cans = {f"{ADMIXTURE}{given.key}": given for given in card.admixtures}
    found: list[Laid] = []
    for part in step.parts:
        if part.key in doses:
            found.append(_laid(*_dose_shapes(doses[part.key], ticket, tallest, reader, part.share), reader))
        elif part.key in cans:
            found.append(_liquid(cans[part.key], ticket, reader))
    return tuple(found)


def _dose_row(dose: TicketDose, ticket: Ticket, tallest: float, reader: Reader) -> Row:
    shapes, count = _dose_shapes(dose, ticket, tallest, reader)
    words, good = off(dose, reader)
    struck, _ = saying.struck(dose, ticket, reader)
    besides = (struck, tare(dose, reader), *saying.beside(dose, ticket, reader))
    return Row(
        dose.key,
        put(dose.name, reader),
        saying.dose(dose, ticket, reader),
        saying.exact(dose, reader),
        _laid(shapes, count, reader),
        tuple(one for one in besides if one),
        words,
        not good,
        tuple(saying.other_ways(dose, ticket, reader)),
    )
