"""What the scale said against what the ticket wants: inside the tolerance, outside it, or a slip of ten."""

from typing import Final

from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words, mark, measured
from keeve.core.vessels.tolerance import BY_SCALE, SLACK, Rule, kind_of

SLIP: Final = 5.0
"""Past five times more or less a reading is taken for a slip of ten: common practice, no source."""


class ScaleCheck(Frozen):
    """A reading, judged."""

    percent: float
    """Too much, or too little where negative."""
    allowed_percent: float
    good: bool
    passes: tuple[Rule, ...]
    """Standards whose tolerance it keeps."""
    words: Words


def check_scale(role: str, wanted_kg: float, weighed_kg: float) -> ScaleCheck:
    """Judge a reading of the scale.

    Parameters
    ----------
    role : of the constituent; `water` or `admixture` for those
    wanted_kg, weighed_kg : what the ticket wants and what the scale says [kg], > 0

    Returns
    -------
    the error and whether it keeps to ASTM C94, the stricter of the two, and to EN 206

    Raises
    ------
    MixError : a slip of ten by the look of it

    References
    ----------
    ASTM C94 and EN 206, from memory.

    >>> from keeve.core.message.said import plain
    >>> plain(check_scale("sand", 100, 101.5).words)
    '1.5 % too much: good, up to 2 % is'
    """
    check_weighed(weighed_kg, wanted_kg)
    kind = kind_of(role)
    percent = (weighed_kg / wanted_kg - 1) * 100
    passes = tuple(rule for rule, table in BY_SCALE.items() if abs(percent) <= table[kind] + SLACK * 100)
    allowed = BY_SCALE["ASTM C94"][kind]
    off: Words = mark("on the mark")
    if abs(percent) >= 0.05:
        share = Amount(round(abs(percent), 1), "%")
        off = Said("{share} too much", share=share) if percent > 0 else Said("{share} too little", share=share)
    most = Amount(allowed, "%")
    if "ASTM C94" in passes:
        words = Said("{off}: good, up to {most} is", off=off, most=most)
    elif passes:
        other = Amount(BY_SCALE["EN 206"][kind], "%")
        words = Said("{off}: EN 206 lets {other} pass, ASTM C94 {most}", off=off, other=other, most=most)
    else:
        words = Said("{off}: put it right, {most} is allowed", off=off, most=most)
    return ScaleCheck(percent=percent, allowed_percent=allowed, good=bool(passes), passes=passes, words=words)


def check_weighed(weighed_kg: float, wanted_kg: float) -> None:
    """Refuse a weighed dose that is about ten times off.

    Parameters
    ----------
    weighed_kg, wanted_kg : what the scale says and what the ticket says [kg], > 0

    Raises
    ------
    MixError : five times more or less than wanted

    References
    ----------
    Common practice, no source: most slips with powders are a point in the wrong place.
    """
    if not wanted_kg / SLIP <= weighed_kg <= wanted_kg * SLIP:
        raise MixError(
            Fault(
                Code.OUT_OF_RANGE,
                measured(
                    "{value} was weighed where {limit} is wanted: about ten times off.", weighed_kg, wanted_kg, "kg"
                ),
                "Check the point, and take it out again before it is mixed.",
                field="weighed",
                value=weighed_kg,
                limit=wanted_kg,
                unit="kg",
            )
        )
