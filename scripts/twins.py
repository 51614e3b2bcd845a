"""Writes down for the scripts what they share with the core: kinds and constants, and the types of documents.

    .keeve/venv/bin/python scripts/twins.py

A test fails where what lies beside the scripts is not what this writes.
"""

from typing import Any, Final

from pydantic import TypeAdapter

from keeve.core.hardening import clock
from keeve.core.lessons import learning, moisture_filter
from keeve.core.materials import heap_dose, looks
from keeve.core.run import brief, clocks, counting, events, state, teaching
from keeve.core.run.models import Run
from keeve.core.ticket import rescue
from keeve.core.ticket.ticket import Ticket
from keeve.web.edge.static_files import STATIC
from keeve.web.stations.mixer.run_document import RunDocument

CONSTANTS: Final[dict[str, Any]] = {
    "OF_LOAD": events.OF_LOAD,
    "VERSION": brief.VERSION,
    "MARK_SLACK": brief.MARK_SLACK,
    "SAME_TAP_MS": counting.SAME_TAP_MS,
    "DAY_MS": clocks.DAY_MS,
    "NEAR": teaching.NEAR,
    "ROOM": state.ROOM,
    "OVER_L": state.OVER_L,
    "SMALLEST_SHARE": rescue.SMALLEST_SHARE,
    "MOST_AT_ONCE_L": events.MOST_AT_ONCE_L,
    "PLASTER_REF_C": clock.PLASTER_REF_C,
    "PLASTER_FASTEST_C": clock.PLASTER_FASTEST_C,
    "PACE_LEAST": clock.PACE_BELIEVED[0],
    "PACE_MOST": clock.PACE_BELIEVED[1],
}
CONSTANTS |= {
    name: getattr(where, name)
    for where, names in (
        (heap_dose, "KNOTS_PERCENT HALVINGS"),
        (looks, "SAND_LOOKS"),
        (learning, "HOUR_MS NIGHT_H PAN_WINDOW_PERCENT AHEAD_H RESCUED_PERCENT LEAST_L HEAPS"),
        (
            moisture_filter,
            "FIELD_PERCENT DRAINS_PER_H SLOPE_LASTS_H SCATTER_PERCENT LOOK_PERCENT PAN_PERCENT RIGHT_SHARE EYE_SHARE FIRST_SDS "
            "UNSEEN_VAR GRID WIDE HARDLY NATURES FORGETS FORESEEN_PERCENT CEILING_SDS LIMIT_SDS",
        ),
    )
    for name in names.split()
}
_HEAD: Final = "// Written by scripts/twins.py from the core: change it there.\n\n"


def _value(value: Any) -> str:
    if isinstance(value, dict):
        return f"{{ {', '.join(f'{key}: {_value(one)}' for key, one in value.items())} }}"
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, tuple) and not isinstance(value[0], str):
        return f"[{', '.join(_value(tuple(one) if isinstance(one, tuple) else one) for one in value)}]"
    if isinstance(value, tuple):
        return f"new Set([{', '.join(f'{chr(34)}{one}{chr(34)}' for one in value)}])"
    return f"{value:.12g}" if isinstance(value, float) else str(value)


def constants() -> str:
    """Return the module of constants."""
    return _HEAD + "".join(f"export const {name} = {_value(value)};\n" for name, value in CONSTANTS.items())


_PLAIN: Final = {"string": "string", "number": "number", "integer": "number", "boolean": "boolean", "null": "null"}


def _type(schema: dict[str, Any]) -> str:
    if "$ref" in schema or "named" in schema:
        return str(schema.get("named", schema.get("$ref"))).rsplit("/", 1)[-1]
    listed = schema.get("enum", [schema["const"]] if "const" in schema else [])
    if listed:
        return " | ".join(f'"{one}"' if isinstance(one, str) else str(one) for one in listed)
    several = schema.get("anyOf", schema.get("oneOf"))
    if several is not None:
        return " | ".join(dict.fromkeys(_type(one) for one in several))
    kind = schema.get("type", "")
    return _PLAIN.get(kind) or (_list(schema) if kind == "array" else _object(schema))


def _list(schema: dict[str, Any]) -> str:
    if "prefixItems" in schema:
        return f"[{', '.join(_type(one) for one in schema['prefixItems'])}]"
    return f"Array<{_type(schema.get('items', {}))}>"


def _object(schema: dict[str, Any]) -> str:
    if "properties" not in schema:
        more = schema.get("additionalProperties")
        return "any" if more is None else f"Record<string, {_type(more) if isinstance(more, dict) else 'any'}>"
    wanted = schema.get("required", ())
    fields = [f"{name}{'' if name in wanted else '?'}: {_type(one)}" for name, one in schema["properties"].items()]
    return "{ " + "; ".join(fields) + " }"


def types() -> str:
    """Return the types of a ticket, an entry of the log, a run, and what the run page is given."""
    named = {"Ticket": Ticket, "Event": events.Event, "Run": Run, "RunDocument": RunDocument}
    found: dict[str, str] = {}
    for name, what in named.items():
        schema = TypeAdapter(what).json_schema(mode="serialization")
        for inner, one in schema.pop("$defs", {}).items():
            found[inner] = _type(one)
        found[name] = _type(schema)
    return _HEAD + "\n".join(f"export type {name} = {said};" for name, said in sorted(found.items())) + "\n"


FILES: Final = {"run/constants.js": constants, "documents.d.ts": types}


def main() -> None:
    """Write them."""
    for name, made in FILES.items():
        (STATIC / name).write_text(made(), encoding="utf-8")


if __name__ == "__main__":
    main()
