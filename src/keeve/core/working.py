"""The explanation every figure carries: its formula, what went in, and where it comes from."""

from typing import NamedTuple

from keeve.core.errors import Frozen


class Given(NamedTuple):
    """One value that went into a figure, in the unit named."""

    name: str
    value: float
    unit: str


class Working(Frozen):
    """How one figure was found."""

    figure: str
    """What the figure is, in words."""
    formula: str
    given: tuple[Given, ...]
    result: float
    unit: str
    source: str


PRACTICE = "common practice, no source"
ARITHMETIC = "plain arithmetic"
