"""What a scale or a meter says and understands: JSON messages of a WebSocket; docs/devices.md explains it."""

from typing import Any, Final, Literal

from pydantic import Field, TypeAdapter

from keeve.core.message.errors import Frozen

DeviceKind = Literal["hanging scale", "bench scale", "water meter"]
READINGS_HZ: Final = 10.0
SILENT_S: Final = 1.0
"""After so long without a reading the page shows none: a number that stands still may be old."""


class Device(Frozen):
    """A device as the yard knows it."""

    key: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    name: str = Field(min_length=1, max_length=80)
    kind: DeviceKind
    step: float = Field(gt=0, le=50)
    """Smallest step it shows, in kg or L."""
    most: float = Field(gt=0, le=5000)
    address: str = Field("", max_length=200)
    """WebSocket of a real one on this machine; empty is a stand-in."""


class Reading(Frozen):
    """What it shows, in kg or L since the tare."""

    kind: Literal["reading"] = "reading"
    seq: int = Field(ge=0)
    value: float = Field(allow_inf_nan=False, ge=-100_000, le=100_000)
    stable: bool
    """Whether it has come to rest."""
    battery_percent: int | None = Field(None, ge=0, le=100)
    overload: bool = False


class Command(Frozen):
    """What a page asks of it."""

    do: Literal["tare", "zero"]


class Practise(Frozen):
    """What a page asks of a stand-in, in the place of a hand: a real device does not know it."""

    do: Literal["pour", "stop", "take off", "drift", "battery low", "unplug"]
    per_s: float = Field(0.0, ge=0, le=20)
    """Of a pour, in kg or L a second."""
    much: float = Field(0.0, ge=0, le=500)
    """Put on at once, in kg: an empty vessel."""


_READING: Final[TypeAdapter[Reading]] = TypeAdapter(Reading)
_ASKED: Final[TypeAdapter[Command | Practise]] = TypeAdapter(Command | Practise)


def read_reading(document: Any) -> Reading:
    """Read a device's message.

    Raises
    ------
    ValidationError : it is none
    """
    return _READING.validate_python(document)


def read_asked(document: Any) -> Command | Practise:
    """Read what a page asks.

    Raises
    ------
    ValidationError : nobody understands it
    """
    return _ASKED.validate_python(document)
