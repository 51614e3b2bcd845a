"""What happens in a yard between loads: rain, deliveries, new bags, weather read, and what was looked at."""

from collections.abc import Iterable
from typing import Annotated, Final, Literal

from pydantic import AwareDatetime, Field, TypeAdapter

from keeve.core.errors import Frozen

HeapChange = Literal["rain", "uncovered", "bottom", "delivery"]
HEAP_CHANGES: Final[tuple[HeapChange, ...]] = ("rain", "uncovered", "bottom", "delivery")
"""After each of them a heap is as wet as nobody knows."""
Change = Literal["rain", "uncovered", "bottom", "delivery", "bags"]


class _Entry(Frozen):
    id: str = Field(min_length=8, max_length=40)
    at: AwareDatetime


class Changed(_Entry):
    """Something happened to a material, or to all of them."""

    kind: Change
    of: str = Field("", max_length=80)
    """Key of the material; empty is all that lies outside."""


class Checked(_Entry):
    """Somebody looked."""

    kind: Literal["checked"] = "checked"
    check: str = Field(max_length=40)
    of: str = Field("", max_length=80)
    """Key of the material; empty for what is no material's."""
    answer: str = Field(max_length=40)
    silt_percent: float | None = Field(None, ge=0, le=100)
    """Layer on top ÷ sand, where it was measured."""


class Weather(_Entry):
    """The air, as typed or read."""

    kind: Literal["weather"] = "weather"
    air_c: float = Field(ge=-40, le=60)
    humidity_percent: float | None = Field(None, ge=0, le=100)
    wind_km_h: float | None = Field(None, ge=0, le=200)
    ground_c: float | None = Field(None, ge=-40, le=80)
    sun_percent: float | None = Field(None, ge=0, le=100)


DayEntry = Annotated[Changed | Checked | Weather, Field(discriminator="kind")]
_READ: Final[TypeAdapter[Changed | Checked | Weather]] = TypeAdapter(DayEntry)


def read_entry(document: object) -> Changed | Checked | Weather:
    """Read an entry of a yard's day log as it is kept.

    Common practice, no source; raises ValueError where it is none.
    """
    return _READ.validate_python(document)


def last_change(log: Iterable[Changed | Checked | Weather], kinds: tuple[str, ...], of: str) -> Changed | None:
    """Return the latest of some kinds of change that touches a material. Plain arithmetic."""
    found = [one for one in log if isinstance(one, Changed) and one.kind in kinds and one.of in ("", of)]
    return max(found, key=lambda one: one.at, default=None)


def last_weather(log: Iterable[Changed | Checked | Weather]) -> Weather | None:
    """Return the latest reading of the air. Plain arithmetic."""
    return max((one for one in log if isinstance(one, Weather)), key=lambda one: one.at, default=None)
