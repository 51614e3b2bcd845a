"""Geometry of Keeve's two drawings, the tub and the dipstick; the SVG itself is in shared/drawings.html."""

import math
from dataclasses import dataclass
from typing import Final

import segno
from markupsafe import Markup

from keeve.core.materials.material import Role
from keeve.core.measure.units import GAL_L
from keeve.core.message.said import Words, mark
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.ticket import Ticket
from keeve.core.vessels.tilted import tilted_brim_l, tilted_height_mm
from keeve.core.vessels.vessels import Mixer, Section, brim_l, fill_height_mm
from keeve.words import saying
from keeve.words.putting import put, t
from keeve.words.reader import Reader, decimal_mark
from keeve.words.showing import say, show_litres

TUB_WIDE: Final = 300.0
TUB_HIGH: Final = 340.0
LEFT: Final = 12.0
TOP: Final = 18.0
LABEL_GAP: Final = 42.0
LABEL_WIDE: Final = 130.0
LETTER: Final = 9.4
"""A letter of a label is no wider, on the average of a word."""
STICK_HIGH: Final = 420.0


@dataclass(frozen=True, slots=True)
class Layer:
    """One layer in the tub."""

    hatch: str
    points: str
    name: str
    amount: str
    middle_y: float
    edge_x: float
    step: int
    label_y: float


@dataclass(frozen=True, slots=True)
class DrawnTub:
    """A mixer in section with a load in it, in drawing units."""

    width: float
    height: float
    outline: str
    layers: tuple[Layer, ...]
    rated_y: float
    rated_x: tuple[float, float]
    over_l: float
    """What does not go in."""
    filled_l: float
    label_x: float
    bottom: float
    words: str


HATCH: Final[dict[Role, Role]] = {
    "supplementary": "cement",
    "ballast": "stone",
    "hemp": "lime",
    "fibre": "lime",
    "powder": "plaster",
}
"""Roles that share another's hatch."""


def hatch_of(role: Role | None) -> str:
    """Say which hatch a role is drawn with; nothing means water."""
    return HATCH.get(role, role) if role else "water"


class SectionScale:
    """Puts a vessel's section to scale into a drawing."""

    def __init__(self, section: Section) -> None:
        self.section = section
        widest = max(r.width_mm for r in section.rings)
        self.per_mm = min(TUB_WIDE / widest, TUB_HIGH / section.depth_mm)
        self.middle = LEFT + widest * self.per_mm / 2
        self.bottom = TOP + section.depth_mm * self.per_mm

    def y(self, height_mm: float) -> float:
        """Where a height is drawn."""
        return self.bottom - height_mm * self.per_mm

    def half(self, height_mm: float) -> float:
        """Half the drawn width at a height."""
        return self.section.width_mm(height_mm) * self.per_mm / 2

    def band(self, low_mm: float, high_mm: float) -> str:
        """Points of the slice of the vessel between two heights, following its walls."""
        heights = [low_mm, *(r.height_mm for r in self.section.rings if low_mm < r.height_mm < high_mm), high_mm]
        right = [(self.middle + self.half(h), self.y(h)) for h in heights]
        left = [(self.middle - self.half(h), self.y(h)) for h in reversed(heights)]
        return " ".join(f"{x:.1f},{y:.1f}" for x, y in right + left)

    def wall(self) -> str:
        """Points of the walls and the bottom, from rim to rim."""
        rings = self.section.rings
        left = [(self.middle - r.width_mm * self.per_mm / 2, self.y(r.height_mm)) for r in reversed(rings)]
        right = [(self.middle + r.width_mm * self.per_mm / 2, self.y(r.height_mm)) for r in rings]
        return " ".join(f"{x:.1f},{y:.1f}" for x, y in left + right)


class TiltedScale(SectionScale):
    """The same of a drum that leans: levels stay level."""

    def __init__(self, section: Section, tilt_deg: float) -> None:
        super().__init__(section)
        self.tilt_deg = tilt_deg
        lean = math.radians(tilt_deg)
        sides = [(-1, r) for r in reversed(section.rings)] + [(1, r) for r in section.rings]
        profile = [(side * r.width_mm / 2, r.height_mm) for side, r in sides]
        cos, sin = math.cos(lean), math.sin(lean)
        # Its mouth leans to the left, away from the words.
        self._turned = [(x * cos - z * sin, x * sin + z * cos) for x, z in profile]
        xs, ys = [x for x, _ in self._turned], [y for _, y in self._turned]
        self.per_mm = min(TUB_WIDE / (max(xs) - min(xs)), TUB_HIGH / (max(ys) - min(ys)))
        self._low, self._left = min(ys), min(xs)
        self.bottom = TOP + (max(ys) - min(ys)) * self.per_mm
        self.right_x = LEFT + (max(xs) - min(xs)) * self.per_mm

    def _at(self, x: float, y: float) -> tuple[float, float]:
        return LEFT + (x - self._left) * self.per_mm, self.bottom - (y - self._low) * self.per_mm

    def y(self, height_mm: float) -> float:
        """Where a level is drawn; measured above the middle of the bottom."""
        return self._at(0.0, height_mm)[1]

    def span(self, height_mm: float) -> tuple[float, float]:
        """Where a level begins and ends inside the drum, drawn."""
        found = []
        for (ax, ay), (bx, by) in zip(self._turned, [*self._turned[1:], self._turned[0]], strict=True):
            if (ay - height_mm) * (by - height_mm) <= 0 and ay != by:
                found.append(ax + (bx - ax) * (height_mm - ay) / (by - ay))
        ends = (min(found), max(found)) if found else (0.0, 0.0)
        return self._at(ends[0], 0)[0], self._at(ends[1], 0)[0]

    def band(self, low_mm: float, high_mm: float) -> str:
        """Points of what lies between two levels."""
        points = _clipped(_clipped(self._turned, high_mm, above=False), low_mm, above=True)
        return " ".join(f"{x:.1f},{y:.1f}" for x, y in (self._at(*point) for point in points))

    def wall(self) -> str:
        """Points of the walls and the bottom, from lip to lip."""
        return " ".join(f"{x:.1f},{y:.1f}" for x, y in (self._at(*point) for point in self._turned))


def _clipped(points: list[tuple[float, float]], level: float, *, above: bool) -> list[tuple[float, float]]:
    """Cut a polygon off at a level."""
    found: list[tuple[float, float]] = []
    sign = 1.0 if above else -1.0
    for (ax, ay), (bx, by) in zip(points, [*points[1:], *points[:1]], strict=True):
        a, b = sign * (ay - level), sign * (by - level)
        if a >= 0:
            found.append((ax, ay))
        if a * b < 0:
            share = a / (a - b)
            found.append((ax + (bx - ax) * share, ay + (by - ay) * share))
    return found


def spread(wanted: list[float], gap: float, lowest: float, highest: float) -> list[float]:
    """Move label positions apart until none is nearer than `gap`, keeping their order and their bounds.

    Parameters
    ----------
    wanted : positions, rising
    gap : least distance
    lowest, highest : bounds

    >>> spread([10, 12, 50], 10, 0, 60)
    [10, 20, 50]
    """
    placed: list[float] = []
    for y in wanted:
        placed.append(max(y, placed[-1] + gap if placed else lowest))
    limit = highest
    for i in range(len(placed) - 1, -1, -1):
        placed[i] = min(placed[i], limit)
        limit = placed[i] - gap
    return placed


_Laid = tuple[str, str, str, str, float, float, int]
"""A layer before its label has a place: hatch, points, name, amount, middle, edge, step."""


class _Pose:
    """A mixer as it stands while it turns: where each volume ends in it."""

    def __init__(self, mixer: Mixer) -> None:
        self._mixer = mixer
        tilt = mixer.tilt_deg
        self._tilted = TiltedScale(mixer.section, tilt) if tilt else None
        self.scale = self._tilted or SectionScale(mixer.section)
        self.gross_l = tilted_brim_l(mixer.section, tilt) if tilt else brim_l(mixer.section)
        widest = max(r.width_mm for r in mixer.section.rings)
        self.right_x = self._tilted.right_x if self._tilted else LEFT + widest * self.scale.per_mm

    def level_mm(self, litres: float) -> float:
        """Height of a volume [L]."""
        section, held = self._mixer.section, min(litres, self.gross_l)
        return tilted_height_mm(section, self._mixer.tilt_deg, held) if self._tilted else fill_height_mm(section, held)

    def span(self, height_mm: float) -> tuple[float, float]:
        """Where a level begins and ends, drawn."""
        if self._tilted:
            return self._tilted.span(height_mm)
        return self.scale.middle - self.scale.half(height_mm), self.scale.middle + self.scale.half(height_mm)


def _laid(card: TicketCard, ticket: Ticket, pose: _Pose, reader: Reader) -> tuple[float, list[_Laid]]:
    """Lay what goes in on top of each other, up to the brim; returns how much that is [L], and the layers."""
    roles = {d.key: d.role for d in card.doses}
    filled, found = 0.0, []
    for number, step in enumerate(card.steps):
        for part, (name, amount) in zip(step.parts, saying.short_lines(step, card, ticket, reader), strict=True):
            low, filled = filled, filled + part.solid_l
            if low >= pose.gross_l:
                continue
            low_mm, high_mm = pose.level_mm(low), pose.level_mm(filled)
            middle_mm = (low_mm + high_mm) / 2
            band, edge = pose.scale.band(low_mm, high_mm), pose.span(middle_mm)[1]
            found.append((hatch_of(roles.get(part.key)), band, name, amount, pose.scale.y(middle_mm), edge, number))
    return filled, found


def tub(card: TicketCard, ticket: Ticket, reader: Reader) -> DrawnTub:
    """Lay a load into its mixer, layer by layer in the order it goes in, each by the room it takes."""
    mixer, pose = ticket.mixer, _Pose(ticket.mixer)
    scale = pose.scale
    filled, rough = _laid(card, ticket, pose, reader)
    label_x = pose.right_x + 26
    rows = list(reversed(rough))  # labels run from the top down
    height = max(scale.bottom + 18, TOP + LABEL_GAP * len(rows))
    label_ys = spread([r[4] for r in rows], LABEL_GAP, TOP + 8, height - 22)
    rated_mm = pose.level_mm(mixer.mixed_l)
    return DrawnTub(
        width=label_x + max(LABEL_WIDE, LETTER * max((len(text) for r in rows for text in r[2:4]), default=0)),
        height=height,
        outline=scale.wall(),
        layers=tuple(Layer(*row, y) for row, y in zip(rows, label_ys, strict=True)),
        rated_y=scale.y(rated_mm),
        rated_x=pose.span(rated_mm),
        over_l=max(filled - pose.gross_l, 0.0),
        filled_l=filled,
        label_x=label_x,
        bottom=scale.bottom,
        words=t(
            reader,
            "{mixer} in section, filled to {volume}: {layers}",
            mixer=mixer.name,
            volume=say(show_litres(filled, reader)),
            layers="; ".join(f"{r[2]} {r[3]}" for r in rough),
        ),
    )


@dataclass(frozen=True, slots=True)
class Mark:
    """A length or a notch on the dipstick."""

    kind: str
    name: str
    amount: str
    top: float
    bottom: float
    label_y: float


@dataclass(frozen=True, slots=True)
class Dipstick:
    """The water of one load on a rod, in drawing units."""

    height: float
    zero_y: float
    per_l: float
    poured_from_y: float
    """Where the pour begins: above what the heap brings."""
    parts: tuple[Mark, ...]
    ticks: tuple[tuple[float, str], ...]
    """Of what is poured: its zero is where the pour begins."""
    target_y: float
    highest_y: float
    words: str


def _ticks(span_l: float, most_l: float, reader: Reader) -> list[tuple[float, str]]:
    """Choose the marks of the rod, in the unit the reader pours by: height [L] and number of each."""
    unit_l = (GAL_L if span_l >= 2 * GAL_L else GAL_L / 4) if reader.us else 1.0
    steps = (0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0)
    step = next((one for one in steps if span_l / unit_l / one <= 9), 200.0)
    mark = decimal_mark(reader.language)
    return [(i * step * unit_l, f"{i * step:g}".replace(".", mark)) for i in range(int(most_l / unit_l / step) + 1)]


def _brought_words(card: TicketCard) -> str:
    if card.water.ice_kg > 0:
        return mark("heap and ice")
    return mark("heap and can") if card.admixtures else mark("in the heap")


_Stretch = tuple[str, Words, float, float, float]
"""Part of the rod: kind, name, how much, from where, to where [L]."""


def _stretches(card: TicketCard) -> list[_Stretch]:
    """List what stands on the rod: what the heap brings or drinks, the pours, and the two notches."""
    water = card.water
    brought, poured = water.brought_l, water.brought_l + water.first_l
    first = mark("pour first") if water.hold_back_l > 0 else mark("pour")
    rows: list[_Stretch] = [
        ("drunk", mark("the heap drinks"), -brought, brought, 0.0)
        if brought < 0
        else ("brought", _brought_words(card), brought, 0.0, brought),
        ("first", first, water.first_l, brought, poured),
        ("held", mark("hold back"), water.hold_back_l, poured, poured + water.hold_back_l),
        ("dry", mark("if dry"), water.if_dry_l, brought + water.pour.target, _top(card, water.if_dry_l)),
    ]
    # A notch says what is poured by then, as it is counted; the rod below it holds what the heap brings as well.
    notches = (("target", mark("target"), water.pour.target), ("never", mark("never past"), water.pour.high))
    stand = [(kind, name, litres, brought + litres, brought + litres) for kind, name, litres in notches]
    return [row for row in rows if abs(row[2]) > 1e-9] + stand


def _top(card: TicketCard, more_l: float) -> float:
    return card.water.brought_l + card.water.pour.target + more_l


def dipstick(card: TicketCard, reader: Reader, high: float = STICK_HIGH) -> Dipstick:
    """Lay the water account of a load on the rod."""
    water = card.water
    drunk = max(-water.brought_l, 0.0)
    brought, most = water.brought_l, water.brought_l + water.pour.high
    span = (most + drunk) * 1.06
    per_l = high / span
    zero = TOP + high - drunk * per_l

    def y(litres: float) -> float:
        return zero - litres * per_l

    ordered = sorted(_stretches(card), key=lambda r: -(r[3] + r[4]) / 2)
    labels = spread([y((r[3] + r[4]) / 2) for r in ordered], 40.0, TOP + 6, TOP + high - 4)
    parts = tuple(
        Mark(kind, put(name, reader), say(show_litres(amount, reader)), y(to), y(start), label)
        for (kind, name, amount, start, to), label in zip(ordered, labels, strict=True)
    )
    ticks = tuple((y(brought + litres), number) for litres, number in _ticks(span, water.pour.high, reader))
    return Dipstick(
        height=TOP + high + 16,
        zero_y=zero,
        per_l=per_l,
        poured_from_y=y(brought),
        parts=parts,
        ticks=ticks,
        target_y=y(brought + water.pour.target),
        highest_y=y(most),
        words="; ".join(f"{p.name} {p.amount}" for p in reversed(parts)),
    )


def code(address: str) -> Markup:
    """Draw an address as a QR code."""
    return Markup(segno.make(address, error="m", micro=False).svg_inline(omitsize=True, border=4))  # noqa: S704
