"""Errors are values of the trade: a sentence a mixer understands, and the way out."""

from dataclasses import KW_ONLY, dataclass, replace
from enum import StrEnum
from typing import Final

from pydantic import BaseModel, ConfigDict
from pydantic_core import ErrorDetails, ValidationError

from keeve.core.message.said import Amount, Said, Words, mark, plain


class Frozen(BaseModel):
    """Base of every document that goes into or comes out of the core: checked once, then unchangeable."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, use_attribute_docstrings=True)


class Code(StrEnum):
    """What kind of thing went wrong, for programs; people read the sentence."""

    UNREADABLE = "unreadable"
    MISSING = "missing"
    UNKNOWN = "unknown"
    OUT_OF_RANGE = "out_of_range"
    DOES_NOT_FIT = "does_not_fit"
    INVERTED = "inverted"
    TOO_WET = "too_wet"
    REFUSED = "refused"
    TOO_SMALL = "too_small"
    TOO_MANY = "too_many"


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing that is wrong: where, what, by how much, and the way out."""

    code: Code
    sentence: Words
    hint: Words = ""
    _: KW_ONLY
    field: str = ""
    value: float | str | None = None
    limit: float | None = None
    unit: str = ""
    """Unit of `value` and `limit`."""

    def under(self, prefix: str) -> "Fault":
        """Return the same fault with its field moved below `prefix`.

        >>> Fault(Code.TOO_SMALL, "too small", field="depth_mm").under("shapes.0").field
        'shapes.0.depth_mm'
        """
        return replace(self, field=".".join(p for p in (prefix, self.field) if p))


class TradeError(ValueError):
    """A request the trade refuses; carries one or more faults."""

    def __init__(self, *faults: Fault) -> None:
        super().__init__(" ".join(f"{plain(f.sentence)} {plain(f.hint)}".strip() for f in faults))
        self.faults = faults


class UnitError(TradeError):
    """Something typed could not be read as a measure."""


class TakeoffError(TradeError):
    """The shapes to fill do not make sense."""


class MixError(TradeError):
    """The mix cannot be made as stated."""


class LoadError(TradeError):
    """The mix cannot be dosed with what is at hand."""


def faults_of(error: ValidationError | list[ErrorDetails]) -> tuple[Fault, ...]:
    """Turn what Pydantic refuses at the door into faults with a sentence each.

    Parameters
    ----------
    error : what `model_validate` raised, or its list of details (as FastAPI hands it on)

    Returns
    -------
    one fault per refused field, its path written with dots, union tags left out
    """
    details = error if isinstance(error, list) else error.errors(include_url=False)
    faults = [fault for detail in details for fault in _faults(detail)]
    # A list whose entries are refused counts as too short as well; the entries' own faults say it better.
    blamed = {f.field.rsplit(".", n)[0] for f in faults for n in range(1, f.field.count(".") + 1)}
    return tuple(f for f in faults if not (f.field in blamed and f.field.endswith("shapes")))


_PLAIN: Final = {
    "missing": (Code.MISSING, mark("This is still to be filled in.")),
    "extra_forbidden": (Code.UNKNOWN, mark("This is not something that belongs here.")),
    "union_tag_invalid": (Code.UNKNOWN, mark("This kind of shape is not known.")),
    "union_tag_not_found": (Code.MISSING, mark("Say which kind of shape this is.")),
    "too_short": (Code.MISSING, mark("Something is missing here: add a row.")),
    "too_long": (Code.TOO_MANY, mark("That is more than can be held here: split it.")),
    "int_parsing": (Code.UNREADABLE, mark("Write a whole number, such as 4.")),
    "int_from_float": (Code.UNREADABLE, mark("Write a whole number, such as 4.")),
    "date_from_datetime_parsing": (Code.UNREADABLE, mark("Write a day as year-month-day, like 2026-09-14.")),
    "date_parsing": (Code.UNREADABLE, mark("Write a day as year-month-day, like 2026-09-14.")),
    "date_type": (Code.UNREADABLE, mark("Write a day as year-month-day, like 2026-09-14.")),
    "finite_number": (Code.OUT_OF_RANGE, mark("Write an ordinary number.")),
    "string_too_short": (Code.MISSING, mark("This is still to be filled in.")),
    "string_too_long": (Code.OUT_OF_RANGE, mark("This text is too long: shorten it.")),
    "json_invalid": (Code.UNREADABLE, mark("This is not a readable JSON document.")),
}


HINTS: Final[dict[str, Words]] = {}
"""Said with a bound broken, by the field's name: rooms that know a field enter theirs (`refusals`)."""
MISSING: Final[dict[str, Words]] = {}
"""Said of a field that is still to be filled in, by its whole path, where there is more to say; entered likewise."""


def _faults(detail: ErrorDetails) -> tuple[Fault, ...]:
    # A tagged union puts the tag of the branch it tried into the path; people never typed it.
    path = [str(p) for p in detail["loc"] if p != "body"]
    context = detail.get("ctx", {})
    if isinstance(context.get("error"), TradeError):
        return tuple(fault.under(_dotted(path)) for fault in context["error"].faults)
    kind = detail["type"]
    code, sentence = _PLAIN.get(kind, (Code.UNREADABLE, mark("This cannot be read.")))
    said: Words = MISSING.get(".".join(path), sentence) if kind == "missing" else sentence
    hint: Words = ""
    if kind.startswith("greater_than"):
        code, said = Code.OUT_OF_RANGE, Said("This must be at least {bound}.", bound=_bound(context, path))
    elif kind.startswith("less_than"):
        code, said = Code.OUT_OF_RANGE, Said("This must be at most {bound}.", bound=_bound(context, path))
    elif kind in ("literal_error", "enum"):
        code, said = Code.UNKNOWN, Said("Choose one of: {known}.", known=str(context["expected"]))
    if code == Code.OUT_OF_RANGE:
        hint = HINTS.get(path[-1] if path else "", "")
    return (Fault(code, said, hint, field=_dotted(path), value=_short(detail.get("input"))),)


_UNITS: Final = {
    "_kg_m3": "kg/m³",
    "_kg": "kg",
    "_mm": "mm",
    "_l": "L",
    "_percent": "%",
    "_mpa": "MPa",
    "_c": "°C",
    "_min": "min",
}
"""The end of a field's name says its unit; the first that fits counts."""


def _bound(context: dict[str, object], path: list[str]) -> Amount:
    bound = next(iter(context.values()))
    field = path[-1] if path else ""
    unit = next((unit for end, unit in _UNITS.items() if field.endswith(end)), "")
    return Amount(float(bound) if isinstance(bound, int | float) else 0.0, unit)


def _dotted(path: list[str]) -> str:
    # Tags of unions are written with a leading colon by the models (Tag(":slab")), so they can be dropped here.
    return ".".join(p for p in path if not p.startswith(":"))


_READABLE = 1e300
"""Past this a number says nothing more, and no JSON document may be able to carry it."""


def _short(value: object) -> str | float | None:
    if isinstance(value, int | float):
        return float(value) if abs(value) < _READABLE else None
    return str(value)[:60] if isinstance(value, str) else None
