"""Who may change something, by which name Keeve is opened, and what every answer carries."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session
from starlette.routing import compile_path

from keeve.web.app import make_app
from keeve.web.edge.settings import Settings
from keeve.web.edge.static_files import address_of
from tests.prose import PROSE
from tests.web.test_pages import PAGE, new_job

TOKEN = re.compile(r'name="token" content="([^"]+)"')


@pytest.fixture
def app(database_url: str) -> Any:
    return make_app(Settings(database_url=database_url, secret="for tests", crew="Lantern Yard"))


def test_a_foreign_name_that_leads_here_is_turned_away(client: TestClient) -> None:
    for host in ("evil.example", "127.0.0.1.evil.example", "localhost.evil.example:8765", "", "evil.example:127.0.0.1"):
        answer = client.get("/", headers=PAGE | {"host": host})
        assert answer.status_code == 421, host
        assert PROSE["keeve-is-not-at"] in answer.text
        assert "default-src 'self'" in answer.headers["content-security-policy"]
    for host in ("127.0.0.1", "127.0.0.1:8765", "localhost:8765", "LOCALHOST", "yard.localhost:9", "[::1]:8765"):
        assert client.get("/", headers=PAGE | {"host": host}).status_code == 200, host


def test_the_hosts_can_be_named(database_url: str) -> None:
    app = make_app(Settings(database_url=database_url, secret="x", hosts="yard.example, *.reach.example"))
    with TestClient(app, base_url="http://yard.example") as opened:
        assert opened.get("/").status_code == 200
        assert opened.get("/", headers={"host": "mixer.reach.example:8000"}).status_code == 200
        assert opened.get("/", headers={"host": "127.0.0.1"}).status_code == 421
        assert opened.get("/", headers={"host": "reach.example"}).status_code == 421


def test_a_first_visit_in_two_tabs_keeps_working_in_both(app: Any) -> None:
    with TestClient(app, base_url="http://127.0.0.1") as browser:
        token = TOKEN.findall(browser.get("/").text)[0]
        browser.cookies.clear()  # the second tab asked before the first had its answer
        browser.get("/")
        # The browser keeps the later cookie; the first tab has a token for the earlier.
        data = {"name": "Step", "token": token}
        assert browser.post("/jobs", data=data, follow_redirects=False).status_code == 403
        own = {"origin": "http://127.0.0.1"}
        assert browser.post("/jobs", data=data, headers=own, follow_redirects=False).status_code == 303
        # Another's page may have a token of its own visit, but its browser says whose page it is.
        for foreign in ("http://evil.example", "null", "http://127.0.0.1:9", "https://127.0.0.1"):
            answer = browser.post("/jobs", data=data, headers={"origin": foreign}, follow_redirects=False)
            assert answer.status_code == 403, foreign


@pytest.mark.parametrize("token", ["", "x", "A" * 200, "é", "=" * 40, "AAAA", "eyJh.b"])
def test_a_token_that_is_none_changes_nothing(client: TestClient, token: str) -> None:
    client.get("/")
    own = {"origin": "http://127.0.0.1"}
    for headers in (own, {}):
        answer = client.post("/jobs", data={"name": "Step", "token": token}, headers=headers, follow_redirects=False)
        assert answer.status_code == 403


def test_behind_tls_cookies_are_secure_and_bound_to_the_host(app: Any) -> None:
    with TestClient(app, base_url="https://localhost") as tls:
        page = tls.get("/")
        said = page.headers["set-cookie"]
        assert said.startswith("__Host-keeve_visitor=")
        assert "; Secure" in said
        assert "HttpOnly" in said
        assert "Domain" not in said
        token = TOKEN.findall(page.text)[0]
        answer = tls.post("/units", data={"units": "us", "token": token}, follow_redirects=False)
        assert answer.headers["set-cookie"].startswith("__Host-keeve_units=us")
        assert "Secure" in answer.headers["set-cookie"]
        assert 'value="us" aria-pressed="true"' in tls.get("/").text
        # What another host, or a page without TLS, could have set is not looked at.
        tls.cookies.clear()
        assert 'value="us" aria-pressed="false"' in tls.get("/", headers={"cookie": "keeve_units=us"}).text
    with TestClient(app, base_url="http://localhost") as plain:
        said = plain.get("/").headers["set-cookie"]
        assert said.startswith("keeve_visitor=")
        assert "Secure" not in said


# ── programs ─────────────────────────────────────────────────────────────────


def _made(client: TestClient, token: str, name: str = "Office") -> str:
    answer = client.post("/programs", data={"name": name, "token": token})
    assert answer.status_code == 200
    assert answer.headers["cache-control"] == "no-store"
    return re.findall(r"<code>(keeve_[\w-]+)</code>", answer.text)[0]


def test_a_program_brings_a_mix_in_with_a_token_the_crew_made(client: TestClient, token: str, session: Session) -> None:
    file = client.get("/api/mixes/stucco-base").json()
    assert client.post("/api/mixes", json=file).status_code == 403
    made = _made(client, token)
    assert made not in client.get("/programs").text  # shown once
    bearer = {"authorization": f"Bearer {made}"}
    client.cookies.clear()
    brought = client.post("/api/mixes", json=file, headers=bearer)
    assert brought.status_code == 201
    assert brought.json()["key"] in client.get("/api/mixes").json()
    assert session.scalar(text("select count(*) from api_tokens where used_at is not null")) == 1
    kept = session.scalar(text("select print from api_tokens"))
    assert made not in kept
    wrong = client.post("/api/mixes", json=file, headers={"authorization": f"Bearer {made}x"})
    assert wrong.status_code == 401
    assert wrong.headers["www-authenticate"] == "Bearer"
    assert "taken back" in wrong.json()["faults"][0]["sentence"]


def test_a_program_may_not_say_which_programs_may(client: TestClient, token: str) -> None:
    made = _made(client, token)
    bearer = {"authorization": f"Bearer {made}"}
    assert client.post("/programs", data={"name": "More"}, headers=bearer).status_code == 403
    away = re.findall(r'action="(/programs/[^"]+/away)"', client.get("/programs").text)[0]
    assert client.post(away, headers=bearer).status_code == 403
    assert client.post(away, data={"token": token}, follow_redirects=False).status_code == 303
    assert client.post("/api/mixes", json={}, headers=bearer).status_code == 401


def test_a_program_without_a_name_and_one_too_many_are_refused(client: TestClient, token: str) -> None:
    no_name = client.post("/programs", data={"name": " ", "token": token}, headers=PAGE)
    assert no_name.status_code == 422
    assert "no name" in no_name.text
    for n in range(40):
        _made(client, token, f"Program {n}")
    full = client.post("/programs", data={"name": "One more", "token": token}, headers=PAGE)
    assert full.status_code == 422
    assert "40 tokens" in full.text


# ── every route ──────────────────────────────────────────────────────────────


def _operations(client: TestClient) -> list[tuple[str, str, dict[str, Any]]]:
    document = client.get("/openapi.json").json()
    return [(path, method, said) for path, all_ in document["paths"].items() for method, said in all_.items()]


def test_every_route_is_in_the_schema(client: TestClient) -> None:
    from fastapi.routing import APIRoute, iter_route_contexts

    told = {(path, method.upper()) for path, method, _ in _operations(client)}
    real = {
        (context.path, method)
        for context in iter_route_contexts(client.app.routes)  # type: ignore[attr-defined]
        if isinstance(context.original_route, APIRoute)
        for method in context.methods or ()
    }
    assert real - told == set()
    assert len(told) > 50


def test_every_change_wants_a_token(client: TestClient, token: str) -> None:
    """Whatever is not only worked out is refused to a stranger, and kept nothing."""
    job = new_job(client, token)
    works_out = ("/answer", "/try", "/api/plan", "/api/sand", "/api/take-off", "/api/weighed",
                 "/api/unit-weight")  # fmt: skip
    stranger = {"cookie": "keeve_visitor=stranger"}
    tried = 0
    for path, method, _ in _operations(client):
        if method == "get" or path.endswith(works_out):
            continue
        address = path.replace("/jobs/{job_id}", job).replace("{key}", "stucco-base").replace("{token_id}", job[6:])
        answer = client.request(method, f"{address}?name=a.stl", headers=stranger, json={})
        assert answer.status_code == 403, (method, path, answer.status_code, answer.text[:200])
        tried += 1
    assert tried > 20


def test_a_head_is_answered_as_its_page_without_the_page(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    for path, method, _ in _operations(client):
        if method != "get":
            continue
        address = path.replace("/jobs/{job_id}", job).replace("{key}", "stucco-base")
        address = address.replace("{kind}", "mix").replace("{what}", "ticket")
        head = client.head(address, headers=PAGE)
        assert head.content == b"", path
        if path.endswith("/stream"):
            assert head.status_code == 200  # and it ends
            continue
        page = client.get(address, headers=PAGE)
        assert head.status_code == page.status_code, path
        assert head.headers["content-type"] == page.headers["content-type"]
        assert head.headers.get("content-security-policy") == page.headers["content-security-policy"]
    assert client.head(address_of("keeve.css")).status_code == 200


def test_no_page_is_kept_by_whoever_stands_between(client: TestClient) -> None:
    for address in ("/", "/book", "/yard", "/nowhere"):
        assert client.get(address, headers=PAGE).headers["cache-control"] == "private, no-cache"
    assert "immutable" in client.get(address_of("keeve.css")).headers["cache-control"]


def test_a_head_changes_nothing(client: TestClient, token: str) -> None:
    assert client.head("/jobs").status_code == 405
    assert client.head("/units").status_code == 405


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("GET", "/nowhere", 404),
        ("POST", "/", 405),
        ("POST", "/jobs", 403),
        ("POST", "/api/plan", 422),
        ("GET", "/?page=x", 422),
    ],
)
def test_every_refusal_carries_the_headers_a_number_and_a_line(
    client: TestClient, caplog: pytest.LogCaptureFixture, method: str, path: str, status: int
) -> None:
    with caplog.at_level("INFO", logger="keeve"):
        for headers in (PAGE, {}):
            answer = client.request(method, path, headers=headers)
            assert answer.status_code == status
            assert answer.headers["x-content-type-options"] == "nosniff"
            assert "default-src 'self'" in answer.headers["content-security-policy"]
            number = answer.headers["x-keeve-number"]
            lines = [one for one in caplog.messages if f"number={number}" in one and "event=request" in one]
            assert len(lines) == 1
            assert f"status={status}" in lines[0]


def test_what_somebody_sends_cannot_write_on_the_screen_of_who_reads_the_log(
    client: TestClient, caplog: pytest.LogCaptureFixture
) -> None:
    with caplog.at_level("INFO", logger="keeve"):
        client.get("/%1b%5b31mred%0a2026 level=error event=forged%e2%80%ae")
    (line,) = [one for one in caplog.messages if "forged" in one]
    assert line.isprintable()
    assert r"\x1b[31mred" in line


def test_order_decides_nothing(client: TestClient) -> None:
    """A page is put anywhere in the list of pages: no address is another's."""
    from fastapi.routing import iter_route_contexts

    routes = [
        (context.path_format, context.methods or {"websocket"}, compile_path(context.path)[0])  # type: ignore[arg-type]
        for context in iter_route_contexts(client.app.routes)  # type: ignore[attr-defined]
        if context.path_format and not context.path_format.startswith("/static")
    ]
    assert len(routes) > 100
    alike = [
        (mine, other)
        for mine, methods, _ in routes
        for other, theirs, regex in routes
        if mine != other and methods & theirs and regex.match(re.sub(r"{\w+}", "x1", mine))
    ]
    assert alike == []
