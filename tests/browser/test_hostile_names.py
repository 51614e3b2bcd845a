"""A yard whose every name, note and label is a script: no page runs it, no paper draws it, no table begins a formula.

And a page that a foreign name leads to, and a phone that knew another yard at the same address.
"""

import csv
import io
import json
import re
from pathlib import Path
from typing import Any

import httpx2 as httpx
import pytest
from playwright.sync_api import Browser

from keeve.cli import chromium
from tests.browser.conftest import FLAGS, LIMIT_MS, Opener
from tests.browser.test_offline import WITH_WORKER, kept_run
from tests.web.test_archive import every_page
from tests.web.test_paper import text_of

pytestmark = pytest.mark.browser
SCRIPT = """=1+1"><img src=x onerror="window.hit='{n}'"><script>window.hit='{n}'</script>{{{{7*7}}}}${{7*7}}' onmouseover='hit=1"""
FREE = frozenset(
    (
        "name",
        "place",
        "job",
        "note",
        "label",
        "text",
        "says",
        "word",
        "short",
        "currency",
        "group",
        "mix_name",
        "source",
    )
)
"""Under these keys stands what somebody typed, at any depth of a row."""
WRONG = "[...document.querySelectorAll('img[src=x], [onerror], [onmouseover], [onload]')].length + (window.hit ? 1 : 0)"


def spoilt(value: Any, many: list[str]) -> Any:
    """Put a script of its own in the place of every text that somebody typed."""
    if isinstance(value, dict):
        return {key: _spoilt(key, one, many) for key, one in value.items()}
    return [spoilt(one, many) for one in value] if isinstance(value, list) else value


def _spoilt(key: str, value: Any, many: list[str]) -> Any:
    if key not in FREE or not isinstance(value, str) or not value:
        return spoilt(value, many)
    many.append(key)
    most = {"word": 20, "short": 20, "currency": 8}.get(key, 120)
    return SCRIPT.format(n=len(many))[:most]


def test_a_yard_of_scripts_is_shown_as_letters(open_page: Opener, site: str) -> None:
    page = open_page("/")
    token = page.locator("meta[name=token]").get_attribute("content") or ""
    many: list[str] = []
    visitor = {"keeve_visitor": next(c["value"] for c in page.context.cookies() if c["name"] == "keeve_visitor")}
    with httpx.Client(base_url=site, cookies=visitor, timeout=120) as client:
        head, *rows, end = client.get("/archive.jsonl").text.splitlines()
        # Written later than what is there: it stands in its place. Tickets, taps and tests come in as new ones do.
        lines = [json.dumps(renewed(spoilt(json.loads(row), many))) for row in rows]
        file = "\n".join([head, *lines, end, ""]).encode()
        answer = client.post("/archive/restore", data={"token": token}, files={"file": ("yard.jsonl", file)})
        assert answer.status_code == 200, answer.text
        assert len(many) > 300
        page.goto(site)
        # Its tickets are others than those here, so a mixed job came in beside ours.
        beside = page.locator(".job-name", has_text="onerror").filter(has_text="(2)")
        jobs = beside.evaluate_all("all => all.map((one) => one.closest('a').getAttribute('href'))")
        mixed = next(one for one in sorted(jobs) if one.endswith("/look-back")).rsplit("/", 1)[0]
        for path in every_page(client, mixed):  # type: ignore[arg-type]
            kind = client.head(path).headers.get("content-type", "")
            if kind.startswith("text/html"):
                page.goto(site + path)
                assert page.evaluate(WRONG) == 0, path
            elif kind.startswith("text/csv"):
                cells = [cell for row in csv.reader(io.StringIO(client.get(path).text)) for cell in row]
                assert [cell for cell in cells if cell.startswith("=")] == [], path
            elif kind.startswith("text/calendar"):
                assert "\nonmouseover" not in client.get(path).text
        for path in (f"{mixed}/ticket.pdf", f"{mixed}/record.pdf", f"{mixed}/labels.pdf", "/buying.pdf"):
            assert "onerror" in text_of(client.get(path).content).replace(" ", ""), path


def renewed(row: dict[str, Any]) -> dict[str, Any]:
    """Make a row one that comes in: a sheet of a later version, an entry of another number."""
    kind = row["row"]
    if kind in ("job", "book"):
        return row | {"version": row["version"] + 1}
    if kind in ("proof", "photo", "day"):
        other = f"{row['id'][:30]}-again"
        return row | {"id": other} | ({"body": row["body"] | {"id": other}} if kind != "photo" else {})
    return row


def test_a_foreign_name_that_leads_here_shows_nothing(browser: Browser, site: str) -> None:
    """A page elsewhere lets its own name lead to this machine, and asks as if it were ours."""
    flags = [flag for flag in FLAGS if "resolver" not in flag]
    flags.append("--host-resolver-rules=MAP evil.example 127.0.0.1 , MAP * ~NOTFOUND , EXCLUDE 127.0.0.1")
    other = browser.browser_type.launch(executable_path=chromium(), args=flags)
    page = other.new_page()
    page.set_default_timeout(LIMIT_MS)
    answer = page.goto(site.replace("127.0.0.1", "evil.example"))
    assert answer is not None
    assert answer.status == 421
    for path in ("/archive.jsonl", "/api/mixes", "/clocks", "/openapi.json"):
        said = page.evaluate("(path) => fetch(path).then((a) => a.status)", path)
        assert said == 421, path
    other.close()


def test_a_phone_that_knew_another_yard_at_this_address_is_told_and_forgets(open_page: Opener, tmp_path: Path) -> None:
    page = open_page("/", WITH_WORKER)
    address = kept_run(page)
    gone = re.sub(r"/jobs/[^/]+/", "/jobs/11111111-2222-4333-8444-555555555555/", address)
    page.evaluate(
        """async (gone) => {
            const runs = await caches.open("keeve-runs");
            await runs.put(new URL(gone).pathname, await runs.match(location.pathname));
        }""",
        gone,
    )
    other = page.context.new_page()
    other.goto(gone)
    other.get_by_text("There is no such job here").wait_for()
    kept = page.evaluate(
        "caches.open('keeve-runs').then((runs) => runs.keys()).then((all) => all.map((one) => one.url))"
    )
    assert kept == [address]
