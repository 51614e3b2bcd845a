"""How sure a take-off is: what each measure's doubt does to the volume, and which is worth taking again."""

import math
from typing import Final

from keeve.core.message.errors import Frozen, TakeoffError
from keeve.core.takeoff.item import Measured
from keeve.core.takeoff.shapes import Shape

NEAR_MM: Final = 5.0
FAR_MM: Final = 10.0
FAR_FROM_MM: Final = 1000.0
MOST_SHARE: Final = 0.1


class Doubt(Frozen):
    """What one measure's doubt does."""

    shape: int
    """Which shape of the list, from 0."""
    field: str
    """Of the shape, with dots."""
    measure_mm: float
    doubt_mm: float
    said: bool
    """Whether the person said so, or it is the usual doubt."""
    volume_m3: float
    """How far off the whole volume of the item may be for it."""


class Sureness(Frozen):
    """How far the net volume may be off."""

    net_m3: float
    off_m3: float
    decisive: Doubt | None
    """The measure worth taking again; None where nothing was measured with a tape."""
    doubts: tuple[Doubt, ...]
    """The largest first."""


def usual_doubt_mm(measure_mm: float) -> float:
    """How far off a measure is taken to be where nobody said [mm].

    Parameters
    ----------
    measure_mm : what was measured [mm], >= 0

    Returns
    -------
    doubt [mm]: 5 up to a metre, 10 beyond, never more than a tenth of the measure

    References
    ----------
    Own assumption.

    >>> usual_doubt_mm(95), usual_doubt_mm(4000), usual_doubt_mm(10)
    (5.0, 10.0, 1.0)
    """
    return min(NEAR_MM if measure_mm < FAR_FROM_MM else FAR_MM, measure_mm * MOST_SHARE)


def sureness(shapes: tuple[Shape, ...]) -> Sureness:
    """Work out how sure a take-off is.

    Parameters
    ----------
    shapes : as measured; those switched off are left out

    Returns
    -------
    net volume [m³], how far it may be off [m³], and what each measure does

    Raises
    ------
    TakeoffError : a shape that cannot be

    Notes
    -----
    Each measure x is moved by its doubt d: |V(x + d) − V(x − d)| / 2 for all alike of an item, which are taken to be
    off together. Measures are independent: the whole is the root of the sum of squares.

    References
    ----------
    Propagation of independent errors, plain arithmetic.
    """
    doubts: list[Doubt] = []
    net = 0.0
    for index, shape in enumerate(shapes):
        if shape.off:
            continue
        net += shape.volume()[0] * shape.count
        doubts += _of(index, shape)
    doubts.sort(key=lambda doubt: -doubt.volume_m3)
    off = math.sqrt(math.fsum(d.volume_m3**2 for d in doubts))
    decisive = doubts[0] if doubts and doubts[0].volume_m3 > 0 else None
    return Sureness(net_m3=net, off_m3=off, decisive=decisive, doubts=tuple(doubts))


def _of(index: int, shape: Shape) -> list[Doubt]:
    found = []
    for path, measured, value in _measures(shape):
        name = path.rsplit(".", 1)[-1]
        said = name in measured.unsure
        doubt = measured.unsure[name] if said else usual_doubt_mm(value)
        if doubt <= 0:
            continue
        volumes = [v for moved in (value + doubt, value - doubt) if (v := _moved(shape, path, moved)) is not None]
        if not volumes:
            continue
        # Where one side cannot be (a post as thick as its hole), the other side alone tells.
        span = abs(volumes[0] - volumes[1]) / 2 if len(volumes) == 2 else abs(volumes[0] - shape.volume()[0])
        found.append(
            Doubt(shape=index, field=path, measure_mm=value, doubt_mm=doubt, said=said, volume_m3=span * shape.count)
        )
    return found


def _measures(shape: Shape) -> list[tuple[str, Measured, float]]:
    found: list[tuple[str, Measured, float]] = []
    for name in type(shape).model_fields:
        value = getattr(shape, name)
        if isinstance(value, Measured):
            found += [
                (f"{name}.{inner}", value, size)
                for inner in type(value).model_fields
                if inner.endswith("_mm") and isinstance(size := getattr(value, inner), float)
            ]
        elif name.endswith("_mm") and isinstance(value, float) and name not in type(shape).certain:
            found.append((name, shape, value))
    return found


def _moved(shape: Shape, path: str, value: float) -> float | None:
    head, _, tail = path.partition(".")
    if value < 0:
        return None
    changed = getattr(shape, head).model_copy(update={tail: value}) if tail else value
    try:
        return shape.model_copy(update={head: changed}).volume()[0]
    except TakeoffError:
        return None
