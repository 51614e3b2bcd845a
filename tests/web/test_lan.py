"""Phones of the network: a run link and nothing else, TLS by the yard's own authority, and nothing without --lan."""

import http.client
import ipaddress
import json
import re
import ssl
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from cryptography import x509
from fastapi.testclient import TestClient

from keeve.demo.yard import CREW, load_demo
from keeve.web.app import make_app
from keeve.web.edge import links
from keeve.web.edge.links import make_link, read_link
from keeve.web.edge.settings import Settings
from keeve.web.ways_in.lan.authority import own_addresses, papers
from tests.fire import wait_for
from tests.prose import PROSE
from tests.web.test_pages import keep, new_job
from tests.web.test_paper import text_of

HOME = ipaddress.ip_address("192.168.7.20")
SECRET = "for tests, long enough"  # noqa: S105


def test_a_link_opens_one_job_of_one_crew_for_its_hours() -> None:
    token = make_link(SECRET, "Lantern Yard", "job-1", 3)
    link = read_link(SECRET, "Lantern Yard", token)
    assert link is not None
    assert (link.job, link.n) == ("job-1", 3)
    assert read_link(SECRET, "Another yard", token) is None
    assert read_link("another secret of ours", "Lantern Yard", token) is None
    for spoilt in (None, "", token[:-2], "x" * 400, "x" * 10_000, token + "."):
        assert read_link(SECRET, "Lantern Yard", spoilt) is None


@pytest.mark.parametrize("hours", [2, 8, 24])
def test_a_link_is_good_for_as_long_as_was_chosen(hours: int, monkeypatch: pytest.MonkeyPatch) -> None:
    token = make_link(SECRET, "Lantern Yard", "job-1", 0, hours)
    real = datetime.now(UTC)

    class Later(datetime):
        late_s = 0.0

        @classmethod
        def now(cls, tz: Any = None) -> datetime:  # type: ignore[override]
            return real + timedelta(seconds=cls.late_s)

    monkeypatch.setattr(links, "datetime", Later)
    for late_s, good in ((0, True), (hours * 3600 - 5, True), (hours * 3600 + 5, False)):
        Later.late_s = late_s
        assert (read_link(SECRET, "Lantern Yard", token) is not None) == good


# ── the authority ────────────────────────────────────────────────────────────


def test_the_authority_vouches_for_this_machine_and_private_addresses_only(tmp_path: Path) -> None:
    found = papers(tmp_path / "authority", [HOME], ["yard", "yard.local"])
    authority = x509.load_der_x509_certificate(found.authority.read_bytes())
    limits = authority.extensions.get_extension_for_class(x509.NameConstraints)
    assert limits.critical
    said = [str(one.value) for one in limits.value.permitted_subtrees or []]
    assert "yard.local" in said
    assert "192.168.0.0/16" in said
    assert all(not ipaddress.ip_network(one).is_global for one in said if "/" in one)
    leaf = x509.load_pem_x509_certificate(found.leaf.read_bytes())
    lasts = leaf.not_valid_after_utc - leaf.not_valid_before_utc
    assert lasts <= timedelta(days=398)
    for path in (found.key, tmp_path / "authority" / "authority.key"):
        assert path.stat().st_mode & 0o077 == 0


def test_papers_are_kept_and_made_anew_where_the_address_changed_or_time_ran_out(tmp_path: Path) -> None:
    folder = tmp_path / "authority"
    first = papers(folder, [HOME], ["yard"])
    before = first.authority.read_bytes(), first.leaf.read_bytes()
    assert (papers(folder, [HOME], ["yard"]).leaf.read_bytes(), first.authority.read_bytes()) == before[::-1]
    moved = papers(folder, [ipaddress.ip_address("192.168.7.99")], ["yard"])
    assert moved.authority.read_bytes() == before[0]  # phones that trust it go on trusting
    assert moved.leaf.read_bytes() != before[1]
    first.leaf.write_bytes(b"half a certifi")
    assert b"END CERTIFICATE" in papers(folder, [HOME], ["yard"]).leaf.read_bytes()
    first.authority.write_bytes(b"")
    assert len(papers(folder, [HOME], ["yard"]).authority.read_bytes()) > 100


# ── the listeners ────────────────────────────────────────────────────────────

SERVER = """
import sys, time
from pathlib import Path
from keeve.web.app import make_app
from keeve.web.ways_in.lan.server import Lan
from keeve.web.edge.server import Server
from keeve.web.edge.settings import Settings
url, folder, crew = sys.argv[1:4]
phones = Lan(Path(folder), 18770)
settings = Settings(database_url=url, secret="for tests, long enough", crew=crew)
settings = settings.model_copy(update={"lan": phones.runs_at, "trust": phones.trust_at,
                                       "hosts": settings.hosts + ", " + phones.hosts})
app = make_app(settings)
print(phones.runs_at, phones.trust_at, flush=True)
Server(app, "up", time.monotonic(), 0, lambda: phones.beside(app)).run()
"""


class Phone:
    """A phone that trusts the yard: asks over TLS by the machine's address."""

    def __init__(self, runs_at: str, authority: Path) -> None:
        self.host, port = re.findall(r"https://(.*):(\d+)", runs_at)[0]
        self.port = int(port)
        self.trust = ssl.create_default_context(cadata=authority.read_bytes())
        self.cookies: dict[str, str] = {}

    def ask(self, method: str, path: str, body: Any = None, **headers: str) -> tuple[int, dict[str, str], str]:
        line = http.client.HTTPSConnection(self.host, self.port, context=self.trust, timeout=60)
        sent = {"cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items())} | headers
        if body is not None:
            sent |= {"content-type": "application/json"}
        line.request(method, path, json.dumps(body) if body is not None else None, sent)
        answer = line.getresponse()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                key, _, held = value.split(";")[0].partition("=")
                self.cookies[key] = held
        text = answer.read().decode()
        line.close()
        return answer.status, {k.lower(): v for k, v in answer.getheaders()}, text


@pytest.fixture
def let_in(database_url: str, tmp_path: Path) -> Iterator[tuple[Phone, str, str]]:
    """A server with --lan: a phone, the address of the trust page, and the id of the corbel's job."""
    if not own_addresses():
        pytest.skip("this machine has no private network to listen on")
    load_demo(database_url)
    job = {row["name"]: row["id"] for row in _jobs(database_url)}["Corbel, half moulds"]
    process = subprocess.Popen(
        [sys.executable, "-c", SERVER, database_url, str(tmp_path / "authority"), CREW],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    assert process.stdout is not None
    try:
        runs_at, trust_at = process.stdout.readline().split()
        assert process.stdout.readline().startswith("up")
        phone = Phone(runs_at, tmp_path / "authority" / "keeve-yard.crt")
        wait_for(lambda: _answers(phone))
        yield phone, trust_at, job
    finally:
        process.terminate()
        process.wait(60)
        process.stdout.close()


def _answers(phone: Phone) -> bool:
    try:
        return phone.ask("GET", "/healthz")[0] == 200
    except OSError:
        return False


def _jobs(database_url: str) -> list[dict[str, str]]:
    with TestClient(
        make_app(Settings(database_url=database_url, secret=SECRET, crew=CREW)), base_url="http://127.0.0.1"
    ) as c:
        html = c.get("/").text
    found = re.findall(r'href="/jobs/([0-9a-f-]{36})/[^"]*"[^>]*>([^<]+)<', html)
    return [{"id": key, "name": name.strip()} for key, name in found]


def test_a_phone_sees_its_run_and_nothing_else_of_the_yard(let_in: tuple[Phone, str, str]) -> None:
    phone, trust_at, job = let_in
    for path in ("/", "/book", f"/jobs/{job}/mixer", f"/jobs/{job}/measure", "/openapi.json", "/programs", "/clocks"):
        status, _, text = phone.ask("GET", path, accept="text/html")
        assert (status, PROSE["sees-only-the-run"] in text) == (403, True), path
    assert phone.ask("GET", "/run/made-up")[0] == 403
    status, headers, _ = phone.ask("GET", f"/run/{make_link(SECRET, CREW, job, 0)}")
    assert (status, headers["location"]) == (303, f"/jobs/{job}/mixer")
    assert "__Host-keeve_run" in phone.cookies
    # The ticket of this job was not taken yet: what a phone may not do, it is not asked to.
    status, _, html = phone.ask("GET", f"/jobs/{job}/mixer", accept="text/html")
    assert status == 200
    for closed in ("/book", "/yard", f"/jobs/{job}/measure", f"/jobs/{job}/look-back"):
        assert f'href="{closed}"' not in html, closed
    token = re.findall(r'name="token" content="([^"]+)"', html)[0]
    tap = {
        "id": "0" * 32,
        "at": datetime.now(UTC).isoformat(),
        "phone": "a.1",
        "seq": 1,
        "kind": "one_more",
        "ticket": 1,
    }
    body = {"sent_at": datetime.now(UTC).isoformat(), "events": [tap]}
    assert phone.ask("POST", f"/jobs/{job}/events", body)[0] == 403  # no page's token
    assert phone.ask("POST", f"/jobs/{job}/events", body, **{"x-keeve-token": token})[0] == 200
    assert phone.ask("GET", "/clocks")[0] == 200
    for path in ("/", "/book", f"/jobs/{job}/measure", f"/jobs/{job}/phone", f"/jobs/{job}/ticket.json", "/api/mixes"):
        assert phone.ask("GET", path)[0] == 403, path
    assert phone.ask("POST", f"/jobs/{job}/copy", {})[0] == 403
    assert phone.ask("GET", "/", host="evil.example")[0] == 421
    line = http.client.HTTPConnection(trust_at.split("//")[1], timeout=60)
    line.request("GET", "/")
    said = line.getresponse().read().decode()
    assert PROSE["vouches-for-this-one"] in said
    line.request("GET", "/keeve-yard.crt")
    answer = line.getresponse()
    assert answer.getheader("content-type") == "application/x-x509-ca-cert"
    answer.read()
    line.request("GET", f"/jobs/{job}/mixer")
    assert line.getresponse().status == 404
    line.close()


def test_a_code_taken_back_opens_nothing_and_ends_what_it_opened(
    let_in: tuple[Phone, str, str], database_url: str
) -> None:
    phone, _, job = let_in
    address = f"/run/{make_link(SECRET, CREW, job, 0)}"
    assert phone.ask("GET", address)[0] == 303
    status, headers, _ = phone.ask("GET", f"/jobs/{job}/mixer", accept="text/html")
    assert status == 200
    assert int(headers["x-keeve-until"]) > time.time() * 1000  # the worker of the phone goes by it
    heard: list[bytes] = []
    line = http.client.HTTPSConnection(phone.host, phone.port, context=phone.trust, timeout=60)
    line.request(
        "GET", f"/jobs/{job}/stream", None, {"cookie": f"__Host-keeve_run={phone.cookies['__Host-keeve_run']}"}
    )
    stream = line.getresponse()
    assert stream.status == 200
    listening = threading.Thread(target=lambda: heard.append(stream.read()))
    listening.start()
    table = make_app(Settings(database_url=database_url, secret=SECRET, crew=CREW))
    with TestClient(table, base_url="http://127.0.0.1") as c:
        token = re.findall(r'name="token" content="([^"]+)"', c.get("/").text)[0]
        done = c.post(f"/jobs/{job}/phone/back", data={"token": token}, follow_redirects=False)
        assert done.status_code == 303
    listening.join(60)
    assert not listening.is_alive()
    assert b"event: ticket" in heard[0]
    line.close()
    assert phone.ask("GET", f"/jobs/{job}/mixer", accept="text/html")[0] == 403
    assert "taken back" in phone.ask("GET", address, accept="text/html")[2]
    assert phone.ask("GET", f"/run/{make_link(SECRET, CREW, job, 1)}")[0] == 303  # a new code is as good as the first


def test_what_opens_a_run_is_not_written_down(client: TestClient, caplog: pytest.LogCaptureFixture) -> None:
    caplog.set_level("INFO")
    client.get("/run/a-token-that-opens-a-run")
    ours = "\n".join(one.getMessage() for one in caplog.records if one.name.startswith("keeve"))
    assert "/run/…" in ours
    assert "a-token" not in ours


def test_a_phone_that_does_not_trust_the_yard_is_warned(let_in: tuple[Phone, str, str]) -> None:
    phone, _, _ = let_in
    phone.trust = ssl.create_default_context()
    with pytest.raises(ssl.SSLCertVerificationError):
        phone.ask("GET", "/healthz")


def test_without_it_nothing_but_loopback_answers_and_the_page_says_how(client: TestClient, token: str) -> None:

    html = client.get(f"{new_job(client, token)}/phone").text
    assert "./keeve serve --lan" in html
    assert "<svg" not in html.split("<main")[1]


def test_a_code_is_shown_for_the_hours_chosen_and_said_on_the_ticket(database_url: str) -> None:
    lan = Settings(
        database_url=database_url, secret=SECRET, crew=CREW, lan="https://192.168.7.20:1", trust="http://192.168.7.20:2"
    )
    with TestClient(make_app(lan), base_url="http://127.0.0.1") as c:
        token = re.findall(r'name="token" content="([^"]+)"', c.get("/").text)[0]
        job = new_job(c, token)
        keep(c, token, job)
        for hours in (2, 8, 24):
            html = c.get(f"{job}/phone?hours={hours}").text
            assert f"sees this run for {hours} hours" in html
            link = re.findall(r'href="https://192.168.7.20:1/run/([^"]+)"', html)[0]
            found = read_link(SECRET, CREW, link)
            assert found is not None
            assert abs(found.until_ms / 1000 - time.time() - hours * 3600) < 100
        assert c.get(f"{job}/phone?hours=25").status_code == 422
        printed = text_of(c.get(f"{job}/ticket.pdf?link_hours=8").content)
        assert PROSE["who-scans-it-may"] in printed
        assert PROSE["who-scans-it"] not in text_of(c.get(f"{job}/ticket.pdf?link_hours=0").content)
        assert c.post(f"{job}/phone/back", data={"token": token}).status_code == 200
