"""Run links: who holds one may open the run of one job for a day, and nothing else of the yard."""

from functools import lru_cache
from typing import Final

from itsdangerous import BadData, URLSafeTimedSerializer
from starlette.requests import HTTPConnection

from keeve.web.security import cookie, cookie_name, is_tls

RUN_COOKIE: Final = "keeve_run"
DAY_S: Final = 86_400
_OF_RUN: Final = ("mixer", "begin", "events", "stream", "sand")
_OPEN: Final = ("/run/", "/static/")
_OPEN_LINKED: Final = ("/devices/",)
_OPEN_WHOLE: Final = ("/worker.js", "/manifest.webmanifest", "/offline", "/healthz")
_WITH_LINK: Final = ("/clocks", "/api/weighed", "/units", "/night", "/devices")
_LOOPBACK: Final = ("127.0.0.1", "::1")


@lru_cache(maxsize=16)
def _signer(secret: str) -> URLSafeTimedSerializer:
    return URLSafeTimedSerializer(secret, salt="keeve-run-link")


def make_link(secret: str, crew: str, job_id: str) -> str:
    """Make the token of a run link."""
    return str(_signer(secret).dumps([crew, job_id]))


def read_link(secret: str, crew: str, token: str | None) -> str | None:
    """Return the job a token opens; None for one that is no token of this crew's, or a day old."""
    if not token or len(token) > 500:
        return None
    try:
        named = _signer(secret).loads(token, max_age=DAY_S)
    except BadData:
        return None
    match named:
        case [str(of), str(job)] if of == crew:
            return job
    return None


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
    job = read_link(settings.secret, settings.crew, cookie(request, RUN_COOKIE))
    if job is None:
        return False
    request.state.only_job = job
    return path in _WITH_LINK or path.startswith(_OPEN_LINKED) or path in [f"/jobs/{job}/{one}" for one in _OF_RUN]


def run_cookie(request: HTTPConnection, token: str) -> str:
    """Return the header that keeps a run link on a phone."""
    secure = "; Secure" if is_tls(request) else ""
    named = cookie_name(request, RUN_COOKIE)
    return f"{named}={token}; Path=/; HttpOnly; SameSite=Lax; Max-Age={DAY_S}{secure}"
