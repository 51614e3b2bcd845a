"""The made-up language on every page: nothing stays untranslated, and nothing is cut, at the table and on a phone."""

import calendar
import re
from pathlib import Path
from typing import Any

import ezdxf
import pytest
from playwright.sync_api import Page, expect

from keeve.demo.own_things import THINGS
from keeve.demo.sheets import CORBEL, GATE_POSTS, TO_MEASURE
from keeve.demo.story import BAYS
from keeve.demo.yard import CUBE_BOX, NOTE
from keeve.words.made_up import MADE_UP
from tests.browser.conftest import DESK, LIMIT_MS, PHONE, Opener

# Text of the page and of its attributes, hidden parts too.
TEXTS = """() => {
  const found = [];
  const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walk.nextNode()) {
    const inside = walk.currentNode.parentElement;
    if (inside && !['SCRIPT', 'STYLE', 'TEMPLATE', 'NOSCRIPT'].includes(inside.tagName)) found.push(walk.currentNode.textContent);
  }
  for (const name of ['aria-label', 'placeholder', 'title', 'alt'])
    for (const one of document.querySelectorAll(`[${name}]`)) found.push(one.getAttribute(name));
  return found;
}"""
CUT = """() => {
  const found = [];
  if (document.documentElement.scrollWidth > innerWidth + 1) found.push('the page is wider than the screen');
  for (const one of document.querySelectorAll('body *')) {
    if (one.closest('svg, select') || one.classList.contains('visually-hidden') || !one.clientWidth) continue;
    const style = getComputedStyle(one);
    if (style.overflowX === 'hidden' && one.scrollWidth > one.clientWidth + 1) found.push(`cut: ${one.textContent.trim().slice(0, 60)}`);
    const out = one.getBoundingClientRect().right > innerWidth + 1 && !one.closest('.wide-table, [tabindex], dialog, [popover]');
    if (out && ['BUTTON', 'A', 'LABEL', 'TH', 'TD', 'P', 'H1', 'H2'].includes(one.tagName)) found.push(`past the edge: ${one.textContent.trim().slice(0, 60)}`);
  }
  for (const svg of document.querySelectorAll('svg[viewBox]')) {
    const box = svg.viewBox.baseVal;
    if (!svg.getBoundingClientRect().width || getComputedStyle(svg).overflow === 'visible') continue;
    for (const text of svg.querySelectorAll('text')) {
      const at = text.getBBox();
      if (at.width && (at.x < box.x - 1 || at.x + at.width > box.x + box.width + 1)) found.push(`out of its drawing: ${text.textContent}`);
    }
  }
  return [...new Set(found)];
}"""
# While a step gives way to the next, both may show for a moment.
ONE_OF_BOTH = """() => {
  const [onward, judging] = ['.forward', '.verdict-row'].map((one) => document.querySelector(one).offsetParent !== null);
  return onward === judging ? false : judging ? 'judging' : 'onward';
}"""
# Names that are nobody's to translate, units, and the word with which English joins a list.
LEFT_ALONE = {
    "Keeve",
    "CSV",
    "JSON",
    "XLSX",
    "DXF",
    "STL",
    "OBJ",
    "PLY",
    "min",
    "MPa",
    "ACI",
    "yard",  # phones of the demo
    "loft",
    "and",
    "Pellow",
    "Reach",
    "Lantern",
    "Yard",
    "Frost",
    "moon",  # what somebody looks for
    "openapi",
    "json",
    "Authorization",
    "Bearer",
    "helper",
    *calendar.month_name,  # no real language lends the made-up one its months
}
WORD = re.compile(r"[A-Za-z]{3,}")


def typed(thing: Any) -> list[str]:
    """Names, places and notes of the demo: what a person wrote is shown as written."""
    if isinstance(thing, dict):
        own = [thing[name] for name in ("job", "place", "note", "group") if isinstance(thing.get(name), str)]
        return own + [one for inside in thing.values() for one in typed(inside)]
    return [one for inside in thing for one in typed(inside)] if isinstance(thing, (list, tuple)) else []


OWN = [thing["name"] for thing in THINGS.values()] + [NOTE, CUBE_BOX]
TYPED = sorted(
    {name for name in [*typed([BAYS, CORBEL, GATE_POSTS, *TO_MEASURE]), *OWN] if name}, key=len, reverse=True
)


def look(page: Page, where: str) -> list[str]:
    page.evaluate(
        "Promise.all([...document.fonts].map((one) => one.load())).then(() => true)"
    )  # other letters, other room
    wrong = []
    for text in page.evaluate(TEXTS):
        rest = text
        for name in TYPED:
            rest = rest.replace(name, "")
        wrong += [f"{where}: “{text.strip()[:80]}”" for word in WORD.findall(rest) if word not in LEFT_ALONE]
    return wrong + [f"{where}: {said}" for said in page.evaluate(CUT)]


def job_path(page: Page, name: str) -> str:
    link = page.get_by_role("link", name=name).first
    return str(link.get_attribute("href")).rsplit("/", 1)[0]


def run_through(page: Page) -> list[str]:
    """Mix a load until it is judged, looking at every step."""
    page.locator("form .act.go").click()
    expect(page.locator(".forward")).to_be_visible()
    wrong = look(page, "before the run")
    page.locator("button.forward").click()  # what hurts was read
    wrong += look(page, "run begun")
    for _ in range(15):
        if page.wait_for_function(ONE_OF_BOTH, timeout=LIMIT_MS).json_value() == "judging":
            break
        before = page.locator(".run-top .where").inner_text()
        page.locator("button.forward").click()
        expect(page.locator(".run-top .where")).not_to_have_text(before)
        wrong += look(page, "run")
    for verdict in ("dry", "wet", "right"):
        page.locator(f"button.v.{verdict}").click()
        page.locator(".kept").wait_for()
        wrong += look(page, f"run, {verdict}")
    return wrong


def own_pages(page: Page, site: str) -> list[str]:
    """A mix of the crew's own, and a sand with its sieves."""
    page.goto(f"{site}/book/stucco-base")
    page.locator(".mix-acts form").nth(1).locator("button").click()
    expect(page.locator("[data-view=book]")).to_be_visible()
    wrong = [one for one in look(page, "own mix") if "ours" not in one]
    page.goto(f"{site}/book/own/sands")
    page.locator("#sand-name").fill("Pellow")
    page.locator("form.new-job button").click()
    expect(page.locator("[data-view=sand]")).to_be_visible()
    for at, kept in enumerate((0, 20, 90, 150, 220, 300, 150)):
        page.locator(f"[name='rows.{at}.first']").fill(str(kept))
    page.locator("[name='first_pan_g']").fill("40")
    expect(page.locator("[data-answer] svg")).to_be_visible()
    expect(page.locator(".entries .kept")).not_to_be_empty()
    wrong += look(page, "sand")
    page.goto(f"{site}/book/own/sands")
    wrong += look(page, "sands")
    page.goto(f"{site}/yard")
    page.locator("#vessel-name").fill("Pellow")
    page.locator("form.new-job button").click()
    expect(page.locator("[data-view=vessel]")).to_be_visible()
    for name, value in (("depth_mm", "366"), ("top_mm", "300"), ("bottom_mm", "262"), ("holds_l", "22")):
        page.locator(f"[name='{name}']").fill(value)
    expect(page.locator("[data-answer] svg")).to_be_visible()
    expect(page.locator(".entries .kept")).not_to_be_empty()
    wrong += look(page, "vessel")
    page.locator("[name='holds_l']").fill("2")
    expect(page.locator("[data-fault-for='holds_l']")).to_be_visible()
    return wrong + look(page, "a vessel that contradicts itself")


def brought_in(page: Page, measure: str, folder: Path) -> list[str]:
    """A list with a slip in it, and a drawing with an outline that is not closed."""
    rows, plan = folder / "list.csv", folder / "plan.dxf"
    rows.write_text("kind,length_mm,width_mm,depth_mm\nslab,1000,500,100\nslab,1000,wide,100\n", encoding="utf-8")
    made = ezdxf.new()
    made.modelspace().add_lwpolyline([(0, 0), (4000, 0), (4000, 3000)], close=True, dxfattribs={"layer": "Yard"})
    made.modelspace().add_lwpolyline([(0, 4000), (500, 4000), (500, 4500)], dxfattribs={"layer": "Yard"})
    made.saveas(plan)
    wrong = []
    for file, shown in ((rows, "input[name='take']"), (plan, "#i-depth")):
        page.goto(measure)
        page.locator("#read-list").set_input_files(file)
        page.locator(".lists form button").click()
        expect(page.locator(shown).first).to_be_visible()
        # The first row of a table in a list names its columns as the file does.
        names = ("kind", "note", "group", "count", "waste percent", "length mm", "width mm", "depth mm", "slab", "wide")
        wrong += [one for one in look(page, file.name) if not any(name in one for name in names)]
    return wrong


def changed_in_the_middle(page: Page, job: str) -> list[str]:
    """The page that shows what a changed sheet does to the loads still to mix."""
    page.goto(f"{job}/mix")
    page.locator("input[name^='moisture_percent']").first.fill("4")
    expect(page.locator(".entries .kept")).not_to_be_empty()
    page.goto(f"{job}/revise")
    expect(page.locator(".dipstick").first).to_be_visible()
    return look(page, "revise")


@pytest.mark.browser
@pytest.mark.parametrize("options", [DESK, PHONE], ids=["table", "phone"])
def test_the_made_up_language_leaves_no_word_untranslated_and_nothing_cut(
    open_page: Opener, options: dict[str, Any], tmp_path: Path
) -> None:
    page = open_page("/", options)
    site = page.url.rstrip("/")
    jobs = [job_path(page, name) for name in ("Workshop floor, screed", "Gate-post holes")]
    page.context.add_cookies([{"name": "keeve_language", "value": MADE_UP, "url": site}])
    paths = [
        "/",
        "/book",
        "/book/stucco-base",
        "/book/concrete-1-2-4?with=stucco-base",
        "/book/own/sands",
        "/book/own/admixtures",
        "/patterns",
        "/yard",
        "/programs",
        "/log",
        "/archive",
        "/place?name=Lock-keeper%27s%20house%2C%20Pellow%20Reach",
        "/?find=post",
        "/?find=moon",
    ]
    paths += [
        f"{job}/{station}" for job in jobs for station in ("measure", "mix", "loads", "mixer", "look-back", "own")
    ]
    wrong = []
    for path in paths:
        page.goto(site + path)
        wrong += look(page, path[-20:])
    wrong += own_pages(page, site)
    wrong += brought_in(page, f"{site}{jobs[0]}/measure", tmp_path)
    page.goto(f"{site}{jobs[0]}/mixer")
    wrong += run_through(page)
    wrong += changed_in_the_middle(page, f"{site}{jobs[0]}")
    page.goto(f"{site}{jobs[0]}/look-back")
    wrong += look(page, "looked back")
    assert wrong == [], "\n".join(sorted(set(wrong)))
