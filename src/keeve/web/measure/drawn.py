"""Draws the shapes of a sheet one by one, as far as each can be read, whether the sheet can be planned or not."""

from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter, ValidationError

from keeve.catalogue.trying import Tried, pruned
from keeve.core.errors import TradeError
from keeve.core.takeoff import Shape
from keeve.web.drawing import hatch_of

_SHAPE: TypeAdapter[Any] = TypeAdapter(Shape)
MOST_DRAWN = 200


@dataclass(frozen=True, slots=True)
class Drawn:
    """One shape of the sheet, ready to be drawn."""

    shape: Any = None
    """None where it cannot be read yet."""
    wrong: bool = False
    """Whether its measures cannot be true together."""
    hatch: str = "sand"


def hatch_for(tried: Tried) -> str:
    """Choose the hatch of what the mix holds most of."""
    if tried.plan is None:
        return "sand"
    most = max(tried.plan.proportions.constituents, key=lambda c: c.dry_kg_m3)
    return hatch_of(most.material.role)


def drawn(typed_shapes: Any, hatch: str) -> list[Drawn]:
    """Read each shape as typed; what cannot be read has no drawing."""
    found = []
    listed = typed_shapes if isinstance(typed_shapes, list) else []
    for typed in listed[:MOST_DRAWN]:
        try:
            shape = _SHAPE.validate_python(pruned(typed))
        except (ValidationError, TradeError):
            found.append(Drawn())
            continue
        try:
            shape.volume()
            found.append(Drawn(shape, hatch=hatch))
        except TradeError:
            found.append(Drawn(shape, wrong=True, hatch=hatch))
    found += [Drawn()] * (len(listed) - len(found))
    return found
