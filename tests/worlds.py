"""Days at a heap drawn by lot, in worlds that are printed here: what the sand truly wants, and who comes nearer to it.

A load of 15 L of free water and 90 kg of dry sand every twelve minutes, forty a day: one per cent of moisture is 0.9 L.
All figures are own assumptions; they are made up before the filter is run, and the same days are given to each who pours.
"""

import math
import random
from collections.abc import Callable
from dataclasses import dataclass, field
from statistics import fmean
from typing import Final, NamedTuple

from keeve.core.lessons.moisture_filter import (
    SCATTER_PERCENT,
    Belief,
    Judgement,
    begun,
    judged,
    later,
    measured,
    water_for,
)
from keeve.core.materials.looks import SAND_LOOKS, HeapLook

FREE_L: Final = 15.0
SAND_KG: Final = 90.0
ABSORBS_PERCENT: Final = 0.7
SIP_L: Final = 0.03 * FREE_L
EVERY_H: Final = 0.2
LOADS: Final = 40
PER_PERCENT: Final = SAND_KG / 100 / FREE_L


@dataclass(frozen=True)
class World:
    """How a heap behaves, what is told of it, and how sure the eye is that judges a load."""

    begins: tuple[float, float] = (3.0, 7.5)
    """Between which moistures a day begins [%]."""
    drains_per_h: float = 0.12
    keeps_percent: float = 3.0
    wanders_percent: float = 0.1
    """In an hour."""
    scatter_percent: float = 0.5
    """One load beside the next."""
    showers: tuple[int, ...] = (0, 1, 2, 3)
    """How many a day, each as likely; each brings 1 to 3 %."""
    told: bool = True
    delivery: float = 0.0
    """How likely a new heap comes, of 2 to 8 %; it is told."""
    right_share: float = 0.02
    eye_share: float = 0.01
    wrong_look: float = 0.15
    """How often a look at the heap is one class off."""


WORLDS: Final[dict[str, World]] = {
    "reference": World(),
    "calm": World(drains_per_h=0.0, showers=(0,)),
    "fast-draining": World(begins=(6.0, 9.0), drains_per_h=0.5, showers=(0,)),
    "rain untold": World(showers=(0, 1, 2), told=False),
    "deliveries": World(showers=(0, 1), delivery=0.8),
    "restless heap": World(showers=(0, 1), scatter_percent=0.8, wanders_percent=0.5),
    "a shaky eye": World(right_share=0.03, eye_share=0.03),
    "a sure eye": World(right_share=0.005, eye_share=0.003),
}


def need_l(percent: float) -> float:
    """Water that a load of this sand wants."""
    return FREE_L - SAND_KG * (percent - ABSORBS_PERCENT) / 100


def percent_for(litres: float) -> float:
    return ABSORBS_PERCENT + (FREE_L - litres) / SAND_KG * 100


class Hour(NamedTuple):
    """One load of a day: what its sand is, what it was looked at as, and whether something happened."""

    sand_percent: float
    look: HeapLook
    told: bool


def day_in(world: World, seed: str) -> list[Hour]:
    lot = random.Random(seed)
    heap = lot.uniform(*world.begins)
    showers = {lot.randrange(5, LOADS - 2) for _ in range(lot.choice(world.showers))}
    new = lot.randrange(10, LOADS - 5) if lot.random() < world.delivery else None
    found = []
    for load in range(LOADS):
        if load:
            heap -= world.drains_per_h * max(heap - world.keeps_percent, 0.0) * EVERY_H
            heap = max(heap + lot.gauss(0, world.wanders_percent * math.sqrt(EVERY_H)), 0.5)
        if load in showers:
            heap = min(heap + lot.uniform(1, 3), 9.5)
        if load == new:
            heap = lot.uniform(2, 8)
        sand = heap + lot.gauss(0, world.scatter_percent)
        told = load == new or (load in showers and world.told)
        found.append(Hour(sand, _look(heap, lot, world.wrong_look), told))
    return found


def _look(percent: float, lot: random.Random, wrong: float) -> HeapLook:
    names = list(SAND_LOOKS)
    at = next((n for n, name in enumerate(names) if percent < SAND_LOOKS[name].high), len(names) - 1)
    if lot.random() < wrong:
        at = min(max(at + lot.choice((-1, 1)), 0), len(names) - 1)
    return names[at]


class Mixed(NamedTuple):
    """A load as it was made."""

    looks: tuple[Judgement, ...]
    sips: int
    poured_l: float
    """What it teaches: as it looked right, or as it was rescued to."""
    rescued: bool


def mix(first_l: float, need: float, world: World, lot: random.Random) -> Mixed:
    """Pour, look, sip while it looks too dry; too wet is rescued back to what the eye takes for right."""
    poured, looks = first_l, []
    while True:
        off = (poured - need) / FREE_L + lot.gauss(0, world.eye_share)
        said = "dry" if off < -world.right_share else "wet" if off > world.right_share else "right"
        looks.append(Judgement(percent_for(poured), said))  # type: ignore[arg-type]
        if said == "right":
            return Mixed(tuple(looks), len(looks) - 1, poured, rescued=False)
        if said == "wet":
            return Mixed(tuple(looks), len(looks) - 1, need + lot.gauss(0, world.eye_share * FREE_L), rescued=True)
        poured += SIP_L


@dataclass
class Tally:
    """What became of all loads but the first of each day."""

    errors: list[float] = field(default_factory=list)
    wet: int = 0
    sips: int = 0

    def take(self, expected_l: float, first_l: float, need: float, world: World, sips: int) -> None:
        self.errors.append(abs(expected_l - need))
        self.wet += first_l > need + world.right_share * FREE_L
        self.sips += sips

    @property
    def error_l(self) -> float:
        return fmean(self.errors)

    def share(self, many: int) -> float:
        return many / len(self.errors)


def begin_again(belief: Belief, hour: Hour) -> Belief:
    return begun(SAND_LOOKS[hour.look]) if hour.told else belief


def by_filter(day: list[Hour], world: World, tally: Tally, lot: random.Random, *, ideal: bool) -> None:
    """Pour the first water of the filter, look, sip; an ideal judge tells what each load truly wanted."""
    belief = begun(SAND_LOOKS[day[0].look])
    for load, hour in enumerate(day):
        if load:
            belief = begin_again(later(belief, EVERY_H), hour)
        two, need = water_for(belief), need_l(hour.sand_percent)
        if ideal:
            made = Mixed((), 0, need, rescued=False)
            belief_after = measured(belief, hour.sand_percent, SCATTER_PERCENT)
        else:
            made = mix(need_l(two.first), need, world, lot)
            belief_after = (
                measured(belief, percent_for(made.poured_l), math.hypot(SCATTER_PERCENT, 0.25))
                if made.rescued
                else judged(belief, made.looks, PER_PERCENT)
            )
        if load:
            tally.take(need_l(two.expected), need_l(two.first), need, world, made.sips)
        belief = belief_after


def as_last(day: list[Hour], world: World, tally: Tally, lot: random.Random, *, ideal: bool) -> None:
    """Pour what the last load came to."""
    last = need_l(SAND_LOOKS[day[0].look].likely)
    for load, hour in enumerate(day):
        need = need_l(hour.sand_percent)
        made = Mixed((), 0, need, rescued=False) if ideal else mix(last, need, world, lot)
        if load:
            tally.take(last, last, need, world, made.sips)
        last = made.poured_l


def by_recipe(day: list[Hour], world: World, tally: Tally, lot: random.Random, *, ideal: bool) -> None:
    """Pour what the morning's look says, all day."""
    first = need_l(SAND_LOOKS[day[0].look].likely)
    for hour in day[1:]:
        need = need_l(hour.sand_percent)
        sips = 0 if ideal else mix(first, need, world, lot).sips
        tally.take(first, first, need, world, sips)


Pours = Callable[..., None]
WAYS: Final[dict[str, Pours]] = {"filter": by_filter, "last": as_last, "recipe": by_recipe}


def lived(name: str, days: int, *, ideal: bool) -> dict[str, Tally]:
    """Live the same days in one world, once for each way to pour."""
    world, found = WORLDS[name], {way: Tally() for way in WAYS}
    for number in range(days):
        day = day_in(world, f"{name}-{number}")
        for way, pours in WAYS.items():
            pours(day, world, found[way], random.Random(f"{name}-{number}-{way}"), ideal=ideal)
    return found
