"""What happens in a yard between loads: rain, deliveries, new bags, weather read, and what was looked at."""

from collections.abc import Iterable
from typing import Annotated, Final, Literal

from pydantic import AwareDatetime, Field, TypeAdapter

from keeve.core.materials.looks import HeapChange
from keeve.core.message.errors import Frozen

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


class Sieved(_Entry):
    """A heap is the sand of a sieve sheet in the crew's book."""

    kind: Literal["sieved"] = "sieved"
    of: str = Field(max_length=80)
    """Key of the material."""
    sheet: str = Field("", max_length=40)
    """Key of the sheet; empty is none any more."""


class Stiffened(_Entry):
    """A load of a mix began to stiffen: how long after its water, and in what air."""

    kind: Literal["stiffened"] = "stiffened"
    of: str = Field(max_length=80)
    """Key of the mix."""
    minutes: float = Field(gt=0, le=1440)
    air_c: float = Field(ge=-40, le=60)


class Filled(_Entry):
    """What a job's accepted loads really filled; the latest word on a job counts."""

    kind: Literal["filled"] = "filled"
    job: str = Field(max_length=40)
    litres: float = Field(gt=0, le=1_000_000)


class Figured(_Entry):
    """A crew goes by a figure of its own from now on, or by the book's again."""

    kind: Literal["figured"] = "figured"
    of: str = Field(max_length=80)
    """Key of the mix."""
    what: Literal["clock", "makes", "pace"]
    value: float | None = Field(None, gt=0, le=2000)
    """None is the book's again."""
    seen: int = Field(0, ge=0)
    """On how many loads or jobs it stood then."""


Entry = Changed | Checked | Weather | Sieved | Stiffened | Filled | Figured
_READ: Final[TypeAdapter[Entry]] = TypeAdapter(Annotated[Entry, Field(discriminator="kind")])


def read_entry(document: object) -> Entry:
    """Read an entry of a yard's day log as it is kept.

    Common practice, no source; raises ValueError where it is none.
    """
    return _READ.validate_python(document)


def last_change(log: Iterable[Entry], kinds: tuple[str, ...], of: str) -> Changed | None:
    """Return the latest of some kinds of change that touches a material. Plain arithmetic."""
    found = [one for one in log if isinstance(one, Changed) and one.kind in kinds and one.of in ("", of)]
    return max(found, key=lambda one: one.at, default=None)


def figures_of(log: Iterable[Entry]) -> dict[str, dict[str, Figured]]:
    """Return the figures of its own a crew goes by, by mix and kind; the latest word counts. Plain arithmetic."""
    found: dict[str, dict[str, Figured]] = {}
    for one in sorted((one for one in log if isinstance(one, Figured)), key=lambda one: one.at):
        found.setdefault(one.of, {})[one.what] = one
    return {
        mix: good
        for mix, all_ in found.items()
        if (good := {what: one for what, one in all_.items() if one.value is not None})
    }


def sieved(log: Iterable[Entry]) -> dict[str, Sieved]:
    """Return which sieve sheet each heap's is, by material; the latest word counts. Plain arithmetic."""
    found = {one.of: one for one in sorted((o for o in log if isinstance(o, Sieved)), key=lambda one: one.at)}
    return {of: one for of, one in found.items() if one.sheet}


def stiffened(log: Iterable[Entry], mix: str) -> list[tuple[float, float]]:
    """Return when loads of a mix stiffened, the latest first: [min], in an air of [°C]. Plain arithmetic."""
    found = [one for one in log if isinstance(one, Stiffened) and one.of == mix]
    return [(one.minutes, one.air_c) for one in sorted(found, key=lambda one: one.at, reverse=True)]


def filled_l(log: Iterable[Entry], job: str) -> float | None:
    """Return what a job's loads were last said to have filled [L]. Plain arithmetic."""
    found = [one for one in log if isinstance(one, Filled) and one.job == job]
    return max(found, key=lambda one: one.at).litres if found else None


def last_weather(log: Iterable[Entry]) -> Weather | None:
    """Return the latest reading of the air. Plain arithmetic."""
    return max((one for one in log if isinstance(one, Weather)), key=lambda one: one.at, default=None)
