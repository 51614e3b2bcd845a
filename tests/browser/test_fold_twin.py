"""The browser folds a log to the same run as the core: vectors made here, folded in Chromium."""

import json
import math
import random
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route

from keeve.core.run import fold
from keeve.core.ticket.ticket import LoadKey, Ticket
from keeve.web.edge.static_files import STATIC
from keeve.web.stations.mixer.routes import NOT_FOR_THE_PAGE
from tests.core.run.test_run import BOTH, DAMP, random_events, ticket_of

pytestmark = pytest.mark.browser
RUNS = 900
HOUSE = "http://127.0.0.1:1"
KINDS = [
    "poured",
    "poured",
    "poured",
    "judged",
    "judged",
    "step_done",
    "step_back",
    "dry_added",
    "accepted",
    "accepted",
]
KINDS += ["thrown_away", "undone", "undone", "one_more", "started", "settled", "measured", "weighed", "stage_seen"]


def ticket_sets() -> list[dict[int, Ticket]]:
    """Tickets of several kinds: two moistures, ice, hemp, plaster that takes nothing, an admixture, a second round."""
    first = ticket_of(moisture_percent=DAMP)
    iced = ticket_of(moisture_percent=DAMP, ice_percent=40).model_copy(update={"air_c": 31.0})
    can = ticket_of(moisture_percent=DAMP, admixtures=[{"admixture": "plasticiser", "dose": "400 mL/100 kg"}])
    hemp, plaster = ticket_of(mix="hemp-lime-wall", mixer=None), ticket_of(mix="casting-plaster-70", mixer=None)
    again = first.model_copy(update={"revision": 2, "round": 2, "counted": (LoadKey(number=1, mixer="drum-site"),)})
    kept = ticket_of(2, already_m3=0.1, moisture_percent=DAMP)
    return [BOTH, {1: first, 2: kept}, {1: iced}, {1: can}, {1: hemp}, {1: plaster}, {1: first, 2: again}, {2: BOTH[2]}]


def vectors() -> Iterator[tuple[dict[str, Any], dict[str, Any]]]:
    rng = random.Random(20260914)
    sets = ticket_sets()
    for seed in range(RUNS):
        tickets = sets[seed % len(sets)]
        a, b = (rng.choices(KINDS, k=rng.randrange(16)) for _ in range(2))
        events = random_events(seed, a, b)
        for event in list(events):  # most taps are made in the mixer of the ticket
            assert event.phone
        given = {
            "tickets": {r: t.model_dump(mode="json", exclude=NOT_FOR_THE_PAGE) for r, t in tickets.items()},
            "events": [e.model_dump(mode="json", exclude_none=True) for e in events],
        }
        yield given, fold(tickets, events).model_dump(mode="json")


def differences(path: str, ours: Any, theirs: Any) -> list[str]:
    if isinstance(ours, dict) and isinstance(theirs, dict):
        keys = sorted({*ours, *theirs})
        return [
            d for key in keys for d in differences(f"{path}.{key}", ours.get(key, "absent"), theirs.get(key, "absent"))
        ]
    if isinstance(ours, list) and isinstance(theirs, list) and len(ours) == len(theirs):
        return [d for i, pair in enumerate(zip(ours, theirs, strict=True)) for d in differences(f"{path}.{i}", *pair)]
    numbers = all(isinstance(v, int | float) and not isinstance(v, bool) for v in (ours, theirs))
    same = math.isclose(ours, theirs, rel_tol=1e-9, abs_tol=1e-9) if numbers else ours == theirs
    return [] if same else [f"{path}: {ours!r} here, {theirs!r} in the browser"]


AT_ONCE = """async (s) => {
    const { fold } = await import("/run/fold.js");
    return JSON.stringify(JSON.parse(s).map((v) => fold(v.tickets, v.events)));
}"""
BY_BITS = """async (s) => {
    const { Folding } = await import("/run/fold.js");
    return JSON.stringify(JSON.parse(s).map((v, n) => {
    const folding = new Folding(v.tickets);
    const events = n % 3 ? [...v.events].sort((a, b) => Date.parse(a.at) - Date.parse(b.at)) : v.events;
    for (let i = 0; i < events.length; i += 1 + (n % 2)) { folding.take(events.slice(i, i + 1 + (n % 2))); folding.run(); }
    return folding.run();
    }));
}"""
"""The log as it comes: tap by tap, mostly in the order it happened in."""


def page_of_scripts(browser: Browser) -> Page:
    """An empty page that can import the scripts of the house."""
    page = browser.new_page()

    def give(route: Route) -> None:
        path = route.request.url.removeprefix(f"{HOUSE}/")
        if path:
            route.fulfill(path=STATIC / path, content_type="text/javascript")
        else:
            route.fulfill(body="<!doctype html>", content_type="text/html")

    page.route(f"{HOUSE}/**", give)
    page.goto(f"{HOUSE}/")
    return page


def test_the_browser_folds_every_vector_to_the_same_run(browser: Browser) -> None:
    page = page_of_scripts(browser)
    made = list(vectors())
    given = json.dumps([given for given, _ in made])
    at_once, by_bits = (json.loads(page.evaluate(way, given)) for way in (AT_ONCE, BY_BITS))
    page.close()
    for answers in (at_once, by_bits):
        wrong = [
            d
            for n, ((_, ours), theirs) in enumerate(zip(made, answers, strict=True))
            for d in differences(f"run {n}", ours, theirs)
        ]
        assert wrong == []
    # The vectors are worth something: they hold every kind of outcome.
    loads = [load for _, run in made for load in run["loads"]]
    assert sum(load["proposal"] is not None for load in loads) > 20
    assert sum(load["question"] is not None for load in loads) > 20
    assert sum(load["taught_by"] is not None for load in loads) > 10
    assert sum(load["first_l"] is not None and load["sips_l"] > 0 for load in loads) > 20
    assert any(load["first_l"] is not None and load["ask_moisture"] for load in loads)
    assert {load["ended"] for load in loads} == {"", "accepted", "thrown_away"}
    assert any(load["card"] is None for load in loads)
