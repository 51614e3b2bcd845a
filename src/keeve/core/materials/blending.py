"""Two sands that make one: mixed by their shares, and the share that keeps inside an envelope best."""

import math
from typing import Final

from keeve.core.materials.grading import Envelope, Grading, Passing
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Said
from keeve.core.message.working import Given, Working

_CLOSE: Final = 1e-6


class Blend(Frozen):
    """Two sands together."""

    first_share: float
    """Share of the first sand by dry mass [-]."""
    grading: Grading
    inside: tuple[float, float] | None
    """Between which shares of the first the blend lies inside the envelope; None where none does."""
    working: Working


def mixed(first: Grading, second: Grading, first_share: float) -> Grading:
    """Grading of two sands together.

    Parameters
    ----------
    first, second : their gradings
    first_share : share of the first by dry mass [-], 0..1

    Returns
    -------
    the curve on the sieves of both

    References
    ----------
    Plain arithmetic: shares by mass, for sands of like density.
    """
    sizes = sorted({p.sieve_mm for p in (*first.points, *second.points)})
    points = tuple(
        Passing(sieve_mm=mm, percent=first.at(mm) * first_share + second.at(mm) * (1 - first_share)) for mm in sizes
    )
    return Grading(name=Said("{first} and {second}", first=first.name, second=second.name), points=points)


def best_blend(first: Grading, second: Grading, envelope: Envelope) -> Blend:
    """Find the share of two sands whose curve is nearest to the middle of an envelope.

    Parameters
    ----------
    first, second : gradings of the sands
    envelope : of the work

    Returns
    -------
    the best share, its curve, and between which shares the blend lies inside; where there are such shares, the
    best is one of them

    Raises
    ------
    MixError : the two sands are the same on every sieve

    Notes
    -----
    Least squares on the passings p at the envelope's sieves against its middle t, with x ≥ 0 and Σ x = 1:
    x = Σ (t − p₂)(p₁ − p₂) / Σ (p₁ − p₂)², held between 0 and 1, and to the shares that lie inside: the nearest
    curve may leave the envelope at one sieve where another share passes every one.

    References
    ----------
    Plain arithmetic; the middle as the aim is common practice, no source.
    """
    sizes = [b.sieve_mm for b in envelope.bounds]
    aim = [(b.low + b.high) / 2 for b in envelope.bounds]
    one, two = [first.at(mm) for mm in sizes], [second.at(mm) for mm in sizes]
    apart = math.fsum((a - b) ** 2 for a, b in zip(one, two, strict=True))
    if apart < _CLOSE:
        raise MixError(Fault(Code.REFUSED, "The two sands are alike: no blend changes them.", "Take either.", field=""))
    toward = math.fsum((t - b) * (a - b) for t, a, b in zip(aim, one, two, strict=True))
    inside = _inside(one, two, envelope)
    low, high = inside or (0.0, 1.0)
    share = min(max(toward / apart, low), high)
    return Blend(
        first_share=share,
        grading=mixed(first, second, share),
        inside=inside,
        working=Working(
            figure=Said("Share of {sand}", sand=first.name),
            formula="Σ (middle − second)(first − second) / Σ (first − second)², held to the shares that lie inside",
            given=(
                Given("Σ (middle − second)(first − second)", toward, ""),
                Given("Σ (first − second)²", apart, ""),
                Given("least share", low * 100, "%"),
                Given("greatest share", high * 100, "%"),
            ),
            result=share * 100,
            unit="%",
            source="least squares, plain arithmetic",
        ),
    )


def _inside(one: list[float], two: list[float], envelope: Envelope) -> tuple[float, float] | None:
    """Between which shares of the first every sieve lies inside: each sieve bounds the share on a straight line."""
    low, high = 0.0, 1.0
    for bound, a, b in zip(envelope.bounds, one, two, strict=True):
        if abs(a - b) < _CLOSE:
            if not bound.low - 0.05 <= a <= bound.high + 0.05:
                return None
            continue
        ends = sorted(((bound.low - b) / (a - b), (bound.high - b) / (a - b)))
        low, high = max(low, ends[0]), min(high, ends[1])
    return (low, high) if low <= high else None
