"""The explanation every figure carries: its formula, what went in, and where it comes from."""

from typing import NamedTuple

from keeve.core.message.errors import Frozen
from keeve.core.message.said import Words, mark


class Given(NamedTuple):
    """One value that went into a figure, in the unit named."""

    name: Words
    value: float
    unit: str


class Working(Frozen):
    """How one figure was found."""

    figure: Words
    """What the figure is, in words."""
    formula: Words
    given: tuple[Given, ...]
    result: float
    unit: str
    source: Words


PRACTICE = "common practice, no source"
ARITHMETIC = mark("plain arithmetic")
