"""The step beside the hand: what hurts first, pictures, typed water, waiting, numbers, several loads, plaster after the pour."""

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import DESK, PHONE, Opener, seen, settled, stepped_to, understood
from tests.prose import PROSE

pytestmark = pytest.mark.browser

# What the page would do to a person's ear, eye and hand is written down; nothing here counts as a tap.
SENSES = """
  window.called = [];
  const note = (what) => window.called.push(what);
  navigator.vibrate = (pattern) => { note('shake'); return true; };
  Object.defineProperty(window, 'speechSynthesis', { value: { getVoices: () => [{}], speak: (said) => note(said.text) } });
  window.SpeechSynthesisUtterance = function (text) { this.text = text; };
  window.Notification = class { static permission = 'granted'; constructor(title, said) { note(`notice: ${said.body}`); } };
  const lock = { release: () => { note('may sleep'); return Promise.resolve(); } };
  Object.defineProperty(navigator, 'wakeLock', { value: { request: () => { note('awake'); return Promise.resolve(lock); } } });
  const start = OscillatorNode.prototype.start;
  OscillatorNode.prototype.start = function (...at) { note('beep'); return start.apply(this, at); };
"""


def corbel(page: Page) -> str:
    """Go to the mixer with the corbel's plaster: what hurts is read first."""
    page.get_by_role("link", name="Corbel, half moulds").click()
    page.get_by_role("button", name="To the mixer").click()
    expect(page.get_by_role("heading", name="Before you begin")).to_be_visible()
    expect(page.locator(".run-step .mind:visible")).to_contain_text("Setting plaster burns")
    understood(page)
    return page.url


def test_what_hurts_is_read_once_a_day_and_stays_at_hand(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    corbel(page)
    expect(page.get_by_role("heading", name="Clean, dry bucket")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="Clean, dry bucket")).to_be_visible()
    page.get_by_role("button", name="All steps").click()
    expect(page.get_by_role("dialog").get_by_text("Setting plaster burns")).to_be_visible()


@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
def test_what_goes_in_is_drawn_as_it_is_lined_up(open_page: Opener, options: dict[str, Any]) -> None:
    page = open_page("/", options)
    corbel(page)
    page.locator("button.forward").click()
    expect(page.get_by_role("heading", name="All the water, cool")).to_be_visible()
    drawn = page.locator(".step-pictures:visible .gauge-picture")
    expect(drawn).to_have_count(1)
    # 5.86 L with a jug of 2.3 L to its brim: two to 2 L, which can be carried, and one to the rest; each to its mark.
    expect(drawn.locator("polyline.wall")).to_have_count(3)
    expect(drawn.locator(".gauge-mark")).to_have_count(3)
    page.locator("button.forward").click()
    expect(page.locator(".step-pictures:visible .gauge-label")).to_contain_text("kg")
    page.get_by_role("button", name="Step back").click()
    expect(page.get_by_role("heading", name="All the water, cool")).to_be_visible()
    expect(page.locator(".counted strong")).to_have_text("5.86 L")  # what was poured is poured


def test_an_amount_may_be_typed_and_past_the_highest_only_held(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    corbel(page)
    page.locator("button.forward").click()
    page.get_by_role("button", name="Other").click()
    typed, goes = page.locator("[data-typed]"), page.get_by_role("button", name="It went in")
    typed.fill("a banana")
    expect(page.get_by_text(PROSE["a-figure-with-its"])).to_be_visible()
    expect(goes).to_be_disabled()
    for wrong in ("-3", "0"):
        typed.fill(wrong)
        expect(goes).to_be_disabled()
        expect(page.get_by_text(PROSE["a-figure-with-its"])).to_be_visible()
    typed.fill("1000000")
    expect(page.get_by_text("more than a mixer takes at once")).to_be_visible()
    expect(goes).to_be_disabled()
    typed.fill("1,35")
    goes.click()
    expect(page.locator(".counted strong")).to_have_text("1.35 L")
    page.get_by_role("button", name="Other").click()
    typed.fill("5")
    expect(page.get_by_text("That goes past the highest")).to_be_visible()
    expect(goes).to_be_disabled()
    confess = page.locator(".run-bar .confess")
    expect(confess).to_have_text(PROSE["i-did-pour-5"])
    confess.hover()
    page.mouse.down()
    expect(page.locator(".counted strong")).to_have_text("6.35 L")
    page.mouse.up()
    expect(page.get_by_text("Past the highest: no more water in this load.")).to_be_visible()


def test_lime_is_waited_for_before_water_is_offered(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.get_by_role("link", name="Garden wall").first.click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    stepped_to(page, "Is it right?")
    page.get_by_role("button", name="Too dry").click()
    expect(page.get_by_text("Wait: it is still wetting out.")).to_be_visible()  # five minutes, the tests wait one
    expect(page.locator(".pour-row")).to_be_hidden()
    page.keyboard.press("w")
    count = page.locator(".counted strong").inner_text()
    expect(page.locator(".confess:visible")).to_have_count(1)  # what went in all the same can be said
    assert page.locator(".counted strong").inner_text() == count


def test_mortar_that_waits_is_turned_again(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.add_init_script(SENSES)
    page.clock.install()
    page.get_by_role("link", name="Garden wall").first.click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    stepped_to(page, "Is it right?")
    page.get_by_role("button", name="Right", exact=True).click()
    expect(page.get_by_text("Give what waits a turn every 20 min.")).to_be_visible()
    expect(page.get_by_text("knocked up again within the day").first).to_be_visible()
    settled(page)
    assert not any("give what waits a turn" in one for one in page.evaluate("called"))
    page.clock.fast_forward(21 * 60_000)
    seen(page, lambda: any("give what waits a turn" in one for one in page.evaluate("called")))


def test_numbers_are_judged_against_what_the_mix_should_come_to(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.get_by_role("link", name="Porch steps").first.click()
    page.get_by_role("link", name="Mix", exact=True).click()
    page.get_by_text("Bagged concrete, 25 kg").click()
    expect(page.get_by_label("Bag holds")).to_be_visible()
    page.get_by_role("link", name="Loads", exact=True).click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    stepped_to(page, "Is it right?")
    expect(page.locator(".judging svg.state:visible")).to_have_count(3)
    page.get_by_text("Write a reading down").click()
    slump = page.locator(".wants label").filter(has_text="slump").locator("input")
    for wrong in ("soft", "-5", "100000"):
        slump.fill(wrong)
        slump.blur()
        expect(page.locator(".wants")).to_contain_text(PROSE["this-cannot-be-a"])
        expect(slump).to_have_value(wrong)
    slump.fill("183")
    slump.blur()
    expect(page.locator(".wants")).to_contain_text("S4 · too soft")
    warm = page.locator(".wants label").filter(has_text="temperature").locator("input")
    life = page.locator(".life").inner_text()
    warm.fill("30")
    warm.blur()
    expect(page.locator(".wants")).to_contain_text("30 °C · noted")
    expect(page.locator(".life")).not_to_have_text(life)  # ten degrees more: half the time
    expect(page.locator(".life")).to_contain_text(re.compile(r"^2\d min|^3\d min"))


def test_plaster_is_watched_after_the_pour_and_a_mark_times_the_next_bucket(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.add_init_script(SENSES)
    page.clock.install()
    corbel(page)
    stepped_to(page, "Is it right?")
    page.get_by_role("button", name="Right", exact=True).click()
    expect(page.get_by_role("heading", name="Tap the air out, pour in a thin stream")).to_be_visible()
    expect(page.locator(".stage-now")).to_contain_text("Soaking")
    settled(page)
    page.clock.fast_forward(8 * 60_000)
    expect(page.locator(".stage-now")).to_contain_text("Cream")
    expect(page.locator(".stage-then")).to_contain_text("Yoghurt in")
    page.locator("button.forward").click()  # in the mould
    expect(page.get_by_role("heading", name="Clean, dry bucket")).to_be_visible()
    side = page.locator(".sides button").filter(has_text="Load 1")
    side.click()
    expect(page.locator(".stage-now")).to_be_visible()
    # By the server's clock it was poured a moment ago: cheese cannot be yet, and is asked about.
    row = page.locator(".stage-rows li").filter(has_text="Cheese")
    row.get_by_role("button").click()
    expect(row).to_contain_text(PROSE["far-off-its-time"])
    row.get_by_role("button").click()
    expect(page.locator(".stage-now")).to_contain_text("Cheese")
    expect(page.locator(".sides button").filter(has_text="Load 1")).to_contain_text("Cheese")


def test_it_calls_at_the_end_of_a_timer_with_the_page_hidden_and_is_right_to_a_second(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.add_init_script(SENSES)
    page.add_init_script("localStorage.setItem('keeve_alarms', JSON.stringify({ notices: true }))")
    page.clock.install()
    corbel(page)
    stepped_to(page, "Leave it to soak")
    settled(page)
    page.evaluate(
        "Object.defineProperty(document, 'visibilityState', { value: 'hidden', configurable: true });"
        "document.dispatchEvent(new Event('visibilitychange'))"
    )
    page.clock.run_for(100_000)
    assert "beep" not in page.evaluate("called")
    page.clock.run_for(500_000)  # ten minutes in all
    seen(page, lambda: "beep" in page.evaluate("called"))
    called = page.evaluate("called")
    assert "shake" in called
    assert PROSE["load-1-leave-it"] in called
    assert PROSE["notice-load-1-leave"] in called
    assert sum(one == PROSE["load-1-leave-it"] for one in called) == 1
    assert PROSE["load-1-cream-in"] in called
    page.evaluate(
        "Object.defineProperty(document, 'visibilityState', { value: 'visible', configurable: true });"
        "document.dispatchEvent(new Event('visibilitychange'))"
    )
    shown = page.evaluate(
        "(() => { const run = Alpine.$data(document.querySelector('.run'));"
        " return [run.timerText, (Date.now() + run.queue.skewMs - run.at.since_ms) / 1000 - run.step.seconds]; })()"
    )
    minutes, seconds = shown[0].lstrip("+").split(":")
    assert abs(int(minutes) * 60 + int(seconds) - shown[1]) <= 1


def test_each_way_of_calling_can_be_switched_off_and_stays_off(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.add_init_script(SENSES)
    corbel(page)
    page.get_by_role("button", name="All steps").click()
    page.get_by_label("Sound").uncheck()
    page.get_by_label("Vibration").uncheck()
    page.get_by_label("Gloves: bigger buttons").check()
    page.get_by_role("button", name="Try it").click()
    assert page.evaluate("called") == ["awake", PROSE["this-is-how-it"]]
    page.get_by_label("Screen stays on").uncheck()
    seen(page, lambda: page.evaluate("called").pop() == "may sleep")
    page.get_by_role("button", name="Close").click()
    forward = page.locator("button.forward").bounding_box()
    assert forward is not None
    assert forward["height"] >= 84
    page.reload()
    page.get_by_role("button", name="All steps").click()
    expect(page.get_by_label("Sound")).not_to_be_checked()
    expect(page.get_by_label("Spoken words")).to_be_checked()
    expect(page.get_by_label("Gloves: bigger buttons")).to_be_checked()


def test_two_mixers_turn_at_once_and_each_keeps_its_own_count(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    corbel(page)
    stepped_to(page, "Leave it to soak")
    page.get_by_role("button", name="+ load 2 now").click()
    expect(page.get_by_text("Load 2 of 2 · step 1")).to_be_visible()
    stepped_to(page, "All the water, cool")
    page.get_by_role("button", name="+ 2 L").click()
    expect(page.locator(".counted strong")).to_have_text("2.00 L")
    page.locator(".sides button").filter(has_text="Load 1").click()
    expect(page.get_by_role("heading", name="Leave it to soak")).to_be_visible()
    expect(page.locator(".counted strong")).to_have_text("5.86 L")
    page.locator(".sides button").filter(has_text="Load 2").click()
    expect(page.locator(".counted strong")).to_have_text("2.00 L")
    page.reload()
    expect(page.locator(".sides button")).to_have_count(2)


def test_what_runs_in_one_job_is_in_view_on_every_page_and_a_tap_goes_there(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    address = corbel(page)
    stepped_to(page, "Leave it to soak")
    settled(page)
    other = open_page("/book", DESK)
    clock = other.locator(".clocks a").filter(has_text="Corbel, half moulds, load 1")
    expect(clock).to_contain_text(re.compile(r"Leave it to soak is over in \d:\d\d"))
    clock.click()
    expect(other).to_have_url(address)
    expect(other.get_by_role("heading", name="Leave it to soak")).to_be_visible()
    # There it is the page's own.
    expect(other.locator(".clocks a").filter(has_text="Corbel")).to_have_count(0)


def test_the_powder_is_weighed_live_and_the_reading_is_in_the_log(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    corbel(page)
    stepped_to(page, "Sift the plaster in, evenly")
    page.get_by_role("button", name="On the scale").first.click()
    view = page.locator("[data-scale]")
    expect(view.locator(".weigh-reading")).to_have_text("0.00 kg")
    page.get_by_text("This one is a stand-in: its hands").click()
    view.get_by_role("button", name="Empty vessel on").click()
    view.get_by_role("button", name="Tare").click()
    view.get_by_role("button", name="Pour", exact=True).click()
    expect(view.locator(".weigh-words")).to_contain_text("too much")  # nobody stopped in time
    view.get_by_role("button", name="Stop pouring").click()
    take = view.locator("button.take")
    expect(take).to_have_text(re.compile(PROSE["take-all-the-same"]))
    view.get_by_role("button", name="Pull the plug").click()
    expect(view.locator(".weigh-reading")).to_have_text("– – –")
    expect(take).to_be_disabled()
    view.get_by_role("button", name="Pull the plug").click()
    view.get_by_role("button", name="Empty its battery").click()
    expect(view.get_by_text("Battery low: 7 %")).to_be_visible()
    take.click()
    expect(view).to_be_hidden()
    settled(page)
    text = page.evaluate("fetch(location.pathname.replace('mixer', 'events')).then((a) => a.text())")
    assert '"kind":"weighed"' in text.replace(": ", ":")


def test_readings_of_several_vessels_are_added_up(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    corbel(page)
    stepped_to(page, "Sift the plaster in, evenly")
    page.get_by_label("Scale reads").first.fill("2.74+2.74")
    expect(page.locator(".amounts output").first).to_contain_text("= 3.68 kg.")  # twice 2.74 less the pail of 0.90


@pytest.mark.parametrize(
    ("by", "nothing"), [("Read the meter", "0.00 L"), ("Weigh it", "0.00 kg")], ids=["meter", "scale"]
)
def test_the_water_is_counted_by_meter_or_scale(open_page: Opener, by: str, nothing: str) -> None:
    page = open_page("/", PHONE)
    corbel(page)
    stepped_to(page, "All the water, cool")
    page.get_by_role("button", name="Other").click()
    page.get_by_role("button", name=by).click()
    view = page.locator("[data-scale]")
    expect(view.locator(".weigh-reading")).to_have_text(nothing)
    page.get_by_text("This one is a stand-in: its hands").click()
    view.get_by_role("button", name="Pour", exact=True).click()
    expect(view.locator(".weigh-reading")).not_to_have_text(nothing)
    view.get_by_role("button", name="Stop pouring").click()
    expect(view.locator("button.take")).to_be_enabled()
    view.locator("button.take").click()
    expect(page.locator(".counted strong")).not_to_have_text("0.00 L")


SMALL = """
  [...document.querySelectorAll('.run button, .run input, .run select, .run summary, .clocks a')]
    .filter((one) => one.checkVisibility() && one.type !== 'checkbox')
    .map((one) => [one.textContent.trim() || one.name || one.tagName, one.getBoundingClientRect()])
    .filter(([, box]) => box.height < 47.5 || box.width < 44).map(([name, box]) => `${name} ${box.width} by ${box.height}`)
"""


@pytest.mark.parametrize("night", [False, True], ids=["day", "night"])
def test_the_run_can_be_used_without_seeing_it_in_gloves_and_in_the_sun(
    open_page: Opener, axe: str, night: bool
) -> None:
    page = open_page("/", PHONE)
    if night:
        page.context.add_cookies([{"name": "keeve_night", "value": "1", "url": page.url}])
        page.reload()
    wrong: list[Any] = []

    def look(where: str) -> None:
        page.evaluate(axe)
        found = page.evaluate("axe.run({runOnly: ['wcag2a', 'wcag2aa']})")["violations"]
        enhanced = "axe.run({runOnly: {type: 'rule', values: ['color-contrast-enhanced']}})"
        figures = [
            node["html"]
            for broken in page.evaluate(enhanced)["violations"]
            for node in broken["nodes"]
            if node["html"].startswith("<strong")
        ]
        wrong.extend((where, broken["id"], [n["html"][:120] for n in broken["nodes"]][:3]) for broken in found)
        wrong.extend((where, "figure without contrast", html[:120]) for html in figures)
        wrong.extend((where, "small", one) for one in page.evaluate(SMALL))
        if page.evaluate("document.documentElement.scrollWidth > innerWidth + 1"):
            wrong.append((where, "wider than the screen"))

    page.get_by_role("link", name="Corbel, half moulds").click()
    page.get_by_role("button", name="To the mixer").click()
    expect(page.get_by_role("heading", name="Before you begin")).to_be_visible()
    look("cautions")
    understood(page)
    stepped_to(page, "All the water, cool")
    page.get_by_role("button", name="Other").click()
    look("water")
    stepped_to(page, "Sift the plaster in, evenly")
    page.get_by_role("button", name="On the scale").first.click()
    expect(page.locator(".weigh-reading")).to_have_text("0.00 kg")
    look("scale")
    page.locator("[data-scale]").get_by_role("button", name="Close").click()
    stepped_to(page, "Is it right?")
    look("judging")
    page.get_by_role("button", name="Right", exact=True).click()
    expect(page.locator(".stage-now")).to_be_visible()
    look("stages")
    page.get_by_role("button", name="All steps").click()
    look("all steps")
    page.get_by_role("link", name="On a phone").click()
    expect(page.get_by_role("heading", name="On a phone")).to_be_visible()
    look("phone")
    page.goto(page.url.split("/jobs/")[0] + "/offline")
    look("offline")
    assert wrong == []


def screed(open_page: Opener) -> Page:
    """Go to the mixer with the workshop's screed, on a phone: what hurts is read first."""
    page = open_page("/", PHONE)
    page.get_by_role("link", name="Workshop floor, screed").first.click()
    page.locator("[data-station='3']").click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    return page


def water_now(page: Page) -> list[Any]:
    """First water, target and why they are told, as the page has them."""
    now = "Alpine.$data(document.querySelector('.run')).at"
    return list(page.evaluate(f"[{now}.first_l, {now}.aim_l, {now}.brief.why, {now}.brief.leads]"))


def test_the_heap_is_looked_at_where_the_step_asks_for_it(open_page: Opener) -> None:
    """One tap sets the load that is not poured yet; after its water the next one follows; taking back brings all back."""
    page = screed(open_page)
    expect(page.get_by_role("heading", name="Squeeze the sand, look at the heap")).to_be_visible()
    printed = water_now(page)
    page.get_by_role("button", name="damp", exact=True).click()
    damp = water_now(page)
    assert damp[0] > printed[0]  # drier sand brings less
    page.locator("button.forward").click()  # it is begun by that
    page.get_by_role("button", name="The heap").click()
    page.get_by_role("button", name="wet", exact=True).click()
    wet = water_now(page)
    assert wet[2:] == ["look", "sand"]
    assert wet[0] < damp[0]
    expect(page.get_by_text(re.compile("By what was told of the heap: .* first"))).to_be_visible()
    page.get_by_role("button", name="Take back").click()
    assert water_now(page)[:2] == damp[:2]
    while not page.get_by_role("heading", name="First water").is_visible():
        page.locator("button.forward").click()
    page.locator("button.forward").click()
    page.get_by_role("button", name="The heap").click()
    page.get_by_role("button", name="It rained", exact=True).click()
    expect(page.get_by_text(PROSE["this-load-goes-on"])).to_be_visible()
    assert water_now(page)[:2] == damp[:2]
    settled(page)
    page.reload()
    expect(page.get_by_role("heading", name="Rest of the sand on top")).to_be_visible()
    assert water_now(page)[:2] == damp[:2]


STEPS = """() => {
    const grid = document.querySelector(".run-grid");
    const bar = document.querySelector(".run-bar").getBoundingClientRect();
    return [grid.scrollHeight - grid.clientHeight, document.documentElement.scrollHeight - innerHeight, bar.bottom - innerHeight];
}"""


@pytest.mark.parametrize("job", ["Gate-post holes", "Workshop floor, screed"])
def test_a_step_stands_whole_on_a_phone_and_at_the_table(open_page: Opener, job: str) -> None:
    """Nothing is scrolled for and nothing lies under the buttons, at two sizes of phone and at the table."""
    page = open_page("/", PHONE)
    page.clock.install()
    page.get_by_role("link", name=job).first.click()
    page.locator("[data-station='4']").click()
    again = page.get_by_role("button", name=re.compile("Begin mixing|The same again"))
    again.first.click()
    understood(page)
    last = page.evaluate("Alpine.$data(document.querySelector('.run')).card.steps.length") - 1
    for _ in range(last):
        for wide, high in ((390, 844), (360, 740), (1280, 800)):
            page.set_viewport_size({"width": wide, "height": high})
            assert max(page.evaluate(STEPS)) <= 1, (page.locator(".run-step h1").inner_text(), wide)
        page.set_viewport_size({"width": 390, "height": 844})
        on = page.locator(".v.right" if page.locator(".v.right").is_visible() else "button.forward")
        on.click()


def test_what_is_typed_is_kept_in_the_log_and_counted(open_page: Opener) -> None:
    """A reading of the scale, and water as a hand says it: by hand, 114 g of fibre asked and 0.25 lb on the scale."""
    page = screed(open_page)
    while not page.get_by_role("heading", name="First water").is_visible():
        page.locator("button.forward").click()
    scale = page.get_by_role("textbox", name="Scale reads")
    said = page.locator(".weigh output").last
    scale.fill("114 g + 114 g")  # a dose twice is not two vessels of it
    scale.press("Tab")
    expect(said).to_contain_text("= 228 g. 100")
    scale.fill("0.25 lb")
    scale.press("Tab")
    expect(said).not_to_contain_text("too much")
    assert page.evaluate("Alpine.$data(document.querySelector('.run')).at.weighed_kg")[
        "polypropylene-fibre"
    ] == pytest.approx(0.25 * 0.45359237, abs=1e-4)
    page.get_by_role("button", name="Other").click()
    water = page.get_by_label("Other amount")
    water.press_sequentially("a quarter of a bucket, right")  # its letters are the field's, no key of the page
    expect(water).to_have_value("a quarter of a bucket, right")
    water.press("Enter")
    expect(page.get_by_role("heading", name="First water")).to_be_visible()
    water.fill("a banana")
    expect(page.get_by_text(PROSE["a-figure-with-its"])).to_be_visible()
    water.fill("2 qt 8 oz")  # 2.129 L by NIST SP 811, appendix B.8
    expect(page.get_by_text("= 2.13 L")).to_be_visible()
    page.get_by_role("button", name="It went in").click()
    settled(page)
    assert page.evaluate("Alpine.$data(document.querySelector('.run')).at.poured_l") == pytest.approx(2.1293, abs=1e-3)
    page.reload()
    expect(page.locator(".counted strong")).to_have_text("2.13 L")
    page.goto(page.url.replace("/mixer", "/look-back"))
    expect(page.get_by_text("on the scale, 113 g")).to_be_attached()


def test_after_a_load_that_was_right_the_next_is_in_turned_right(open_page: Opener) -> None:
    """Four taps a load beside the sips: the same entries of the log as step by step, and the same figures."""
    page = screed(open_page)
    stepped_to(page, "Is it right?")
    expect(page.get_by_text(re.compile("Load 1: turned .* of "))).to_be_visible()
    page.get_by_role("button", name="Right", exact=True).click()
    page.locator("button.forward").click()
    expect(page.get_by_text("Load 2 of 11 · in")).to_be_visible()
    expect(page.locator(".amounts li")).to_have_count(5)  # sand, cement, water, fibre, sand: in the order of the steps
    first = water_now(page)[0]
    expect(page.locator("button.forward")).to_contain_text(f"{first:.2f} L")
    page.keyboard.press("PageDown")  # a pedal never pours
    expect(page.locator(".counted strong")).to_have_text("0.00 L")
    page.locator("button.forward").click()
    expect(page.locator(".counted strong")).to_have_text(f"{first:.2f} L")
    expect(page.get_by_text("Load 2 of 11 · turned")).to_be_visible()
    page.keyboard.press("PageDown")
    expect(page.get_by_role("heading", name="Is it right?")).to_be_visible()
    page.keyboard.press("PageDown")  # and never judges
    page.get_by_role("button", name="Right", exact=True).click()
    expect(page.locator(".pour")).to_have_count(3)
    expect(page.locator(".pour").first).to_be_hidden()  # nobody is asked to water what lies
    page.locator("button.forward").click()
    expect(page.get_by_text("Load 3 of 11 · in")).to_be_visible()
    settled(page)
    load = page.evaluate("JSON.parse(JSON.stringify(Alpine.$data(document.querySelector('.run')).state.loads[1]))")
    assert (load["ended"], load["verdicts"], load["teaches"], load["pours"]) == ("accepted", ["right"], True, 1)
    page.get_by_role("button", name="All steps").click()
    page.get_by_label(re.compile("Short run")).uncheck()
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_role("heading", name="Squeeze the sand, look at the heap")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="Squeeze the sand, look at the heap")).to_be_visible()
