"""What happens at a mixer, one model for each kind of event, each carrying what its kind needs."""

import json
from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Any, Final, Literal, get_args

from pydantic import AfterValidator, AwareDatetime, ConfigDict, Discriminator, Field, TypeAdapter, model_validator
from pydantic_core import PydanticCustomError

from keeve.core.materials.looks import HeapChange, HeapLook
from keeve.core.measure.moments import of_our_days
from keeve.core.message.errors import Frozen
from keeve.core.run.brief import MOST_BESIDE, Brief

MOST_AT_ONCE_L: Final = 500.0
MOST_LOADS: Final = 100_000
Verdict = Literal["dry", "right", "wet"]
MeasuredKind = Literal["slump", "slump flow", "flow", "air", "density", "temperature"]


_Moment = Annotated[AwareDatetime, AfterValidator(of_our_days)]


class _Event(Frozen):
    """Who tapped, and when. The client makes the id, so that sending twice changes nothing.

    What a newer phone tells besides is kept as it came.
    """

    model_config = ConfigDict(extra="allow")

    id: str = Field(pattern=r"^[0-9a-f-]{16,36}$")
    at: _Moment
    """When it happened; as the server keeps it, set right by the phone's skew."""
    phone: str = Field(pattern=r"^[A-Za-z0-9_.-]{1,60}$")
    seq: int = Field(ge=0, le=10**12)
    """The phone's own counter."""
    tapped_at: AwareDatetime | None = None
    """The phone's own clock, as it was sent."""

    @model_validator(mode="after")
    def _not_endless(self) -> "_Event":
        if self.model_extra and len(json.dumps(self.model_extra)) > MOST_BESIDE:
            raise PydanticCustomError("entry_too_large", "An entry of the log is no longer than that.")
        return self


class _OfLoad(_Event):
    load: int = Field(ge=1, le=MOST_LOADS)
    mixer: str = Field(min_length=1, max_length=80)


class Started(_OfLoad):
    """A load was begun from a ticket."""

    kind: Literal["started"] = "started"
    ticket: int = Field(ge=1, le=MOST_LOADS)
    slot: int | None = Field(None, ge=0, le=MOST_LOADS)
    """Which of the ticket's loads it is; none for one more."""
    brief: Brief | None = None
    """What was told of it; entries of before have three figures at most."""
    expected_l: float | None = Field(None, ge=0, le=10 * MOST_AT_ONCE_L)
    first_l: float | None = Field(None, ge=0, le=10 * MOST_AT_ONCE_L)
    ceiling_l: float | None = Field(None, ge=0, le=10 * MOST_AT_ONCE_L)


class Briefed(_OfLoad):
    """Something changed what is told of a load: a look at the heap, another way to measure."""

    kind: Literal["briefed"] = "briefed"
    brief: Brief


class Poured(_OfLoad):
    """Water went in."""

    kind: Literal["poured"] = "poured"
    litres: float = Field(ge=0, le=MOST_AT_ONCE_L)
    rest_of: float | None = Field(None, ge=0, le=10 * MOST_AT_ONCE_L)
    """Poured the rest: the count it was the rest to."""
    over: bool = False
    """Poured past the highest, on purpose."""
    brief: str = Field("", max_length=36)
    """Id of the entry that carried the brief it was poured by."""


class StepDone(_OfLoad):
    """A step is done."""

    kind: Literal["step_done"] = "step_done"
    step: int = Field(ge=0, le=100)


class StepBack(_OfLoad):
    """A step is done once more."""

    kind: Literal["step_back"] = "step_back"
    step: int = Field(ge=0, le=100)


class Judged(_OfLoad):
    """Somebody looked."""

    kind: Literal["judged"] = "judged"
    verdict: Verdict


class DryAdded(_OfLoad):
    """Dry mix went into a load that was too wet."""

    kind: Literal["dry_added"] = "dry_added"
    dry_kg: float = Field(gt=0, le=2000)
    """Counted oven-dry."""
    parts: dict[str, float] = Field({}, max_length=20)
    """As it lay in the heap, by constituent [kg]."""


class Measured(_OfLoad):
    """Something was measured of it."""

    kind: Literal["measured"] = "measured"
    what: MeasuredKind
    value: float = Field(ge=-50, le=10_000, allow_inf_nan=False)
    """In mm, %, kg/m³ or °C."""


class Weighed(_OfLoad):
    """A vessel of one constituent was weighed."""

    kind: Literal["weighed"] = "weighed"
    part: str = Field(min_length=1, max_length=80)
    """Key of the dose."""
    vessel: int = Field(0, ge=0, le=200)
    kg: float = Field(gt=0, le=5000, allow_inf_nan=False)
    """Net, as it lies."""
    device: str = Field("", max_length=40)


class StageSeen(_OfLoad):
    """Plaster was seen to begin a stage."""

    kind: Literal["stage_seen"] = "stage_seen"
    stage: str = Field(min_length=1, max_length=40)


class Accepted(_OfLoad):
    """The load is used."""

    kind: Literal["accepted"] = "accepted"


class ThrownAway(_OfLoad):
    """The load is not used."""

    kind: Literal["thrown_away"] = "thrown_away"


class Settled(_OfLoad):
    """Once or twice? An answer about a tap that looked like another."""

    kind: Literal["settled"] = "settled"
    about: str = Field(max_length=36)
    twice: bool


class OneMore(_Event):
    """One more load than the ticket plans."""

    kind: Literal["one_more"] = "one_more"
    ticket: int = Field(ge=1, le=MOST_LOADS)


class Looked(_Event):
    """Somebody looked at a heap, beside the mixer."""

    kind: Literal["looked"] = "looked"
    of: str = Field(min_length=1, max_length=80)
    """Key of the material."""
    look: HeapLook
    ticket: int = Field(ge=1, le=MOST_LOADS)
    """Revision that was mixed from: what a later one says of the heap is younger than the look."""


class Happened(_Event):
    """Something happened to a heap, or to the bags."""

    kind: Literal["happened"] = "happened"
    what: HeapChange | Literal["bags"]
    of: str = Field("", max_length=80)
    """Key of the material; empty is all that lies outside."""


class Undone(_Event):
    """A tap is taken back."""

    kind: Literal["undone"] = "undone"
    undoes: str = Field(max_length=36)


class Unknown(_Event):
    """A tap of a kind that this version does not know: kept as it came, and read by whoever knows it."""

    kind: str = Field(pattern=r"^[a-z][a-z_]{0,39}$")


LoadEvent = (
    Started
    | Briefed
    | Poured
    | StepDone
    | StepBack
    | Judged
    | DryAdded
    | Measured
    | Weighed
    | StageSeen
    | Accepted
    | ThrownAway
    | Settled
)
Known = LoadEvent | OneMore | Looked | Happened | Undone
Event = Known | Unknown
OF_LOAD: Final = tuple(str(one.model_fields["kind"].default) for one in get_args(LoadEvent))
"""Kinds of entries that are of one load."""
KINDS: Final = tuple(str(one.model_fields["kind"].default) for one in get_args(Known))
_ADAPTER: Final[TypeAdapter[Known]] = TypeAdapter(Annotated[Known, Discriminator("kind")])
_EPOCH: Final = datetime.fromisoformat("1970-01-01T00:00:00+00:00")


def read_event(raw: Any) -> Event:
    """Read one event from its document.

    Parameters
    ----------
    raw : the document

    Returns
    -------
    the event; of a kind that is not known here, an `Unknown` with all it holds

    Raises
    ------
    ValidationError : a missing part, a time without zone, a kind that is no name

    References
    ----------
    Common practice, no source.
    """
    kind = raw.get("kind") if isinstance(raw, Mapping) else None
    if isinstance(kind, str) and kind not in KINDS:
        return Unknown.model_validate(raw)
    return _ADAPTER.validate_python(raw)


def milliseconds(at: datetime) -> int:
    """Return a moment in whole milliseconds since 1970, as a browser counts [ms]. Plain arithmetic.

    >>> milliseconds(datetime.fromisoformat("1970-01-01T01:00:01.5+01:00"))
    1500
    """
    delta = at - _EPOCH
    return (delta.days * 86_400 + delta.seconds) * 1000 + delta.microseconds // 1000
