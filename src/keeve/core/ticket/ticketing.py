"""Writes the ticket of a plan: the one place that knows both."""

import hashlib
import math
from typing import Any, Final

from keeve.core.conditions.cautions import at_steps, cautions_of
from keeve.core.dividing.comparing import Compared, left_fills
from keeve.core.dividing.dividing import Split
from keeve.core.dosing.card import Card
from keeve.core.dosing.dose import Dose
from keeve.core.dosing.rounded import keeps
from keeve.core.dosing.steps import ICE
from keeve.core.dosing.thumb import thumbs
from keeve.core.dosing.water import AccountLine, WaterAccount
from keeve.core.hardening.strength import WaterCost
from keeve.core.materials.looks import HeapLook
from keeve.core.materials.material import WET_HEAPS
from keeve.core.message.said import Words
from keeve.core.message.working import Working
from keeve.core.mixes.admixture_doses import AdmixtureDose
from keeve.core.mixes.heap_checks import heap_warnings
from keeve.core.mixes.mix import Mix
from keeve.core.planning.dealing import Dealer
from keeve.core.planning.plan import Plan, Total
from keeve.core.planning.request import PlanRequest
from keeve.core.proportions.base import WaterWindow
from keeve.core.ticket.afterwards import afterwards, rescue_of
from keeve.core.ticket.cards import (
    BroughtWater,
    FillMark,
    StepPart,
    TicketAdmixture,
    TicketCard,
    TicketDose,
    TicketStep,
    TicketWater,
    Window,
)
from keeve.core.ticket.rescue import rescue_working
from keeve.core.ticket.ticket import (
    Bound,
    Division,
    Look,
    MoreWater,
    NamedRatio,
    Rescue,
    Ticket,
    TicketLoad,
    TicketTarget,
    TicketTotal,
)
from keeve.core.vessels.vessels import Fill


def issue(request: PlanRequest, plan: Plan, *, compared: bool = True) -> Ticket:
    """Write the ticket of a plan.

    Parameters
    ----------
    request, plan : what was asked and what came of it
    compared : whether the other ways of dividing are worked out too, load by load

    Returns
    -------
    the ticket, first revision; it refers to nothing else

    References
    ----------
    The methods named in the workings.
    """
    mix = request.mix
    cautions = cautions_of(mix, plan.proportions, plan.begins_c)
    looks = heap_warnings(mix, request.heaps.moisture_percent)
    cards = tuple(_card(card, request, _minded(card, cautions, looks)) for card in plan.cards)
    reduced = any(w.admixture.acts == "cuts water" for w in request.admixtures)
    rescue = rescue_of(mix, cards[0], plan.begins_c)
    return Ticket(
        core_version=plan.core_version,
        **_names(request, plan),
        **_at_hand(request, plan),
        net_m3=plan.need.net_m3,
        order_m3=plan.need.order_m3,
        left_m3=plan.left_m3,
        made_m3=plan.made_m3,
        ratios=tuple(NamedRatio(name=r.name, value=r.value) for r in plan.ratios),
        bounds=tuple(Bound(name=limit.name, volume_m3=limit.volume_m3) for limit in plan.limits),
        strategy=plan.strategy,
        reason=plan.reason,
        recommended=plan.recommended,
        divisions=_divisions(request, plan) if compared else (),
        count=len(plan.loads),
        bags=plan.split.bags_opened,
        cards=cards,
        loads=tuple(TicketLoad(card=load.card, volume_m3=load.volume_m3) for load in plan.loads),
        totals=tuple(_total(total) for total in plan.totals),
        pour_l=_window(plan.water_l),
        minutes_mixing=plan.minutes_mixing,
        **afterwards(mix, request.mixer.kind, plan.begins_c, reduced=reduced),
        full_m3=min(limit.volume_m3 for limit in plan.limits if limit.bounds_fresh),
        look=_look(mix),
        rescue=rescue,
        **{name: _more_water(getattr(plan, name)) for name in ("more_water", "more_water_us")},
        dry_cast_kg=plan.dry_cast_kg,
        cautions=tuple(cautions.values()),
        batch_c=plan.batch_temperature.result if plan.batch_temperature else None,
        warnings=plan.warnings,
        thumbs=thumbs(mix, plan.proportions, request.heaps, plan.need.order_m3) if compared else (),
        workings=_workings(plan, cards, rescue),
    )


def _names(request: PlanRequest, plan: Plan) -> dict[str, Any]:
    """Say what a ticket is of."""
    mix = request.mix
    return {
        "mix_key": mix.key,
        "mix_name": mix.name,
        "mix_as": _mix_as(request, plan),
        "moisture_as": _moisture_as(request),
    }


def _at_hand(request: PlanRequest, plan: Plan) -> dict[str, Any]:
    """Say what it is mixed in and measured with."""
    return {
        "mixer": request.mixer,
        "mixer_why": request.mixer_why,
        "measures": tuple(c for c in request.gauges if c.key in _used(plan)),
        "jug": request.jug,
        "air_c": request.air.felt_c() if request.air else None,
        "scales": request.scales,
        "hose_l_min": request.hose_l_min,
        "water_means": request.measured.get("water"),
    }


def _divisions(request: PlanRequest, plan: Plan) -> tuple[Division, ...]:
    """List the ways of dividing that can be measured, with their figures."""
    dealt = (plan.strategy, plan.cards)
    compared = Dealer(request, plan.proportions, plan.whole, dealt).all_compared(plan.splits)
    judged = {one.strategy: one for one in compared}
    return tuple(_division(split, judged[split.strategy], plan) for split in plan.splits if split.strategy in judged)


def _division(split: Split, judged: Compared, plan: Plan) -> Division:
    fills = left_fills(split.left_m3, plan.need.items)
    return Division(
        strategy=split.strategy,
        loads=len(split.volumes_m3),
        bags=split.bags_opened,
        left_l=round(split.left_m3 * 1000, 6),
        minutes=judged.minutes,
        worst_percent=judged.worst_percent,
        worst=judged.worst,
        good=judged.good,
        carries=judged.carries,
        heaviest_kg=judged.heaviest_kg,
        left_bag=judged.left_bag,
        left_fills=(fills[0].note, fills[1]) if fills and fills[0].note else None,
    )


def _total(total: Total) -> TicketTotal:
    return TicketTotal(
        key=total.material_key,
        name=total.name,
        dry_kg=total.dry_kg,
        batch_kg=total.batch_kg,
        packs=total.packs,
    )


def _used(plan: Plan) -> set[str]:
    doses = [d for card in plan.cards for d in card.doses]
    return (
        {a.caps.container for card in plan.cards for a in card.admixtures if a.caps is not None}
        | {d.gauge.container_key for d in doses if d.gauge is not None}
        | {d.count.container for d in doses if d.count is not None}
        | {d.weighing.vessel for d in doses if d.weighing is not None and d.weighing.vessel is not None}
    )


def _mix_as(request: PlanRequest, plan: Plan) -> str:
    """Name what must be alike for one load to teach the next; short, and not meant to be read."""
    parts = [f"{c.material.key}={c.dry_kg_m3:.4f}" for c in plan.proportions.constituents]
    parts += [f"{w.admixture.key}={w.amount:g} {w.unit}" for w in request.admixtures]
    parts += [f"water={plan.proportions.water.target:.4f}", f"ice={request.ice_percent or 0:g}"]
    return f"{request.mix.key} {hashlib.sha256(' '.join(parts).encode()).hexdigest()[:12]}"


def _moisture_as(request: PlanRequest) -> str:
    heaps = [m.key for m in request.mix.materials() if m.role in WET_HEAPS]
    known = request.heaps.moisture_percent
    return " ".join(f"{key}={_brief(known[key])}" if key in known else f"{key}=?" for key in heaps)


def _brief(known: float | HeapLook) -> str:
    return known if isinstance(known, str) else f"{known:g}"


def _window(water: WaterWindow) -> Window:
    return Window(low=water.low, target=water.target, high=water.high)


def _fill(fill: Fill) -> FillMark:
    return FillMark(
        container=fill.container_key,
        fills=fill.fills,
        mark_down_mm=fill.mark_down_mm,
        mark_up_mm=fill.mark_up_mm,
        struck_exact=fill.struck_exact,
    )


# Bulk density of cement in a pail: 94 lb to the cubic foot, from memory; just poured in: common practice, no source.
SETTLED_KG_M3: Final = 1506.0
FLUFFY_KG_M3: Final = 830.0


def _by_pail(dose: Dose, card: Card, weighed: frozenset[str]) -> dict[str, Any]:
    """Say how cement by the pail is counted, and what it may hide."""
    if dose.role != "cement" or dose.gauge is None:
        return {"gauged_kg_m3": None, "ratio_to": None}
    counted = dose.dry_kg / dose.gauged_l * 1000
    if dose.material_key in weighed:
        return {"gauged_kg_m3": counted, "ratio_to": None}
    ratio = card.water.free.target / math.fsum(d.dry_kg for d in card.doses if d.role == "cement")
    return {"gauged_kg_m3": counted, "ratio_to": (ratio * counted / SETTLED_KG_M3, ratio * counted / FLUFFY_KG_M3)}


def _dose(dose: Dose, card: Card, weighed: frozenset[str]) -> TicketDose:
    return TicketDose(
        key=dose.material_key,
        fill=_fill(dose.gauge) if dose.gauge else None,
        error_percent=dose.as_measure().error_percent,
        keeps=keeps(dose.as_measure()),
        **{name: getattr(dose, name) for name in _ALIKE},
        **_by_pail(dose, card, weighed),
    )


_ALIKE: Final = (
    "name", "role", "dry_kg", "batch_kg", "solid_l", "gauged_l", "packs", "pack_kg", "pack_word", "gauged_to_l",
    "means", "count", "weighing", "heap",
)  # fmt: skip
"""What a dose and its line on the ticket have in common."""


def _admixture(given: AdmixtureDose) -> TicketAdmixture:
    return TicketAdmixture(
        key=given.key,
        name=given.name,
        when=given.when,
        mass_kg=given.mass_kg,
        volume_l=given.volume_l,
        water_l=given.water_l,
        caps=given.caps,
        drawn=given.drawn,
    )


def _brought(line: AccountLine, heaps: set[str], packs: set[str]) -> BroughtWater:
    by = "heap" if line.key in heaps else "pack" if line.key in packs else "ice" if line.key == ICE else "admixture"
    return BroughtWater.model_validate({"key": line.key, "name": line.name, "litres": line.litres, "by": by})


def _water(water: WaterAccount, mix: Mix) -> TicketWater:
    heaps = {m.key for m in mix.materials() if m.role in WET_HEAPS}
    packs = {m.key for m in mix.materials()} - heaps
    return TicketWater(
        free=_window(water.free),
        pour=_window(water.pour),
        brought=tuple(_brought(line, heaps, packs) for line in water.lines),
        if_dry_l=water.if_dry_l,
        first_l=water.first_l,
        hold_back_l=water.hold_back_l,
        by=water.by,
        sip_l=water.sip_l,
        sip_us_l=water.sip_us_l,
        by_drops=water.by_drops,
        limited=water.limited,
        ice_kg=water.ice_kg,
    )


def _minded(card: Card, cautions: dict[str, Words], looks: list[Words]) -> list[list[Words]]:
    """Say what to mind at each step: what can hurt, and at the first water what is not known of the heaps."""
    minded = at_steps(card, cautions)
    first = next((i for i, step in enumerate(card.steps) if step.water_l > 0), None)
    if first is not None:
        minded[first] = [*looks, *minded[first]]
    return minded


def _card(card: Card, request: PlanRequest, minded: list[list[Words]]) -> TicketCard:
    weighed = frozenset(request.struck_kg)
    return TicketCard(
        volume_m3=card.volume_m3,
        fresh_kg=card.fresh_kg,
        doses=tuple(_dose(d, card, weighed) for d in card.doses),
        admixtures=tuple(_admixture(a) for a in card.admixtures),
        water=_water(card.water, request.mix),
        steps=tuple(
            TicketStep(
                kind=step.kind,
                title=step.title,
                detail=step.detail,
                seconds=step.seconds,
                parts=tuple(
                    StepPart(key=p.material_key, share=p.share, batch_kg=p.batch_kg, solid_l=p.solid_l)
                    for p in step.doses
                ),
                water_l=step.water_l,
                cautions=tuple(mind),
                drawn=step.drawn,
                speed=step.speed,
                draws=step.draws,
            )
            for step, mind in zip(card.steps, minded, strict=True)
        ),
        meets=card.meets,
        seconds=card.seconds,
        rounded=card.rounded,
    )


def _look(mix: Mix) -> Look:
    seen = mix.consistency
    targets = tuple(
        TicketTarget(use=t.use, measure=t.measure, low=t.low, high=t.high, unit=t.unit, source=t.source)
        for t in mix.targets
    )
    return Look(test=seen.test, dry=seen.dry, right=seen.right, wet=seen.wet, targets=targets, drawn=mix.field_test)


def _more_water(cost: WaterCost | None) -> MoreWater | None:
    if cost is None:
        return None
    return MoreWater(
        extra_l=cost.extra_l,
        ratio_name="w/c" if cost.kind == "concrete" else "w/p",
        ratio=cost.ratio,
        ratio_after=cost.ratio_after,
        strength_change_percent=cost.strength_change_percent,
        estimated=cost.estimated,
    )


def _workings(plan: Plan, cards: tuple[TicketCard, ...], rescue: Rescue) -> dict[str, Working]:
    found = {"order_m3": plan.order_working, "count": plan.loads_working}
    if plan.bags_working is not None:
        found["bags"] = plan.bags_working
    found |= {f"ratios.{i}.value": r.working for i, r in enumerate(plan.ratios)}
    found |= {f"bounds.{i}.volume_m3": limit.working for i, limit in enumerate(plan.limits)}
    for i, card in enumerate(plan.cards):
        found[f"cards.{i}.water.pour.target"] = card.water.working
        found |= {f"cards.{i}.water.brought.{j}.litres": line.working for j, line in enumerate(card.water.lines)}
    for name in ("more_water", "more_water_us"):
        cost = getattr(plan, name)
        if cost is not None:
            found[f"{name}.strength_change_percent"] = cost.working
    if plan.batch_temperature is not None:
        found["batch_c"] = plan.batch_temperature
    if rescue.dry_kg_per_litre is not None:
        found["rescue.dry_kg_per_litre"] = rescue_working(cards[0], rescue.dry_kg_per_litre)
    return found
