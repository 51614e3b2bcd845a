"""A whole document as typed, written back by a page that knows which version it began from."""

from typing import Annotated, Any

from pydantic import BeforeValidator, ConfigDict

from keeve.core.message.errors import Frozen
from keeve.store.rows.merging import Merged
from keeve.words.beside import with_units

Typed = Annotated[dict[str, Any], BeforeValidator(with_units)]
"""A document as a page sends it, the units beside its fields put in."""


class Write(Frozen):
    """A sheet as typed, with what it began from."""

    model_config = ConfigDict(extra="ignore")

    sheet: Typed
    base: Typed = {}
    """The sheet as the page had it last from the server."""
    version: int | None = None


def written(settled: Merged, version: int) -> dict[str, Any]:
    """Tell the page what was kept: its version, and the whole where somebody else had written too."""
    return {
        "version": version,
        "sheet": settled.document if settled.meanwhile else None,
        "clashes": [clash._asdict() for clash in settled.clashes],
    }
