"""Sums as people type them into a field: 3*2.4+0.6, 2 m + 300 mm, (4.2 - 0.9) * 2."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from keeve.core.message.said import Said, Words, plain

OPERATORS: Final = re.compile(r"[*×·()]|(?<=[\w\s)\"'″”′’])[+-](?=[\s\d(.,])|\d[.,]\d+\s*/|/\s*\d+[.,]\d|/\s*\(|\)\s*/")
"""What makes a text a sum and not one measure; a fraction such as 2 1/2 alone is one measure."""
_EXPONENT: Final = re.compile(r"\d[eE][+-]\d")
_UNIT_AT_END: Final = re.compile(r"(?P<sum>[^a-z\"'″”′’%]+)(?P<unit>[a-z%]+\d?|[\"'″”′’])")
_DEEPEST: Final = 20


class SumError(ValueError):
    """A sum that cannot be worked out; says why in the trade's words."""

    def __init__(self, said: Words) -> None:
        super().__init__(plain(said))
        self.said = said


@dataclass(frozen=True, slots=True)
class _Value:
    amount: float
    has_unit: bool


def is_sum(text: str) -> bool:
    """Say whether a text is a sum and not one measure. Plain arithmetic.

    >>> is_sum("3*2.4+0.6"), is_sum("2 1/2 in"), is_sum("-4"), is_sum("1e-3")
    (True, False, False, False)
    """
    return bool(OPERATORS.search(_EXPONENT.sub("0", text.strip().lstrip("+-"))))


def work_out(text: str, term: "re.Pattern[str]", value: Callable[[str, str], float], default: str) -> float:
    """Work a sum out.

    Parameters
    ----------
    text : the sum, lower case
    term : matches one number with its unit, groups `number` and `unit`
    value : turns number and unit into an amount of the unit wanted
    default : unit of a number that has none; the unit at the very end goes before it

    Returns
    -------
    the amount in the unit wanted

    Raises
    ------
    SumError : it cannot be read, divides by nothing, or multiplies two measures

    References
    ----------
    Plain arithmetic; a unit at the end counts for the whole sum: common practice, no source.
    """
    at_end = _UNIT_AT_END.fullmatch(text)
    if at_end is not None:
        text, default = at_end["sum"], at_end["unit"]
    parser = _Parser(text, term, value)
    found = parser.sum(0)
    parser.end()
    unit = parser.last_unit or default
    total = 0.0
    for sign, part in found:
        total += sign * (part.amount if part.has_unit else part.amount * value("1", unit))
    return total


class _Parser:
    def __init__(self, text: str, term: "re.Pattern[str]", value: Callable[[str, str], float]) -> None:
        self.text, self.at = text, 0
        self.term, self.value = term, value
        self.last_unit = ""

    def _peek(self) -> str:
        while self.at < len(self.text) and self.text[self.at] == " ":
            self.at += 1
        return self.text[self.at : self.at + 1]

    def end(self) -> None:
        if self._peek():
            raise SumError(Said("“{typed}” does not fit into this sum.", typed=self.text[self.at : self.at + 12]))

    def sum(self, depth: int) -> list[tuple[float, _Value]]:
        if depth > _DEEPEST:
            raise SumError("There are too many brackets in this sum.")
        parts: list[tuple[float, _Value]] = []
        sign = 1.0
        if self._peek() in ("+", "-"):
            sign = -1.0 if self._take() == "-" else 1.0
        parts.append((sign, self._product(depth)))
        while self._peek() in ("+", "-"):
            sign = -1.0 if self._take() == "-" else 1.0
            parts.append((sign, self._product(depth)))
        return parts

    def _take(self) -> str:
        self.at += 1
        return self.text[self.at - 1]

    def _product(self, depth: int) -> _Value:
        left = self._factor(depth)
        while (sign := self._peek()) and sign in "*×·/":
            self._take()
            right = self._factor(depth)
            if left.has_unit and right.has_unit:
                raise SumError("Two measures with units cannot be multiplied here: give one of them as a plain number.")
            if sign != "/":
                left = _Value(left.amount * right.amount, left.has_unit or right.has_unit)
                continue
            if right.has_unit or right.amount == 0:
                raise SumError("A sum can only be divided by a plain number, and not by 0.")
            left = _Value(left.amount / right.amount, left.has_unit)
        return left

    def _factor(self, depth: int) -> _Value:
        if self._peek() == "(":
            self._take()
            parts = self.sum(depth + 1)
            if self._peek() != ")":
                raise SumError("A bracket is missing in this sum.")
            self._take()
            if len({part.has_unit for _, part in parts}) > 1:
                raise SumError("Give every number in the bracket a unit, or none of them.")
            return _Value(sum(sign * part.amount for sign, part in parts), parts[0][1].has_unit)
        self._peek()
        found = self.term.match(self.text, self.at)
        if found is None:
            raise SumError("Something is missing in this sum.")
        amount, unit = 0.0, ""
        while found is not None:  # 6' 4" is one factor
            unit = found["unit"] or ("in" if unit in ("'", "ft", "′", "’") else "")
            amount += self.value(found["number"], unit)
            self.at = found.end()
            follows = self.term.match(self.text, self.at) if unit else None
            found = follows if follows and (follows["unit"] or unit in ("'", "ft", "′", "’")) else None
        self.last_unit = unit
        return _Value(amount, bool(unit))
