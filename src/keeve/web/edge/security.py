"""Who may change something: a page of our own, known by its token, or a program with a token the crew made for it."""

import base64
import re
import secrets
from functools import lru_cache
from typing import Annotated, Final

from fastapi import Depends, HTTPException, Request, Security, status
from fastapi.concurrency import run_in_threadpool
from fastapi.security import APIKeyHeader, HTTPAuthorizationCredentials, HTTPBearer
from itsdangerous import BadSignature, URLSafeSerializer
from starlette.requests import HTTPConnection

from keeve.core.message.said import mark
from keeve.store.rows.token_store import TokenStore

VISITOR_COOKIE: Final = "keeve_visitor"
TOKEN_HEADER: Final = "x-keeve-token"  # noqa: S105 - a header's name, not a secret
TOKEN_FIELD: Final = "token"  # noqa: S105 - a field's name, not a secret
_FORMS: Final = ("application/x-www-form-urlencoded", "multipart/form-data")
_TOKEN_PART: Final = re.compile(rb'name="token"[^\r\n]*\r\n(?:[^\r\n]+\r\n)*\r\n([^\r\n]{1,4096})\r\n')
"""The token in a form with files: our pages send it first."""
TOO_OLD: Final = mark("This page was open for too long. Load it again and repeat.")


def is_tls(request: HTTPConnection) -> bool:
    """Whether the visitor's line is encrypted, here or at a proxy on this machine."""
    return request.url.scheme in ("https", "wss")


def cookie_name(request: HTTPConnection, name: str) -> str:
    """Name a cookie; behind TLS so that no other host, and no page without TLS, can have set it."""
    return f"__Host-{name}" if is_tls(request) else name


def cookie(request: HTTPConnection, name: str) -> str | None:
    """Return what a cookie of ours holds."""
    return request.cookies.get(cookie_name(request, name))


@lru_cache(maxsize=16)
def _signer(secret: str) -> URLSafeSerializer:
    return URLSafeSerializer(secret, salt="keeve-page")


@lru_cache(maxsize=4096)
def _token_of(secret: str, visitor: str) -> bytes:
    return str(_signer(secret).dumps(visitor)).encode()


def page_token(request: Request) -> str:
    """Make the token a page sends back with each change; it fits only this visitor.

    It is another text on every page: compressed together with what somebody typed, one that stays the same could be
    guessed from the length of the answers.
    """
    plain = _token_of(request.app.state.settings.secret, request.state.visitor)
    mask = secrets.token_bytes(len(plain))
    return base64.urlsafe_b64encode(mask + bytes(a ^ b for a, b in zip(mask, plain, strict=True))).decode()


def _visitor_named(request: Request, token: str) -> str | None:
    """Read the visitor off a token; None for one that we did not make."""
    try:
        masked = base64.b64decode(token, altchars=b"-_", validate=True)
        half = len(masked) // 2
        plain = bytes(a ^ b for a, b in zip(masked[:half], masked[half:], strict=True))
        return str(_signer(request.app.state.settings.secret).loads(plain))
    except (BadSignature, ValueError):
        return None


def same_origin(request: Request) -> bool:
    """Whether the browser says that the change was asked for by a page of this address."""
    origin = request.headers.get("origin")
    return origin is not None and origin == f"{request.url.scheme}://{request.headers.get('host', '')}"


_page_key = APIKeyHeader(name=TOKEN_HEADER, auto_error=False, description="Token of the page that asks.")
_program_key = HTTPBearer(auto_error=False, description="Token the crew made for a program.")


async def own_page(
    request: Request,
    token: Annotated[str | None, Security(_page_key)],
    program: Annotated[HTTPAuthorizationCredentials | None, Security(_program_key)],
) -> None:
    """Refuse a change that neither one of our own pages nor a program of the crew asked for."""
    if program is not None:
        await run_in_threadpool(_check_program, request, program.credentials)
        return
    if token is None and request.headers.get("content-type", "").startswith(_FORMS):
        token = str((await request.form()).get(TOKEN_FIELD, ""))
    of_a_page(request, token)


def of_a_page(request: Request, token: str | None) -> None:
    """Refuse a token that no page of this visitor carries.

    Raises
    ------
    HTTPException : 403, it is none, or another visitor's
    """
    named = _visitor_named(request, token or "")
    # Two tabs that are a visitor's first each bring a cookie, and only the later stays: the browser's own word that
    # it was a page of ours is as good.
    if named is None or (named != cookie(request, VISITOR_COOKIE) and not same_origin(request)):
        raise HTTPException(status.HTTP_403_FORBIDDEN, TOO_OLD)


async def before_its_body(request: Request, begun: bytes) -> None:
    """Refuse an upload by its head, and by the little that came of it: what nobody of ours sends is not read.

    Parameters
    ----------
    request : the upload
    begun : the first of a form with files, or nothing where a file is sent as it is

    Raises
    ------
    HTTPException : 403 or 401, as `own_page`
    """
    scheme, _, given = request.headers.get("authorization", "").partition(" ")
    if scheme.lower() == "bearer":
        await run_in_threadpool(_check_program, request, given)
        return
    found = _TOKEN_PART.search(begun)
    of_a_page(request, request.headers.get(TOKEN_HEADER) or (found[1].decode("ascii", "replace") if found else None))


def _check_program(request: Request, token: str) -> None:
    crew = request.app.state.settings.crew
    with request.app.state.sessions.begin() as session:
        if not TokenStore(session).fits(crew, token):
            raise HTTPException(
                status.HTTP_401_UNAUTHORIZED,
                mark("This program's token is not known here, or was taken back. Make a new one under “Programs”."),
                {"www-authenticate": "Bearer"},
            )


def only_a_page(request: Request) -> None:
    """Refuse a program: what may change by a page alone is who may change things."""
    if "authorization" in request.headers:
        raise HTTPException(status.HTTP_403_FORBIDDEN, mark("A program cannot do this: open the page."))


OwnPage = Depends(own_page)
