"""What a way of stating a mix asks a person for: single figures, and lists of what goes in."""

from typing import Literal, NamedTuple

from keeve.core.message.said import Words

Beside = Literal[
    "", "%", "far", "near", "litres", "water", "yield", "area", "mass", "strength", "density", "per m³", "per 100"
]
"""What is written in a field, and so which unit stands beside it; the words of each reader name the unit."""


class Asked(NamedTuple):
    """One figure or choice by which a mix is stated."""

    field: str
    """Its name in the basis, with dots into what it holds."""
    label: Words
    beside: Beside = ""
    hint: Words = ""
    options: tuple[tuple[str, Words], ...] = ()
    """Ways to choose between, as typed and as said; empty where it is written."""
    job: bool = True
    """Whether one job may set it, besides a mix of the crew's own."""
    own: bool = True
    """Whether it is asked when a mix of the crew's own is set up."""
    folded: bool = False
    """Whether few need it, so that it is folded away."""


class AskedList(NamedTuple):
    """Materials with an amount each."""

    field: str
    amount: str
    """Name of the amount in each row."""
    says: Words
    """What the amounts are, over the rows."""
    label: Words
    beside: Beside = ""
