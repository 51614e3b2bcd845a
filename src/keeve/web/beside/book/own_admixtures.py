"""Admixtures: those that ship, and the crew's own by the label of the can."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request, status
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from keeve.catalogue.trying import pruned
from keeve.core.message.errors import Code, Fault, MixError, faults_of
from keeve.core.message.said import verbatim
from keeve.core.mixes.admixtures import Admixture
from keeve.web.asking.deps import Book, Looking, ReadBy, Shelf
from keeve.web.edge.answers import GOES, PAGE, REFUSALS
from keeve.web.edge.security import OwnPage
from keeve.web.pages.faults import fault_rows
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import page
from keeve.web.pages.typed import typed as typed_document

router = APIRouter(responses=REFUSALS)
FIELDS = ("name", "form", "density_kg_l", "solids_percent", "least", "most", "unit", "when", "chloride")
Entered = Annotated[str, Form(max_length=80)]


def _read(typed: dict[str, Any]) -> Admixture:
    given = pruned(typed)
    commas = {k: v.replace(",", ".") if k in ("density_kg_l", "solids_percent", "least", "most") else v
              for k, v in given.items()}  # fmt: skip
    named: dict[str, Any] = {"key": "new", "source": "the can's label"}
    if given.get("name"):
        named["name"] = verbatim(given["name"])
    label = Admixture.model_validate(commas | named)
    if label.least > label.most:
        raise MixError(
            Fault(Code.INVERTED, "The least dose is more than the most.", "Exchange the two.", "least", label.least)
        )
    return label


@router.get("/book/own/admixtures", name="admixtures", **PAGE)
def admixtures(request: Request, desk: Looking) -> Response:
    """List the admixtures, with an empty form for one more."""
    with desk() as at:
        return remembered(
            request, ("admixtures",), at.book_n(),
            lambda: page(request, "book/admixtures.html", shelf=at.shelf(), **_form({}, {})),
        )  # fmt: skip


def _form(typed: dict[str, str], said: dict[str, str]) -> dict[str, Any]:
    return {"typed": typed_document(typed), "faults": typed_document(said)}


@router.post("/book/own/admixtures", name="new_admixture", dependencies=[OwnPage], **GOES)
def new_admixture(
    request: Request,
    book: Book,
    shelf: Shelf,
    reader: ReadBy,
    name: Entered = "",
    form: Entered = "liquid",
    density_kg_l: Entered = "",
    solids_percent: Entered = "",
    least: Entered = "",
    most: Entered = "",
    unit: Entered = "mL/100 kg",
    when: Entered = "in the water",
    chloride: Entered = "",
) -> Response:
    """Write the label of a can into the book."""
    given = (name.strip(), form, density_kg_l, solids_percent, least, most, unit, when, chloride)
    typed = dict(zip(FIELDS, given, strict=True))
    try:
        label = _read(typed)
    except (ValidationError, MixError) as error:
        faults = error.faults if isinstance(error, MixError) else faults_of(error)
        said = {row["field"]: f"{row['sentence']} {row['hint']}".strip() for row in fault_rows(faults, reader)}
        wrong = status.HTTP_422_UNPROCESSABLE_CONTENT
        return page(request, "book/admixtures.html", status=wrong, shelf=shelf, **_form(typed, said))
    book.add("admixture", typed, label.model_dump(mode="json"))
    return RedirectResponse(request.url_for("admixtures"), status.HTTP_303_SEE_OTHER)


@router.post("/book/own/admixtures/{key}/away", name="put_admixture_away", dependencies=[OwnPage], **GOES)
def put_admixture_away(request: Request, key: str, book: Book) -> Response:
    """Take an admixture of the crew's own out of the book."""
    row = book.entry("admixture", key)
    if row is not None:
        book.put_away(row, away=True)
    return RedirectResponse(request.url_for("admixtures"), status.HTTP_303_SEE_OTHER)
