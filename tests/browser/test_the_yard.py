"""A person brings a tin and a tub of the yard to a job."""

import re
from typing import Any

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESK, PHONE, Opener
from tests.browser.test_a_whole_job import answer, station
from tests.prose import PROSE

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
def test_a_tin_is_measured_filled_and_measures_the_sand_of_a_job(open_page: Opener, options: dict[str, Any]) -> None:
    page = open_page("/", options)
    page.get_by_role("navigation").get_by_role("link", name="Yard").click()
    page.get_by_label("What do you call it?").fill("Old tin")
    page.get_by_role("button", name="Measure it").click()
    page.get_by_label("Deep").fill("260")
    page.get_by_label("Across the rim").fill("240")
    expect(answer(page)).to_contain_text(PROSE["11-8-l-to"])
    page.get_by_label("Poured in to the rim").fill("20")  # a slip: it stays, and is told at its field
    expect(page.get_by_text("by its measures it holds 11.8 L")).to_be_visible()
    page.get_by_label("Poured in to the rim").fill("11.5")
    expect(answer(page)).to_contain_text(PROSE["11-5-l-to"])
    expect(page.locator(".entries .kept")).to_have_text("Kept.")

    page.get_by_role("navigation").get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name="Gate-post holes").click()
    station(page, "Loads")
    page.get_by_label("Measured with").select_option("Old tin")
    expect(answer(page)).to_contain_text(re.compile(r"Old tin"))
    expect(page.locator(".entries .kept")).to_have_text("Kept.")

    page.get_by_role("navigation").get_by_role("link", name="Yard").click()
    page.get_by_role("link", name="Old tin").click()
    page.get_by_role("button", name="Put it away").click()
    expect(page.get_by_text("It is needed for “Gate-post holes”")).to_be_visible()
