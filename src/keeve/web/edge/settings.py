"""Everything the app can be told from outside, as typed objects; what is not given comes from the environment."""

import os
import re
import secrets
from pathlib import Path
from typing import Final

from pydantic import AliasChoices, Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from keeve.core.message.errors import MixError
from keeve.formats.reading.forecast import zone_of

LEAST_SECRET: Final = 16


class Settings(BaseSettings):
    """How one app runs: KEEVE_SECRET, KEEVE_CREW and DATABASE_URL, where they are not given."""

    model_config = SettingsConfigDict(frozen=True, env_prefix="KEEVE_")

    database_url: str = Field(validation_alias=AliasChoices("database_url", "DATABASE_URL"))
    secret: str
    """Signs the visitor's token; the same for all processes that share a database."""
    crew: str = "Our yard"
    """The crew that is signed in until there is a sign-in."""
    hosts: str = "127.0.0.1, localhost, *.localhost, [::1]"
    """Names and addresses Keeve is opened by, with commas between; KEEVE_HOSTS. Others are somebody else's page."""

    proxy: str = ""
    """Addresses of proxies whose word is taken on whom they ask for, with commas between; KEEVE_PROXY."""
    devices: str = ""
    """Real scales and meters, `key = kind @ ws://127.0.0.1:port/` with semicolons between; KEEVE_DEVICES."""
    lan: str = ""
    """Where phones of the network come in, if they may: https://…; set by the start command."""
    trust: str = ""
    """Where a phone is told how to trust it."""

    def named_hosts(self) -> tuple[str, ...]:
        """Return each of the hosts."""
        return tuple(one for one in re.split(r"[,\s]+", self.hosts.lower()) if one)


class Places(BaseSettings):
    """Where one installation lives: KEEVE_ROOT, KEEVE_HOME and KEEVE_PORT; DATABASE_URL for a server of one's own."""

    model_config = SettingsConfigDict(frozen=True, env_prefix="KEEVE_")

    root: Path = Path(__file__).resolve().parents[4]
    home: Path = Path()
    """Where the database and the secret are kept; empty is beside the program."""
    port: int = Field(8765, ge=1, le=65535)
    """Tried first; the next free one is taken."""
    database_url: str = Field("", validation_alias="DATABASE_URL")

    def model_post_init(self, _: object) -> None:
        """Keep everything beside the program where no other place is named."""
        if self.home == Path():
            object.__setattr__(self, "home", self.root / ".keeve")


def kept_secret(folder: Path) -> str:
    """Read the app's secret; it is made the first time, and anew where a full disk left it empty."""
    path = folder / "secret"
    folder.mkdir(parents=True, exist_ok=True)
    if not _secret_in(path):
        new = folder / f"secret.{os.getpid()}.{secrets.token_hex(4)}"
        new.touch(mode=0o600)
        new.write_text(secrets.token_urlsafe(32), encoding="utf-8")
        try:
            new.replace(path) if path.exists() else os.link(new, path)
        except FileExistsError:
            pass  # another start was quicker: there is one secret for both
        finally:
            new.unlink(missing_ok=True)
    return _secret_in(path)


def _secret_in(path: Path) -> str:
    try:
        kept = path.read_text(encoding="utf-8").strip()
    except (FileNotFoundError, UnicodeDecodeError):
        return ""
    return kept if len(kept) >= LEAST_SECRET else ""


def here() -> str:
    """Return the time zone of this machine by its name."""
    place = Path("/etc/localtime")
    parts = place.resolve().parts if place.exists() else ()
    name = "/".join(parts[parts.index("zoneinfo") + 1 :]) if "zoneinfo" in parts else "UTC"
    try:
        zone_of(name)
    except MixError:
        return "UTC"
    return name
