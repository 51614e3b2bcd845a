"""What a run page is given, so that it goes on without a network: tickets, what is said of them, and the log.

`scripts/twins` writes these types down for the scripts too.
"""

from typing import Annotated, Any, Final

from pydantic import WithJsonSchema
from typing_extensions import TypedDict  # pydantic reads no other before Python 3.12

from keeve.core.run.events import MeasuredKind

MOST_IN_PAGE: Final = 400
"""Entries of the log that a page carries; the rest it asks for once."""
NOT_FOR_THE_PAGE: Final = {
    "workings", "divisions", "totals", "bounds", "warnings", "cautions", "measures", "jug", "scales", "thumbs",
}  # fmt: skip
Ticket = Annotated[dict[str, Any], WithJsonSchema({"named": "Ticket"})]
"""A ticket's document without what no run page shows."""
Entry = Annotated[dict[str, Any], WithJsonSchema({"named": "Event"})]
"""An entry of the log, with its number."""
Standing = Annotated[dict[str, Any], WithJsonSchema({"named": "Run"})]


class Weigh(TypedDict):
    """What the scale should show of a dose, vessel after vessel."""

    wanted_kg: float
    tare_kg: float
    role: str
    part: str
    vessels: int
    readings: list[float]
    allowed: float
    unit: str


class LineTold(TypedDict):
    """One thing that goes in at a step."""

    key: int
    name: str
    amount: str
    exact: str
    weigh: Weigh | None
    water: bool


class StepTold(TypedDict):
    """One step in words."""

    title: str
    detail: str
    speed: str
    cautions: list[str]
    lines: list[LineTold]


class Jug(TypedDict):
    """A tap that pours so much."""

    litres: float
    label: str


class Scoop(TypedDict):
    """How one gauge and several are said, and what one weighs as it lies."""

    said: tuple[str, str]
    kg: float


class CardTold(TypedDict):
    """A card in words."""

    jugs: list[Jug]
    steps: list[StepTold]
    scoops: dict[str, Scoop | None]


class JugTold(TypedDict):
    """The jug as it is drawn: its outline, and where the water stands with so much in it."""

    full_l: float
    outline: str
    width: float
    high: float
    levels: list[tuple[float, float, float, float]]
    """Water [L], its height, and from where to where it goes there."""


class StageTold(TypedDict):
    """A stage of plaster in words."""

    name: str
    look: str
    good_for: str


Want = TypedDict(
    "Want",
    {
        "what": MeasuredKind, "name": str, "unit": str, "per_unit": float, "from": float, "places": int,
        "least": float, "most": float, "low": float | None, "high": float | None, "under": str, "over": str,
        "round": float, "classes": list[tuple[float, str]],
        "beyond": list[Any],
    },
)  # fmt: skip
"""What may be measured of a load: a figure times `per_unit`, plus `from`, is in mm, %, kg/m³ or °C."""


class Told(TypedDict):
    """All that a ticket says on the run page, in the reader's words."""

    mix: str
    mixer: str
    names: dict[str, str]
    cards: list[CardTold]
    jug: JugTold
    vessels: dict[str, float]
    """How a vessel of the ticket may be called, and what it holds [L]; `s` is a second of the hose."""
    too_dry: str
    stiffened: str
    too_wet: str
    cautions: list[str]
    stages: list[StageTold]
    wants: list[Want]


class UnitTold(TypedDict):
    """A unit, and how much of the core's one of it is."""

    unit: str
    per_unit: float


class MassTold(UnitTold):
    """A unit of mass, with the smaller one."""

    below_one: UnitTold


class Measures(TypedDict):
    """How the page says a count of water and a mass: units are turned on the server, never in the browser."""

    decimal: str
    litres: UnitTold
    kilos: MassTold


class YardTold(TypedDict):
    """Something that was told of the heap in the yard."""

    at_ms: int
    kind: str


class Amounts(TypedDict):
    """What a typed unit comes to: of water [L], of a mass [kg]."""

    water: dict[str, float]
    mass: dict[str, float]


class RunDocument(Measures):
    """All the run page needs."""

    us: bool
    amounts: Amounts
    heap_events: list[YardTold]

    from_n: int
    """The number up to which the log is not in the page."""
    stands: Standing | None
    tickets: dict[int, Ticket]
    told: dict[int, Told]
    events: list[Entry]
    n: int
    ticket_n: int
