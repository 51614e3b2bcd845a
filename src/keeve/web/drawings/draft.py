"""A sheet to draw shapes on: outlines in millimetres and words at their spots, scaled into one frame."""

import math
from dataclasses import dataclass
from typing import Any, Final

from keeve.words.putting import t
from keeve.words.reader import Reader
from keeve.words.showing import say, show_length

WIDE: Final = 210.0
HIGH: Final = 142.0
SIDE: Final = 40.0
"""Room for measures left and right."""
END: Final = 20.0
"""Room above and below."""
Points = list[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Stroke:
    """One piece of a drawing: an outline with its kind, or a measure written at a spot."""

    kind: str
    points: str = ""
    x: float = 0.0
    y: float = 0.0
    text: str = ""
    anchor: str = "middle"
    field: str = ""
    """The field in which this measure is entered."""


class Draft:
    """Collects outlines in millimetres, y upwards, and writes them to scale into the drawing's frame."""

    def __init__(
        self, reader: Reader, fields: dict[float, str] | None = None, letters: dict[str, str] | None = None
    ) -> None:
        """Begin a drawing.

        Parameters
        ----------
        reader : in whose units measures are written
        fields : by a length [mm], the field it is entered in
        letters : by a field, what is written in the place of its measure
        """
        self.reader = reader
        self._fields = fields or {}
        self._letters = letters or {}
        self._said: dict[str, str] = {}
        self.sketch = letters is not None
        """Whether nobody has measured it yet: then no figure of the sample stands in it."""
        self._outlines: list[tuple[str, Points]] = []
        self._words: list[tuple[float, float, float, float, str, str]] = []

    def outline(self, kind: str, points: Points) -> None:
        """Add an outline: fill, plan, post, void, or an open line of ground or water."""
        self._outlines.append((kind, points))

    def box(self, kind: str, x: float, y: float, wide: float, high: float) -> None:
        """Add a rectangle by its lower left corner."""
        self.outline(kind, [(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)])

    def word(self, x: float, y: float, text: str, *, dx: float = 0, dy: float = 0, anchor: str = "middle") -> None:
        """Write at a spot of the drawing, shifted by drawing units; nothing where there is nothing to say."""
        if not text:
            return
        self._words.append((x, y, dx, dy, text, anchor))

    def below(self, x: float, y: float, text: str) -> None:
        """Write under a spot."""
        self.word(x, y, text, dy=15)

    def above(self, x: float, y: float, text: str) -> None:
        """Write over a spot."""
        self.word(x, y, text, dy=-5)

    def right(self, x: float, y: float, text: str) -> None:
        """Write to the right of a spot."""
        self.word(x, y, text, dx=5, dy=5, anchor="start")

    def left(self, x: float, y: float, text: str) -> None:
        """Write to the left of a spot."""
        self.word(x, y, text, dx=-5, dy=5, anchor="end")

    def tell(self, msg: str, **values: Any) -> str:
        """Say a message in the reader's language."""
        return t(self.reader, msg, **values)

    def mm(self, length_mm: float) -> str:
        """Say a length in the reader's units, or by its letter where nobody has measured it yet."""
        field = self._fields.get(round(length_mm, 3), "")
        text = self._letters.get(field) or ("" if self.sketch else say(show_length(length_mm, self.reader)))
        if field:
            self._said.setdefault(text, field)
        return text

    def _field_of(self, text: str) -> str:
        """Find the field of the first measure in a text."""
        found = [(text.find(said), field) for said, field in self._said.items() if said in text]
        return min(found)[1] if found else ""

    def lines(self) -> tuple[Stroke, ...]:
        """Scale everything into the frame."""
        xs = [x for _, points in self._outlines for x, _ in points] or [0.0]
        ys = [y for _, points in self._outlines for _, y in points] or [0.0]
        wide, high = max(max(xs) - min(xs), 1e-6), max(max(ys) - min(ys), 1e-6)
        per_mm = min((WIDE - 2 * SIDE) / wide, (HIGH - 2 * END) / high)
        left, low = (WIDE - wide * per_mm) / 2, HIGH - END - (HIGH - 2 * END - high * per_mm) / 2

        def at(x: float, y: float) -> tuple[float, float]:
            return left + (x - min(xs)) * per_mm, low - (y - min(ys)) * per_mm

        drawn = [
            Stroke(kind, points=" ".join(f"{x:.1f},{y:.1f}" for x, y in (at(*point) for point in points)))
            for kind, points in self._outlines
        ]
        for x, y, dx, dy, text, anchor in self._words:
            px, py = at(x, y)
            drawn.append(Stroke("word", x=px + dx, y=py + dy, text=text, anchor=anchor, field=self._field_of(text)))
        return tuple(drawn)


def arc(middle: tuple[float, float], radius: float, begin: float = 0.0, end: float = 2 * math.pi) -> Points:
    """Return points along an arc, anticlockwise from `begin` to `end` [rad]."""
    steps = 48
    return [
        (
            middle[0] + radius * math.cos(begin + (end - begin) * i / steps),
            middle[1] + radius * math.sin(begin + (end - begin) * i / steps),
        )
        for i in range(steps + 1)
    ]
