"""What a run says: documents that leave the fold."""

from typing import Literal

from keeve.core.materials.looks import HeapChange, HeapLook
from keeve.core.message.errors import Frozen
from keeve.core.run.brief import Brief
from keeve.core.run.events import Verdict


class DryPart(Frozen):
    """Some of one constituent for a load that is too wet, as it lies in the heap."""

    key: str
    dry_kg: float
    batch_kg: float


class Proposal(Frozen):
    """What brings a load that is too wet back."""

    by: Literal["count", "step"]
    dry_kg: float
    parts: tuple[DryPart, ...]
    fits: bool
    room_kg: float
    """Dry mix there is still room for."""


class Question(Frozen):
    """Once or twice? Two taps that may be one pour."""

    about: str
    """Id of the later tap; it does not count while the question is open."""
    like: str
    litres: float


class LoadState(Frozen):
    """A load as it stands."""

    number: int
    mixer: str
    ticket: int
    slot: int | None
    card: int | None
    """None where its ticket cannot be read."""
    volume_m3: float
    begun_ms: int
    ended_ms: int | None
    met_ms: int | None
    """When water and binder met."""
    step: int
    since_ms: int
    """Since when it stands at its step."""
    first_powder_ms: int | None
    """When it came to the step in which water and binder meet."""
    life_ends_ms: int | None
    poured_ms: int | None
    """When water last went in."""
    poured_l: float
    late_l: float
    """Of it after the first look."""
    pours: int
    dry_added_kg: float
    added_kg: dict[str, float]
    """Dry mix added, by constituent, as it lay in the heap."""
    measured: dict[str, float]
    """The last of each kind, in mm, %, kg/m³ or °C."""
    weighed_kg: dict[str, float]
    """What went in of each constituent that was weighed: by the last reading of a vessel, as planned where none was."""
    stages: dict[str, int]
    """When a stage was seen to begin [ms]."""
    pace: float
    """Real time over expected time of its stages: by its own last mark, else the mean of those seen before that day."""
    verdicts: tuple[Verdict, ...]
    verdict: Literal["", "dry", "right", "wet"]
    """The last look, as long as nothing went in after it."""
    ended: Literal["", "accepted", "thrown_away"]
    accept_waits: bool
    """Accepted, but a question about its water is open."""
    aim_l: float
    """What to pour in all: taught by an earlier load, else the ticket's target; with the dry mix added."""
    due_l: float
    """Of it, what belongs in by the end of the step it stands at."""
    steps_l: tuple[float, ...]
    """Of it, what goes in at each step."""
    first_l: float
    """Of it, what goes in before the sips."""
    brief: Brief | None
    """What was told of it; None of entries that carry nothing: then the ticket or the last load leads."""
    told_by: str
    """Id of the entry that carried that."""
    taught_by: int | None
    ask_moisture: bool
    """What was taught lies below the window: the heap must have changed."""
    low_l: float
    high_l: float
    """Never past this."""
    over: bool
    may_sip: bool
    teaches: bool
    how: Literal["", "poured", "sipped", "rescued"]
    """How the water of a load that teaches came about."""
    water_per_dry: float
    made_m3: float
    proposal: Proposal | None
    question: Question | None


class NextLoad(Frozen):
    """What comes after the loads that were begun."""

    number: int
    mixer: str
    ticket: int
    slot: int | None
    card: int
    volume_m3: float
    aim_l: float
    """By the ticket or the last load of this mixer; what the sand tells is not counted here."""
    taught_by: int | None
    ask_moisture: bool


class HeapTold(Frozen):
    """What was told of a heap beside the mixer: how it looks, or what happened to it."""

    at_ms: int
    of: str
    """Key of the material; empty is all that lies outside."""
    what: HeapChange | Literal["look"]
    look: HeapLook | None
    ticket: int
    """Revision that was mixed from; 0 where nobody looked."""


class Run(Frozen):
    """A job's loads, through all its days."""

    ticket: int | None
    """The revision that is mixed from now."""
    loads: tuple[LoadState, ...]
    to_fill: tuple[int, ...]
    """Cards of the loads still to make, in order."""
    made_m3: float
    """Of this round."""
    thrown_m3: float
    to_make_m3: float
    next: NextLoad | None
    used_kg: dict[str, float]
    """All that went in, thrown away and rescue included, by constituent."""
    poured_l: float
    heap: tuple[HeapTold, ...]
    """What was told of the heaps, in order."""
    done: bool
    standing: tuple[str, ...]
    """Ids of the taps that count, in order."""
