"""Everything the app can be told from outside, as one typed object."""

import secrets
from pathlib import Path

from pydantic import BaseModel, ConfigDict


class Settings(BaseModel):
    """How one app runs."""

    model_config = ConfigDict(frozen=True)

    database_url: str
    secret: str
    """Signs the visitor's token; the same for all processes that share a database."""
    crew: str = "Our yard"
    """The crew that is signed in until there is a sign-in."""


def kept_secret(folder: Path) -> str:
    """Read the app's secret, making it the first time."""
    path = folder / "secret"
    if not path.exists():
        folder.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(32), encoding="utf-8")
    return path.read_text(encoding="utf-8").strip()
