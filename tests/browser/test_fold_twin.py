"""The browser folds a log to the same run as the core: logs that are kept, and many made here, folded in Chromium."""

import json
import math
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route

from keeve.web.edge.static_files import STATIC
from keeve.web.stations.mixer.run_document import NOT_FOR_THE_PAGE
from keeve.web.stations.mixer.told import amounts
from tests.vectors import Read, Vector, kept, random_vectors, read, ticket_sets

pytestmark = pytest.mark.browser
HOUSE = "http://127.0.0.1:1"
RUNS = 900

FOLD = """async ([tickets, vectors, byBits]) => {
    const { fold, Folding } = await import("/run/fold.js");
    const { learn, waterFor } = await import("/run/belief.js");
    const { brief } = await import("/run/brief.js");
    const sets = JSON.parse(tickets);
    const told = (run, tickets, heap) => {
        const reader = learn(run, tickets, heap.map(([at_ms, kind]) => ({ at_ms, kind })));
        if (run.next === null) return null;
        const ticket = tickets[run.next.ticket];
        const card = ticket.cards[run.next.card];
        const learned = waterFor(reader, ticket, card);
        const briefs = [false, true].map((us) => brief(card, run.next, learned, us));
        return { briefs, asks: learned ? learned.asks : "" };
    };
    return JSON.stringify(JSON.parse(vectors).map((vector) => {
        const tickets = sets[vector.tickets];
        if (!byBits) return { run: fold(tickets, vector.bits.flat()), told: told(fold(tickets, vector.bits.flat()), tickets, vector.heap) };
        const folding = new Folding(tickets);
        for (const bit of vector.bits) { folding.take(bit); folding.run(); }
        return { run: folding.run(), told: told(folding.run(), tickets, vector.heap) };
    }));
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


def folded_apart(page: Page, sets: dict[str, Any], made: list[tuple[Vector, Read]]) -> list[str]:
    """What the browser folds to something else, of logs that come at once or bit by bit."""
    vectors, wrong = json.dumps([vector._asdict() for vector, _ in made]), []
    for by_bits in (False, True):
        theirs = json.loads(page.evaluate(FOLD, [tickets_of_the_page(sets), vectors, by_bits]))
        for (vector, ours), run in zip(made, theirs, strict=True):
            wrong += differences(vector.name, ours._asdict(), run)
    return wrong


def test_the_browser_folds_every_log_that_is_kept_and_no_piece_of_its_scripts_sleeps(scripts: Page) -> None:
    sets, made = kept()
    session = scripts.context.new_cdp_session(scripts)
    session.send("Profiler.enable")
    session.send("Profiler.startPreciseCoverage", {"callCount": True, "detailed": True})
    assert folded_apart(scripts, sets, made) == []
    told = [found.told for _, found in made if found.told is not None]
    assert {one["briefs"][0]["leads"] for one in told} == {"ticket", "load", "sand"}
    assert {one["asks"] for one in told} == {"", "wetter", "drier"}
    sleeping = "\n".join(asleep(session.send("Profiler.takePreciseCoverage")["result"]))
    assert not sleeping, sleeping


def asleep(scripts: list[dict[str, Any]]) -> list[str]:
    """Pieces of the twins that never ran."""
    found = []
    for name in ("fold.js", "taps.js", "brief.js", "belief.js"):
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
    made = [(vector, read(sets[vector.tickets], vector)) for vector in random_vectors(RUNS)]
    assert folded_apart(scripts, sets, made) == []
    # They are worth something: they hold every kind of outcome.
    loads = [load for _, found in made for load in found.run["loads"]]
    assert sum(load["proposal"] is not None for load in loads) > 20
    assert sum(load["question"] is not None for load in loads) > 20
    assert sum(load["taught_by"] is not None for load in loads) > 10
    assert sum(load["brief"] is not None and load["first_l"] < load["aim_l"] for load in loads) > 20
    assert any(load["brief"] is not None and load["ask_moisture"] for load in loads)
    assert {load["ended"] for load in loads} == {"", "accepted", "thrown_away"}
    assert any(load["card"] is None for load in loads)


READ = """async ([said, water, vessels]) => {
    const { amountOf } = await import("/run/amounts.js");
    return said.map((one) => amountOf(one, { ...water, ...vessels }, 1));
}"""
FL_OZ, QT, LB = 0.0295735295625, 0.946352946, 0.45359237  # NIST Special Publication 811 (2008), appendix B.8
SAID: list[tuple[str, float | None]] = [
    ("2.5", 2.5), ("2,5", 2.5), ("9.19 L", 9.19), ("6 oz", 6 * FL_OZ), ("6 fl oz", 6 * FL_OZ), ("1 qt", QT), ("0.54 lb", 0.54 * LB),
    ("half a bucket", 6.0), ("½ bucket", 6.0), ("2½ buckets", 30.0), ("2 1/2 qt", 2.5 * QT), ("1 gal 23 fl oz", 4 * QT + 23 * FL_OZ),
    ("15 s", 3.0), ("3 L + 200 mL", 3.2), ("3 L and 200 ml", 3.2), ("a quart", QT), ("a third of a bucket", 4.0), ("3/4 L", 0.75),
    ("two thirds of a bucket", 8.0), ("three quarters of a bucket", 9.0), ("750 mL.", 0.75), ("", None), ("banana", None), ("3 bananas", None),
    ("1/0 L", None), ("L 3", None), ("3 L of it all", None), ("-2 L", None), ("1e3", None), ("x" * 5000, None), ("9" * 400, None),
]  # fmt: skip


def test_water_is_read_as_a_hand_says_it(scripts: Page) -> None:
    vessels = {"bucket": 12.0, "buckets": 12.0, "s": 0.2}
    found = scripts.evaluate(READ, [[said for said, _ in SAID], amounts()["water"], vessels])
    for (said, litres), read_as in zip(SAID, found, strict=True):
        assert read_as == (None if litres is None else pytest.approx(litres)), said[:40]
