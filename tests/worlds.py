"""Days at a heap drawn by lot, in worlds that are printed here, mixed as the program tells: who comes nearer to it.

Semi-dry screed, 100 kg of dry sand a load that absorbs 0.7 %, 10.0 L of free water wanted: one per cent is one litre.
What is poured, what may be sipped and what a load teaches is asked of the shipped learner with shipped tickets. The
worlds are own assumptions; they were written down before the filter was run, and each way to pour lives the same days.
"""

import math
import random
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cache
from statistics import fmean
from typing import Any, Final, Literal, NamedTuple

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.lessons.briefing import mark_l
from keeve.core.lessons.learning import HeapReader, NextWater, heap_of, water_of
from keeve.core.lessons.moisture_filter import begun
from keeve.core.materials.heap_dose import HeapDose
from keeve.core.materials.looks import SAND_LOOKS, HeapLook
from keeve.core.planning.plan import plan
from keeve.core.run.brief import Lead, written
from keeve.core.run.models import LoadState
from keeve.core.ticket.cards import TicketCard, TicketDose
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticketing import issue

SAND_KG: Final = 100.0
FREE_L: Final = 10.0
ABSORBS_PERCENT: Final = 0.7
SIP_L: Final = 0.30
NEAR_L: Final = 0.30
"""So much too much or too little still looks right."""
RESCUED: Final = 0.7
MIN_MS: Final = 60_000
KEEPS: Final = (0.3, 10.5)


@dataclass(frozen=True)
class World:
    """How a heap behaves, what is told of it, and how sure the eye is that judges a load."""

    loads: int = 12
    every_min: float = 20
    eye_l: float = 0.35
    grab_percent: float = 0.15
    """One load's sand beside the heap's mean."""
    wiggle_percent: float = 0.08
    """Of the mean from load to load."""
    drying: tuple[float, float] = (0.03, 0.12)
    digging: tuple[float, float] = (-0.02, 0.10)
    """Both per load, drawn once a day: it dries, and wetter sand is dug up."""
    rain: float = 0.40
    delivery: float = 0.15
    told: float = 1.0
    looks_again: bool = True
    by_pan: bool = False


WORLDS: Final[dict[str, World]] = {
    "reference": World(),
    "calm": World(rain=0, delivery=0),
    "calm, by pan": World(rain=0, delivery=0, by_pan=True),
    "short day": World(loads=6),
    "long day": World(loads=24, every_min=10, drying=(0.015, 0.06), digging=(-0.01, 0.05)),
    "sure eye": World(eye_l=0.15),
    "poor eye": World(eye_l=0.60),
    "uneven heap": World(grab_percent=0.40),
    "restless heap": World(wiggle_percent=0.30),
    "fast drying": World(drying=(0.15, 0.30), digging=(-0.02, 0.02)),
    "rain each day": World(rain=1.0),
    "rain untold": World(rain=1.0, told=0.0),
    "rain told, nobody looks again": World(rain=1.0, looks_again=False),
}

# ── the shipped program, in this world's measures ────────────────────────────


@cache
def ticket_of(moisture: HeapLook | float, revision: int = 1) -> Ticket:
    """Issue the ticket of a heap that looks so, or that a pan said is so wet [%], for 100 kg of dry sand a load."""
    sheet = {
        "shapes": [{"kind": "known", "volume_l": 70}], "mix": "screed-semi-dry", "mixer": "pan-forced",
        "moisture_percent": {"screed-sand": moisture}, "waste_percent": 0, "strategy": "equal",
    }  # fmt: skip
    request = resolve(JobSheet.model_validate(sheet), load_catalogue())
    dry_kg = next(d.dry_kg for d in issue(request, plan(request)).cards[0].doses if d.role == "sand")
    sheet["shapes"] = [{"kind": "known", "volume_l": 70 * SAND_KG / dry_kg}]
    request = resolve(JobSheet.model_validate(sheet), load_catalogue())
    made = issue(request, plan(request)).model_copy(update={"revision": revision})
    card = made.cards[0]
    assert len(made.loads) == 1
    assert math.isclose(card.water.free.target, FREE_L, rel_tol=1e-6)
    # The sand of this world is measured dry, whatever its moisture.
    doses = tuple(d.model_copy(update={"heap": _measured_dry(d.heap)}) if d.heap else d for d in card.doses)
    return made.model_copy(update={"cards": (card.model_copy(update={"doses": doses}),)})


def _measured_dry(heap: HeapDose) -> HeapDose:
    return heap.model_copy(update={"dry_kg": (SAND_KG,) * len(heap.dry_kg)})


def need_l(percent: float) -> float:
    """Water that a load of this sand wants."""
    return FREE_L - SAND_KG * (percent - ABSORBS_PERCENT) / 100


class Mixed(NamedTuple):
    """A load as it was made."""

    poured_l: float
    late_l: float
    verdicts: tuple[Literal["dry", "right", "wet"], ...]
    sips: int
    rescued_l: float = 0.0
    """Where it was brought back with dry mix: the water it had for its dry mass, as if it were one of full size."""


def mix(first_l: float, ceiling_l: float, need: float, world: World, lot: random.Random) -> Mixed:
    """Pour, look, sip while it looks too dry and the ceiling allows; too wet is rescued, or accepted as it is."""
    poured, verdicts, right_l = first_l, [], need + lot.gauss(0, world.eye_l)
    while True:
        off = poured - right_l
        said: Literal["dry", "right", "wet"] = "dry" if off < -NEAR_L else "wet" if off > NEAR_L else "right"
        verdicts.append(said)
        if said == "dry" and poured + SIP_L <= ceiling_l + 1e-9:
            poured += SIP_L
            continue
        sips = len(verdicts) - 1
        rescued = said == "wet" and lot.random() < RESCUED
        if rescued:
            verdicts.append("right")
        back = need + lot.gauss(0, world.eye_l) if rescued else 0.0
        return Mixed(poured, poured - first_l, tuple(verdicts), sips, back)


def _ideal(need: float, world: World, lot: random.Random) -> Mixed:
    """Make a load that is just right for the eye, at once: no step is too coarse for it."""
    return Mixed(need + lot.gauss(0, world.eye_l), 0.0, ("right",), 0)


def state(number: int, at_min: float, made: Mixed, card: TicketCard, *, ended: bool) -> LoadState:
    """Say how the run says a load stands: what the learner reads of it."""
    teaches = bool(made.verdicts) and made.verdicts[-1] == "right"
    poured = made.rescued_l or made.poured_l
    how = "" if not teaches else "rescued" if made.rescued_l else "sipped" if made.late_l else "poured"
    said: dict[str, Any] = {
        "number": number, "mixer": "pan-forced", "ticket": 1, "card": 0, "begun_ms": round(at_min * MIN_MS),
        "ended_ms": round((at_min + 8) * MIN_MS) if ended else None, "ended": "accepted" if ended else "",
        "poured_l": made.poured_l, "late_l": made.late_l, "pours": 1, "verdicts": made.verdicts, "teaches": teaches,
        "how": how, "dry_added_kg": 1.0 if made.rescued_l else 0.0, "question": None, "brief": None,
        "water_per_dry": (poured + card.water.once_l) / card.dry_kg,
    }  # fmt: skip
    return LoadState.model_construct(**said)


# ── days ─────────────────────────────────────────────────────────────────────


class Hour(NamedTuple):
    """One load of a day: what its sand is, what the heap was looked at as since, and whether something was told."""

    sand_percent: float
    look: HeapLook | float | None
    event: bool


def day_in(world: World, seed: str) -> list[Hour]:
    lot = random.Random(seed)
    mean = _kept(lot.gauss(5.0, 1.2))
    drying, digging = lot.uniform(*world.drying), lot.uniform(*world.digging)
    last = world.loads - 1
    shower = lot.randint(math.ceil(last / 4), math.floor(last * 3 / 4)) if lot.random() < world.rain else None
    new = lot.randint(1, last) if lot.random() < world.delivery else None
    found = []
    for load in range(world.loads):
        if load:
            mean = _kept(mean + lot.gauss(0, world.wiggle_percent) + digging - drying)
        if load == shower:
            mean = _kept(mean + lot.uniform(0.8, 2.5))
        if load == new:
            mean = _kept(lot.gauss(5.0, 1.2))
        event = load in (shower, new) and lot.random() < world.told
        looked = load == 0 or (event and world.looks_again)
        pan = round(max(mean + lot.gauss(0, 0.2), 0.0), 1)
        look = (pan if world.by_pan else _look(mean + lot.gauss(0, 1.0))) if looked else None
        found.append(Hour(_kept(mean + lot.gauss(0, world.grab_percent)), look, event))
    return found


def _kept(percent: float) -> float:
    return min(max(percent, KEEPS[0]), KEEPS[1])


def _look(percent: float) -> HeapLook:
    return next((name for name, one in SAND_LOOKS.items() if percent < one.high), "dripping")


@dataclass
class Tally:
    """What became of all loads but the first of each day."""

    errors: list[float] = field(default_factory=list)
    wet: int = 0
    sips: int = 0

    def take(self, expected_l: float, need: float, made: Mixed) -> None:
        self.errors.append(abs(expected_l - need))
        self.wet += made.verdicts[:1] == ("wet",)
        self.sips += made.sips

    @property
    def error_l(self) -> float:
        return fmean(self.errors)

    def share(self, many: int) -> float:
        return many / len(self.errors)


class Told(NamedTuple):
    """A load of a day as the program had it mixed."""

    number: int
    water: NextWater
    made: Mixed


def as_told(day: list[Hour], world: World, lot: random.Random, *, ideal: bool) -> Iterator[Told]:
    """Live a day as the page tells it; an ideal judge pours what each load truly wants."""
    reader, moisture = HeapReader({}), day[0].look
    assert moisture is not None
    heard = False
    for number, hour in enumerate(day, 1):
        at_min = number * world.every_min
        moisture = hour.look if hour.look is not None else moisture
        ticket = ticket_of(moisture)
        card, heap = ticket.cards[0], heap_of(ticket.cards[0])
        assert heap is not None
        if hour.event:
            reader.event(round((at_min - 1) * MIN_MS))
        water = _next(reader, ticket, card, heap, heard=heard)
        reader.begin(state(number, at_min, Mixed(0, 0, (), 0), card, ended=False), card, heap, ticket)
        need = need_l(hour.sand_percent)
        made = _ideal(need, world, lot) if ideal else mix(water.first_l, water.ceiling_l, need, world, lot)
        reader.end(state(number, at_min, made, card, ended=True), card, heap)
        heard = any(one.said for one in reader.found)
        yield Told(number, water, made)


def _next(reader: HeapReader, ticket: Ticket, card: TicketCard, heap: TicketDose, *, heard: bool) -> NextWater:
    """Say what the page tells before a load: by the last one's end, a new look, or the ticket before any has told."""
    told = written(card, _lead(reader, ticket, card, heap, heard=heard), mark_l(card, us=False))
    assert told.ceiling_l is not None
    return NextWater(told.expected_l, told.first_l, told.ceiling_l)


def _lead(reader: HeapReader, ticket: Ticket, card: TicketCard, heap: TicketDose, *, heard: bool) -> Lead:
    if not heard:
        return Lead("ticket", card.water.pour.target, None, card.water.pour.high)
    assert heap.heap is not None
    looked = reader.belief is None or ticket.moisture_as != reader.moisture_as
    belief = begun(heap.heap.water) if looked else reader.belief
    assert belief is not None
    return Lead("sand", *water_of(card, heap, reader.ahead(belief)))


def lived(name: str, days: int, *, ideal: bool) -> dict[str, Tally]:
    """Live the same days in one world: as told, as the last load was, and by the morning's recipe all day."""
    world = WORLDS[name]
    told, last, recipe = Tally(), Tally(), Tally()
    for number in range(days):
        day = day_in(world, f"{name}-{number}")
        lots = [random.Random(f"{name}-{number}-{way}") for way in ("told", "last", "recipe")]
        for load in as_told(day, world, lots[0], ideal=ideal):
            if load.number > 1:
                need = need_l(day[load.number - 1].sand_percent)
                told.take(load.water.expected_l, need, load.made)
        assert day[0].look is not None
        begins = ticket_of(day[0].look).cards[0].water
        before = begins.pour.target
        for at, hour in enumerate(day):
            need = need_l(hour.sand_percent)
            made = _ideal(need, world, lots[1]) if ideal else mix(before, math.inf, need, world, lots[1])
            by_rule = mix(begins.pour.target, begins.pour.high, need, world, lots[2])
            if at:
                last.take(before, need, made)
                recipe.take(begins.pour.target, need, by_rule)
            if ideal or made.verdicts[-1] == "right":
                before = made.rescued_l or made.poured_l
    return {"told": told, "last": last, "recipe": recipe}
