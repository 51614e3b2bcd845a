"""Builds the app from its settings."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import APIRouter, FastAPI
from fastapi.responses import PlainTextResponse
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session, sessionmaker
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from keeve import __version__
from keeve.formats.kept_files import sweep
from keeve.store.database import make_engine
from keeve.web import faults
from keeve.web.answers import REFUSALS, TOLD_ONCE
from keeve.web.api.routes import router as api
from keeve.web.before.air import router as air
from keeve.web.before.routes import router as before
from keeve.web.bodies import Bodies
from keeve.web.book.own_admixtures import router as own_admixtures
from keeve.web.book.routes import router as book
from keeve.web.book.sands import router as sands
from keeve.web.bounds import Visitors
from keeve.web.clocks.routes import router as clocks
from keeve.web.day.routes import router as day
from keeve.web.day.today import router as at_home
from keeve.web.deps import Db
from keeve.web.devices.routes import router as devices
from keeve.web.glossary.routes import router as glossary
from keeve.web.guard import Guard
from keeve.web.imports.models import router as models
from keeve.web.imports.routes import router as imports
from keeve.web.jobs.place import router as place
from keeve.web.jobs.routes import router as jobs
from keeve.web.lan.routes import router as lan
from keeve.web.loads.routes import router as loads
from keeve.web.logs import set_up_logs
from keeve.web.look_back.afterwards import router as afterwards
from keeve.web.look_back.crew_log import router as crew_log
from keeve.web.look_back.notes import router as notes
from keeve.web.look_back.own import router as own
from keeve.web.look_back.pin import router as pin
from keeve.web.look_back.proofs import router as proofs
from keeve.web.look_back.record import router as record
from keeve.web.look_back.routes import router as look_back
from keeve.web.look_back.traced import router as traced
from keeve.web.measure.routes import router as measure
from keeve.web.mix.routes import router as mix
from keeve.web.mixer.routes import router as mixer
from keeve.web.mixer.stream import listening
from keeve.web.offline.routes import router as offline
from keeve.web.paper.press import Press
from keeve.web.paper.routes import router as paper
from keeve.web.patterns.routes import router as patterns
from keeve.web.programs.routes import router as programs
from keeve.web.remembered import Pages
from keeve.web.render import STATIC
from keeve.web.settings import Settings
from keeve.web.shared.line import router as line
from keeve.web.shared.routes import router as sheet
from keeve.web.yard.archive import router as archive
from keeve.web.yard.routes import router as yard
from keeve.web.yard.stock import router as stock

# In the order they are asked whether an address is theirs: what is opened most comes first, for each asks all its own.
# Whose addresses overlap, the narrower comes first: the crew's own before a mix of the book by its key.
_OPENED_MOST = (measure, mix, loads, mixer, look_back, jobs)
_BOOK = (sands, own_admixtures, book)
_STATIONS = (
    line, sheet, imports, models, proofs, notes, pin, traced, afterwards, record, crew_log, own,
)  # fmt: skip
_ROUTERS = (
    *_OPENED_MOST,
    *_BOOK,
    *_STATIONS,
    place,
    before,
    air,
    day,
    at_home,
    glossary,
    yard,
    stock,
    archive,
    clocks,
    devices,
    offline,
    lan,
    programs,
    paper,
    patterns,
    api,
)


_health = APIRouter(tags=["health"], responses=REFUSALS)


@_health.get("/healthz", response_class=PlainTextResponse, responses=TOLD_ONCE)
async def healthz() -> str:
    """Say that the server lives."""
    return "well"


@_health.get("/readyz", response_class=PlainTextResponse)
def readyz(db: Db) -> str:
    """Say that the server can reach its database; 503 where it cannot."""
    db.execute(text("select 1"))
    return "ready"


class _Files(StaticFiles):
    """Static files whose address carries their hash never change under it."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        answer = await super().get_response(path, scope)
        hashed = b"v=" in scope.get("query_string", b"")
        answer.headers["cache-control"] = "public, max-age=31536000, immutable" if hashed else "public, max-age=3600"
        return answer


def _reading(engine: Engine) -> sessionmaker[Session]:
    """Return the sessions of pages, which only read.

    A page asks two or three things: by itself each, which is what PostgreSQL's own isolation would show it anyway, and
    without opening and closing a transaction round them.
    """
    alone = engine.execution_options(isolation_level="AUTOCOMMIT")
    return sessionmaker(alone, expire_on_commit=False, autoflush=False)


def give_state(app: FastAPI) -> None:
    """Give the app what all its requests share, as it is when nobody has asked yet."""
    engine = app.state.engine
    app.state.crews = {}
    app.state.followers = []
    app.state.sessions = sessionmaker(engine, expire_on_commit=False)
    app.state.reading = _reading(engine)
    app.state.pages = Pages()
    app.state.visitors = Visitors()
    app.state.press = Press()


def make_app(settings: Settings) -> FastAPI:
    """Build the app; its engine is closed when it stops."""
    set_up_logs()
    engine = make_engine(settings.database_url)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        sweep()
        try:
            async with listening(app, settings.database_url):
                yield
        finally:
            for follower in app.state.followers:
                follower.leave()
            app.state.press.close()
            engine.dispose()

    # The usual page of documentation loads scripts from outside; /openapi.json stays.
    app = FastAPI(
        title="Keeve",
        version=__version__,
        description="Sizes batches of concrete, mortar and plaster. Send a job sheet, get a plan to mix from.",
        docs_url=None,
        redoc_url=None,
        lifespan=lifespan,
    )
    app.state.settings, app.state.engine = settings, engine
    give_state(app)
    faults.install(app)
    for router in _ROUTERS:
        app.include_router(router)
    app.mount("/static", _Files(directory=STATIC), name="static")

    app.include_router(_health)

    app.add_middleware(Bodies)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=4)
    app.add_middleware(Guard, hosts=settings.named_hosts())
    return app
