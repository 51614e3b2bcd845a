"""Admixtures: those that ship, and the crew's own by the label of the can."""

from typing import Annotated, Any, Final

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from keeve.catalogue.trying import pruned
from keeve.core.message.errors import Code, Fault, MixError, TradeError, faults_of
from keeve.core.message.said import verbatim
from keeve.core.mixes.admixtures import Admixture
from keeve.web.asking.deps import Book, Looking, ReadBy
from keeve.web.asking.entries import find_entry
from keeve.web.beside.own_things import Away, Read, Thing, gone, routes_of
from keeve.web.edge.answers import GOES, PAGE, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page
from keeve.web.pages.typed import typed

router = APIRouter(responses=REFUSALS)
_BLANK: Final = {"form": "liquid", "unit": "mL/100 kg", "when": "in the water"}
_FIGURES: Final = ("density_kg_l", "solids_percent", "least", "most")


def try_admixture(entry: dict[str, Any]) -> Read:
    """Read the label of a can as it was typed."""
    known = {name: value for name, value in pruned(entry).items() if name in Admixture.model_fields}
    name = str(known.pop("name", "")).strip()
    given = {k: str(v).replace(",", ".") if k in _FIGURES else v for k, v in known.items()}
    named = {"name": verbatim(name)} if name else {}
    try:
        label = Admixture.model_validate(given | named | {"key": "new", "source": "the can's label"})
        if label.least > label.most:
            raise MixError(
                Fault(
                    Code.INVERTED,
                    "The least dose is more than the most.",
                    "Exchange the two.",
                    field="least",
                    value=label.least,
                )
            )
    except ValidationError as error:
        return None, faults_of(error)
    except TradeError as error:
        return None, error.faults
    return label, ()


@router.get("/book/own/admixtures", name="admixtures", **PAGE)
def admixtures(request: Request, desk: Looking, away: Away = None) -> Response:
    """List the admixtures."""
    with desk() as at:

        def make() -> Page:
            unfinished = [row for row in at.book.entries("admixture") if row.document is None]
            values = gone(at.book, "admixture", away) | {"shelf": at.shelf(), "unfinished": unfinished}
            return page(request, "book/admixtures.html", **values)

        return remembered(request, ("admixtures", away), at.book_n(), make)


@router.post("/book/own/admixtures", name="new_admixture", dependencies=[OwnPage], **GOES)
def new_admixture(request: Request, book: Book, name: Annotated[str, Form(max_length=80)] = "") -> Response:
    """Begin the label of a can."""
    row = book.add("admixture", _BLANK | {"name": name.strip() or "Can"}, None)
    return RedirectResponse(request.url_for("admixture", key=row.key), status.HTTP_303_SEE_OTHER)


@router.get("/book/own/admixtures/{key}", name="admixture", **PAGE)
def admixture(request: Request, key: str, desk: Looking, reader: ReadBy) -> Response:
    """Show the label of a can."""
    with desk() as at:

        def make() -> Page:
            row = find_entry(request, at.book, "admixture", key)
            label, faults = try_admixture(row.entry)
            told = tuple(fault for fault in faults if fault.code != Code.MISSING)
            return page(
                request, "book/admixture.html", row=row, entry=typed(row.entry), label=label,
                faults=fault_rows(told, reader),
            )  # fmt: skip

        return remembered(request, ("admixture", key), at.book_n(), make)


ADMIXTURE: Final = Thing(
    "admixture", "admixture", "/book/own/admixtures/{key}", "admixture", "admixtures",
    read=lambda _at, _row, entry: try_admixture(entry),
    answer=lambda request, _at, _row, label: page(request, "book/admixture_answer.html", label=label),
    document=lambda label: label.model_dump(mode="json"),
)  # fmt: skip
router.include_router(routes_of(ADMIXTURE))
