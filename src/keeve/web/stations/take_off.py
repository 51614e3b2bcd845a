"""What the answer of the Measure station says beside the volumes: how sure they are, and how far the material goes."""

from typing import Any

from keeve.core.message.errors import TradeError
from keeve.core.message.said import Amount, Said, Words, mark, verbatim
from keeve.core.planning.plan import Plan
from keeve.core.planning.request import PlanRequest
from keeve.core.takeoff.need import take_off
from keeve.core.takeoff.reach import Reach, reach
from keeve.core.takeoff.shapes import Shape
from keeve.core.takeoff.sureness import Doubt, sureness
from keeve.web.pages.shape_forms import label_of, title_of
from keeve.words.putting import put, t
from keeve.words.reader import Reader


def measured_values(request: PlanRequest, plan: Plan, reader: Reader) -> dict[str, Any]:
    """Return what the answer of the station shows beside the volumes."""
    return {
        "groups": plan.need.groups(),
        "sure": sureness(request.shapes) if request.start is None else None,
        "far": how_far(request, plan) if request.start is None else None,
        "fills_of": fills_of(request, plan),
        "as_loads": lambda volume_m3: as_loads(volume_m3, plan),
        "named": lambda doubt: named(request.shapes, doubt, reader),
    }


def fills_of(request: PlanRequest, plan: Plan) -> float | None:
    """Say what share of the shapes on the list a start fills; None where there is no start, or nothing measured."""
    if request.start is None or not request.shapes:
        return None
    try:
        net_m3 = take_off(request.shapes, 0.0, 0.0).net_m3
    except TradeError:
        return None
    return plan.need.net_m3 / net_m3 if net_m3 > 0 else None


def named(shapes: tuple[Shape, ...], doubt: Doubt, reader: Reader) -> str:
    """Say which measure of which shape is meant."""
    shape = shapes[doubt.shape]
    measure = put(label_of(shape.kind, doubt.field), reader)
    if len(shapes) == 1 and not shape.note:
        return measure
    return t(reader, "{measure} ({shape})", measure=measure, shape=verbatim(shape.note) or title_of(shape.kind))


def as_loads(volume_m3: float, plan: Plan) -> Words:
    """Say a volume as a share of a load, where that is something to reckon with."""
    share = volume_m3 / max(load.volume_m3 for load in plan.loads)
    if share >= 1.5:
        return Said("{share} loads", share=Amount(share, "tenths"))
    if share >= 0.75:
        return mark("one load")
    return Said("{share} of a load", share=Amount(round(share * 100), "%")) if share >= 0.1 else ""


def how_far(request: PlanRequest, plan: Plan) -> Reach | None:
    """Say how far the material at hand goes; None where nothing was said of it."""
    if request.at_hand_l:
        return reach(request.shapes, plan.need, request.at_hand_l / 1000)
    if not request.at_hand_bags or request.mix.bag_kg() is None:
        return None
    key = request.mix.bagged().key
    per_m3 = next(c.dry_kg_m3 for c in plan.proportions.constituents if c.material.key == key)
    return reach(request.shapes, plan.need, request.at_hand_bags * (request.mix.bag_kg() or 0.0) / per_m3)
