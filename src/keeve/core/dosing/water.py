"""The water account: what the mix wants, what the heap brings, and what is left to pour."""

import math
from typing import Final, NamedTuple

from keeve.core.materials.looks import HeapLook
from keeve.core.materials.material import WET_HEAPS, Material
from keeve.core.materials.moisture import heap_water, surface_water_kg
from keeve.core.message.errors import Code, Fault, Frozen, MixError
from keeve.core.message.said import Amount, Said, Words
from keeve.core.message.working import Given, Working
from keeve.core.mixes.admixture_doses import AdmixtureDose
from keeve.core.proportions.base import Proportions, WaterWindow
from keeve.core.vessels.instruments import DILUTED
from keeve.core.vessels.tools import Tools, WaterBy, water_by

SIP_SHARE: Final = 0.03
"""A step for a mix that is too dry, as a share of the target water: common practice, no source."""
DROPS_SHARE: Final = 0.01
"""The same where it goes in by drops: own assumption."""

_SLACK: Final = 1e-9


class AccountLine(Frozen):
    """One line of the account, signed as it counts toward the free water."""

    key: str
    name: Words
    litres: float
    """Positive brings water to the mix, negative drinks it."""
    working: Working


class WaterAccount(Frozen):
    """Where one load's free water comes from, in litres."""

    free: WaterWindow
    """Free water the load must have: low, target, highest."""
    lines: tuple[AccountLine, ...]
    brought_l: float
    """Sum of the lines: what is in the mix before anything is poured."""
    pour: WaterWindow
    """What to pour: low, target, highest."""
    if_dry_l: float = 0.0
    """Where nobody looked at a heap: how much more than the target goes in, in small steps, should it be dry."""
    first_l: float
    hold_back_l: float
    by: WaterBy
    """What it is measured with."""
    sip_l: float
    """One careful step when the mix is too dry."""
    sip_us_l: float
    """The same in the marks of a US reader."""
    by_drops: bool = False
    """Whether it is told by drops."""
    too_wet_heap: Words = ""
    """Of a heap that alone brings more than the target: what is to do, said before anything is begun."""
    limited: bool = False
    """Whether the highest is a limit of w/c, and no matter of consistency."""
    ice_kg: float = 0.0
    """Goes in with the first water and counts as water brought."""
    working: Working


def sip_l(target_l: float, mark_l: float, share: float = SIP_SHARE) -> float:
    """Size of one careful addition.

    Parameters
    ----------
    target_l : target free water of the load [L]
    mark_l : smallest readable mark of what the water is measured with [L], > 0
    share : of the target [-]

    Returns
    -------
    3 % of the target, down to a mark and never below one [L]

    References
    ----------
    House ruling; common practice, no source.

    >>> sip_l(24.1, 0.1), sip_l(0.7, 0.005)
    (0.7, 0.02)
    """
    return round(max(math.floor(share * target_l / mark_l + _SLACK), 1) * mark_l, 9)


def _sips(target_l: float, by: WaterBy, *, by_drops: bool) -> dict[str, float | bool]:
    share = DROPS_SHARE if by_drops else SIP_SHARE
    us = sip_l(target_l, by.us_step_l or by.step_l, share)
    return {"sip_l": sip_l(target_l, by.step_l, share), "sip_us_l": us, "by_drops": by_drops}


def account(
    proportions: Proportions,
    volume_m3: float,
    moisture_percent: dict[str, float | HeapLook],
    hold_back_share: float,
    tools: Tools,
    admixtures: tuple[AdmixtureDose, ...] = (),
    ice_share: float = 0.0,
    *,
    first_to_low: bool = False,
    never_past_wettest: bool = False,
    by_drops: bool = False,
) -> WaterAccount:
    """Draw up the water account of one load.

    Parameters
    ----------
    proportions : the mix
    volume_m3 : fresh volume of the load [m³], > 0
    moisture_percent : total moisture by material key [%], or what the heap looks like; a heap that is not named may be
        anything that heaps are
    hold_back_share : share of the pour kept out of the first addition [-], 0..1
    tools : jug, scales and hose at hand
    admixtures : what goes into the load and brings water of its own
    ice_share : share of the water to add that goes in as ice [-], 0..1
    first_to_low : whether the first addition goes up to the lowest water, and no share is kept out
    by_drops : whether the last of it goes in by drops, and not in sips
    never_past_wettest : whether nothing is ever added for a heap that may be drier than the wettest

    Returns
    -------
    the account, signs as they count toward the free water

    Raises
    ------
    MixError : the aggregates hold more water than the mix can take at most, with the surplus

    Notes
    -----
    pour = free target − Σ m_dry (w − a) − water in admixtures and what dilutes them, in putty and pails; ice takes its
    share of that by mass. The hold-back splits the pour, it does not reduce it. A heap that was looked at counts as
    what is likely, or as wet as it takes for the target to stay under the highest water of its wettest end; one that
    nobody looked at counts as its wettest end, and what it may lack is told as more to come in small steps.

    References
    ----------
    ACI 211.1-91, section 6.3.8, from memory; heaps nobody measured: house rulings.
    """
    free = proportions.water.times(volume_m3)
    found = _Found.of(proportions, volume_m3, moisture_percent, free)
    lines = (*found.lines, *(line for one in admixtures for line in _admixture_lines(one)))
    brought = math.fsum(line.litres for line in lines)
    if brought > free.high * (1 + _SLACK):
        raise _too_wet(found.wettest(), brought - free.high, free.high)
    pour_target = max(free.target - brought, 0.0)
    ice_kg = pour_target * ice_share
    if ice_kg > 0:
        lines = (*lines, _ice_line(ice_kg, pour_target, ice_share))
        brought += ice_kg
        pour_target -= ice_kg
    drier_l = 0.0 if never_past_wettest else found.drier_l
    low_l = max(free.low - brought, 0.0)
    hold_back = pour_target - low_l if first_to_low else pour_target * hold_back_share
    by = water_by(free.target, pour_target, tools)
    return WaterAccount(
        free=free,
        lines=lines,
        brought_l=brought,
        pour=WaterWindow(low_l, pour_target, max(free.high + drier_l - brought, 0.0)),
        if_dry_l=drier_l,
        limited=never_past_wettest,
        too_wet_heap=found.too_wet_heap(free.target),
        first_l=pour_target - hold_back,
        hold_back_l=hold_back,
        by=by,
        **_sips(free.target, by, by_drops=by_drops),
        ice_kg=ice_kg,
        working=_working(free.target, lines, pour_target),
    )


def _working(wanted_l: float, lines: tuple[AccountLine, ...], pour_l: float) -> Working:
    return Working(
        figure="Water to pour",
        formula="free water wanted − Σ water brought, at least none",
        given=(Given("free water wanted", wanted_l, "L"), *(Given(line.name, line.litres, "L") for line in lines)),
        result=pour_l,
        unit="L",
        source="ACI 211.1-91, section 6.3.8, from memory",
    )


class _Found(NamedTuple):
    """What the constituents bring: the lines of the account, and how much less it may be [L]."""

    lines: tuple[AccountLine, ...]
    heaps: frozenset[str]
    drier_l: float
    """How much less than the lines say the heaps bring that nobody looked at, if they are dry."""

    @classmethod
    def of(
        cls, proportions: Proportions, volume_m3: float, moisture: dict[str, float | HeapLook], free: WaterWindow
    ) -> "_Found":
        heaps = [c for c in proportions.constituents if c.material.role in WET_HEAPS]
        dry_kg = {c.material.key: c.dry_kg_m3 * volume_m3 for c in heaps}
        wet = {c.material.key: heap_water(c.material, moisture.get(c.material.key)) for c in heaps}
        spread_l = math.fsum(dry_kg[key] * (w.high - w.likely) / 100 for key, w in wet.items() if w.seen)
        # So much wetter than likely must a heap be counted, that the target stays possible at its wettest end.
        part = max(1 - (free.high - free.target) / spread_l, 0.0) if spread_l > 0 else 0.0
        counted = {key: w.likely + part * (w.high - w.likely) if w.seen else w.high for key, w in wet.items()}
        return cls(
            tuple(
                _line(c.material, dry_kg[c.material.key], counted[c.material.key])
                if c.material.key in wet
                else _held_line(c.material, c.dry_kg_m3 * volume_m3)
                for c in proportions.constituents
                if c.material.key in wet or c.material.held_water_percent > 0
            ),
            frozenset(wet),
            math.fsum(dry_kg[key] * (w.high - w.low) / 100 for key, w in wet.items() if not w.seen),
        )

    def too_wet_heap(self, wanted_l: float) -> Words:
        """Say that a heap alone brings more than is wanted [L]; nothing where none does."""
        wet = [line for line in self.lines if line.key in self.heaps and line.litres > wanted_l * (1 + _SLACK)]
        if not wet:
            return ""
        most = max(wet, key=lambda line: line.litres)
        says = {"heap": most.name, "brings": Amount(most.litres, "L"), "wants": Amount(wanted_l, "L")}
        if self.drier_l > 0:
            return Said(
                "{heap}: nobody looked at it, and at its wettest it alone brings {brings} where a load wants {wants}. "
                "Look at it before you begin.",
                **says,
            )
        return Said(
            "{heap}: it alone brings {brings} where a load wants {wants}. Dry part of it, take a drier heap, "
            "or less of it where the mix allows.",
            **says,
        )

    def wettest(self) -> AccountLine:
        """Return the heap that brings most; a pack is never too wet, it is what it is."""
        lines = [line for line in self.lines if line.key in self.heaps] or self.lines
        return max(lines, key=lambda line: line.litres)


def _too_wet(wettest: AccountLine, surplus_l: float, free_l: float) -> MixError:
    return MixError(
        Fault(
            Code.TOO_WET,
            Said(
                "{heap}: it holds {surplus} more water than a load allows.",
                heap=wettest.name,
                surplus=Amount(surplus_l, "L"),
            ),
            "Do not pour. Spread it to dry, take sand from inside the heap, or stretch it with dry sand.",
            field=f"moisture_percent.{wettest.key}",
            value=surplus_l,
            limit=free_l,
            unit="L",
        )
    )


def _admixture_lines(given: AdmixtureDose) -> list[AccountLine]:
    """Return what an admixture brings: water of its own, and what it is diluted with."""
    return [line for line in (_own_line(given), _thinning_line(given)) if line.litres > 0]


def _thinning_line(given: AdmixtureDose) -> AccountLine:
    return AccountLine(
        key=f"{given.key}:diluted",
        name=Said("Water that dilutes {name}", name=given.name),
        litres=given.dilution_l,
        working=Working(
            figure=Said("Water that dilutes {name}", name=given.name),
            formula="volume × parts of water",
            given=(Given("volume", given.volume_l or 0.0, "L"), Given("parts of water", DILUTED, "")),
            result=given.dilution_l,
            unit="L",
            source="plain arithmetic: it is part of the first water",
        ),
    )


def _own_line(given: AdmixtureDose) -> AccountLine:
    return AccountLine(
        key=given.key,
        name=given.name,
        litres=given.water_l,
        working=Working(
            figure=Said("{name}: water it brings", name=given.name),
            formula="mass × (1 − solids)",
            given=(
                Given("volume", given.volume_l or 0.0, "L"),
                Given("mass", given.mass_kg, "kg"),
                Given("solids", given.solids_percent, "%"),
            ),
            result=given.water_l,
            unit="L",
            source="common practice, no source",
        ),
    )


def _ice_line(ice_kg: float, added_l: float, share: float) -> AccountLine:
    return AccountLine(
        key="ice",
        name="Ice",
        litres=ice_kg,
        working=Working(
            figure="Ice: water it becomes",
            formula="share × water to add",
            given=(Given("water to add", added_l, "L"), Given("share as ice", share * 100, "%")),
            result=ice_kg,
            unit="L",
            source="plain arithmetic: a kilogram of ice melts to a litre",
        ),
    )


def _line(material: Material, dry_kg: float, percent: float) -> AccountLine:
    litres = surface_water_kg(dry_kg, percent / 100, material.absorption_percent / 100)
    litres = 0.0 if math.isclose(litres, 0.0, abs_tol=1e-12) else litres
    return AccountLine(
        key=material.key,
        name=material.name,
        litres=litres,
        working=Working(
            figure=Said("{name}: water it brings", name=material.name),
            formula="dry mass × (moisture − absorption)",
            given=(
                Given("dry mass", dry_kg, "kg"),
                Given("moisture", percent, "%"),
                Given("absorption", material.absorption_percent, "%"),
            ),
            result=litres,
            unit="L",
            source="ACI 211.1-91, section 6.3.8, from memory",
        ),
    )


def _held_line(material: Material, dry_kg: float) -> AccountLine:
    return AccountLine(
        key=material.key,
        name=material.name,
        litres=dry_kg * material.held_water_percent / 100,
        working=Working(
            figure=Said("{name}: water it comes with", name=material.name),
            formula="dry mass × water held",
            given=(Given("dry mass", dry_kg, "kg"), Given("water held", material.held_water_percent, "%")),
            result=dry_kg * material.held_water_percent / 100,
            unit="L",
            source=material.source,
        ),
    )
