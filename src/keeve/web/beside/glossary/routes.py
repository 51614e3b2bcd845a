"""All words of the trade on one page; on the others each is explained by a tap."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from keeve.catalogue import load_catalogue
from keeve.web.edge.answers import PAGE, REFUSALS
from keeve.web.pages.render import page

router = APIRouter(responses=REFUSALS)


@router.get("/words", name="words", **PAGE)
def words(request: Request) -> Response:
    """Show every word of the trade in one sentence."""
    return page(request, "glossary/page.html", glossary=load_catalogue().glossary.values(), room="words")
