"""What a route may ask for: the crew's store, a job, the reader's units."""

from collections.abc import Iterator
from typing import Annotated, Literal, cast
from uuid import UUID

from fastapi import Depends, HTTPException, Request, status
from sqlalchemy.orm import Session

from keeve.catalogue import Catalogue, JobSheet, load_catalogue
from keeve.core.units import System
from keeve.store.book_store import OWN, BookStore
from keeve.store.crew_store import CrewStore, crew_named
from keeve.store.tables import JobRow

UNITS_COOKIE = "keeve_units"
NIGHT_COOKIE = "keeve_night"
NO_JOB = "There is no such job here. It may be another crew's, or the address was cut short."


def get_db(request: Request) -> Iterator[Session]:
    """Open a session that commits once, before the answer is sent, if all went well."""
    with request.app.state.sessions.begin() as session:
        yield session


# Scope "function": its exit, and so the commit, runs before the response is sent.
Db = Annotated[Session, Depends(get_db, scope="function")]


def get_store(request: Request, db: Db) -> CrewStore:
    """Say who is asking. The one place that real sign-in will replace."""
    return CrewStore(db, crew_named(db, request.app.state.settings.crew).id)


Store = Annotated[CrewStore, Depends(get_store, scope="function")]


def get_job_or_404(job_id: str, store: Store) -> JobRow:
    """Find a job of the crew that asks."""
    try:
        job = store.job(UUID(job_id))
    except ValueError:
        job = None
    if job is None:
        raise HTTPException(status.HTTP_404_NOT_FOUND, NO_JOB)
    return job


Job = Annotated[JobRow, Depends(get_job_or_404, scope="function")]


def get_units(request: Request) -> System:
    """Return the reader's units."""
    return "us" if request.cookies.get(UNITS_COOKIE) == "us" else "metric"


Units = Annotated[System, Depends(get_units)]


def get_book(store: Store, db: Db) -> BookStore:
    """Return the mix book of the crew that asks."""
    return BookStore(db, store.crew_id)


Book = Annotated[BookStore, Depends(get_book, scope="function")]


def get_shelf(book: Book) -> Catalogue:
    """Return the catalogue that ships, with the crew's own mixes and admixtures."""
    return book.shelf(load_catalogue())


Shelf = Annotated[Catalogue, Depends(get_shelf, scope="function")]


def shelf_for(request: Request, sheet: JobSheet) -> Catalogue:
    """Return the shelf a sheet needs; one that names nothing of the crew's own is planned without the database."""
    names = [sheet.mix, *(entry.admixture for entry in sheet.admixtures)]
    if not any(isinstance(name, str) and name.startswith(OWN) for name in names):
        return load_catalogue()
    with request.app.state.sessions.begin() as session:
        crew = crew_named(session, request.app.state.settings.crew)
        return BookStore(session, crew.id).shelf(load_catalogue())


View = Literal["measure", "mix", "loads"]


def as_view(value: str | None) -> View | None:
    """Read the name of a station that shows an answer."""
    return cast("View", value) if value in ("measure", "mix", "loads") else None
