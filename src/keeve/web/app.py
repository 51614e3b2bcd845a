"""Builds the app from its settings."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import APIRouter, FastAPI
from fastapi.responses import PlainTextResponse
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session, sessionmaker
from starlette.middleware.gzip import GZipMiddleware

from keeve import __version__
from keeve.formats.reading.kept_files import sweep
from keeve.store.database import make_engine
from keeve.web.asking.deps import Db
from keeve.web.beside import before, book, clocks, day, glossary, jobs, paper, patterns, yard
from keeve.web.drawings.given import DRAWINGS
from keeve.web.edge.answers import REFUSALS, TOLD_ONCE
from keeve.web.edge.bodies import Bodies
from keeve.web.edge.bounds import Visitors
from keeve.web.edge.guard import Guard
from keeve.web.edge.logs import set_up_logs
from keeve.web.edge.settings import Settings
from keeve.web.edge.static_files import StaticFiles
from keeve.web.pages import faults
from keeve.web.pages.press import Press
from keeve.web.pages.remembered import Pages
from keeve.web.pages.render import lend
from keeve.web.stations import answering, line, loads, look_back, measure, mix, mixer
from keeve.web.stations.mixer.stream import listening
from keeve.web.ways_in import api, devices, imports, lan, offline, programs

# A page is its package, and its name here. Order decides nothing but how soon an address is found: no two overlap.
_PAGES = (
    measure, mix, loads, mixer, jobs, look_back,
    before, day, book, yard, paper, glossary, clocks, patterns,
    api, devices, imports, lan, offline, programs,
)  # fmt: skip


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
    lend(DRAWINGS)
    for router in (*(router for one in _PAGES for router in one.ROUTERS), answering.router, line.router):
        app.include_router(router)
    app.mount("/static", StaticFiles(), name="static")

    app.include_router(_health)

    app.add_middleware(Bodies, refused=faults.refused)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=4)
    app.add_middleware(Guard, hosts=settings.named_hosts(), said_by_http=faults.said_by_http, unknown=faults.unknown)
    return app
