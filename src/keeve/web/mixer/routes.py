"""Station 4: begins a run, shows it, and takes its events in."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Body, HTTPException, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.core import saying
from keeve.core.batch import BatchEvent
from keeve.core.correcting import room_for_dry_kg
from keeve.core.dosing import Card
from keeve.core.errors import TradeError
from keeve.core.plan import Plan
from keeve.core.procedure import StepDose
from keeve.core.units import GAL_L, LB_KG, System, show_litres
from keeve.core.vessels import jug_steps_l
from keeve.store.crew_store import Kept
from keeve.web.deps import Job, Shelf, Store, Units
from keeve.web.faults import fault_rows
from keeve.web.planning import pruned, try_plan
from keeve.web.render import page
from keeve.web.security import OwnPage

router = APIRouter(include_in_schema=False)

# 2, 4 and 8 fl oz, a pint, a quart, a half gallon, a gallon, two gallons.
US_JUG_L = tuple(GAL_L * share for share in (1 / 64, 1 / 32, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1.0, 2.0))
MOST_EVENTS = 200


def _jug_label(litres: float, units: System) -> str:
    number, unit = show_litres(litres, units)
    return f"+ {number.rstrip('0').rstrip('.') if '.' in number else number} {unit}"


def _weigh(part: StepDose, card: Card) -> dict[str, Any] | None:
    """Say what the scale should show, for what goes by the scale."""
    dose = next((d for d in card.doses if d.material_key == part.material_key), None)
    if dose is None or dose.gauge is not None or (dose.packs is not None and saying.bags(dose.packs * part.share)):
        return None
    return {"wanted_kg": part.batch_kg, "role": dose.role}


def _card(card: Card, units: System, plan: Plan) -> dict[str, Any]:
    water = card.water
    largest_m3 = min(limit.volume_m3 for limit in plan.limits)
    jugs = jug_steps_l(water.sip_l, water.first_l, *([US_JUG_L] if units == "us" else []))
    return {
        "volume_l": card.volume_m3 * 1000,
        "meets": card.meets,
        "pour": water.pour._asdict(),
        "first_l": water.first_l,
        "sip_l": water.sip_l,
        "dry_room_kg": room_for_dry_kg(largest_m3, card.volume_m3, plan.proportions.dry_kg_m3),
        "jugs": [{"litres": litres, "label": _jug_label(litres, units)} for litres in jugs],
        "steps": [
            {
                "kind": step.kind,
                "title": step.title,
                "detail": step.detail,
                "seconds": step.seconds,
                "water_l": step.water_l,
                "lines": [
                    {"key": i, "name": name, "amount": amount, "exact": exact, "weigh": _weigh(part, card)}
                    for i, (part, (name, amount, exact)) in enumerate(
                        zip(step.doses, saying.step_lines(step, card, units), strict=True)
                    )
                ],
            }
            for step in card.steps
        ],
    }


def run_document(kept: Kept, units: System) -> dict[str, Any]:
    """Write down all the run page needs, so that it goes on without a network."""
    correction = kept.plan.correction
    return {
        "loads": [{"number": load.number, "card": load.card} for load in kept.plan.loads],
        "cards": [_card(card, units, kept.plan) for card in kept.plan.cards],
        "life_s": kept.request.mix.working_life_min * 60,
        "correction": correction.model_dump(mode="json", exclude={"working"}),
        # How the page says a count of water: units are turned here, never in the browser.
        "litres": {"unit": "qt", "per_unit": GAL_L / 4} if units == "us" else {"unit": "L", "per_unit": 1.0},
        "kilos": {"unit": "lb", "per_unit": LB_KG} if units == "us" else {"unit": "kg", "per_unit": 1.0},
        "events": {
            number: [e.model_dump(mode="json", exclude_defaults=True) for e in events]
            for number, events in kept.events.items()
        },
    }


@router.get("/jobs/{job_id}/mixer", name="mixer")
def mixer(request: Request, job: Job, store: Store, shelf: Shelf, units: Units) -> Response:
    """Show the run that is under way, or offer to begin one."""
    kept = store.kept(job)
    if kept is None:
        tried = try_plan(store.sheet(job), shelf)
        rows = fault_rows(tried.faults, units)
        return page(request, "mixer/empty.html", job=job, station="mixer", plan=tried.plan, mix=tried.mix, faults=rows)
    now = try_plan(store.sheet(job), shelf)
    return page(
        request,
        "mixer/page.html",
        job=job,
        station="mixer",
        kept=kept,
        mix=kept.request.mix,
        run=run_document(kept, units),
        changed=now.request is not None and now.request != kept.request,
    )


@router.post("/jobs/{job_id}/begin", name="begin", dependencies=[OwnPage])
def begin(request: Request, job: Job, store: Store, shelf: Shelf) -> Response:
    """Keep the ticket as it stands and go to the mixer; the same ticket is not kept twice."""
    sheet = pruned(store.sheet(job))
    tried = try_plan(sheet, shelf)
    if tried.request is None or tried.plan is None:
        raise TradeError(*tried.faults)
    kept = store.kept(job)
    if kept is None or kept.request != tried.request:
        store.keep_plan(job, sheet, tried.request, tried.plan)
    return RedirectResponse(request.url_for("mixer", job_id=job.id), status.HTTP_303_SEE_OTHER)


@router.post("/jobs/{job_id}/plans/{plan_id}/loads/{number}/events", name="append_events", dependencies=[OwnPage])
def append_events(
    job: Job,
    store: Store,
    plan_id: UUID,
    number: int,
    events: Annotated[list[BatchEvent], Body(max_length=MOST_EVENTS)],
) -> dict[str, int]:
    """Append events to a load's log; sending them again changes nothing."""
    if not store.has_load(job, plan_id, number):
        raise HTTPException(status.HTTP_404_NOT_FOUND, "This load is not on the ticket.")
    return {"added": store.append(job, plan_id, number, events)}
