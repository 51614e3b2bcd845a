"""What the answer of the Measure station says beside the volumes: how sure they are, and how far the material goes."""

from keeve.core.plan import Plan, PlanRequest
from keeve.core.takeoff.reach import Reach, reach
from keeve.core.takeoff.sureness import Sureness, sureness


def sure(request: PlanRequest) -> Sureness:
    """Say how sure the take-off is."""
    return sureness(request.shapes)


def as_loads(volume_m3: float, plan: Plan) -> str:
    """Say a volume as a share of a load, where that is something to reckon with."""
    share = volume_m3 / max(load.volume_m3 for load in plan.loads)
    if share >= 1.5:
        return f", {share:.1f} loads"
    if share >= 0.75:
        return ", one load"
    return f", {share * 100:.0f} % of a load" if share >= 0.1 else ""


def how_far(request: PlanRequest, plan: Plan) -> Reach | None:
    """Say how far the material at hand goes; None where nothing was said of it."""
    if request.at_hand_l:
        return reach(request.shapes, plan.need, request.at_hand_l / 1000)
    if not request.at_hand_bags or request.mix.bag_kg() is None:
        return None
    key = request.mix.bagged().key
    per_m3 = next(c.dry_kg_m3 for c in plan.proportions.constituents if c.material.key == key)
    return reach(request.shapes, plan.need, request.at_hand_bags * (request.mix.bag_kg() or 0.0) / per_m3)
