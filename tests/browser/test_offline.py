"""A run without a network: the page opens cold, taps wait, clocks are right, and all is sent when it is back."""

import json
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import PHONE, Opener, settled, understood
from tests.prose import PROSE

pytestmark = pytest.mark.browser
WITH_WORKER: dict[str, Any] = PHONE | {"service_workers": "allow"}


def kept_run(page: Page) -> str:
    """Begin the corbel and wait until its page is kept on the phone."""
    page.get_by_role("link", name="Corbel, half moulds").click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    page.locator("html[data-kept]").wait_for(state="attached")
    return page.url


def kinds(page: Page) -> list[str]:
    text = page.evaluate("fetch(location.pathname.replace('mixer', 'events')).then((a) => a.text())")
    return [event["kind"] for event in json.loads(text)["events"]]


def test_a_load_is_finished_without_a_network_on_a_page_opened_cold(open_page: Opener) -> None:
    page = open_page("/", WITH_WORKER)
    address = kept_run(page)
    page.locator("button.forward").click()
    expect(page.get_by_role("heading", name="All the water, cool")).to_be_visible()
    page.get_by_role("button", name="+ 2 L").click()
    settled(page)  # this one the server has; the page that was kept has not
    assert len(kinds(page)) == 3
    page.context.set_offline(True)
    page.get_by_role("button", name="+ 250 mL").click()
    expect(page.locator(".run-bar .kept")).to_contain_text(PROSE["1-entry-waits-here"])
    cold = page.context.new_page()
    page.close()
    cold.goto(address)
    expect(cold.get_by_role("heading", name="All the water, cool")).to_be_visible()
    expect(cold.locator(".counted strong")).to_have_text("2.25 L")
    expect(cold.locator(".run-bar .kept")).to_contain_text(PROSE["1-entry-waits-here"])
    for title in ("Sift the plaster in, evenly", "Leave it to soak", "Mix, paddle kept under", "Is it right?"):
        cold.locator("button.forward").click()
        expect(cold.get_by_role("heading", name=title)).to_be_visible()
    cold.get_by_role("button", name="Right", exact=True).click()
    cold.locator("button.forward").click()
    expect(cold.get_by_text("Load 2 of 2 · step 1")).to_be_visible()
    cold.reload()
    expect(cold.get_by_text("Load 2 of 2 · step 1")).to_be_visible()
    cold.context.set_offline(False)
    cold.evaluate("dispatchEvent(new Event('online'))")
    settled(cold)
    expect(cold.locator(".run-bar .kept")).to_have_text("")
    assert kinds(cold) == [
        "started", "step_done", "poured", "poured", "poured", "step_done", "step_done", "step_done", "step_done",
        "judged", "step_done", "accepted",
    ]  # fmt: skip


def test_the_clocks_of_a_page_that_was_kept_tell_the_time_of_now(open_page: Opener) -> None:
    page = open_page("/", WITH_WORKER)
    address = kept_run(page)
    for title in ("All the water, cool", "Sift the plaster in, evenly", "Leave it to soak"):
        page.locator("button.forward").click()
        expect(page.get_by_role("heading", name=title)).to_be_visible()
    settled(page)
    page.context.set_offline(True)
    later = page.context.new_page()
    page.close()
    later.clock.install()
    later.clock.fast_forward(3600_000)  # the screen was locked for an hour
    later.goto(address)
    expect(later.locator(".timer strong")).to_contain_text("+")
    expect(later.locator(".life")).to_contain_text(PROSE["past-its-life"])
    minutes = later.locator(".life").inner_text().split(" min")[0]
    assert 45 <= int(minutes) <= 50  # of an hour, twelve were its life


def test_what_was_not_kept_says_so_and_leads_to_the_runs_that_are(open_page: Opener) -> None:
    page = open_page("/", WITH_WORKER)
    kept_run(page)
    page.context.set_offline(True)
    page.get_by_role("link", name="Back to the loads").click()
    expect(page.get_by_role("heading", name="No network here")).to_be_visible()
    page.get_by_role("link", name="Corbel, half moulds").click()
    expect(page.get_by_role("heading", name="Clean, dry bucket")).to_be_visible()


def test_a_phone_can_install_it(open_page: Opener) -> None:
    page = open_page("/", WITH_WORKER)
    told = page.evaluate("fetch(document.querySelector('link[rel=manifest]').href).then((a) => a.json())")
    assert (told["name"], told["start_url"], told["display"]) == ("Keeve", "/", "standalone")
    icon = page.evaluate("(src) => fetch(src).then((a) => a.status)", told["icons"][0]["src"])
    assert icon == 200


def test_a_page_past_its_link_is_not_opened_without_asking(open_page: Opener) -> None:
    page = open_page("/", WITH_WORKER)
    address = kept_run(page)
    page.evaluate(
        """async () => {
            const runs = await caches.open("keeve-runs");
            const kept = await runs.match(location.pathname);
            const headers = new Headers(kept.headers);
            headers.set("x-keeve-until", `${Date.now() - 1000}`);
            await runs.put(location.pathname, new Response(await kept.text(), { status: 200, headers }));
        }"""
    )
    page.context.set_offline(True)
    page.goto(address)
    expect(page.get_by_role("heading", name="No network here")).to_be_visible()
    page.context.set_offline(False)
    page.goto(address)
    expect(page.locator(".run-top")).to_be_visible()
