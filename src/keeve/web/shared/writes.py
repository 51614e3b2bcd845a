"""A whole document as typed, written back by a page that knows which version it began from."""

from typing import Any

from pydantic import ConfigDict

from keeve.core.errors import Frozen
from keeve.store.merging import Settled


class Write(Frozen):
    """A sheet as typed, with what it began from."""

    model_config = ConfigDict(extra="ignore")

    sheet: dict[str, Any]
    base: dict[str, Any] = {}
    """The sheet as the page had it last from the server."""
    version: int | None = None


def written(settled: Settled, version: int) -> dict[str, Any]:
    """Tell the page what was kept: its version, and the whole where somebody else had written too."""
    return {
        "version": version,
        "sheet": settled.document if settled.meanwhile else None,
        "clashes": [clash._asdict() for clash in settled.clashes],
    }
