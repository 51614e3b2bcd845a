"""Every working that is shown is worked out again here from its printed inputs, and agrees with the figure it hangs on."""

import json
import math
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from pydantic import BaseModel

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.message.said import Said, plain
from keeve.core.message.working import Working
from keeve.core.planning.plan import Plan, plan
from keeve.core.ticket.ticket import Ticket
from keeve.core.ticket.ticketing import issue
from tests.prose import PROSE

EXAMPLES = sorted((Path(__file__).parents[3] / "examples").glob("*.json"))
Values = dict[str, float]


def ending(v: Values, words: str) -> list[float]:
    return [value for name, value in v.items() if name.endswith(words)]


def volume_parts(v: Values) -> float:
    parts, bulks, densities = ending(v, ", parts"), ending(v, "mass of a gauge"), ending(v, "particle density")
    return masses([p * b for p, b in zip(parts, bulks, strict=True)], densities, v)


def mass_parts(v: Values) -> float:
    return masses(ending(v, "parts by mass"), ending(v, "particle density"), v)


def masses(parts: list[float], densities: list[float], v: Values) -> float:
    """First mass in a cubic metre: k Σ m/ρ + water/1000 + air = 1."""
    solids = sum(m / d for m, d in zip(parts, densities, strict=True))
    air = v["air"] / 100
    if "water to dry solids" in v:
        return parts[0] * (1 - air) / (solids + v["water to dry solids"] * sum(parts) / 1000)
    return parts[0] * (1 - air - v["water in 1 m³"] / 1000) / solids


def ratios(v: Values) -> float:
    solids = sum(r / d for r, d in zip(ending(v, "to cementitious"), ending(v, "particle density"), strict=True))
    return (1 - v["air or voids"] / 100) / (solids + v["w/cm"] / 1000)


def kits(v: Values) -> float:
    solids_l = sum(m / d * 1000 for m, d in zip(ending(v, ", dry"), ending(v, "particle density"), strict=True))
    water_l = v["water to add"] + v.get("water in the pails", 0.0)
    return 1000 / ((solids_l + water_l) / (1 - v["air"] / 100))


def powder(v: Values, ratio: float) -> float:
    return (1 - v["air"] / 100) / (1 / v["particle density"] + ratio / 1000)


def shop(v: Values) -> float:
    made = (v["powder"] / v["particle density"] + v["water"] / 1000) / (1 - v["air"] / 100)
    return v["powder"] / made


# ACI 211.1-91, table 6.3.4(a) in SI, from memory; outside it Abrams' rule fitted to the same table.
CURVES = {
    False: ([(0.42, 40), (0.47, 35), (0.54, 30), (0.61, 25), (0.69, 20), (0.79, 15)], (122.2, 13.90)),
    True: ([(0.39, 35), (0.45, 30), (0.52, 25), (0.60, 20), (0.70, 15)], (102.6, 15.40)),
}


def strength(ratio: float, *, air: bool) -> float:
    rows, (a, b) = CURVES[air]
    for (low, high_mpa), (high, low_mpa) in pairwise(rows):
        if low <= ratio <= high:
            part = (ratio - low) / (high - low)
            return math.exp(math.log(high_mpa) * (1 - part) + math.log(low_mpa) * part)
    return float(a / b**ratio)


def lost(v: Values, *, air: bool) -> float:
    return (strength(v["ratio after"], air=air) / strength(v["ratio"], air=air) - 1) * 100


def pores(ratio: float) -> float:
    """Share of pores of a plaster cast: methods.md section 10, with hemihydrate at 2650 and gypsum at 2320 kg/m³."""
    cast = 1 / 2650 + ratio / 1000
    return (cast - 1.186 / 2320) / cast


# One entry for each formula that is printed anywhere; what stands here is written from the formula's own words.
AGAIN: dict[str, Callable[[Values], float]] = {
    "as given": lambda v: v["volume"] / 1000,
    "length × width × {depth}": lambda v: math.prod(v.values()) / 1e9,
    "π/4 × diameter² × height": lambda v: math.pi / 4 * v["diameter"] ** 2 * v["height"] / 1e9,
    "(container − model) × share": lambda v: (v["container"] - v["model"]) * v["share"] / 100 / 1000,
    "π/4 × (bore² − post²) × depth": lambda v: math.pi / 4 * (v["bore"] ** 2 - v["post"] ** 2) * v["depth"] / 1e9,
    "π/4 × bore² × depth − post² × depth": lambda v: (math.pi / 4 * v["bore"] ** 2 - v["post"] ** 2) * v["depth"] / 1e9,
    "k × part × bulk density; k from Σ m/ρ + water/1000 + air = 1": volume_parts,
    "k × part; k from Σ m/ρ + water/1000 + air = 1": mass_parts,
    "(1 − air) / (Σ ratio/ρ + (w/cm)/1000)": ratios,
    "1000 / yield": lambda v: 1000 / v["yield of a bag"],
    "1000 / ((Σ m/ρ + water) / (1 − air))": kits,
    "(1 − air) / (1/ρ + (w/p)/1000)": lambda v: powder(v, v["w/p"]),
    "(1 − air) / (1/ρ + (w/p)/1000); w/p = 1000/bed − 1000/ρ, bed between sifted and settled": lambda v: powder(
        v, v["w/p from them"]
    ),
    "powder / ((powder/ρ + water) / (1 − air))": shop,
    "made / rule's yield − 1; w/p as weighed, and with 2 lb to the quart": lambda v: (
        (v["made, by solids and air"] / v["the rule's yield"] - 1) * 100
    ),
    "as placed; binder and sand in proportion to it": lambda v: v["hemp in 1 m³ as placed"],
    "by slump and stone": lambda v: v["table"] + v.get("for its shape", 0.0),
    "by strength, rounded down to 0.01, not over the cap": lambda v: min(
        math.floor(v["table"] * 100 + 1e-9) / 100, v.get("highest for the exposure", 9.0)
    ),
    "water / (w/c)": lambda v: v["water"] / v["w/c"],
    "bulk volume × dry-rodded density": lambda v: v["bulk volume"] * (1 + v.get("change", 0) / 100) * v["dry-rodded"],
    "(1 − water − cement − stone − air) × density": lambda v: v["room left, of the whole"] * v["particle density"],
    "free water / {binder}": lambda v: (
        v["free water in 1 m³"] / next(x for n, x in v.items() if n != "free water in 1 m³")
    ),
    "rated mixed volume": lambda v: v["rated"] / 1000,
    "gross × share usable / loose volume of one fresh": lambda v: (
        v["gross"] * v["share usable"] / 1e5 / v["loose volume of one fresh"]
    ),
    "mass limit / fresh density": lambda v: v["mass limit"] / v["fresh density"],
    "gross × share of water / share of water in the mix": lambda v: (
        v["gross"] * v["share of water, at most"] / v["share of water in the mix"] / 1000
    ),
    "most packs × volume of one": lambda v: v["most packs"] * v["volume of one"],
    "pace × working life × 0.8": lambda v: v["pace"] * v["working life"] * 0.8 / 1000,
    "dry mass × (moisture − absorption)": lambda v: v["dry mass"] * (v["moisture"] - v["absorption"]) / 100,
    "dry mass × water held": lambda v: v["dry mass"] * v["water held"] / 100,
    "mass × (1 − solids)": lambda v: v["mass"] * (1 - v["solids"] / 100),
    "water × (1 − cut), filled up to the whole again": lambda v: (
        v["water before"] * (1 - v["cut"] / 100) * v["filled up by"]
    ),
    "air of the label; all else × (1 − air) / (1 − air before)": lambda v: (
        100 - v["all else ×"] * (100 - v["air before"])
    ),
    "polymer / its density": lambda v: v["polymer"] / v["density"] * 1000,
    "(0.22 Σ dry mass × T + Σ water × T − 79.6 × ice) / (0.22 Σ dry mass + water + ice)": lambda v: (
        (
            0.22 * v["aggregate"] * v["aggregate, temperature"]
            + 0.22 * v["the rest of the dry mass"] * v["the rest, temperature"]
            + v["water poured"] * v["water poured, temperature"]
            + v["water on the aggregate"] * v["aggregate, temperature"]
            - 79.6 * v["ice"]
        )
        / (
            0.22 * (v["aggregate"] + v["the rest of the dry mass"])
            + v["water poured"]
            + v["water on the aggregate"]
            + v["ice"]
        )
    ),
    "share × water to add": lambda v: v["share as ice"] / 100 * v["water to add"],
    "free water wanted − Σ water brought, at least none": lambda v: max(
        2 * v["free water wanted"] - sum(v.values()), 0.0
    ),
    "to mix / largest load, rounded up": lambda v: math.ceil(v["to mix"] / v["largest load"] - 1e-6),
    "bags / bags in a full load, rounded up": lambda v: math.ceil(v["bags"] / v["bags in a full load"] - 1e-6),
    "measures of binder / measures in a full load, rounded up": lambda v: math.ceil(
        v["measures of binder"] / v["measures in a full load"] - 1e-6
    ),
    "pours + parts of those that are too big": lambda v: v["pours"] + v["parts of those that are too big"],
    "to mix × bags in the whole, rounded up": lambda v: math.ceil(v["to mix"] * v["bags in 1 m³"] - 1e-6),
    "(to mix − less than asked) × bags in the whole, rounded up": lambda v: math.ceil(
        (v["to mix"] - v["less than asked"]) * v["bags in 1 m³"] - 1e-6
    ),
    "1 / (target − brought by the make-up)": lambda v: (
        1 / (v["target free water per kg dry"] - v["brought per kg dry"])
    ),
    "strength(ratio after) / strength(ratio) − 1, plain curve": lambda v: lost(v, air=False),
    "strength(ratio after) / strength(ratio) − 1, air-entrained curve": lambda v: lost(v, air=True),
    "exp(−6.5 × (pores after − pores)) − 1": lambda v: (
        (math.exp(-6.5 * (pores(v["ratio after"]) - pores(v["ratio"]))) - 1) * 100
    ),
}
BY_STONE = {20.0: {"severe": 6.0, "none": 2.0}}  # ACI 211.1-91, table 6.3.3 at 19 mm, from memory


def again(working: Working) -> float:
    formula = working.formula if isinstance(working.formula, str) else working.formula.msg
    if formula == "Σ net × (1 + waste) + what is left":
        return again(working.model_copy(update={"formula": "Σ net × (1 + waste)", "given": working.given[:-1]})) + (
            working.given[-1].value
        )
    if formula == "Σ net × (1 + waste)":  # the allowance stands in the name of each line
        wastes = [dict(g.name.values)["waste"].value for g in working.given if isinstance(g.name, Said)]
        return sum(g.value * (1 + w / 100) for g, w in zip(working.given, wastes, strict=True))
    if formula == "by stone, exposure: {exposure}":
        assert isinstance(working.formula, Said)
        return BY_STONE[working.given[0].value][str(dict(working.formula.values)["exposure"])]
    return AGAIN[formula]({plain(g.name): g.value for g in working.given})  # type: ignore[index]


def workings_in(thing: Any) -> Iterator[Working]:
    if isinstance(thing, Working):
        yield thing
    elif isinstance(thing, BaseModel):
        for name in type(thing).model_fields:
            yield from workings_in(getattr(thing, name))
    elif isinstance(thing, dict | tuple):
        for one in thing.values() if isinstance(thing, dict) else thing:
            yield from workings_in(one)


def figure_at(ticket: Ticket, path: str) -> float:
    """Follow the path of a figure through the ticket's document."""
    at: Any = ticket.model_dump(mode="json")
    for key in path.split("."):
        at = at[int(key)] if isinstance(at, list) else at[key]
    return float(at)


def planned(sheet: dict[str, Any]) -> tuple[Plan, Ticket]:
    request = resolve(JobSheet.model_validate(sheet), load_catalogue())
    result = plan(request)
    return result, issue(request, result)


SHEETS: dict[str, dict[str, Any]] = {path.stem: json.loads(path.read_text()) for path in EXAMPLES}
SHEETS |= {
    key: {"mix": key, "shapes": [{"kind": "known", "volume_l": 61}], "place_l_min": 4} for key in load_catalogue().mixes
}
SHEETS["iced, with a can"] = {
    "mix": "concrete-1-2-4",
    "shapes": [{"kind": "known", "volume_l": 250}],
    "moisture_percent": {"sharp-sand": 6},
    "ice_percent": 35,
    "admixtures": [{"admixture": "plasticiser", "dose": "400 mL/100 kg"}],
}


@pytest.mark.parametrize("name", SHEETS)
def test_every_working_comes_out_of_its_printed_inputs_and_agrees_with_its_figure(name: str) -> None:
    result, ticket = planned(SHEETS[name])
    for working in (*workings_in(result), *workings_in(ticket)):
        assert again(working) == pytest.approx(working.result, rel=1e-9, abs=1e-9), plain(working.figure)
    for path, working in ticket.workings.items():
        assert figure_at(ticket, path) == pytest.approx(working.result, rel=1e-9, abs=1e-12), path


def test_the_headline_figures_of_a_ticket_carry_their_own_workings() -> None:
    _, ticket = planned(SHEETS["gate-posts"])
    assert plain(ticket.workings["count"].figure) == "Loads"
    assert plain(ticket.workings["bags"].figure) == "Bags opened"
    assert plain(ticket.workings["cards.0.water.pour.target"].figure) == PROSE["water-to-pour"]
