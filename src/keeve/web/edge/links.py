"""Run links: who holds one may open the run of one job for some hours, until it is taken back, and nothing else."""

import time
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from typing import Final, NamedTuple

from itsdangerous import BadData, URLSafeTimedSerializer
from sqlalchemy import select
from starlette.requests import HTTPConnection

from keeve.store.rows.crew_store import CrewStore
from keeve.store.tables import Crew, JobRow
from keeve.web.edge.security import cookie, cookie_name, is_tls

RUN_COOKIE: Final = "keeve_run"
DAY_S: Final = 86_400
MOST_HOURS: Final = 24
_OF_RUN: Final = ("mixer", "begin", "events", "stream", "sand")
_OPEN: Final = ("/run/", "/static/")
_OPEN_LINKED: Final = ("/devices/",)
_OPEN_WHOLE: Final = ("/worker.js", "/manifest.webmanifest", "/offline", "/healthz")
_WITH_LINK: Final = ("/clocks", "/api/weighed", "/units", "/night", "/devices")
_LOOPBACK: Final = ("127.0.0.1", "::1")


@lru_cache(maxsize=16)
def _signer(secret: str) -> URLSafeTimedSerializer:
    return URLSafeTimedSerializer(secret, salt="keeve-run-link")


class Link(NamedTuple):
    """What a run link opens, and until when."""

    job: str
    n: int
    """How often the links of the run had been taken back when it was made."""
    until_ms: int


def make_link(secret: str, crew: str, job_id: str, n: int, hours: int = MOST_HOURS) -> str:
    """Make the token of a run link that is good for some hours."""
    return str(_signer(secret).dumps([crew, job_id, n, hours]))


def read_link(secret: str, crew: str, token: str | None) -> Link | None:
    """Return what a token opens; None for one that is no token of this crew's, or past its hours."""
    if not token or len(token) > 500:
        return None
    try:
        named, made_at = _signer(secret).loads(token, max_age=DAY_S, return_timestamp=True)
    except BadData:
        return None
    match named:
        case [str(of), str(job), int(n), int(hours)] if of == crew:
            until = made_at + timedelta(hours=hours)
            return Link(job, n, round(until.timestamp() * 1000)) if until > datetime.now(UTC) else None
    return None


def still_open(request: HTTPConnection) -> bool:
    """Whether the link that let a request in has not been taken back; asks the database."""
    link: Link | None = getattr(request.state, "link", None)
    if link is None:
        return True
    with request.app.state.reading() as session:
        crew = session.scalar(select(Crew.id).where(Crew.name == request.app.state.settings.crew))
        return crew is not None and CrewStore(session, crew).link_n(link.job) == link.n


def from_outside(request: HTTPConnection) -> bool:
    """Whether a request came over the yard's network and not from this machine: by the socket it came in at."""
    server = request.scope.get("server")
    return bool(request.app.state.settings.lan) and server is not None and server[0] not in _LOOPBACK


def may_from_outside(request: HTTPConnection) -> bool:
    """Whether a request from the network may go on; it is told which job it may see."""
    path = request.url.path
    if path.startswith(_OPEN) or path in _OPEN_WHOLE:
        return True
    settings = request.app.state.settings
    link = read_link(settings.secret, settings.crew, cookie(request, RUN_COOKIE))
    if link is None:
        return False
    request.state.link, request.state.only_job = link, link.job
    job = link.job
    return path in _WITH_LINK or path.startswith(_OPEN_LINKED) or path in [f"/jobs/{job}/{one}" for one in _OF_RUN]


def run_cookie(request: HTTPConnection, token: str, link: Link) -> str:
    """Return the header that keeps a run link on a phone as long as it is good."""
    secure = "; Secure" if is_tls(request) else ""
    named = cookie_name(request, RUN_COOKIE)
    age_s = max(0, link.until_ms // 1000 - round(time.time()))
    return f"{named}={token}; Path=/; HttpOnly; SameSite=Lax; Max-Age={age_s}{secure}"


def shown_path(path: str) -> str:
    """Return a path as it may be written down: what opens a run is not."""
    return "/run/…" if path.startswith("/run/") else path


def run_link(request: HTTPConnection, job: JobRow, hours: int = MOST_HOURS) -> str:
    """Return the address that opens one run on a phone; empty where nobody may come over the network."""
    settings = request.app.state.settings
    if not settings.lan or not hours:
        return ""
    return f"{settings.lan}/run/{make_link(settings.secret, settings.crew, str(job.id), job.link_n, hours)}"
