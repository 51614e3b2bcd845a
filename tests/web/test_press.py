"""Prints wait in a line of their own: pages go on meanwhile, nobody fills it, and what nobody wants is not printed."""

import asyncio
import threading
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi import HTTPException
from fastapi.testclient import TestClient

from keeve.core.message.errors import LoadError
from keeve.formats.writing.printing import NoPango, Printer
from keeve.web.pages import press as pressing
from keeve.web.pages.press import Press
from tests.fire import wait_for
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job
from tests.web.test_slow_and_many import in_a_loop


class Held:
    """Printers that print when they are told to."""

    def __init__(self) -> None:
        self.go = threading.Event()
        self.printed: list[str] = []
        self.began: list[str] = []

    def lay_out(self, html: str, *_: object) -> bytes:
        self.began.append(html)
        assert self.go.wait(20)
        self.printed.append(html)
        return b"%PDF-of " + html.encode()


@pytest.fixture
def held(monkeypatch: pytest.MonkeyPatch) -> Iterator[Held]:
    made = Held()

    class Still:
        alive = True
        lay_out = staticmethod(made.lay_out)

        def end(self) -> None:
            made.go.set()

    monkeypatch.setattr(pressing, "Printer", Still)
    monkeypatch.setattr(pressing, "_printers", pressing._Printers())
    yield made
    made.go.set()


def test_the_same_page_is_printed_once_and_kept(held: Held) -> None:
    held.go.set()

    async def go() -> tuple[list[bytes], bytes]:
        press = Press()
        both = await asyncio.gather(*(press.print_for("a", "key", "page", "a4") for _ in range(5)))
        return both, await press.print_for("b", "key", "page", "a4")

    both, again = in_a_loop(go())
    assert set(both) == {again} == {b"%PDF-of page"}
    assert held.printed == ["page"]


def test_one_visitor_fills_no_line_and_all_of_them_no_yard(held: Held) -> None:
    async def go() -> None:
        press = Press()
        mine = [asyncio.ensure_future(press.print_for("a", f"a{n}", f"a{n}", "a4")) for n in range(12)]
        await asyncio.sleep(0)
        with pytest.raises(HTTPException) as refused:
            await press.print_for("a", "one more", "one more", "a4")
        assert refused.value.status_code == 429
        other = asyncio.ensure_future(press.print_for("b", "b", "b", "a4"))
        await asyncio.sleep(0)
        assert press.place("b") == 13
        held.go.set()
        assert await other == b"%PDF-of b"
        await asyncio.gather(*mine)
        assert not press._of
        assert not press._line

    in_a_loop(go())


def test_what_nobody_wants_any_more_is_not_printed(held: Held, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pressing, "GONE_S", 0.05)

    async def go() -> None:
        press = Press()
        first = [asyncio.ensure_future(press.print_for("a", f"a{n}", f"a{n}", "a4")) for n in range(2)]
        gone = asyncio.ensure_future(press.print_for("a", "gone", "gone", "a4"))
        await asyncio.sleep(0.02)
        gone.cancel()
        await asyncio.sleep(0.2)
        assert press.place("gone") == 0
        held.go.set()
        await asyncio.gather(*first)

    in_a_loop(go())
    assert "gone" not in held.began


def test_a_machine_without_what_draws_paper_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    def none(self: Printer, *_: object) -> bytes:
        raise NoPango

    monkeypatch.setattr(Printer, "lay_out", none)
    with pytest.raises(LoadError, match=PROSE["it-has-no-pango"]):
        in_a_loop(Press().print_for("a", "k", "page", "a4"))


@pytest.fixture
def job(client: TestClient, token: str) -> str:
    made = new_job(client, token)
    keep(client, token, made)
    return made


def test_a_person_is_told_the_place_in_line_and_pages_go_on(
    client: TestClient, job: str, held: Held, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pressing, "PATIENCE_S", 0.05)
    waiting = client.get(f"{job}/ticket.pdf", headers=PAGE)
    assert (waiting.status_code, waiting.headers["refresh"]) == (202, "2")
    assert "Just a moment." in waiting.text
    for paper in ("a5", "letter"):
        waiting = client.get(f"{job}/ticket.pdf?paper={paper}", headers=PAGE)
    assert "In line: 3" in waiting.text
    assert client.get("/", headers=PAGE).status_code == 200
    held.go.set()
    wait_for(lambda: client.get(f"{job}/ticket.pdf?paper=letter", headers=PAGE).status_code == 200)
    assert len(held.printed) == 3


def test_forty_prints_hold_no_page_up(client: TestClient, job: str, held: Held) -> None:
    """They held the threads that pages are worked out in: sixty at once stopped the yard for half a minute."""
    answers: list[int] = []

    def ask(n: int) -> None:
        answers.append(client.get(f"{job}/ticket.pdf?paper={('a4', 'a5', 'letter', 'roll')[n % 4]}").status_code)

    threads = [threading.Thread(target=ask, args=(n,)) for n in range(40)]
    for thread in threads:
        thread.start()
    wait_for(lambda: len(held.began) == 2)
    for _ in range(20):
        assert client.get("/", headers=PAGE).status_code == 200
    held.go.set()
    for thread in threads:
        thread.join()
    assert answers == [200] * 40
    assert len(held.printed) == 4


@pytest.mark.parametrize(
    ("headers", "code"),
    [
        ({}, 200),
        ({"sec-fetch-site": "same-origin", "sec-fetch-mode": "cors", "sec-fetch-dest": "empty"}, 200),
        ({"sec-fetch-site": "none", "sec-fetch-mode": "navigate", "sec-fetch-dest": "document"}, 200),
        ({"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "document"}, 200),
        ({"sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors", "sec-fetch-dest": "image"}, 403),
        ({"sec-fetch-site": "same-site", "sec-fetch-mode": "no-cors", "sec-fetch-dest": "script"}, 403),
        ({"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "iframe"}, 403),
        ({"origin": "http://elsewhere.example"}, 403),
        ({"origin": "null"}, 403),
        ({"origin": "http://127.0.0.1"}, 200),
    ],
)
def test_another_sites_page_gets_no_work_done(
    client: TestClient, job: str, held: Held, headers: dict[str, Any], code: int
) -> None:
    held.go.set()
    assert client.get(f"{job}/ticket.pdf", headers=headers).status_code == code
    assert bool(held.began) == (code == 200)
