"""What has to be bought for some jobs: packs after stock, opened ones first, what it costs and what is left."""

import math
from datetime import date, timedelta
from typing import Annotated, Final, NamedTuple

from pydantic import AfterValidator, Field, model_validator

from keeve.core.materials.material import Role
from keeve.core.measure.moments import of_our_days
from keeve.core.measure.quantities import Mass, NoneOrMany, ShareOrNone
from keeve.core.message.errors import Code, Fault, Frozen, LoadError
from keeve.core.message.said import Words, mark

# How long a sealed pack keeps, in days: cement three months, plaster six; common practice, no source.
KEEPS_DAYS: Final[dict[str, int]] = {"cement": 92, "premix": 92, "plaster": 183, "lime": 183}
_SLACK: Final = 1e-6


def _delivered(on: date) -> date:
    try:
        return of_our_days(on)
    except ValueError as error:
        hint = mark("Write it like 2026-09-14.")
        raise LoadError(Fault(Code.OUT_OF_RANGE, str(error), hint, field="delivered")) from None


class StockSheet(Frozen):
    """Packs of one material that lie in the yard, or what one costs where none does."""

    material: str = Field(min_length=1, max_length=80)
    pack_kg: Mass | None = None
    packs: NoneOrMany | None = None
    """Whole ones, unopened."""
    opened_percent: ShareOrNone | None = None
    """What is left in the one that is open."""
    price: NoneOrMany | None = None
    """Of one pack."""
    currency: str = Field("", max_length=8)
    delivered: Annotated[date, AfterValidator(_delivered)] | None = None
    note: str = Field("", max_length=120)

    @model_validator(mode="after")
    def _priced_in_something(self) -> "StockSheet":
        if self.price and not self.currency.strip():
            msg = mark("A price needs its currency.")
            raise LoadError(
                Fault(Code.MISSING, msg, mark("Write it beside: €, £, $ or three letters."), field="currency")
            )
        if self.pack_kg is None and (self.packs or self.opened_percent or self.price):
            msg = mark("Nobody can say yet what a pack weighs.")
            raise LoadError(
                Fault(Code.MISSING, msg, mark("It stands on the bag; a loose load is one pack."), field="pack_kg")
            )
        return self

    @property
    def held_kg(self) -> float:
        """What lies there [kg]. Plain arithmetic."""
        return (self.pack_kg or 0.0) * ((self.packs or 0.0) + (self.opened_percent or 0.0) / 100)


class Needed(NamedTuple):
    """What the jobs take of one material."""

    key: str
    name: Words
    role: Role
    kg: float
    """As it is bought: sand with the water it holds."""
    pack_kg: float | None
    """The mix's own pack, where it has one."""


class BuyLine(Frozen):
    """One material on the list."""

    key: str
    name: Words
    needed_kg: float
    with_spare_kg: float
    in_stock_kg: float
    from_opened_kg: float
    """Of it from the pack that is open: that one goes first."""
    pack_kg: float | None
    packs: int
    """To buy."""
    buy_kg: float
    left_kg: float
    """In stock once all is mixed."""
    keeps_until: date | None
    """How long what lies in stock keeps, by its delivery."""
    too_old: bool
    price: float | None
    currency: str
    bought: float | None
    """What the packs to buy cost."""
    used: float | None
    """What goes into the work costs, from stock or bought."""


class Sum(NamedTuple):
    """What it costs in one currency."""

    currency: str
    bought: float
    used: float


class Stocked(NamedTuple):
    """One entry of the stock: the sheet, and what was used of it since it was counted [kg]."""

    sheet: StockSheet
    used_kg: float


def _line(need: Needed, stock: list[Stocked], spare_percent: float, today: date) -> BuyLine:
    held = [(one.sheet, max(one.sheet.held_kg - one.used_kg, 0.0)) for one in stock]
    in_stock = math.fsum(kg for _, kg in held)
    opened = math.fsum(
        min(kg, (sheet.pack_kg or 0.0) * (kg / sheet.pack_kg - math.floor(kg / sheet.pack_kg + _SLACK)))
        for sheet, kg in held
        if sheet.pack_kg
    )
    pack = need.pack_kg or next((sheet.pack_kg for sheet, _ in held if sheet.pack_kg), None)
    wanted = need.kg * (1 + spare_percent / 100)
    short = max(wanted - in_stock, 0.0)
    packs = math.ceil(short / pack - _SLACK) if pack else 0
    buy_kg = packs * pack if pack else short
    priced = next((sheet for sheet, _ in held if sheet.price and sheet.pack_kg), None)
    per_kg = priced.price / priced.pack_kg if priced and priced.price and priced.pack_kg else None
    dates = [
        sheet.delivered + timedelta(days=KEEPS_DAYS[need.role])
        for sheet, kg in held
        if sheet.delivered is not None and kg > 0 and need.role in KEEPS_DAYS
    ]
    until = min(dates, default=None)
    return BuyLine(
        key=need.key,
        name=need.name,
        needed_kg=need.kg,
        with_spare_kg=wanted,
        in_stock_kg=in_stock,
        from_opened_kg=min(max(opened, 0.0), wanted),
        pack_kg=pack,
        packs=packs,
        buy_kg=buy_kg,
        left_kg=in_stock + buy_kg - need.kg,
        keeps_until=until,
        too_old=until is not None and until < today,
        price=priced.price if priced else None,
        currency=priced.currency.strip() if priced else "",
        bought=buy_kg * per_kg if per_kg is not None else None,
        used=need.kg * per_kg if per_kg is not None else None,
    )


def buying(
    needs: list[Needed], stock: dict[str, list[Stocked]], spare_percent: float, today: date
) -> tuple[tuple[BuyLine, ...], tuple[Sum, ...]]:
    """Draw up a buying list.

    Parameters
    ----------
    needs : by material, those of several jobs are added up
    stock : what lies in the yard, by material key
    spare_percent : more than is needed [%]
    today : for what is too old

    Returns
    -------
    a line for each material, and what it costs in each currency: bought and used

    References
    ----------
    Plain arithmetic; how long packs keep: common practice, no source.

    >>> need = Needed("portland-cement", "Cement", "cement", 130.0, 25.0)
    >>> shelf = {"portland-cement": [Stocked(StockSheet(material="x", pack_kg=25, packs=2, opened_percent=40), 0.0)]}
    >>> lines, _ = buying([need], shelf, 0.0, date(2026, 9, 1))
    >>> lines[0].in_stock_kg, lines[0].packs, round(lines[0].from_opened_kg, 6)
    (60.0, 3, 10.0)
    """
    together: dict[str, Needed] = {}
    for need in needs:
        before = together.get(need.key)
        together[need.key] = need if before is None else before._replace(kg=before.kg + need.kg)
    lines = tuple(_line(need, stock.get(key, []), spare_percent, today) for key, need in together.items())
    currencies = dict.fromkeys(line.currency for line in lines if line.bought is not None)
    return lines, tuple(
        Sum(
            currency,
            math.fsum(line.bought or 0.0 for line in lines if line.currency == currency),
            math.fsum(line.used or 0.0 for line in lines if line.currency == currency),
        )
        for currency in currencies
    )
