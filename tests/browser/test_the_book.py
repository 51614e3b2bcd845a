"""A person makes the mix book their own, and the scale is judged beside the mixer."""

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import DESK, PHONE, Opener, understood
from tests.browser.test_a_whole_job import answer, station
from tests.prose import PROSE

pytestmark = pytest.mark.browser


def test_a_mix_is_found_compared_copied_changed_and_put_to_work(open_page: Opener, tmp_path: Path) -> None:
    page = open_page()
    page.get_by_role("link", name="Mix book").click()
    page.get_by_label("Find by use or name").fill("brick")
    expect(page.get_by_role("link", name="Concrete 1 : 2 : 4")).to_be_hidden()
    page.get_by_role("link", name="Bricklaying mortar 1 : 4").click()
    page.get_by_label("Set beside it").select_option("cement-mortar-1-3")
    expect(page.locator(".beside-table tr.differs").first).to_be_visible()
    page.get_by_label("Set beside it").select_option("")
    expect(page.get_by_role("heading", name="How it is mixed")).to_be_visible()

    # Half a part more sand; a slip first, which stays until it is put right.
    page.get_by_role("button", name="Copy and change").click()
    page.get_by_label("Name", exact=True).first.fill("Wall mortar, ours")
    sand = page.locator("[data-row]").nth(1).get_by_label("Parts")
    sand.fill("4 and a half")
    expect(page.get_by_text("cannot be read")).to_be_visible()
    expect(sand).to_have_value("4 and a half")
    sand.fill("4 1/2")
    expect(answer(page)).to_contain_text("Free water")
    expect(page.locator(".answer")).not_to_have_class(re.compile("stale"))
    # By hand: 1506 of cement to 4.5 x 1281 of damp-counted sand by mass, so one 25 kg bag takes 95.7 kg of dry sand.
    expect(answer(page)).to_contain_text("95.7 kg")
    page.get_by_role("button", name="Add a material").click()
    third = page.locator("[data-row]").nth(2)
    third.get_by_label("Material").select_option("hydrated-lime")
    third.get_by_label("Parts").fill("1/2")
    expect(answer(page)).to_contain_text("Hydrated lime")
    third.get_by_role("button", name="Take this out").click()
    expect(answer(page)).not_to_contain_text("Hydrated lime")
    expect(page.locator(".entries .kept")).to_have_text("Kept.")

    # Handed on as a file, taken in again.
    page.get_by_role("link", name="To the book").click()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Hand it on").click()
    file = tmp_path / waiting.value.suggested_filename
    waiting.value.save_as(file)
    page.get_by_label("Bring a mix in").set_input_files(file)
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_role("link", name="Wall mortar, ours")).to_have_count(2)

    page.get_by_role("button", name="Measure a job for it").click()
    station(page, "Mix")
    expect(page.get_by_role("radio", name="Wall mortar, ours").first).to_be_visible()


def test_two_sands_are_sieved_and_blended(open_page: Opener) -> None:
    page = open_page()
    page.get_by_role("link", name="Mix book").click()
    page.get_by_role("link", name="Sand and sieves").click()
    page.get_by_label("Which sand?").fill("Pit and dune")
    page.get_by_role("button", name="Weigh it").click()
    coarse = {"9.5": 0, "4.75": 60, "2.36": 130, "1.18": 120, "0.6": 100, "0.3": 60, "0.15": 20}
    fine = {"9.5": 0, "4.75": 0, "2.36": 0, "1.18": 15, "0.6": 60, "0.3": 250, "0.15": 150}
    rows = page.locator("[data-row]")
    for at, (one, two) in enumerate(zip(coarse.values(), fine.values(), strict=True)):
        rows.nth(at).get_by_label("First sand").fill(str(one))
        rows.nth(at).get_by_label("Second sand").fill(str(two))
    page.get_by_label("Pan, first sand").fill("10")
    page.get_by_label("Pan, second sand").fill("25")
    expect(answer(page)).to_contain_text(PROSE["best-blend-by-mass"])
    expect(answer(page)).to_contain_text(PROSE["inside-the-envelope-from"])
    # By hand, summed percents kept: (12 + 38 + 62 + 82 + 94 + 98) / 100 = 3.86 and (0 + 0 + 3 + 15 + 65 + 95) / 100 = 1.78.
    expect(answer(page).locator("tfoot")).to_contain_text("3.86")
    expect(answer(page).locator("tfoot")).to_contain_text("1.78")
    expect(page.locator(".entries .kept")).to_have_text("Kept.")
    page.reload()
    expect(answer(page)).to_contain_text(PROSE["best-blend-by-mass"])


def test_the_can_is_copied_from_its_label(open_page: Opener) -> None:
    page = open_page("/book/own/admixtures")
    page.get_by_label("Name", exact=True).fill("Slow set")
    page.get_by_role("button", name="Write it into the book").click()
    page.get_by_label("Density, kg/L").fill("118")
    page.get_by_label("Solids, %").fill("30")
    page.get_by_label("Label, least").fill("200")
    page.get_by_label("Label, most").fill("400")
    expect(page.get_by_text("most cans hold 1.0 to 1.3")).to_be_visible()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Slow set")
    page.get_by_label("Density, kg/L").fill("1.18")
    expect(answer(page)).to_contain_text("200 to 400 mL/100 kg")
    expect(page.locator(".entries .kept")).to_have_text("Kept.")
    page.get_by_role("link", name="All admixtures").click()
    expect(page.get_by_role("row", name="Slow set")).to_contain_text("200 to 400 mL/100 kg")


@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
def test_the_scale_is_judged_at_the_mixer(open_page: Opener, options: dict[str, Any]) -> None:
    page = open_page("/", options)
    page.get_by_role("link", name="Corbel, half moulds").click()
    page.get_by_role("button", name="To the mixer").click()
    understood(page)
    scale = page.get_by_label("Scale reads")
    for _ in range(4):
        if not scale.first.is_visible():
            page.locator("button.forward").click()
    wanted = float(re.search(r"([\d.]+) kg", page.locator(".amounts").inner_text())[1])  # type: ignore[index]
    scale.first.fill(f"{wanted / 10:.3f}")
    expect(page.get_by_text("about ten times off")).to_be_visible()
    tare = 0.9  # the pail hangs on the scale too: what is too much is of the plaster alone
    scale.first.fill(f"{(wanted - tare) * 1.02 + tare:.4f}")
    expect(page.get_by_text("2 % too much")).to_be_visible()


@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
@pytest.mark.parametrize(
    "path", ["/book", "/book/stucco-base", "/book/stucco-base?with=concrete-1-2-4", "/book/own/sands", "/book/own/admixtures", "/patterns", "/yard", "/programs", "/?find=post"]
)  # fmt: skip
def test_the_book_can_be_used_without_seeing_it(
    open_page: Opener, axe: str, path: str, options: dict[str, Any]
) -> None:
    page = open_page(path, options)
    page.wait_for_load_state("networkidle")
    page.evaluate(axe)
    found = page.evaluate("axe.run({runOnly: ['wcag2a', 'wcag2aa']})")
    assert [(v["id"], [n["html"][:120] for n in v["nodes"]][:3]) for v in found["violations"]] == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth + 1"), "the page is wider than the screen"


def test_a_mix_is_found_by_the_words_of_the_trade(open_page: Opener) -> None:
    page = open_page("/book")
    field = page.get_by_label("Find by use or name")

    def shown() -> list[str]:
        return [row.inner_text().split("\n")[0] for row in page.locator("[data-found]:visible").all()]

    for typed, name in (
        ("fence posts", "Bagged concrete, 60 lb"), ("driveways", "Concrete, designed"), ("molds", "Casting plaster at 70"),
        ("Mould", "Casting plaster at 70"), ("countertops", "High-strength self-consolidating"),
        ("hempcrete", "Hemp-lime, wall"), ("tuckpointing", "Hydraulic lime mortar 1 : 2½"), ("tile bed", "Dry-pack 1 : 3"),
        ("harl", "Base coat C, first coat"), ("stucco", "One-coat fibre stucco"), ("chimneys", "Cement–lime mortar type N"),
    ):  # fmt: skip
        field.fill(typed)
        assert name in shown(), typed
    field.fill("stuco")
    nearest = page.locator("[data-nearest]")
    expect(nearest).to_contain_text(PROSE["nothing-by-that-word"])
    expect(nearest).to_contain_text("stucco")
    assert shown() == []
    field.fill("")
    expect(nearest).to_be_hidden()
    assert len(shown()) > 40
