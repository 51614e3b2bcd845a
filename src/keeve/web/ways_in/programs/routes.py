"""Tokens for programs: made, shown once, taken back."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response

from keeve.core.message.errors import Code, Fault, MixError
from keeve.store.rows.token_store import TokenStore
from keeve.web.asking.deps import Crew, Db
from keeve.web.edge.answers import GOES, PAGE, REFUSALS
from keeve.web.edge.security import OwnPage, only_a_page
from keeve.web.pages.render import page

router = APIRouter(responses=REFUSALS)


@router.get("/programs", name="programs", **PAGE)
def programs(request: Request, db: Db, crew: Crew) -> Response:
    """List the tokens of the crew's programs."""
    return page(request, "programs/page.html", tokens=TokenStore(db).all(crew), made="")


@router.post("/programs", name="new_program", dependencies=[OwnPage], **PAGE)
def new_program(request: Request, db: Db, crew: Crew, name: Annotated[str, Form(max_length=80)] = "") -> Response:
    """Make a token; this answer is the only one that shows it."""
    only_a_page(request)
    if not name.strip():
        raise MixError(Fault(Code.MISSING, "This program has no name.", "Write what it is for.", field="name"))
    made = TokenStore(db).make(crew, name.strip())
    answer = page(request, "programs/page.html", tokens=TokenStore(db).all(crew), made=made)
    answer.headers["cache-control"] = "no-store"
    return answer


@router.post("/programs/{token_id}/away", name="end_program", dependencies=[OwnPage], **GOES)
def end_program(request: Request, db: Db, crew: Crew, token_id: UUID) -> Response:
    """Take a token back."""
    only_a_page(request)
    TokenStore(db).take_back(crew, token_id)
    return RedirectResponse(request.url_for("programs"), status.HTTP_303_SEE_OTHER)
