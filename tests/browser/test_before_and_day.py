"""Days of a yard from the sky to the line: a hot stucco day, a cold overlay, old plaster, a screed with rain at noon."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import DESK, PHONE, Opener, finger, understood
from tests.prose import PROSE

pytestmark = pytest.mark.browser


def before(page: Page, job: str) -> None:
    """Go from the loads of a job to what is looked at before its first."""
    page.get_by_role("link", name=job).first.click()
    page.get_by_role("link", name="Loads", exact=True).click()
    page.get_by_role("link", name="Before you mix").click()
    expect(page.get_by_role("heading", name="Before you mix")).to_be_visible()


def air(page: Page, **figures: str) -> None:
    for label, figure in figures.items():
        page.get_by_label(label, exact=True).fill(figure)
    page.get_by_role("button", name="Reckon with it").click()


def test_a_hot_stucco_day_makes_smaller_loads_and_says_what_helps(open_page: Opener) -> None:
    page = open_page("/", DESK)
    before(page, "Gable, scratch")
    page.get_by_role("button", name="All as it should be").click()
    expect(page.get_by_text("All looked at.")).to_be_visible()
    air(page, Air="31", Humidity="25", Wind="5 m/s", Ground="38 °C")
    expect(page.locator(".air .figure").first).to_contain_text("14")  # half an hour at 20 °C, eleven degrees more
    expect(page.get_by_text("A retarder without chloride")).to_be_visible()
    expect(page.get_by_text("a screen against the wind")).to_be_visible()
    expect(page.get_by_role("heading", name="Hose in the sun")).to_be_visible()  # only now is it asked
    page.get_by_role("button", name="Run off, it comes cool").click()
    # In the sun it is worse; the shade is said, and the materials' warmth asks for ice.
    page.get_by_label("Sun on it").select_option(label="full sun")
    air(page, Water="18", Sand="33", **{"Cement or bag": "35"}, Wanted="22")
    expect(page.locator(".air .figure").first).to_contain_text("10")  # five degrees of sun more
    expect(page.get_by_text("into the shade")).to_be_visible()
    page.get_by_label("Sun on it").select_option(label="in the shade")
    page.get_by_role("button", name="Reckon with it").click()
    expect(page.get_by_text("For 22 °C:")).to_be_visible()
    page.get_by_role("button", name="Put the ice into the plan").click()
    expect(page.get_by_text("It comes out at 22")).to_be_visible()
    page.get_by_role("button", name="Put a retarder into the plan").click()
    expect(page.get_by_role("button", name="In date, shaken")).to_be_visible()  # what goes in is looked at
    page.get_by_role("button", name="In date, shaken").click()
    page.get_by_role("link", name="To the loads").click()
    expect(page.get_by_text("Ice, crushed").first).to_be_visible()
    expect(page.get_by_text("mL syringe").first).to_be_visible()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    expect(page.locator(".run-top .where")).to_contain_text("Load 1 of")


def test_a_cold_overlay_is_stopped_by_the_air_and_by_frozen_ground(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.get_by_role("link", name="Gable, scratch").first.click()
    page.get_by_role("link", name="Mix", exact=True).click()
    page.get_by_text("Overlay", exact=False).first.click()
    expect(page.get_by_label("Bag holds")).to_be_visible()  # its page is there
    page.get_by_role("link", name="Loads", exact=True).click()
    page.get_by_role("link", name="Before you mix").click()
    air(page, Air="36 F", Ground="30 F")
    expect(page.get_by_text("Too cold")).to_be_visible()
    expect(page.get_by_text("An accelerator without chloride")).to_be_visible()
    page.get_by_role("button", name="Frozen, or water stands").click()
    expect(page.get_by_role("alert")).to_contain_text(PROSE["nothing-holds-on-ice"])
    page.get_by_role("link", name="Loads", exact=True).click()
    page.get_by_role("button", name="To the mixer").click()
    expect(page.get_by_role("heading", name="Before you mix")).to_be_visible()  # not while it is frozen


def test_a_plaster_room_with_old_stock_is_warned_and_goes_on(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    before(page, "Corbel, half moulds")
    page.get_by_role("button", name="Older than 6 months").click()
    expect(page.get_by_text("Mix a cup and time it")).to_be_visible()
    page.get_by_role("button", name="All as it should be").click()
    expect(page.get_by_text("All looked at.")).to_be_visible()
    page.get_by_role("link", name="To the loads").click()
    expect(page.get_by_text("Use within 8 min")).to_be_visible()  # 12 min of fresh plaster, at two thirds
    page.get_by_role("link", name="Before you mix").click()
    page.get_by_role("button", name="New bags").click()
    expect(page.get_by_text("Mix a cup and time it")).to_be_hidden()  # other bags: look again
    page.get_by_role("button", name="Dry, under 6 months").click()
    page.get_by_role("link", name="To the loads").click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)


def test_a_screed_day_with_rain_at_noon_goes_on_inside_and_waits_outside(open_page: Opener) -> None:
    page = open_page("/", DESK)
    page.get_by_role("link", name="Day", exact=True).click()
    expect(page.locator(".day-jobs li").nth(7)).to_be_visible()
    for row in page.locator(".day-jobs li").all():
        wanted = any(name in row.inner_text() for name in ("Workshop floor", "Porch steps"))
        row.locator("input[name=on]").set_checked(wanted)
    page.get_by_label("Begin").fill("11:00")
    page.locator("#forecast").fill("\n".join(f"{h}:00, 16, 60, 8, {4 if h in (12, 13) else 0}" for h in range(11, 18)))
    page.get_by_role("button", name="Lay it out").click()
    row = page.locator(".dl-job")
    expect(row).to_have_count(2)
    steps, floor = row.filter(has_text="Porch steps"), row.filter(has_text="Workshop floor")
    expect(steps.locator(".dl-shut")).to_have_count(1)
    expect(floor.locator(".dl-shut")).to_have_count(0)  # under its roof
    expect(page.get_by_role("heading", name="The weeks after")).to_be_visible()
    expect(page.get_by_text("Under its sheet").first).to_be_visible()
    steps.focus()
    page.evaluate("document.querySelector('main').dataset.before = ''")
    page.keyboard.press("ArrowRight")
    expect(page.locator("main[data-before]")).to_have_count(0)  # the answer has taken its place
    after = page.locator(".day-jobs li").filter(has_text="Porch steps").locator("input[name=after]")
    expect(after).to_have_value(re.compile(r"^\d+:(00|15|30|45)$"))
    first = after.input_value()
    box = page.locator(".dl-job").filter(has_text="Porch steps").locator(".dl-mix").first.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 2, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 5, steps=4)
    page.mouse.up()
    expect(after).not_to_have_value(first)
    page.locator(".dl-job").filter(has_text="Porch steps").focus()
    page.keyboard.press("ArrowUp")
    expect(page.locator(".dl-job").first).to_contain_text("Porch steps")


def test_a_finger_moves_a_job_of_the_day_and_beside_it_scrolls_the_line(open_page: Opener) -> None:
    page = open_page("/", PHONE)
    page.get_by_role("link", name="Day", exact=True).click()
    row = page.locator(".dl-job").first
    name = row.locator(".dl-name").text_content()
    after = page.locator(".day-jobs li").filter(has_text=name).locator("input[name=after]")
    expect(after).to_have_value("")
    page.locator(".day-scroll").first.scroll_into_view_if_needed()
    box = row.locator(".dl-hold").bounding_box()
    assert box is not None
    x, y = box["x"] + 8, box["y"] + box["height"] / 2
    page.evaluate("document.querySelector('main').dataset.before = ''")
    finger(page, (x, y), (x + 90, y))
    expect(after).to_have_value(re.compile(r"^\d+:(00|15|30|45)$"))
    expect(page.locator("main[data-before]")).to_have_count(0)  # the answer has taken its place
    line = page.locator(".day-scroll").first
    before = line.evaluate("line => line.scrollLeft")
    top = line.bounding_box()
    assert top is not None
    finger(page, (320, top["y"] + 12), (120, top["y"] + 12))
    page.wait_for_function("before => document.querySelector('.day-scroll').scrollLeft > before + 50", arg=before)
    page.evaluate("document.querySelector('main').dataset.before = ''")
    row.focus()
    page.keyboard.press("ArrowLeft")
    expect(page.locator("main[data-before]")).to_have_count(0)
    assert line.evaluate("line => line.scrollLeft") > before + 50  # the new line stands where the old one did
