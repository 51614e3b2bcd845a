"""A served app and a browser that may talk to nobody else."""

import re
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Request, expect, sync_playwright

from keeve.cli import chromium
from keeve.demo.yard import CREW, load_demo
from keeve.store.cluster import Cluster
from keeve.web.edge.settings import Settings
from tests.conftest import fresh
from tests.serving import app_as_new, served

DESK: dict[str, Any] = {"viewport": {"width": 1280, "height": 800}}
PHONE: dict[str, Any] = {"viewport": {"width": 390, "height": 844}, "is_mobile": True, "has_touch": True}
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--disable-background-networking",
    "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as play:
        opened = play.chromium.launch(executable_path=chromium(), args=FLAGS)
        yield opened
        opened.close()


@pytest.fixture(scope="session")
def with_demo(cluster: Cluster) -> Iterator[str]:
    """Name of a database with the demo in it, to be copied for each test."""
    with fresh(cluster) as url:
        load_demo(url)
        yield url.rsplit("/", 1)[1]


@pytest.fixture
def site(cluster: Cluster, with_demo: str) -> Iterator[str]:
    """Address of the app with the demo in it, served by the real server."""
    with (
        fresh(cluster, with_demo, "site") as url,
        served(app_as_new(Settings(database_url=url, secret="for tests", crew=CREW))) as address,
    ):
        yield address


LIMIT_MS = 60_000
"""A busy machine is usual: tests wait for a state, and a minute is long past hope."""
expect.set_options(timeout=LIMIT_MS)

# A refused sheet is answered 422 on purpose, and a test may cut the network.
EXPECTED = re.compile(r"status of (422|429|503)|net::ERR_(FAILED|INTERNET_DISCONNECTED)")


class Watched:
    """What a page did that it must not: errors, policy violations, requests to elsewhere."""

    def __init__(self) -> None:
        self.wrong: list[str] = []


Opener = Callable[..., Page]


@pytest.fixture
def open_page(browser: Browser, site: str, caplog: pytest.LogCaptureFixture) -> Iterator[Opener]:
    """Open a page as a desk or a phone; on leaving, nothing may have gone wrong in it."""
    contexts: list[BrowserContext] = []
    watched = Watched()

    # Heard, not held: a request that waits for the test costs more than its answer, and such pages keep no files.
    def guard(request: Request) -> None:
        if not request.url.startswith((site, "data:", "blob:")):
            watched.wrong.append(f"asked {request.url}")

    def opener(path: str = "/", options: dict[str, Any] = DESK) -> Page:
        # A worker's requests go past the guard: only tests that are about it let it in.
        context = browser.new_context(**{"service_workers": "block"} | options)
        context.set_default_timeout(LIMIT_MS)
        contexts.append(context)
        context.on("request", guard)
        context.expose_binding("keeveViolation", lambda _, words: watched.wrong.append(words))
        context.add_init_script(
            "addEventListener('securitypolicyviolation', e => keeveViolation(e.violatedDirective + ' ' + e.blockedURI))"
        )
        page = context.new_page()
        page.on("pageerror", lambda error: watched.wrong.append(str(error)))
        page.on(
            "console",
            lambda m: watched.wrong.append(m.text) if m.type == "error" and not EXPECTED.search(m.text) else None,
        )
        page.goto(site + path)
        return page

    yield opener
    for context in contexts:
        context.close()
    assert watched.wrong == []
    assert "folds otherwise" not in caplog.text  # no page reads a log in another way than the server


def understood(page: Page) -> None:
    """Read what hurts with the product, before the first step of a day."""
    page.get_by_role("button", name="Understood: begin").click()


def settled(page: Page) -> None:
    """Wait until the server has every tap: its answer sets the page's clock, and would turn back one that is hastened."""
    page.evaluate("Alpine.$data(document.querySelector('.run')).queue.settled(60000)")


def stepped_to(page: Page, title: str) -> None:
    """Step on until a step."""
    for _ in range(20):
        if page.locator("h1").inner_text() == title:
            return
        before = page.locator(".run-top .where").inner_text()
        page.locator("button.forward").click()
        expect(page.locator(".run-top .where")).not_to_have_text(before)
    raise AssertionError(title)


def seen(page: Page, true: Callable[[], object]) -> None:
    """Wait for a state that is not on the page. Its requests go through this thread: they must go on meanwhile."""
    until = time.monotonic() + LIMIT_MS / 1000
    while not true():
        assert time.monotonic() < until, "it never came to that"
        page.wait_for_timeout(50)


@pytest.fixture(scope="session")
def axe() -> str:
    return (Path(__file__).parent / "vendor" / "axe" / "axe.min.js").read_text(encoding="utf-8")


def finger(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Draw a finger over a page: what a mouse may do a finger may not, where the page is scrolled by it."""
    touch = page.context.new_cdp_session(page)
    (x, y), (to_x, to_y) = start, end
    touch.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]})
    for part in range(1, 9):
        at = {"x": x + (to_x - x) * part / 8, "y": y + (to_y - y) * part / 8}
        touch.send("Input.dispatchTouchEvent", {"type": "touchMove", "touchPoints": [at]})
        page.evaluate("() => new Promise(requestAnimationFrame)")
    touch.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    touch.detach()
