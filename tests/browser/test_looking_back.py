"""Somebody looks back in the evening: a note and its correction, a photo, a logger's file, a good load made a mix."""

from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.browser.conftest import DESK, PHONE, Opener
from tests.browser.test_a_whole_job import station
from tests.prose import PROSE

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
def test_an_evening_over_the_log(open_page: Opener, tmp_path: Path, options: dict[str, Any]) -> None:
    page = open_page("/", options)
    page.get_by_role("link", name="Gate-post holes").first.click()
    station(page, "Look back")
    notes = page.locator("#notes")
    notes.get_by_label("Note", exact=True).last.fill("Rail posts cast in the rain")
    notes.locator("#note-load").select_option("2")
    notes.get_by_role("button", name="Write it down").click()
    expect(notes).to_contain_text("Rail posts cast in the rain")
    expect(notes).to_contain_text("load 2")
    written = notes.locator(".note").filter(has_text="Rail posts")
    written.get_by_text("Correct it").click()
    written.locator("textarea").fill("Rail posts cast before the rain")
    written.get_by_role("button", name="Put this in its place").click()
    expect(page.locator("#notes .note s")).to_have_text("Rail posts cast in the rain")
    Image.effect_noise((1600, 900), 60).convert("RGB").save(tmp_path / "slump.jpg")
    page.locator("#photo-file").set_input_files(tmp_path / "slump.jpg")
    page.locator("#photo-says").fill("Slump of load 2")
    page.get_by_role("button", name="Keep it").click()
    picture = page.locator(".photos img")
    picture.scroll_into_view_if_needed()
    expect(picture).to_have_js_property("naturalWidth", 1280)
    (tmp_path / "box.csv").write_text("hours, °C\n" + "\n".join(f"{h}, 30" for h in range(0, 25, 3)), encoding="utf-8")
    page.get_by_text("How warm it was: a trace of temperatures").click()
    page.locator("#trace-at").fill("2026-09-14 08:30")
    page.locator("#trace-file").set_input_files(tmp_path / "box.csv")
    expect(page.locator("#trace-lines")).to_have_value("hours, °C\n" + "\n".join(f"{h}, 30" for h in range(0, 25, 3)))
    page.get_by_role("button", name="Reckon with it").click()
    expect(page.locator("#proofs")).to_contain_text(PROSE["as-old-as-1"])  # 24 h · 40 / 30 = 32 h
    expect(page.get_by_role("link", name="A label for each piece")).to_be_visible()
    page.locator("#pin-load").select_option(index=0)
    page.get_by_role("button", name="Make it a mix").click()
    page.wait_for_url("**/book/own-*/change")
    expect(page.locator("[name=name]").first).to_have_value("Concrete 1 : 2 : 4, as load 3 of Gate-post holes")
