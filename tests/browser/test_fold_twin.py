"""The browser folds a log to the same run as the core: logs that are kept, and many made here, folded in Chromium."""

import json
import math
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route

from keeve.core.run.events import read_event
from keeve.core.run.folding import fold
from keeve.web.edge.static_files import STATIC
from keeve.web.stations.mixer.run_document import NOT_FOR_THE_PAGE
from tests.vectors import Vector, kept, random_vectors, ticket_sets

pytestmark = pytest.mark.browser
HOUSE = "http://127.0.0.1:1"
RUNS = 900

FOLD = """async ([tickets, vectors, byBits]) => {
    const { fold, Folding } = await import("/run/fold.js");
    const sets = JSON.parse(tickets);
    return JSON.stringify(JSON.parse(vectors).map((vector) => {
        if (!byBits) return fold(sets[vector.tickets], vector.bits.flat());
        const folding = new Folding(sets[vector.tickets]);
        for (const bit of vector.bits) { folding.take(bit); folding.run(); }
        return folding.run();
    }));
}"""
ASKED = """async ([tickets, wanted]) => {
    const { asked } = await import("/run/fold.js");
    const sets = JSON.parse(tickets);
    return wanted.map(([name, card, expected, first, ceiling]) => asked(sets[name][1].cards[card], expected, first, ceiling));
}"""


@pytest.fixture
def scripts(browser: Browser) -> Any:
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
    yield page
    page.close()


def tickets_of_the_page(sets: dict[str, Any]) -> str:
    """The sets of tickets as a run page has them."""
    return json.dumps(
        {
            name: {r: t.model_dump(mode="json", exclude=NOT_FOR_THE_PAGE) for r, t in one.items()}
            for name, one in sets.items()
        }
    )


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


def folded_apart(page: Page, sets: dict[str, Any], made: list[tuple[Vector, dict[str, Any]]]) -> list[str]:
    """What the browser folds to something else, of logs that come at once or bit by bit."""
    vectors, wrong = json.dumps([vector._asdict() for vector, _ in made]), []
    for by_bits in (False, True):
        theirs = json.loads(page.evaluate(FOLD, [tickets_of_the_page(sets), vectors, by_bits]))
        for (vector, ours), run in zip(made, theirs, strict=True):
            wrong += differences(vector.name, ours, run)
    return wrong


def test_the_browser_folds_every_log_that_is_kept_and_no_piece_of_its_scripts_sleeps(scripts: Page) -> None:
    sets, made = kept()
    session = scripts.context.new_cdp_session(scripts)
    session.send("Profiler.enable")
    session.send("Profiler.startPreciseCoverage", {"callCount": True, "detailed": True})
    assert folded_apart(scripts, sets, made) == []
    wanted, ours = [], []
    for vector, run in made:
        if vector.name.startswith("by the sand"):
            for event, load in zip(vector.events, run["loads"], strict=True):
                wanted.append([vector.tickets, load["card"], event["expected_l"], event["first_l"], event["ceiling_l"]])
                ours.append({name: load[name] for name in ("aim_l", "ask_moisture", "scale", "sips_l", "due_l")})
    assert len(ours) == 20
    theirs = scripts.evaluate(ASKED, [tickets_of_the_page(sets), wanted])
    assert [d for n, pair in enumerate(zip(ours, theirs, strict=True)) for d in differences(f"asked {n}", *pair)] == []
    sleeping = "\n".join(asleep(session.send("Profiler.takePreciseCoverage")["result"]))
    assert not sleeping, sleeping


def asleep(scripts: list[dict[str, Any]]) -> list[str]:
    """Pieces of the twins that never ran."""
    found = []
    for name in ("fold.js", "taps.js"):
        text = (STATIC / "run" / name).read_text(encoding="utf-8")
        (one,) = (script for script in scripts if script["url"] == f"{HOUSE}/run/{name}")
        for function in one["functions"]:
            for piece in function["ranges"]:
                if piece["count"] == 0:
                    begin, end = piece["startOffset"], piece["endOffset"]
                    found.append(f"{name}:{text.count(chr(10), 0, begin) + 1}: {text[begin:end][:80]}")
    return found


def test_the_browser_folds_many_made_up_logs_to_the_same_runs(scripts: Page) -> None:
    sets = ticket_sets()
    made = [
        (vector, fold(sets[vector.tickets], [read_event(event) for event in vector.events]).model_dump(mode="json"))
        for vector in random_vectors(RUNS)
    ]
    assert folded_apart(scripts, sets, made) == []
    # They are worth something: they hold every kind of outcome.
    loads = [load for _, run in made for load in run["loads"]]
    assert sum(load["proposal"] is not None for load in loads) > 20
    assert sum(load["question"] is not None for load in loads) > 20
    assert sum(load["taught_by"] is not None for load in loads) > 10
    assert sum(load["first_l"] is not None and load["sips_l"] > 0 for load in loads) > 20
    assert any(load["first_l"] is not None and load["ask_moisture"] for load in loads)
    assert {load["ended"] for load in loads} == {"", "accepted", "thrown_away"}
    assert any(load["card"] is None for load in loads)
