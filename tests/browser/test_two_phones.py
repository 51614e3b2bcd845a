"""Two phones at one mixer, two tabs of one browser, and what a browser does when its memory or the server fails it."""

import json
import re
from pathlib import Path
from typing import Any, Literal

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from keeve.web.edge import bounds
from tests.browser.conftest import LIMIT_MS, PHONE, Opener, seen, understood

pytestmark = pytest.mark.browser
KEPT = "(n) => fetch(location.pathname.replace('mixer', 'events')).then((a) => a.json()).then((a) => a.events.length === n)"
"""Whether the server has so many entries."""


def at_the_mixer(page: Page) -> str:
    """Begin the corbel's first load: the page stands at the water, six litres to pour."""
    page.get_by_role("link", name="Corbel, half moulds").click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    page.locator("button.forward").click()
    expect(page.get_by_role("heading", name="All the water, cool")).to_be_visible()
    page.wait_for_function(KEPT, arg=2)  # both taps are with the server
    return page.url


def counted(page: Page) -> Any:
    return page.locator(".counted strong")


def events(page: Page) -> list[dict[str, Any]]:
    """The log as the server has it."""
    text = page.evaluate("fetch(location.pathname.replace('mixer', 'events')).then((a) => a.text())")
    return list(json.loads(text)["events"])


def test_what_one_phone_taps_the_other_shows(open_page: Opener) -> None:
    one = open_page("/", PHONE)
    address = at_the_mixer(one)
    other = open_page("/", PHONE)
    other.goto(address)
    one.get_by_role("button", name="+ 2 L").click()
    expect(counted(other)).to_have_text("2.00 L")
    other.get_by_role("button", name="+ 250 mL").click()
    expect(counted(one)).to_have_text("2.25 L")
    # Each takes back its own tap, not the other's.
    one.get_by_role("button", name="Take back").click()
    expect(counted(other)).to_have_text("0.25 L")
    assert [e["kind"] for e in events(one)] == ["started", "step_done", "poured", "poured", "undone"]


def test_a_very_long_log_is_fetched_once_and_goes_on(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    address = at_the_mixer(page)
    many = 950
    said = page.evaluate(
        """async (many) => {
            const token = document.querySelector("meta[name=token]").content;
            const first = (await (await fetch(location.pathname.replace("mixer", "events"))).json()).events[0];
            const taps = [...Array(many).keys()].map((n) => ({
                id: `${n}`.padStart(8, "0") + "-0000-4000-8000-000000000000", at: new Date().toISOString(), phone: "far.1", seq: n,
                kind: "poured", load: first.load, mixer: first.mixer, litres: 0.001,
            }));
            const answers = [];
            for (let n = 0; n < many; n += 190) {
                const body = JSON.stringify({ sent_at: new Date().toISOString(), events: taps.slice(n, n + 190) });
                const headers = { "content-type": "application/json", "x-keeve-token": token };
                answers.push((await fetch(location.pathname.replace("mixer", "events"), { method: "POST", headers, body })).status);
            }
            return answers;
        }""",
        many,
    )
    assert set(said) == {200}
    asked: list[str] = []
    other = open_page("/", PHONE)
    other.on("request", lambda request: asked.append(request.url) if "events?after" in request.url else None)
    for _ in range(2):
        other.goto(address)
        expect(counted(other)).to_have_text("0.95 L")
        other.get_by_role("button", name="+ 250 mL").click()
        expect(counted(other)).to_have_text("1.20 L")
        expect(counted(page)).to_have_text("1.20 L")
        other.get_by_role("button", name="Take back").click()
        expect(counted(page)).to_have_text("0.95 L")
        other.wait_for_function("Alpine.$data(document.querySelector('.run')).whole")
    assert len(asked) == 1  # the second time it is kept here


@pytest.mark.parametrize("alone", [False, True], ids=["shared", "of its own"])
def test_a_stream_that_was_refused_is_asked_for_again(
    open_page: Opener, monkeypatch: pytest.MonkeyPatch, alone: bool
) -> None:
    one = open_page("/", PHONE)
    address = at_the_mixer(one)
    other = open_page("/", PHONE)
    if alone:
        other.add_init_script("delete window.SharedWorker")
    asked, stream = [], bounds.Visitors.standing_open

    def counting(self: bounds.Visitors, client: str, what: Literal["stream", "line"]) -> Any:
        asked.extend([client] if what == "stream" else [])
        return stream(self, client, what)

    monkeypatch.setattr(bounds.Visitors, "standing_open", counting)
    monkeypatch.setattr(bounds, "MOST_STREAMS", 0)
    other.goto(address)
    seen(other, lambda: asked)  # and was refused
    one.get_by_role("button", name="+ 2 L").click()
    expect(counted(one)).to_have_text("2.00 L")
    monkeypatch.setattr(bounds, "MOST_STREAMS", 100)
    expect(counted(other)).to_have_text("2.00 L")


def test_the_rest_poured_by_two_phones_on_one_count_is_asked_about(open_page: Opener) -> None:
    one = open_page("/", PHONE)
    address = at_the_mixer(one)
    other = open_page("/", PHONE)
    # This one hears nothing and reaches nobody while both tap.
    other.add_init_script("delete window.SharedWorker")
    cut_off = [True]
    for path in ("**/jobs/*/stream**", "**/events"):
        other.route(path, lambda route: route.abort() if cut_off else route.continue_())
    other.goto(address)
    expect(other.get_by_role("heading", name="All the water, cool")).to_be_visible()
    one.locator("button.forward").click()
    expect(one.get_by_role("heading", name="Sift the plaster in, evenly")).to_be_visible()
    count = counted(one).inner_text()
    other.locator("button.forward").click()
    expect(other.locator(".run-bar .kept")).to_contain_text("No network")
    cut_off.clear()
    for page in (one, other):
        expect(page.get_by_text("Was it poured once or twice?")).to_be_visible()
        expect(counted(page)).to_have_text(count)
    one.get_by_role("button", name="Once").click()
    expect(other.get_by_text("Was it poured once or twice?")).to_be_hidden()
    expect(counted(other)).to_have_text(count)


def test_two_tabs_of_one_browser_lose_no_tap(open_page: Opener) -> None:
    one = open_page("/", PHONE)
    address = at_the_mixer(one)
    other = one.context.new_page()
    other.goto(address)
    one.context.set_offline(True)
    for page in (one, other, one, other, one):
        page.get_by_role("button", name="+ 250 mL").click()
    # Each tab shows what the other tapped, without a network too.
    for page in (one, other):
        expect(counted(page)).to_have_text("1.25 L")
    one.context.set_offline(False)
    for page in (one, other):
        expect(page.locator(".run-bar .kept")).to_have_text("")
    assert sum(e["kind"] == "poured" for e in events(one)) == 5
    one.reload()
    expect(counted(one)).to_have_text("1.25 L")


def test_a_full_memory_is_said_and_the_tap_is_sent_all_the_same(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    address = at_the_mixer(page)
    page.add_init_script(
        "const full = () => { throw new DOMException('full', 'QuotaExceededError'); };"
        "IDBObjectStore.prototype.put = full; Storage.prototype.setItem = full;"
    )
    page.goto(address)
    page.context.set_offline(True)
    page.get_by_role("button", name="+ 2 L").click()
    expect(page.get_by_text("memory is full or closed")).to_be_visible()
    expect(counted(page)).to_have_text("2.00 L")
    page.context.set_offline(False)
    expect(page.get_by_text("memory is full or closed")).to_be_hidden()
    assert sum(e["kind"] == "poured" for e in events(page)) == 1


def test_what_is_refused_for_good_is_set_aside_and_the_rest_goes_on(open_page: Opener, tmp_path: Path) -> None:
    page = open_page("/", PHONE)
    at_the_mixer(page)
    held: list[dict[str, Any]] = []

    def spoil(route: Any) -> None:
        if route.request.method != "POST":
            route.continue_()
            return
        body = json.loads(route.request.post_data)
        for event in body["events"]:
            if event["kind"] == "poured" and not held:
                held.append(event)
            if held and event["id"] == held[0]["id"]:
                event["litres"] = -2
        route.continue_(post_data=json.dumps(body))

    page.route("**/events", spoil)
    page.get_by_role("button", name="+ 2 L").click()
    expect(page.get_by_text("1 entry was not taken: This entry cannot be read: litres.")).to_be_visible()
    expect(counted(page)).to_have_text("0.00 L")
    page.get_by_role("button", name="+ 250 mL").click()
    seen(page, lambda: len(events(page)) >= 3)
    assert [e["kind"] for e in events(page)] == ["started", "step_done", "poured"]
    page.reload()  # it is still there, and can be saved and put away
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save it as a file").click()
    saved.value.save_as(tmp_path / "aside.json")
    (kept,) = json.loads((tmp_path / "aside.json").read_text())
    assert kept["event"]["litres"] == 2
    page.get_by_role("button", name="Put it away").click()
    expect(page.get_by_text("was not taken")).to_be_hidden()


def test_a_server_that_does_not_answer_is_waited_for(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    at_the_mixer(page)
    page.route("**/events", lambda route: route.fulfill(status=503, body="{}"))
    page.get_by_role("button", name="+ 2 L").click()
    expect(page.get_by_text(re.compile("The server does not answer: .* here"))).to_be_visible()
    page.unroute("**/events")
    expect(page.locator(".run-bar .kept")).to_have_text("")
    assert sum(e["kind"] == "poured" for e in events(page)) == 1


def test_a_new_ticket_reaches_the_phone_and_its_waiting_taps_find_their_load(open_page: Opener) -> None:
    phone = open_page("/", PHONE)
    address = at_the_mixer(phone)
    phone.context.set_offline(True)
    phone.get_by_role("button", name="+ 2 L").click()
    desk = open_page("/")
    desk.goto(address.replace("mixer", "mix"))
    desk.get_by_label("Water to 100 of powder").fill("75")
    expect(desk.locator(".entries .kept")).to_have_text("Kept.")
    desk.goto(address)
    desk.get_by_role("link", name="See what changes").click()
    expect(desk.get_by_text("1 load stays as it is")).to_be_visible()
    desk.get_by_role("button", name="Take the new ticket").click()
    expect(desk.get_by_role("heading", name="All the water, cool")).to_be_visible()  # the load in the bucket stays
    phone.context.set_offline(False)
    expect(counted(desk)).to_have_text("2.00 L")
    # The page loads itself anew; in between nothing of it can be asked.
    seen(phone, lambda: '"ticket_n":2' in (phone.locator("script[data-run]").text_content() or ""))
    expect(counted(phone)).to_have_text("2.00 L")


def test_two_tabs_that_change_one_sheet_both_keep_what_they_typed(open_page: Opener) -> None:
    one = open_page()
    one.get_by_role("link", name="Porch steps").first.click()
    address = one.url.replace("loads", "measure")
    one.goto(address)
    other = open_page()
    other.goto(address)
    first = one.locator("form.entries input[name$='note']").first
    name = first.get_attribute("name")
    first.fill("Lower steps")
    expect(one.locator(".entries .kept")).to_have_text("Kept.")
    other.get_by_label("Waste allowance").first.fill("9")
    expect(other.get_by_text("Somebody else changed this sheet meanwhile")).to_be_visible()
    expect(other.locator(f"[name='{name}']")).to_have_value("Lower steps")
    expect(other.get_by_label("Waste allowance").first).to_have_value("9")
    one.reload()
    expect(one.get_by_label("Waste allowance").first).to_have_value("9")


def test_storage_of_a_browser_that_forbids_it_is_no_hindrance(browser: Browser, site: str) -> None:
    context: BrowserContext = browser.new_context(**PHONE)
    context.add_init_script("Object.defineProperty(window, 'indexedDB', {get() { throw new Error('denied'); }})")
    page = context.new_page()
    page.set_default_timeout(LIMIT_MS)
    page.goto(site)
    at_the_mixer(page)
    page.get_by_role("button", name="+ 2 L").click()
    expect(counted(page)).to_have_text("2.00 L")
    page.wait_for_function(KEPT, arg=3)
    context.close()
