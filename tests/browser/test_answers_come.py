"""How the answer to what is typed comes: on a line, by a request where there is none, and always to what was typed last."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Locator, Page, WebSocketRoute, expect

from tests.browser.conftest import PHONE, Opener
from tests.browser.test_a_whole_job import answer, station


def depth(page: Page) -> Locator:
    return page.get_by_label("Depth").first


def at_measure(page: Page) -> list[str]:
    """Go to the gate-post holes; what is asked by requests from then on."""
    page.get_by_role("link", name="Gate-post holes").click()
    station(page, "Measure")
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url) if "/answer" in request.url else None)
    return asked


# Two holes of 350 mm round a post of 150 are 2 · (π/4 · 0.35² − 0.15²) = 0.14742 m² in plan; three of 300 mm round one of
# 100 are 0.10924 m³ at 600 mm. With the first 1 m deep that is 0.257 m³, 500 mm 0.183 m³, 5 mm 0.110 m³.


def test_answers_come_on_the_line(open_page: Opener) -> None:
    page = open_page()
    came: list[str | bytes] = []
    page.on("websocket", lambda line: line.on("framereceived", lambda text: came.append(text)))  # noqa: PLW0108 - it wants a function
    asked = at_measure(page)
    for tried in range(100):  # the first edits may be quicker than the line
        depth(page).fill("1 m" if tried % 2 else "5")
        expect(answer(page)).to_contain_text("0.257 m³ to fill" if tried % 2 else "0.110 m³ to fill")
        if came:
            break
    asked.clear()
    depth(page).fill("500")
    expect(answer(page)).to_contain_text("0.183 m³ to fill")
    assert asked == []


@pytest.mark.parametrize("keys", ["1000", "5", "500"])
def test_what_was_typed_last_is_what_is_answered(open_page: Opener, keys: str) -> None:
    page = open_page("/", PHONE)
    at_measure(page)
    for typed in ("7", "70", "700", "70", "7", "", *(keys[:n] for n in range(1, len(keys) + 1))):
        depth(page).evaluate(
            "(field, text) => { field.value = text; field.dispatchEvent(new Event('input', { bubbles: true })); }",
            typed,
        )
    expect(answer(page)).to_contain_text(
        {"1000": "0.257 m³ to fill", "5": "0.110 m³ to fill", "500": "0.183 m³ to fill"}[keys]
    )


def never(line: WebSocketRoute) -> None:
    line.close()


def breaks(line: WebSocketRoute) -> None:
    line.on_message(lambda _: line.close(code=1011))


@pytest.mark.parametrize("line", [never, breaks])
def test_without_a_line_answers_come_by_requests(open_page: Opener, line: Callable[[WebSocketRoute], None]) -> None:
    page = open_page()
    page.route_web_socket("**/line?*", line)
    asked = at_measure(page)
    for typed, to_fill in (("1 m", "0.257"), ("500", "0.183"), ("1 m", "0.257")):
        depth(page).fill(typed)
        expect(answer(page)).to_contain_text(f"{to_fill} m³ to fill")
    assert len(asked) >= 3


def test_a_letter_that_is_none_is_refused_in_words_and_the_next_is_answered(open_page: Opener) -> None:
    page = open_page()
    at_measure(page)
    depth(page).fill("5\u202e00")
    expect(page.get_by_text("holds letters that cannot be kept")).to_be_visible()
    expect(depth(page)).to_have_value("5\u202e00")
    depth(page).fill("500")
    expect(answer(page)).to_contain_text("0.183 m³ to fill")
