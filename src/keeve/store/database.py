"""The engine, and bringing a database up to date."""

from importlib import resources

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine


def make_engine(url: str) -> Engine:
    """Make the engine; connections lost while the database was down are noticed and replaced."""
    if url.startswith("postgres://"):
        url = "postgresql" + url.removeprefix("postgres")
    # FastAPI runs up to 40 routes at once in threads: the pool is about as large.
    return create_engine(url, pool_pre_ping=True, pool_size=10, max_overflow=30, connect_args={"connect_timeout": 3})


def migrate(engine: Engine) -> None:
    """Bring the database's tables to this version's form."""
    folder = resources.files("keeve.store") / "migrations"
    config = Config()
    config.set_main_option("script_location", str(folder))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
