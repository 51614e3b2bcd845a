"""A person measures with tape, pencil, drawing and scan."""

import io
from pathlib import Path
from typing import Any

import ezdxf
import pytest
import trimesh
from playwright.sync_api import Page, expect

from tests.browser.conftest import DESK, PHONE, Opener
from tests.browser.test_a_whole_job import answer, station
from tests.prose import PROSE

pytestmark = pytest.mark.browser


def begin(page: Page, name: str) -> None:
    page.get_by_label("What is it?").fill(name)
    page.get_by_label("Where?").fill("Pellow Reach")
    page.get_by_role("button", name="Measure it").click()


@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
def test_an_l_shaped_floor_with_a_hole_is_drawn(open_page: Opener, options: dict[str, Any]) -> None:
    page = open_page("/", options)
    begin(page, "Workshop floor")
    page.get_by_role("button", name="Floor, any outline").click()
    page.get_by_role("button", name="Draw it on a grid").click()
    grid = page.locator(".board-grid")
    box = grid.bounding_box()
    assert box is not None
    unit = box["width"] / (24 * 24 + 28)  # 24 squares of 24 units and a margin of 14

    def tap(across: int, up: int) -> None:
        x, y = (14 + across * 24) * unit, (14 + (18 - up) * 24) * unit
        (grid.tap if "has_touch" in options else grid.click)(position={"x": x, "y": y})

    # 4 x 2 m and a leg of 2 x 2 m; a square of half a metre is left out.
    for corner in ((0, 0), (16, 0), (16, 8), (8, 8), (8, 16), (0, 16), (0, 0)):
        tap(*corner)
    page.get_by_role("button", name="Add a hole").click()
    for corner in ((2, 2), (4, 2), (4, 4), (2, 4)):
        tap(*corner)
    page.get_by_role("button", name="Done", exact=True).click()
    expect(page.get_by_label("Corners, walking round")).to_have_value("0 0; 4 0; 4 2; 2 2; 2 4; 0 4")
    expect(page.get_by_label("Holes in it")).to_have_value("0.5 0.5; 1 0.5; 1 1; 0.5 1")
    page.get_by_label("Depth, mean").fill("2*40 ± 5")
    # By hand: (8 + 4 - 0.25) m² x 80 mm = 0.94 m³, and 5 mm of it 58.75 L.
    expect(answer(page)).to_contain_text("0.940 m³ to fill")
    expect(answer(page)).to_contain_text(PROSE["5-0-mm-in"])
    expect(page.locator("[data-slot] svg")).to_be_visible()
    # The outline crossed by hand: said, and drawn as it was typed.
    page.get_by_label("Corners, walking round").fill("0 0; 4 4; 4 0; 0 4")
    expect(page.get_by_text("crosses itself")).to_be_visible()
    expect(page.locator("[data-slot] svg.wrong")).to_be_visible()
    page.get_by_label("Corners, walking round").fill("0 0; 4 0; 4 4; 0 4")
    expect(answer(page)).to_contain_text("1.26 m³ to fill")


def test_a_drawing_is_brought_in(open_page: Opener, tmp_path: Path) -> None:
    made = ezdxf.new()
    made.header["$INSUNITS"] = 4
    space = made.modelspace()
    space.add_lwpolyline([(0, 0), (4000, 0), (4000, 3000), (0, 3000)], close=True, dxfattribs={"layer": "Floor"})
    space.add_lwpolyline([(500, 500), (1500, 500), (1500, 1500), (500, 1500)], close=True)
    space.add_lwpolyline([(6000, 0), (7000, 0), (7000, 900)], dxfattribs={"layer": "Step"})
    out = io.StringIO()
    made.write(out)
    path = tmp_path / "plan.dxf"
    path.write_text(out.getvalue())
    page = open_page()
    begin(page, "From the plan")
    page.get_by_label("Bring in a list").set_input_files(path)
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_label("Drawn in")).to_have_value("mm")
    expect(page.get_by_text("hole in 1")).to_be_visible()
    expect(page.get_by_text("It is not closed")).to_be_visible()
    page.get_by_label("Thickness of all").fill("75 mm")
    page.get_by_role("button", name="Show them as a list").click()
    expect(page.get_by_text("Every row can be measured")).to_be_visible()
    page.get_by_role("button", name="Take these in").click()
    expect(answer(page)).to_contain_text("0.825 m³ to fill")  # (12 - 1) m² x 75 mm


def test_a_bad_row_of_a_list_is_put_right_in_the_preview(open_page: Opener, tmp_path: Path) -> None:
    path = tmp_path / "list.csv"
    path.write_text("kind;note;length_mm;width_mm;depth_mm\nslab;Path;4 m;1 m;100\nslab;Apron;four;3 m;100\n")
    page = open_page()
    begin(page, "From the list")
    page.get_by_label("Bring in a list").set_input_files(path)
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("1 row is not right yet")).to_be_visible()
    page.get_by_role("button", name="Take these in").click()
    expect(page.get_by_text("1 row is not right yet")).to_be_visible()  # still nothing taken in
    page.get_by_label("Row 3, length mm").fill("2 m")
    page.get_by_role("button", name="Check again").click()
    expect(page.get_by_text("Every row can be measured")).to_be_visible()
    page.get_by_role("button", name="Take these in").click()
    expect(answer(page)).to_contain_text("1.00 m³ to fill")  # 0.4 and 0.6
    station(page, "Loads")
    station(page, "Measure")
    expect(page.get_by_label("Note").nth(1)).to_have_value("Apron")


def test_a_scan_gets_the_plaster_for_its_half_mould(open_page: Opener, tmp_path: Path) -> None:
    path = tmp_path / "finial.stl"
    trimesh.creation.box((100, 80, 120)).export(str(path))
    page = open_page()
    begin(page, "Finial, half moulds")
    page.get_by_label("Read a model").set_input_files(path)
    page.get_by_role("button", name="drawn in millimetres").click()
    expect(page.locator("[data-slot] svg")).to_be_visible()
    page.get_by_label("Share cast in one pour").fill("1/2")
    page.get_by_label("How many alike").fill("2")
    # By hand: a box of 150 x 130 x 145 mm less 0.96 L is 1.8675 L, all of it in two halves.
    expect(answer(page)).to_contain_text("1.87 L to fill")
    page.get_by_label("Clear on each side").fill("30")
    # 160 x 140 x 145 mm less 0.96 L.
    expect(answer(page)).to_contain_text("2.29 L to fill")
    station(page, "Mix")
    page.get_by_text("Casting plaster at 70").click()
    expect(answer(page)).to_contain_text("0.70 w/p")
    station(page, "Loads")
    # 2.288 L and 5 % make 2.402 L; at 70 a litre holds 0.919 kg of powder (3.86 kg in 4.2 L, as for the corbel).
    expect(answer(page)).to_contain_text("2.21 kg")
    # What is no model is said, and nothing is lost.
    station(page, "Measure")
    bad = tmp_path / "cat.stl"
    bad.write_bytes(b"\0" * 300)
    page.get_by_label("Read a model").set_input_files(bad)
    expect(page.get_by_text("not one triangle").or_(page.get_by_text("can be read"))).to_be_visible()
    expect(page.get_by_label("Clear on each side")).to_have_value("30")


@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
def test_every_shape_can_be_added_and_used_without_seeing_it(
    open_page: Opener, axe: str, options: dict[str, Any]
) -> None:
    page = open_page("/", options)
    begin(page, "Everything")
    expect(page.get_by_role("button", name="Stair")).to_be_visible()
    names = page.locator("[data-add]").all_inner_texts()
    assert len(names) == 23
    for number, button in enumerate(page.locator("fieldset.add [data-add]").all(), 1):
        button.click()
        expect(page.locator("[data-shape]")).to_have_count(
            number
        )  # the page moves to the new one: not under the finger
    page.evaluate(axe)
    found = page.evaluate("axe.run({runOnly: ['wcag2a', 'wcag2aa']})")
    assert [(v["id"], [n["html"][:120] for n in v["nodes"]][:3]) for v in found["violations"]] == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth + 1"), "the page is wider than the screen"


def test_a_floor_that_is_there_is_moved_by_its_corner_and_a_slip_taken_back(open_page: Opener) -> None:
    page = open_page()
    page.get_by_role("link", name="Workshop floor, screed").click()
    station(page, "Measure")
    page.get_by_role("button", name="Draw it on a grid").click()
    grid = page.locator(".board-grid")
    expect(grid.locator("polygon.floor")).to_have_count(1)
    expect(grid.locator("polygon.hole")).to_have_count(1)
    box = grid.bounding_box()
    assert box is not None
    unit = box["width"] / (24 * 24 + 28)

    def spot(across_m: float, up_m: float) -> tuple[float, float]:
        return box["x"] + (14 + across_m / 0.25 * 24) * unit, box["y"] + (14 + (18 - up_m / 0.25) * 24) * unit

    # The corner at 5.2, 2.6 is pulled to 5.0, 2.0: it snaps to the grid.
    page.mouse.move(*spot(5.2, 2.6))
    page.mouse.down()
    page.mouse.move(*spot(5.0, 2.0), steps=4)
    page.mouse.up()
    page.get_by_role("button", name="Done", exact=True).click()
    expect(page.get_by_label("Corners, walking round")).to_have_value("0 0; 5.2 0; 5 2; 3.1 2.6; 3.1 4.4; 0 4.4")
    # Shoelace by hand: 0 + 10.4 + 6.8 + 5.58 + 13.64 + 0 = 36.42, half of it 18.21, less 0.72, times 65 mm.
    expect(answer(page)).to_contain_text("1.14 m³ to fill")
    page.get_by_role("button", name="Draw it on a grid").click()
    for _ in range(5):  # the hole, corner by corner, then the last corner of the floor
        page.get_by_role("button", name="Take the last back").click()
    expect(grid.locator("polygon.hole")).to_have_count(0)
    page.get_by_role("button", name="Done", exact=True).click()
    expect(page.get_by_label("Holes in it")).to_have_value("")


def test_what_is_impossible_is_drawn_and_named_and_the_rest_goes_on(open_page: Opener) -> None:
    page = open_page()
    page.get_by_role("link", name="Gate-post holes").click()
    station(page, "Measure")
    second = page.locator("[data-shape]").nth(1)
    second.get_by_label("Post, thick").fill("400")
    expect(second.get_by_text("across its widest and the hole only 300 mm")).to_be_visible()
    expect(second.locator("svg.wrong")).to_be_visible()
    expect(page.locator("[data-fault-rest]")).to_contain_text("Shape 2:")
    second.locator("summary").click()
    second.get_by_label("Counted").select_option("switched off")
    expect(page.locator(".answer")).not_to_have_class("answer stale")
    expect(answer(page)).to_contain_text(PROSE["1-is-switched-off"])
    # Two gate posts only: π/4 x 0.35² x 0.75 - 0.15² x 0.75, twice.
    expect(answer(page)).to_contain_text("0.111 m³ to fill")


def test_the_bags_at_hand_say_how_far_they_go(open_page: Opener) -> None:
    page = open_page()
    page.get_by_role("link", name="Gable, scratch and brown").click()
    station(page, "Measure")
    page.get_by_label("Bags at hand").fill("3")
    expect(answer(page)).to_contain_text(PROSE["not-enough-for-the"])
    # 3 x 42.6 kg at 433 kg in a cubic metre are 0.296 m³; less a tenth, over 10 mm and its key of 1.25, 21.5 m².
    expect(answer(page)).to_contain_text("21.5 m² of it")
    expect(answer(page)).to_contain_text("Gable, together")
    page.get_by_label("Bags at hand").fill("a few")
    expect(page.get_by_text("“a few” cannot be read")).to_be_visible()
    page.get_by_label("Bags at hand").fill("30")
    expect(answer(page)).to_contain_text(PROSE["enough-for-the-whole"])


def test_a_tap_before_the_scripts_are_there_is_done_when_they_are(open_page: Opener) -> None:
    page = open_page()
    begin(page, "Slow line")
    expect(page.get_by_role("button", name="Floor, any outline")).to_be_visible()
    held: list[Any] = []
    page.route("**/sheet/sheet.js*", lambda route: held.append(route))  # noqa: PLW0108 - it wants a function
    page.goto(page.url, wait_until="commit")
    page.get_by_role("button", name="Floor, any outline").click(no_wait_after=True)
    assert len(held) == 1
    held[0].continue_()
    expect(page.get_by_role("button", name="Draw it on a grid")).to_be_visible()


def test_a_mix_chosen_before_the_scripts_are_there_is_chosen_when_they_are(open_page: Opener) -> None:
    page = open_page()
    begin(page, "Slow line")
    expect(page.get_by_role("button", name="Floor, any outline")).to_be_visible()
    held: list[Any] = []

    def hold_the_first(route: Any) -> None:
        if held:
            route.continue_()
        else:
            held.append(route)

    page.route("**/sheet/sheet.js*", hold_the_first)
    page.goto(page.url.replace("/measure", "/mix"), wait_until="commit")
    page.get_by_text("Casting plaster at 70").click(no_wait_after=True)
    assert len(held) == 1
    held[0].continue_()
    expect(page.get_by_label("Water to 100 of powder")).to_be_visible()
