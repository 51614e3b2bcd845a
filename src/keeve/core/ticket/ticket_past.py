"""Tickets of earlier versions climb to today's here: pure steps from document to document, never edited once released.

A step reads documents only, none of today's models, so that those stay free to change.
"""

import hashlib
from collections.abc import Callable
from copy import deepcopy
from typing import Any, Final

from pydantic import ValidationError

from keeve.core.ticket.ticket import VERSION, Ticket

Document = dict[str, Any]


def open_ticket(raw: Any) -> Ticket:
    """Read a stored ticket of any version.

    Parameters
    ----------
    raw : the document as stored

    Returns
    -------
    the ticket

    Raises
    ------
    ValueError : it cannot be read, for whatever reason

    References
    ----------
    Common practice, no source.
    """
    try:
        version = raw["version"]
        while version != VERSION:
            raw = _STEPS[version](raw)
            version = raw["version"]
        return _read(raw)
    except (KeyError, TypeError, IndexError, AttributeError, ValueError, RecursionError) as error:
        raise ValueError(f"This ticket cannot be read: {type(error).__name__}.") from error


def _read(raw: Document) -> Ticket:
    """Read a document of today's version; what a newer program wrote besides is kept, not understood."""
    try:
        return Ticket.model_validate(raw)
    except ValidationError as error:
        places = [one["loc"] for one in error.errors(include_url=False) if one["type"] == "extra_forbidden"]
        if not places:
            raise
    known: Document = deepcopy(raw)
    beside: list[tuple[tuple[int | str, ...], Any]] = []
    for place in places:
        inside: Any = known
        path: list[int | str] = []
        for part in place[:-1]:
            if isinstance(inside, dict) and part not in inside:
                continue  # the name of one of several kinds is no place
            inside = inside[part]
            path.append(part)
        beside.append(((*path, place[-1]), inside.pop(place[-1])))
    return Ticket.model_validate(known).with_beside(tuple(beside))


# ── from the first tickets: what they did not know is said ───────────────────

_DOSE: Final = {
    "packs": None, "pack_kg": None, "pack_word": "bag", "fill": None, "gauged_to_l": None, "gauged_kg_m3": None,
    "ratio_to": None, "means": None, "count": None, "weighing": None, "error_percent": 0.0, "keeps": True, "heap": None,
}  # fmt: skip
_STEP: Final = {
    "detail": "", "seconds": 0, "parts": [], "water_l": 0.0, "cautions": [], "drawn": None, "speed": "", "draws": "",
}  # fmt: skip
_DIVISION: Final = {
    "minutes": None, "worst_percent": None, "worst": "", "good": True, "carries": 0, "heaviest_kg": 0.0,
    "left_bag": 0.0, "left_fills": None,
}  # fmt: skip
_TICKET: Final = {
    "revision": 1, "round": 1, "counted": [], "scales": [], "hose_l_min": None, "water_means": None, "mixer_why": "",
    "recommended": "", "life_ref_c": 20.0, "air_c": None, "wet_out_s": 0, "turn_again_min": 0.0, "stages": [],
    "cleaning": [], "leftovers": "", "by_dry_mass": False, "more_water": None, "more_water_us": None,
    "dry_cast_kg": None, "cautions": [], "temperatures": "", "warnings": [], "thumbs": [], "batch_c": None,
    "workings": {},
}  # fmt: skip


def _by_jug(raw: Document) -> Document:
    """Say what its water is measured with, as far as it is known: the jug, and sips in its marks."""
    mark_l = raw["jug"].get("mark_l") or 0.1
    sip_l = raw["cards"][0]["water"]["sip_l"]
    return {"by": {"means": "jug", "name": "", "step_l": mark_l, "us_step_l": 0.0}, "sip_us_l": sip_l}


def _judged(rounded: Document | None) -> Document | None:
    """A load as measured was only called good or not: then the worst of it is what failed."""
    if rounded is None or "failing" in rounded:
        return rounded
    bad = [] if rounded["good"] else [{"key": rounded["worst"], "percent": rounded["worst_percent"]}]
    return {k: v for k, v in rounded.items() if k != "good"} | {"strain": 0.0, "failing": bad}


def _from_first(raw: Document) -> Document:
    cards = [
        {"admixtures": [], "seconds": 0}
        | card
        | {
            "rounded": _judged(card.get("rounded")),
            "doses": [_DOSE | dose for dose in card["doses"]],
            "admixtures": [{"caps": None, "drawn": None} | one for one in card.get("admixtures", ())],
            "water": {"if_dry_l": 0.0, "ice_kg": 0.0, "by_drops": False, "limited": False}
            | _by_jug(raw)
            | card["water"],
            "steps": [_STEP | step for step in card["steps"]],
        }
        for card in raw["cards"]
    ]
    return _TICKET | raw | {
        "version": 2,
        "cards": cards,
        "totals": [{"packs": None} | total for total in raw["totals"]],
        "divisions": [_DIVISION | one for one in raw["divisions"]],
        "look": {"targets": [], "drawn": None} | raw["look"],
        "rescue": {"dry_kg_per_litre": None} | raw["rescue"],
    }  # fmt: skip


# ── from the plan and its request, as they were kept before tickets ──────────


def _verbatim(text: str) -> Any:
    """A finished sentence of an old plan can only be told as it stands."""
    return ["{text}", {"text": text}] if text else ""


def _from_plan(raw: Document) -> Document:
    request, plan = raw["request"], raw["plan"]
    mix, mixer = request["mix"], request["mixer"]
    cards = [_card(card, plan["proportions"]) for card in plan["cards"]]
    chosen = next((s for s in plan["splits"] if s["strategy"] == plan["strategy"]), plan["splits"][0])
    used = {d["fill"]["container"] for card in cards for d in card["doses"] if d["fill"]}
    return _head(raw) | {
        "mixer": mixer,
        "measures": [c for c in request["gauges"] if c["key"] in used],
        "jug": request["jug"],
        "net_m3": plan["need"]["net_m3"],
        "order_m3": plan["need"]["order_m3"],
        "left_m3": plan["need"]["order_m3"],
        "made_m3": plan["made_m3"],
        "ratios": [{"name": r["name"], "value": r["value"]} for r in plan["ratios"]],
        "bounds": [{"name": _verbatim(one["name"]), "volume_m3": one["volume_m3"]} for one in plan["limits"]],
        "strategy": plan["strategy"],
        "reason": _verbatim(plan["reason"]),
        "divisions": [_division(s) for s in plan["splits"]],
        "count": len(plan["loads"]),
        "bags": chosen["bags_opened"],
        "cards": cards,
        "loads": [{"card": load["card"], "volume_m3": load["volume_m3"]} for load in plan["loads"]],
        "totals": [_total(t) for t in plan["totals"]],
        "pour_l": _window(plan["water_l"]),
        "minutes_mixing": plan["minutes_mixing"],
        "life_min": mix["working_life_min"],
        "full_m3": _full_m3(mixer, cards[0]),
        "by_dry_mass": mix["basis"]["basis"] == "bio-aggregate",
        "look": _look(mix),
        "rescue": _rescue(plan["correction"], mix["late_water"]),
        "more_water": _more_water(plan.get("litre_more")),
        "dry_cast_kg": plan.get("dry_cast_kg"),
        "cautions": [_verbatim(c["sentence"]) for c in mix["cautions"]],
        "temperatures": _verbatim((mix.get("temperatures") or {}).get("sentence", "")),
        "warnings": [_verbatim(w) for w in plan["warnings"]],
        "workings": _workings(plan),
    }


def _head(raw: Document) -> Document:
    """Say what a ticket is of."""
    request, plan = raw["request"], raw["plan"]
    return {
        "version": 1,
        "revision": raw.get("revision", 1),
        "round": raw.get("round", 1),
        "core_version": plan["core_version"],
        "mix_key": request["mix"]["key"],
        "mix_name": _verbatim(request["mix"]["name"]),
        "mix_as": _mix_as(request, plan),
        "moisture_as": _moisture_as(request, plan),
    }


def _full_m3(mixer: Document, card: Document) -> float:
    """Fresh mix the mixer holds and carries [m³]."""
    rated = mixer["mixed_l"] / 1000
    fresh_kg_m3 = card["fresh_kg"] / card["volume_m3"]
    return float(min(rated, mixer["max_kg"] / fresh_kg_m3) if mixer.get("max_kg") else rated)


def _window(three: list[float]) -> Document:
    return dict(zip(("low", "target", "high"), three, strict=True))


def _division(split: Document) -> Document:
    return {
        "strategy": split["strategy"],
        "loads": len(split["volumes_m3"]),
        "bags": split["bags_opened"],
        "left_l": split["left_m3"] * 1000,
    }


def _total(total: Document) -> Document:
    return {
        "key": total["material_key"],
        "name": _verbatim(total["name"]),
        "dry_kg": total["dry_kg"],
        "batch_kg": total["batch_kg"],
        "packs": total["packs"],
    }


def _card(card: Document, proportions: Document) -> Document:
    roles = {c[0]["key"]: c[0]["role"] for c in proportions["constituents"]}
    water = card["water"]
    return {
        "volume_m3": card["volume_m3"],
        "fresh_kg": card["fresh_kg"],
        "doses": [_dose(d) for d in card["doses"]],
        "admixtures": [
            {k: a[k] for k in ("key", "when", "mass_kg", "volume_l", "water_l")} | {"name": _verbatim(a["name"])}
            for a in card.get("admixtures", [])
        ],
        "water": {
            "free": _window(water["free"]),
            "pour": _window(water["pour"]),
            "brought": [
                {"key": n["key"], "name": _verbatim(n["name"]), "litres": n["litres"], "by": _by(n["key"], roles)}
                for n in water["lines"]
            ],
            "first_l": water["first_l"],
            "hold_back_l": water["hold_back_l"],
            "sip_l": water["sip_l"],
            "ice_kg": water.get("ice_kg", 0.0),
        },
        "steps": [_step(s) for s in card["steps"]],
        "meets": card["meets"],
        "seconds": card["seconds"],
    }


def _by(key: str, roles: dict[str, str]) -> str:
    if key not in roles:
        return "ice" if key == "ice" else "admixture"
    return "heap" if roles[key] in ("sand", "stone", "ballast") else "pack"


def _dose(dose: Document) -> Document:
    gauge = dose["gauge"]
    kept = ("role", "dry_kg", "batch_kg", "solid_l", "gauged_l", "packs", "pack_kg")
    return {k: dose[k] for k in kept} | {
        "key": dose["material_key"],
        "name": _verbatim(dose["name"]),
        "pack_word": dose.get("pack_word", "bag"),
        "fill": gauge
        and {
            "container": gauge["container_key"],
            **{k: gauge[k] for k in ("fills", "mark_down_mm", "mark_up_mm", "struck_exact")},
        },
    }


def _step(step: Document) -> Document:
    return {
        "kind": step["kind"],
        "title": _verbatim(step["title"]),
        "detail": _verbatim(step["detail"]),
        "seconds": step["seconds"],
        "parts": [
            {"key": p["material_key"], "share": p["share"], "batch_kg": p["batch_kg"], "solid_l": p["solid_l"]}
            for p in step["doses"]
        ],
        "water_l": step["water_l"],
    }


def _look(mix: Document) -> Document:
    seen = {k: _verbatim(mix["consistency"][k]) for k in ("test", "dry", "right", "wet")}
    kept = ("measure", "low", "high", "unit", "source")
    targets = [{k: t[k] for k in kept} | {"use": _verbatim(t["use"])} for t in mix.get("targets", [])]
    return {**seen, "targets": targets}


def _rescue(correction: Document, late: Document) -> Document:
    per_litre = correction["dry_kg_per_litre_over"]
    return {
        "may_take_water": correction["may_take_water"],
        "may_take_dry": per_litre is not None,
        "too_dry": _verbatim(correction["too_dry"]),
        "too_wet": _verbatim(correction["too_wet"]),
        "stiffened": _verbatim(late["stiffened"]),
        "dry_kg_per_litre": per_litre,
    }


def _more_water(cost: Document | None) -> Document | None:
    if cost is None:
        return None
    kept = ("extra_l", "ratio", "ratio_after", "strength_change_percent", "estimated")
    return {k: cost[k] for k in kept} | {"ratio_name": "w/c" if cost["kind"] == "concrete" else "w/p"}


def _working(working: Document) -> Document:
    return {
        "figure": _verbatim(working["figure"]),
        "formula": _verbatim(working["formula"]),
        "given": [[_verbatim(name), value, unit] for name, value, unit in working["given"]],
        "result": working["result"],
        "unit": working["unit"],
        "source": _verbatim(working["source"]),
    }


def _workings(plan: Document) -> Document:
    found = {"order_m3": plan["workings"][0]}
    found |= {f"ratios.{i}.value": r["working"] for i, r in enumerate(plan["ratios"])}
    found |= {f"bounds.{i}.volume_m3": one["working"] for i, one in enumerate(plan["limits"])}
    for i, card in enumerate(plan["cards"]):
        found[f"cards.{i}.water.pour.target"] = card["water"]["working"]
        found |= {f"cards.{i}.water.brought.{j}.litres": n["working"] for j, n in enumerate(card["water"]["lines"])}
    if plan.get("litre_more"):
        found["more_water.strength_change_percent"] = plan["litre_more"]["working"]
    if plan["correction"]["working"]:
        found["rescue.dry_kg_per_litre"] = plan["correction"]["working"]
    return {path: _working(working) for path, working in found.items()}


def _mix_as(request: Document, plan: Document) -> str:
    parts = [f"{c[0]['key']}={c[1]:.4f}" for c in plan["proportions"]["constituents"]]
    parts += [f"{w['admixture']['key']}={w['amount']:g} {w['unit']}" for w in request.get("admixtures", [])]
    parts += [f"water={plan['proportions']['water'][1]:.4f}", f"ice={request.get('ice_percent') or 0:g}"]
    return f"{request['mix']['key']} {hashlib.sha256(' '.join(parts).encode()).hexdigest()[:12]}"


def _moisture_as(request: Document, plan: Document) -> str:
    heaps = [c[0]["key"] for c in plan["proportions"]["constituents"] if c[0]["role"] in ("sand", "stone", "ballast")]
    given = request["moisture_percent"]
    return " ".join(f"{key}={given[key]:g}" if key in given else f"{key}=?" for key in heaps)


_STEPS: Final[dict[int, Callable[[Document], Document]]] = {0: _from_plan, 1: _from_first}
