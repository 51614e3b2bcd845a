"""Geometry of what the mix book draws: a cubic metre of a mix as a column, and grading curves."""

import math
from dataclasses import dataclass
from typing import Final

from keeve.core.materials.grading import Envelope, Grading
from keeve.core.proportions.base import Proportions
from keeve.web.drawings.common import hatch_of, spread
from keeve.words.putting import put, t
from keeve.words.reader import Reader

COLUMN_HIGH: Final = 300.0
LABEL_GAP: Final = 17.0


@dataclass(frozen=True, slots=True)
class Slice:
    """One constituent of the column."""

    hatch: str
    name: str
    percent: float
    top: float
    height: float
    label_y: float


def column(proportions: Proportions, reader: Reader) -> tuple[Slice, ...]:
    """Stack what fills a cubic metre, by true volume: grains from the bottom, then water, then air."""
    parts = [
        (hatch_of(c.material.role), put(c.material.name, reader), c.solid_m3)
        for c in reversed(proportions.constituents)
    ]
    parts += [
        ("water", t(reader, "Water"), proportions.water.target / 1000),
        ("air", t(reader, "Air"), max(proportions.air, 0.0)),
    ]
    total = sum(p[2] for p in parts)
    rows, filled = [], 0.0
    for hatch, name, m3 in parts:
        share = m3 / total
        top = COLUMN_HIGH * (1 - filled - share)
        rows.append((hatch, name, m3 * 100, top, COLUMN_HIGH * share))
        filled += share
    rows.reverse()  # labels run from the top down
    labels = spread([top + high / 2 for _, _, _, top, high in rows], LABEL_GAP, 8.0, COLUMN_HIGH - 4)
    return tuple(Slice(*row, label) for row, label in zip(rows, labels, strict=True))


PLOT_WIDE: Final = 520.0
PLOT_HIGH: Final = 300.0
PLOT_LEFT: Final = 44.0
PLOT_TOP: Final = 14.0


@dataclass(frozen=True, slots=True)
class Plot:
    """Grading curves over their envelope, in drawing units."""

    width: float
    height: float
    band: str
    curves: tuple[tuple[str, str, str], ...]
    """Kind, name and points of each."""
    sieves: tuple[tuple[float, str], ...]
    shares: tuple[tuple[float, str], ...]
    bottom: float
    right: float
    words: str


def grading_plot(envelope: Envelope, curves: tuple[tuple[str, Grading], ...], reader: Reader) -> Plot:
    """Lay grading curves over an envelope; sieve sizes on a logarithmic scale, as the trade draws them."""
    sizes = [b.sieve_mm for b in envelope.bounds] + [p.sieve_mm for _, g in curves for p in g.points]
    low, high = min(sizes), max(sizes)
    span = math.log(high / low)

    def x(mm: float) -> float:
        return PLOT_LEFT + PLOT_WIDE * math.log(mm / low) / span

    def y(percent: float) -> float:
        return PLOT_TOP + PLOT_HIGH * (1 - percent / 100)

    bounds = sorted(envelope.bounds, key=lambda b: b.sieve_mm)
    upper = [(b.sieve_mm, b.high) for b in bounds]
    lower = [(b.sieve_mm, b.low) for b in reversed(bounds)]
    named = sorted({b.sieve_mm for b in envelope.bounds} | {p.sieve_mm for _, g in curves[:1] for p in g.points})
    said = "; ".join(
        f"{put(grading.name, reader)}: "
        + ", ".join(
            t(reader, "{share} pass {sieve}", share=f"{p.percent:.0f} %", sieve=f"{p.sieve_mm:g} mm")
            for p in grading.points
        )
        for _, grading in curves
    )
    return Plot(
        width=PLOT_LEFT + PLOT_WIDE + 18,
        height=PLOT_TOP + PLOT_HIGH + 40,
        band=" ".join(f"{x(mm):.1f},{y(p):.1f}" for mm, p in upper + lower),
        curves=tuple(
            (
                kind,
                put(grading.name, reader),
                " ".join(f"{x(p.sieve_mm):.1f},{y(p.percent):.1f}" for p in grading.points),
            )
            for kind, grading in curves
        ),
        sieves=tuple((x(mm), f"{mm:g}") for mm in named),
        shares=tuple((y(p), f"{p}") for p in range(0, 101, 20)),
        bottom=PLOT_TOP + PLOT_HIGH,
        right=PLOT_LEFT + PLOT_WIDE,
        words=said,
    )
