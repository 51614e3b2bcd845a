"""Slow senders, many senders and a slow database: everybody else's page stays quick, and each is told in words."""

import asyncio
import http.client
import json
import select
import socket
import threading
import time
from collections.abc import Coroutine, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, closing
from typing import Any, TypeVar

import httpx2 as httpx
import pytest
from fastapi import HTTPException, Request
from fastapi.testclient import TestClient
from psycopg.errors import LockNotAvailable
from sqlalchemy import create_engine, event, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from keeve.core.message.errors import TakeoffError
from keeve.store.database import make_engine
from keeve.web.app import make_app
from keeve.web.edge import bounds, server
from keeve.web.edge.bounds import Incoming, Visitors
from keeve.web.edge.settings import Settings
from keeve.web.ways_in.imports.models import _enter
from tests.conftest import slab
from tests.fire import wait_for
from tests.serving import served
from tests.web.test_pages import PAGE, keep, new_job

T = TypeVar("T")


@pytest.fixture
def app(database_url: str) -> Any:
    return make_app(Settings(database_url=database_url, secret="for tests"))


@pytest.fixture
def address(app: Any) -> Iterator[str]:
    with served(app) as found:
        yield found


@pytest.fixture
def visit(address: str) -> Iterator["Visit"]:
    with closing(Visit(address)) as found:
        yield found


def in_a_loop(work: Coroutine[Any, Any, T]) -> T:
    """Run a coroutine in a thread: tests in a browser leave a loop behind in this one."""
    with ThreadPoolExecutor(1) as threads:
        return threads.submit(asyncio.run, work).result()


def held(app: Any) -> int:
    """Connections that are held just now."""
    return int(app.state.sessions.kw["bind"].pool.checkedout())


class Visit:
    """A browser at the real server."""

    def __init__(self, address: str) -> None:
        self.client = httpx.Client(base_url=address, timeout=60)
        self.token = self.client.get("/").text.split('name="token" content="')[1].split('"')[0]
        self.job = "/jobs/" + new_job(self, self.token).rsplit("/", 1)[1]  # type: ignore[arg-type]

    def __getattr__(self, name: str) -> Any:
        return getattr(self.client, name)


def slow_upload(address: str, visit: Visit) -> socket.socket:
    """Begin to send a model and say only its first bytes."""
    host, port = address.removeprefix("http://").split(":")
    line = socket.create_connection((host, int(port)))
    cookie = "; ".join(f"{name}={value}" for name, value in visit.client.cookies.items())
    line.sendall(
        f"PUT {visit.job}/models?name=a.stl HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Length: 200000\r\n"
        f"Cookie: {cookie}\r\nX-Keeve-Token: {visit.token}\r\n\r\nsolid".encode()
    )
    return line


def test_slow_uploads_and_half_sent_heads_leave_every_page_quick(app: Any, address: str, visit: Visit) -> None:
    host, port = address.removeprefix("http://").split(":")
    with ExitStack() as stack:
        for _ in range(42):
            stack.enter_context(slow_upload(address, visit))
        for _ in range(300):
            half = stack.enter_context(socket.create_connection((host, int(port))))
            half.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Half")
        wait_for(lambda: held(app) == 0)  # nothing is held while a body comes
        took = []
        for path in ("/", f"{visit.job}/measure", f"{visit.job}/mix", f"{visit.job}/loads", "/book", "/readyz"):
            began = time.monotonic()
            assert visit.get(path).status_code == 200
            took.append(time.monotonic() - began)
        # Were one of them to wait for a line that is half open, it would wait for many seconds; a busy machine needs none.
        assert max(took) < bounds.SILENT_S / 2
        # A plan is worked out meanwhile, and a sheet kept.
        keep(visit, visit.token, visit.job)  # type: ignore[arg-type]


def answered(lines: list[socket.socket]) -> list[socket.socket]:
    """Those of some lines on which something has come back."""
    return select.select(lines, [], [], 0)[0]


def test_a_visitor_has_only_so_many_uploads_on_the_way(app: Any, address: str, visit: Visit) -> None:
    with ExitStack() as stack:
        lines = [stack.enter_context(slow_upload(address, visit)) for _ in range(bounds.MOST_UPLOADS + 3)]
        wait_for(lambda: len(answered(lines)) == 3)
        for line in answered(lines):
            answer = line.recv(4000)
            assert answer.startswith(b"HTTP/1.1 429")
            assert b"still on their way" in answer
    wait_for(lambda: not app.state.visitors._coming)  # they broke off: there is room again
    with slow_upload(address, visit) as line:
        wait_for(lambda: app.state.visitors._coming)
        assert answered([line]) == []


def test_what_breaks_does_not_break_the_next_on_its_line(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    def break_down(*_: object) -> None:
        raise RuntimeError("a secret of the house")

    monkeypatch.setattr("keeve.web.ways_in.api.routes.plan", break_down)
    host, port = address.removeprefix("http://").split(":")
    with closing(http.client.HTTPConnection(host, int(port), timeout=60)) as line:
        for _ in range(3):
            line.request(
                "POST",
                "/api/plan",
                json.dumps({"shapes": [slab()], "mix": "concrete-1-2-4"}),
                {"content-type": "application/json"},
            )
            answer = line.getresponse()
            body = answer.read().decode()
            assert answer.status == 500
            assert answer.headers["x-content-type-options"] == "nosniff"
            assert answer.headers["x-keeve-number"] in body
            assert "secret" not in body
            line.request("GET", "/healthz")
            answer = line.getresponse()
            assert (answer.status, answer.read()) == (200, b"well")


def test_a_visitor_has_only_so_many_streams_open(
    app: Any, address: str, visit: Visit, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(bounds, "MOST_STREAMS", 5)
    host, port = address.removeprefix("http://").split(":")
    asked = f"GET {visit.job}/stream HTTP/1.1\r\nHost: {host}:{port}\r\n\r\n".encode()
    with ExitStack() as stack:
        lines = [stack.enter_context(socket.create_connection((host, int(port)))) for _ in range(8)]
        for line in lines:
            line.sendall(asked)
        wait_for(lambda: len(answered(lines)) == 8)
        statuses = sorted(line.recv(12) for line in lines)
        assert statuses == [b"HTTP/1.1 200"] * 5 + [b"HTTP/1.1 429"] * 3
    wait_for(lambda: not app.state.visitors._open)  # they left, and it is noticed


def test_no_connection_is_held_while_a_model_comes_in(app: Any, address: str, visit: Visit) -> None:
    with ExitStack() as stack:
        lines = [stack.enter_context(slow_upload(address, visit)) for _ in range(bounds.MOST_UPLOADS)]
        wait_for(lambda: len(app.state.visitors._coming) == 1 and held(app) == 0)
        assert len(lines) == bounds.MOST_UPLOADS


def test_a_head_that_never_ends_is_closed_and_one_that_takes_its_time_is_not(
    address: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(server, "HEAD_S", 0.6)
    host, port = address.removeprefix("http://").split(":")
    with socket.create_connection((host, int(port))) as line:
        line.sendall(b"GET /healthz HTTP/1.1\r\nHost: 127.0.0.1\r\n")
        line.settimeout(30)
        assert line.recv(10) == b""  # closed, not answered
    monkeypatch.setattr(server, "HEAD_S", 60)
    with socket.create_connection((host, int(port))) as line:
        for part in (b"GET /healthz HTT", b"P/1.1\r\nHost: 127.0.0.1\r\n", b"\r\n"):
            line.sendall(part)
            time.sleep(0.02)
        line.settimeout(30)
        assert read_answer(line) == (200, b"well")
        # And so is the next request on the same line.
        line.sendall(b"GET /nowhere HTTP/1.1\r\nHost: 127.0.0.1\r\nAccept: text/html\r\n\r\n")
        assert read_answer(line)[0] == 404
        line.sendall(b"GET /healthz HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        assert read_answer(line) == (200, b"well")


def read_answer(line: socket.socket) -> tuple[int, bytes]:
    answer = http.client.HTTPResponse(line)
    answer.begin()
    return answer.status, answer.read()


# ── the body of one request, at a clock of its own ───────────────────────────


def _request(path: str = "/jobs/x/models", length: int = 0) -> Request:
    class App:
        class state:  # noqa: N801 - as an app has it
            visitors = Visitors()

    headers = [(b"content-length", str(length).encode())] if length else []
    return Request(
        {"type": "http", "method": "PUT", "path": path, "headers": headers, "app": App, "client": ("10.0.0.7", 1),
         "query_string": b"", "scheme": "http", "server": ("127.0.0.1", 80)}
    )  # fmt: skip


def test_a_body_that_stops_half_way_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bounds, "SILENT_S", 0.05)

    async def silent() -> Any:
        await asyncio.sleep(3600)

    async def wait() -> tuple[Any, Incoming]:
        incoming = Incoming(_request(), silent)
        return await incoming.receive(), incoming

    message, incoming = in_a_loop(wait())
    assert message == {"type": "http.disconnect"}
    assert incoming.refused is not None
    assert incoming.refused.status_code == 408


def test_a_body_that_drips_is_given_up_though_it_never_stops(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bounds, "FIRST_S", 0.2)

    async def drip() -> Any:
        await asyncio.sleep(0.01)
        return {"type": "http.request", "body": b"x", "more_body": True}

    async def wait() -> Incoming:
        incoming = Incoming(_request(), drip)
        while incoming.refused is None:
            await incoming.receive()
        return incoming

    refused = in_a_loop(wait()).refused
    assert refused is not None
    assert refused.status_code == 408


def test_a_body_of_an_honest_line_is_taken_however_long_it_is() -> None:
    async def steady() -> Any:
        return {"type": "http.request", "body": b"x" * 1_000_000, "more_body": True}

    async def take() -> Incoming:
        incoming = Incoming(_request(), steady)
        for _ in range(200):
            await incoming.receive()
        return incoming

    assert in_a_loop(take()).refused is None


def test_turns_of_one_visitor_do_not_take_those_of_another(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bounds, "WAIT_S", 0.05)

    async def go() -> None:
        visitors = Visitors()
        async with asyncio.TaskGroup() as group:
            free = asyncio.Event()

            async def hold() -> None:
                async with visitors.at_work("a"):
                    await free.wait()

            for _ in range(bounds.MOST_WORKED):
                group.create_task(hold())
            await asyncio.sleep(0)
            with pytest.raises(HTTPException) as full:
                async with visitors.at_work("a"):
                    pytest.fail("there was no turn to be had")
            assert full.value.status_code == 429
            async with visitors.at_work("b"):
                free.set()
        async with visitors.at_work("a"):
            pass
        assert not visitors._at_work  # nothing is kept of who has gone
        assert not visitors._coming

    in_a_loop(go())


# ── who sends at all ─────────────────────────────────────────────────────────


@pytest.mark.parametrize(
    ("method", "path", "head", "begun"),
    [
        ("PUT", "/models?name=a.stl", "content-type: model/stl", b""),
        ("PUT", "/models?name=a.stl", "x-keeve-token: made up", b""),
        ("POST", "/import", "content-type: multipart/form-data; boundary=b",
         b'--b\r\ncontent-disposition: form-data; name="token"\r\n\r\nmade up\r\n--b\r\n' + b"x" * 9000),
        ("POST", "/photo", "content-type: multipart/form-data; boundary=b", b"x" * 9000),
    ],
)  # fmt: skip
def test_an_upload_of_nobody_of_ours_is_refused_before_it_comes(
    client: TestClient, token: str, method: str, path: str, head: str, begun: bytes
) -> None:
    job = new_job(client, token)
    with served(client.app) as address, closing(socket.create_connection(("127.0.0.1", int(address[-5:])))) as line:  # type: ignore[arg-type]
        asked = f"{method} {job}{path} HTTP/1.1\r\nhost: {address[7:]}\r\n{head}\r\ncontent-length: 9000000\r\n\r\n"
        line.sendall(asked.encode() + begun)
        line.settimeout(30)
        assert b" 403 " in line.recv(4096).splitlines()[0]


# ── a database that is slow ──────────────────────────────────────────────────


def test_a_question_that_takes_too_long_is_told_as_that(client: TestClient, token: str, session: Session) -> None:
    job = new_job(client, token)
    session.execute(text("lock table jobs in access exclusive mode"))
    engine = client.app.state.sessions.kw["bind"]  # type: ignore[attr-defined]
    engine.dispose()

    def short(connection: Any, _record: Any) -> None:
        connection.execute("set lock_timeout = '200ms'")
        connection.commit()

    event.listen(engine, "connect", short)
    began = time.monotonic()
    page = client.get(f"{job}/measure", headers=PAGE)
    assert page.status_code == 503
    assert "very busy" in page.text
    assert page.headers["retry-after"] == "3"
    kept = client.put(f"{job}/sheet", json={"sheet": {"shapes": [slab()]}}, headers={"x-keeve-token": token})
    assert kept.status_code == 503
    assert time.monotonic() - began < bounds.SILENT_S
    session.rollback()
    assert client.get(f"{job}/measure", headers=PAGE).status_code == 200


def test_the_server_asks_postgresql_for_its_limits(database_url: str) -> None:
    engine = make_engine(database_url)
    with engine.connect() as connection:
        for name in ("statement_timeout", "lock_timeout", "idle_in_transaction_session_timeout"):
            assert connection.execute(text(f"show {name}")).scalar_one() not in ("0", 0)
    engine.dispose()


def test_no_connection_to_be_had_is_told_as_busy(database_url: str) -> None:
    app = make_app(Settings(database_url=database_url, secret="for tests"))
    with TestClient(app, base_url="http://127.0.0.1") as client:
        client.get("/")
        small = create_engine(database_url, pool_size=1, max_overflow=0, pool_timeout=0.1)
        app.state.reading.configure(bind=small)
        with small.connect():
            page = client.get("/", headers=PAGE)
        assert page.status_code == 503
        assert "very busy" in page.text
        assert client.get("/", headers=PAGE).status_code == 200
        small.dispose()


def test_models_are_counted_where_nobody_can_pass(client: TestClient, token: str, session: Session) -> None:
    """Forty arrive at once: four are read, the others are told to wait; none is read beside the count."""
    job = new_job(client, token)
    began: list[int] = []
    lock = threading.Lock()
    crew = session.scalar(text("select id from crews"))

    def enter(n: int) -> None:
        while True:
            try:
                _enter(client.app.state.sessions, crew, f"key-{n}", "a.stl")  # type: ignore[attr-defined]
            except TakeoffError:
                return
            except OperationalError as error:
                if not isinstance(error.orig, LockNotAvailable):
                    raise
                continue  # a busy machine: the page says "busy", and one tries again
            with lock:
                began.append(n)
            return

    threads = [threading.Thread(target=enter, args=(n,)) for n in range(24)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(began) == 4
    headers = {"x-keeve-token": token}
    answer = client.put(f"{job}/models?name=a.stl", content=b"solid", headers=headers)
    assert answer.status_code == 422
    assert "Several models" in json.dumps(answer.json())
