"""Draws the shapes of a sheet one by one, as far as each can be read, whether the sheet can be planned or not."""

from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter, ValidationError

from keeve.catalogue.trying import Tried, pruned
from keeve.core.message.errors import Code, TradeError
from keeve.core.takeoff import Shape
from keeve.web.drawing import hatch_of
from keeve.web.measure.samples import letters, sample
from keeve.words.beside import MEANT

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
    said: dict[str, str] | None = None
    """Of a sketch: what stands in the place of each measure, a letter or what was entered already."""

    @property
    def measured(self) -> bool:
        """Whether it is a shape with measures that can be true."""
        return self.shape is not None and not self.wrong and self.said is None


def sketch(typed: Any) -> Drawn:
    """Draw what is not measured yet as its kind looks, with a letter for each measure."""
    kind = typed.get("kind") if isinstance(typed, dict) else None
    shape = sample(kind) if isinstance(kind, str) else None
    if shape is None:
        return Drawn()
    said = {}
    for field, letter in letters(shape.kind).items():
        entered: Any = typed
        for part in field.split("."):
            entered = entered.get(part) if isinstance(entered, dict) else None
        said[field] = str(entered).replace(MEANT, " ")[:12] if entered not in (None, "") else letter
    return Drawn(shape, said=said)


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
            found.append(sketch(typed))
            continue
        try:
            shape.volume()
            found.append(Drawn(shape, hatch=hatch))
        except TradeError as error:
            unfinished = all(fault.code == Code.MISSING for fault in error.faults)
            found.append(sketch(typed) if unfinished else Drawn(shape, wrong=True, hatch=hatch))
    found += [Drawn()] * (len(listed) - len(found))
    return found
