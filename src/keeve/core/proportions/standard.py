"""Rows of the standards' proportion tables, and whether a mix stated by volume keeps to its own."""

from typing import Final, Literal

from pydantic import Field

from keeve.core.message.errors import Frozen
from keeve.core.message.said import Amount, Said, Words, mark
from keeve.core.proportions.base import Part

_CLOSE = 1e-6
_SAND_TO: Final = {
    "sum of binders": mark("sand to the sum of binders"),
    "first binder": mark("sand to the first binder"),
}


class Standard(Frozen):
    """One row: parts by volume to one part of the first binder, sand per sum of binders or per first binder."""

    key: str
    name: str
    """As the trade says it: ASTM C270, type S."""
    second: str = ""
    """The second binder by material key: lime, or a masonry cement; empty where there is none."""
    second_low: float = Field(0.0, ge=0, le=10)
    second_high: float = Field(0.0, ge=0, le=10)
    above_low: bool = False
    """Whether the lower bound itself is outside: over ¼ to ½."""
    sand_low: float = Field(gt=0, le=20)
    sand_high: float = Field(gt=0, le=20)
    sand_per: Literal["sum of binders", "first binder"]
    stone_low: float = Field(0.0, ge=0, le=20)
    stone_high: float = Field(0.0, ge=0, le=20)
    """Stone, per sum of binders."""
    source: Words

    def outside(self, stated: tuple[Part, ...]) -> tuple[Words, ...]:
        """Say where a mix leaves the row.

        Parameters
        ----------
        stated : parts by volume, the first binder first; none are not judged

        Returns
        -------
        a sentence for each bound it breaks; none where it keeps to the row

        References
        ----------
        The row's own source.
        """
        if not stated:
            return ()
        parts = {p.material.key: p.parts for p in stated}
        roles = {p.material.key: p.material.role for p in stated}
        binders = [p for p in stated if p.material.role not in ("sand", "stone")]
        first = binders[0].parts
        per = sum(p.parts for p in binders) if self.sand_per == "sum of binders" else first
        sand = sum(v for k, v in parts.items() if roles[k] == "sand") / per
        stone = sum(v for k, v in parts.items() if roles[k] == "stone") / sum(p.parts for p in binders)
        said: list[tuple[str, float, float, float, bool]] = []
        if self.second:
            second = sum(p.parts for p in binders[1:]) / first
            said.append((mark("second binder"), second, self.second_low, self.second_high, self.above_low))
        said.append((_SAND_TO[self.sand_per], sand, self.sand_low, self.sand_high, False))
        if self.stone_high:
            said.append((mark("stone to the sum of binders"), stone, self.stone_low, self.stone_high, False))
        return tuple(
            Said(
                "{standard} wants {low} to {high} of {what}; this mix has {value}.",
                standard=self.name,
                low=Amount(low, ""),
                high=Amount(high, ""),
                what=what,
                value=Amount(float(f"{value:.3g}"), ""),
            )
            for what, value, low, high, above in said
            if not low - _CLOSE <= value <= high + _CLOSE or (above and value <= low + _CLOSE)
        )
