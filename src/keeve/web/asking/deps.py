"""What a route may ask for: the crew that asks, its stores, a job, the reader's units."""

from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from typing import Annotated, Any, Literal, TypeVar
from uuid import UUID

from fastapi import Depends, HTTPException, Request, status
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.orm import Session
from starlette.requests import HTTPConnection

from keeve.catalogue import OWN, Catalogue, JobSheet, load_catalogue
from keeve.core.message.said import mark
from keeve.store.rows.book_store import BookStore, Listed
from keeve.store.rows.crew_store import CrewStore, Seen, crew_named
from keeve.store.rows.day_store import DayStore
from keeve.store.rows.model_store import ModelStore
from keeve.store.rows.photo_store import PhotoStore
from keeve.store.rows.proof_store import ProofStore
from keeve.store.rows.run_store import RunStore
from keeve.store.rows.stock_store import StockStore
from keeve.store.tables import JobRow
from keeve.web.edge.security import cookie
from keeve.words.catalogues import ENGLISH, languages
from keeve.words.reader import Reader, System

T = TypeVar("T")
UNITS_COOKIE = "keeve_units"
NIGHT_COOKIE = "keeve_night"
LANGUAGE_COOKIE = "keeve_language"
NO_JOB = mark("There is no such job here. It may be another crew's, or the address was cut short.")


class CannotBeRead(Exception):  # noqa: N818 - it is no error of ours, it is what a row is
    """A row that cannot be read: shown as what it is, with its raw file."""

    def __init__(self, what: str, titled: str, raw: str, mixer: str = "") -> None:
        super().__init__(what)
        # Plain words only: the session that read the row is gone when this is shown.
        self.what, self.titled, self.raw, self.mixer = what, titled, raw, mixer


# What asks for nothing that could wait is a coroutine: a thread for each of them would cost a page a tenth of its time.


def get_db(request: Request) -> Iterator[Session]:
    """Open a session that commits once, before the answer is sent, if all went well; a page only reads."""
    if request.method in ("GET", "HEAD"):
        with request.app.state.reading() as session:
            yield session
        return
    with request.app.state.sessions.begin() as session:
        yield session


# Scope "function": its exit, and so the commit, runs before the response is sent.
Db = Annotated[Session, Depends(get_db, scope="function")]


def crew_of(request: HTTPConnection) -> UUID:
    """Say who is asking. The one place that real sign-in will replace."""
    known: dict[str, UUID] = request.app.state.crews
    name = request.app.state.settings.crew
    if name not in known:
        with request.app.state.sessions.begin() as session:  # founded for good before anybody remembers it
            found = crew_named(session, name).id
        known[name] = found
    return known[name]


async def get_crew(request: Request) -> UUID:
    """Say who is asking; only the first time does it need the database, and so a thread."""
    known: UUID | None = request.app.state.crews.get(request.app.state.settings.crew)
    return await run_in_threadpool(crew_of, request) if known is None else known


Crew = Annotated[UUID, Depends(get_crew)]


async def get_store(db: Db, crew: Crew) -> CrewStore:
    """Return the jobs of the crew that asks."""
    return CrewStore(db, crew)


Store = Annotated[CrewStore, Depends(get_store, scope="function")]


async def get_runs(db: Db, crew: Crew) -> RunStore:
    """Return the tickets and logs of the crew that asks."""
    return RunStore(db, crew)


Runs = Annotated[RunStore, Depends(get_runs, scope="function")]


async def get_models(db: Db, crew: Crew) -> ModelStore:
    """Return the models being read for the crew that asks."""
    return ModelStore(db, crew)


Models = Annotated[ModelStore, Depends(get_models, scope="function")]


def _found(job_id: str, find: Callable[[UUID], T | None]) -> T:
    try:
        found = find(UUID(job_id))
    except ValueError:
        found = None
    if found is None:
        raise HTTPException(status.HTTP_404_NOT_FOUND, NO_JOB)
    return found


def get_job_or_404(job_id: str, store: Store) -> JobRow:
    """Find a job of the crew that asks."""
    return _found(job_id, store.job)


Job = Annotated[JobRow, Depends(get_job_or_404, scope="function")]


def readable_sheet(request: Request, job: JobRow) -> None:
    """Refuse a job whose sheet cannot be read, and tell where its raw file is."""
    if isinstance(job.sheet, dict):
        return
    mixer = str(request.url_for("mixer", job_id=job.id)) if job.ticket_n else ""
    raw = str(request.url_for("raw_sheet", job_id=job.id))
    raise CannotBeRead(mark("This sheet cannot be read"), job.name, raw, mixer)


async def get_sheeted_job(request: Request, job: Job) -> JobRow:
    """Find a job whose sheet can be read."""
    readable_sheet(request, job)
    return job


SheetedJob = Annotated[JobRow, Depends(get_sheeted_job, scope="function")]


def get_reader(request: HTTPConnection) -> Reader:
    """Say who reads: units and language as their cookies have it; what nobody here set counts as not there."""
    language = cookie(request, LANGUAGE_COOKIE) or ENGLISH
    system: System = "us" if cookie(request, UNITS_COOKIE) == "us" else "metric"
    return Reader(system, language if language in languages() else ENGLISH)


async def read_by(request: Request) -> Reader:
    """Say who reads."""
    return get_reader(request)


ReadBy = Annotated[Reader, Depends(read_by)]


async def get_book(db: Db, crew: Crew) -> BookStore:
    """Return the mix book of the crew that asks."""
    return BookStore(db, crew)


Book = Annotated[BookStore, Depends(get_book, scope="function")]


def get_shelf(book: Book) -> Catalogue:
    """Return the catalogue that ships, with the crew's own mixes and admixtures."""
    return book.shelf(load_catalogue())


Shelf = Annotated[Catalogue, Depends(get_shelf, scope="function")]


def _named(sheet: JobSheet | dict[str, Any]) -> list[Any]:
    """List what a sheet, read or as typed, names of a shelf."""
    if isinstance(sheet, JobSheet):
        labels = (entry.admixture for entry in sheet.admixtures)
        # A start may be said in things of the crew's own: 4 tins of sand.
        begun = f"{OWN}start" if sheet.start else None
        return [sheet.mix, sheet.mixer, sheet.jug, *(sheet.gauges or ()), *sheet.scales, *labels, begun]

    def listed(part: str) -> list[Any]:
        found = sheet.get(part)
        return found if isinstance(found, list) else []

    typed = [entry.get("admixture") for entry in listed("admixtures") if isinstance(entry, dict)]
    named = [*listed("gauges"), *listed("scales"), *typed, f"{OWN}start" if sheet.get("start") else None]
    return [sheet.get("mix"), sheet.get("mixer"), sheet.get("jug"), *named]


def shelf_for(request: HTTPConnection, sheet: JobSheet | dict[str, Any]) -> Catalogue:
    """Return the shelf a sheet needs; one that names nothing of the crew's own is planned without the database."""
    names = _named(sheet)
    if not any(isinstance(name, str) and name.startswith(OWN) for name in names):
        return load_catalogue()
    crew = crew_of(request)
    with request.app.state.reading() as session:
        book = BookStore(session, crew)
        return book.shelf(load_catalogue(), book.revision())


class Desk:
    """All that one write, or one page, needs of the database."""

    def __init__(self, session: Session, crew: UUID) -> None:
        self.store = CrewStore(session, crew)
        self.runs = RunStore(session, crew)
        self.book = BookStore(session, crew)
        self.stock = StockStore(session, crew)
        self.days = DayStore(session, crew)
        self.proofs = ProofStore(session, crew)
        self.photos = PhotoStore(session, crew)
        self._book_n: int | None = None

    def job(self, job_id: str) -> JobRow:
        """Find a job and keep others from writing it."""
        return _found(job_id, lambda key: self.store.job(key, lock=True))

    def seen(self, job_id: str) -> Seen:
        """Find a job to be looked at."""
        found = _found(job_id, self.store.seen)
        self._book_n = found.book_n
        return found

    def book_n(self) -> int:
        """Return the revision of the book, for a page."""
        if self._book_n is None:
            self._book_n = self.book.revision()
        return self._book_n

    def shelf(self) -> Catalogue:
        """Return the catalogue with the crew's own; laid out once for each revision of the book that was looked at."""
        return self.book.shelf(load_catalogue(), self._book_n)

    def unreadable(self) -> tuple[Listed, ...]:
        """Return what is in the book and cannot be read any more."""
        return self.book.unreadable(load_catalogue(), self._book_n)


At = Callable[[], AbstractContextManager[Desk]]


async def get_writing(request: Request, crew: Crew) -> At:
    """Give the way to the desk, in one transaction: a row is locked, read, written and let go in one go.

    A route opens and leaves it in its own body. A lock must never wait for a thread: were it taken in a dependency and
    let go after the route, forty writers of one job could hold every thread of the server and none could finish. Nor
    does it then wait for what somebody still sends.
    """

    @contextmanager
    def desk() -> Iterator[Desk]:
        with request.app.state.sessions.begin() as session:
            yield Desk(session, crew)

    return desk


AtDesk = Annotated[At, Depends(get_writing)]


async def get_looking(request: Request, crew: Crew) -> At:
    """Give the way to the desk for a page, which only reads: without a transaction, each question by itself."""

    @contextmanager
    def desk() -> Iterator[Desk]:
        with request.app.state.reading() as session:
            yield Desk(session, crew)

    return desk


Looking = Annotated[At, Depends(get_looking)]
View = Literal["measure", "mix", "loads"]
