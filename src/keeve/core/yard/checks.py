"""What is looked at before the first load: which checks a mix asks for today, and what stands of what was answered."""

from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Final, Literal, NamedTuple

from pydantic import Field, model_validator

from keeve.core.materials.material import Material, Role
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.mixes.mix import Mix
from keeve.core.yard.day_log import Change, Checked, Entry, Weather, last_change, last_weather

CheckVerdict = Literal["accept", "test", "reject"]
Drawn = Literal["jar", "frozen", "bag", "water", "hose", "can", "ground"]
SILT_LIMIT_PERCENT: Final = 8.0
"""Layer on top over the height of the sand, above which it is tested: field settling test, from memory."""
SHAKEN: Final = "shaken"
"""Answer of a jar that was set up and has to stand."""
COLD_C: Final = 3.0
"""Air below which heaps may have frozen in the night: common practice, no source."""
HOT_C: Final = 25.0
"""Air above which a hose in the sun is hot: common practice, no source."""
WEATHER_HOLDS: Final = timedelta(hours=6)
"""Air of this morning is not that of the evening: common practice, no source."""


class Answer(Frozen):
    """One thing that may be seen."""

    key: str
    says: Words
    verdict: CheckVerdict
    why: Words = ""
    out: Words = ""
    """The way out."""
    life_share: float = Field(1.0, gt=0, le=1)
    """What is left of the working life of a mix with such a material."""

    @model_validator(mode="after")
    def _says_the_way_out(self) -> "Answer":
        if self.verdict != "accept" and not (self.why and self.out):
            raise MixError(Fault(Code.MISSING, Said("{key} says no reason or no way out.", key=self.key)))
        return self


class Check(Frozen):
    """One look at one thing."""

    key: str
    asks: Words
    how: Words
    drawn: Drawn
    of: tuple[Role, ...] = ()
    """Looked at for each material of these roles; empty is once."""
    not_materials: tuple[str, ...] = ()
    families: tuple[str, ...] = ()
    """Empty is every family."""
    when: Literal["", "cold", "hot", "admixtures"] = ""
    stand_s: int = Field(0, ge=0, le=86400)
    """How long it has to stand before it is looked at."""
    hours: float = Field(0.0, ge=0)
    until: tuple[Change, ...] = ()
    answers: tuple[Answer, ...] = Field(min_length=2)
    source: Words

    def answer(self, key: str) -> Answer | None:
        """Return one of its answers. Plain arithmetic."""
        return next((one for one in self.answers if one.key == key), None)


class Standing(NamedTuple):
    """A check that is asked for today, and what was answered."""

    check: Check
    of: str
    """Key of the material, or empty."""
    name: Words
    answer: Answer | None
    """None where it is to be looked at."""
    at: datetime | None
    ready_at: datetime | None = None
    """When what has to stand may be looked at."""
    silt_percent: float | None = None


def silt_percent(layer_mm: float, sand_mm: float) -> float:
    """Silt of a sand by its layer in a jar.

    Parameters
    ----------
    layer_mm : on top of the sand after three hours in salt water [mm], >= 0
    sand_mm : height of the sand below it [mm], > 0

    Returns
    -------
    share [%] of the sand's height

    Raises
    ------
    MixError : no sand, or a layer as high as the sand

    References
    ----------
    Field settling test of BS 812, layer over the sand's height; limit about 8 %, from memory.

    >>> silt_percent(6, 75)
    8.0
    """
    if sand_mm <= 0 or not 0 <= layer_mm < sand_mm:
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                mark("The layer of silt lies on the sand and is thinner than it."),
                mark("Measure the sand from the bottom of the glass to the layer, and the layer by itself."),
                field="layer_mm",
            )
        )
    return layer_mm / sand_mm * 100


def aged_of(checks: Iterable[Check], log: tuple[Entry, ...], now: datetime) -> dict[str, float]:
    """Say which materials shorten the life of their mixes, and to what share of it [-], by their keys.

    Own assumption, as each answer says; until the first bucket was timed.
    """
    found: dict[str, float] = {}
    for check in checks:
        if all(answer.life_share == 1 for answer in check.answers):
            continue
        for of in {one.of for one in log if isinstance(one, Checked) and one.check == check.key}:
            answer = _one(check, of, check.asks, log, now).answer
            if answer is not None and answer.life_share < 1:
                found[of] = min(answer.life_share, found.get(of, 1.0))
    return found


def _asked(check: Check, mix: Mix, weather: Weather | None, *, admixtures: bool) -> bool:
    if check.families and mix.family not in check.families:
        return False
    if check.when == "admixtures":
        return admixtures
    if check.when == "cold":
        return weather is not None and weather.air_c < COLD_C
    if check.when == "hot":
        return weather is not None and weather.air_c > HOT_C
    return True


def standing(
    checks: Iterable[Check],
    mix: Mix,
    log: tuple[Entry, ...],
    now: datetime,
    *,
    admixtures: bool = False,
) -> tuple[Standing, ...]:
    """Say what is looked at before a mix today, and what was answered already.

    Parameters
    ----------
    checks : of the catalogue
    mix : that is to be made
    log : of the yard, any order
    now : when it is asked
    admixtures : whether the job takes any

    Returns
    -------
    the checks that are asked for, each with the answer that stands; none where rain, a delivery, a new bag or time made
    it old

    References
    ----------
    Common practice, no source; each check names its own.
    """
    weather = last_weather(log)
    if weather is not None and now - weather.at > WEATHER_HOLDS:
        weather = None
    found: list[Standing] = []
    for check in checks:
        if not _asked(check, mix, weather, admixtures=admixtures):
            continue
        if not check.of:
            found.append(_one(check, "", check.asks, log, now))
            continue
        found += [
            _one(check, material.key, material.name, log, now)
            for material in mix.materials()
            if material.role in check.of
            and material.key not in check.not_materials
            and not _bagged_dry(check, material)
        ]
    return tuple(found)


def _bagged_dry(check: Check, material: Material) -> bool:
    """Whether a heap's check is not for a sand that comes kiln-dried in bags."""
    return material.bagged_dry and check.drawn in ("jar", "frozen")


def _one(check: Check, of: str, name: Words, log: tuple[Entry, ...], now: datetime) -> Standing:
    answers = [one for one in log if isinstance(one, Checked) and one.check == check.key and one.of == of]
    last = max(answers, key=lambda one: one.at, default=None)
    changed = last_change(log, check.until, of)
    old = last is not None and (
        (changed is not None and changed.at > last.at)
        or (check.hours > 0 and now - last.at > timedelta(hours=check.hours))
    )
    if last is None or old:
        return Standing(check, of, name, None, None)
    if last.answer == SHAKEN:
        return Standing(check, of, name, None, None, last.at + timedelta(seconds=check.stand_s))
    return Standing(check, of, name, check.answer(last.answer), last.at, None, last.silt_percent)


def answered(check: Check, stand: Standing, answer: str, now: datetime) -> None:
    """Refuse an answer that is none, or that comes before what has to stand has stood.

    Raises
    ------
    MixError : with the time that is left [min]

    References
    ----------
    Common practice, no source.
    """
    if answer == SHAKEN and check.stand_s > 0:
        return
    if check.answer(answer) is None:
        raise MixError(Fault(Code.UNKNOWN, Said("{check} knows no such answer.", check=check.asks), "", field="answer"))
    if stand.ready_at is not None and now < stand.ready_at:
        left = Amount(max(round((stand.ready_at - now).total_seconds() / 60), 1), "whole")
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                Said("The jar has not stood long enough: {minutes} min more, then look.", minutes=left),
                mark("What floats and what settles shows only then. Go on with the rest meanwhile."),
                field="answer",
            )
        )


def rejected(stands: Iterable[Standing]) -> tuple[Fault, ...]:
    """Say what stops the mixing, each with its way out. Common practice, no source."""
    return tuple(
        Fault(
            Code.OUT_OF_RANGE,
            Said("{name}: {says}. {why}", name=one.name, says=one.answer.says, why=one.answer.why),
            one.answer.out,
            field=f"checks.{one.check.key}",
        )
        for one in stands
        if one.answer is not None and one.answer.verdict == "reject"
    )
