"""No expression is tried on more than a measure is long, whatever somebody sends: counted by what the expressions see."""

import re
import sys
from typing import Any

import pytest
from pydantic import TypeAdapter, ValidationError

from keeve.catalogue import JobSheet, load_catalogue
from keeve.catalogue.trying import try_plan
from keeve.core.measure.reading import MOST_LETTERS, MOST_LIST_LETTERS
from keeve.core.message.errors import TradeError
from keeve.core.message.said import plain
from keeve.core.takeoff.shapes import Shape

CATALOGUE = load_catalogue()
LONG = 20_000
KINDS = {
    "digits": "1" * LONG,
    "spaces": " " * LONG + "x",
    "wet": "5" + " " * LONG + "we",
    "letters": "a" * LONG + "1",
    "doubts": "±" * LONG,
    "signs": "1" + "+-" * (LONG // 2),
    "brackets": "(" * LONG,
    "slashes": "1/" * (LONG // 2),
    "feet": "6'" * (LONG // 2),
    "thousands": "1," * (LONG // 2),
    "fractions": "½ " * (LONG // 2),
    "to": "70 to " * (LONG // 6),
    "units": "1 m3 " * (LONG // 5),
    "braces": "{a}" * (LONG // 3),
}


class Watched:
    """Stands in the place of an expression and remembers the longest text it was tried on."""

    longest = 0

    def __init__(self, pattern: re.Pattern[str]) -> None:
        self._pattern = pattern

    def __getattr__(self, name: str) -> Any:
        real = getattr(self._pattern, name)
        if name not in ("match", "search", "fullmatch", "sub", "findall", "finditer", "split"):
            return real

        def tried(*given: Any, **more: Any) -> Any:
            Watched.longest = max(Watched.longest, len(given[-1] if name == "sub" else given[0]))
            return real(*given, **more)

        return tried


@pytest.fixture
def watched(monkeypatch: pytest.MonkeyPatch) -> type[Watched]:
    for name, module in list(sys.modules.items()):
        if not name.startswith("keeve.core"):
            continue
        for attribute, value in list(vars(module).items()):
            if isinstance(value, re.Pattern) and name != "keeve.core.message.said":  # messages of our own, not typed
                monkeypatch.setattr(module, attribute, Watched(value))
    real_sub, real_search = re.sub, re.search

    def sub(pattern: Any, put: Any, text: str, *more: Any, **named: Any) -> str:
        Watched.longest = max(Watched.longest, len(text))
        return real_sub(pattern, put, text, *more, **named)

    def search(pattern: Any, text: str, *more: Any) -> Any:
        Watched.longest = max(Watched.longest, len(text))
        return real_search(pattern, text, *more)

    monkeypatch.setattr(re, "sub", sub)
    monkeypatch.setattr(re, "search", search)
    Watched.longest = 0
    return Watched


@pytest.mark.parametrize("kind", list(KINDS))
def test_no_shape_lets_an_expression_see_more_than_a_measure(kind: str, watched: type[Watched]) -> None:
    text = KINDS[kind]
    schema = TypeAdapter(Shape).json_schema()
    for model in schema["$defs"].values():
        named = model.get("properties", {}).get("kind", {}).get("const")
        if named is None:
            continue
        for field in model["properties"]:
            if field == "kind":
                continue
            with pytest.raises((ValidationError, TradeError)):
                TypeAdapter(Shape).validate_python({"kind": named, field: text})
    assert watched.longest <= MOST_LETTERS * 2  # a letter may be written out: ½ becomes 1/2


@pytest.mark.parametrize("kind", list(KINDS))
def test_no_field_of_a_sheet_lets_an_expression_see_more_than_a_measure(kind: str, watched: type[Watched]) -> None:
    text = KINDS[kind]
    slab = {"kind": "slab", "length_mm": 1000, "width_mm": 1000, "depth_mm": 100}
    whole: dict[str, Any] = {"shapes": [slab], "mix": "concrete-designed"}
    for field in JobSheet.model_fields:
        for value in (text, [text], {"water_c": text, "sharp-sand": text}, [{"admixture": "retarder", "dose": text}]):
            assert try_plan(whole | {field: value}, CATALOGUE) is not None
    for mix in ("concrete-designed", "casting-plaster-70", "concrete-bag-60lb", "hemp-lime-wall", "pervious", "c270-n"):
        for name in type(CATALOGUE.mixes[mix].basis).model_fields:
            tried = try_plan(whole | {"mix": mix, "changes": {name: text}}, CATALOGUE)
            assert tried.faults or tried.plan
    assert watched.longest <= MOST_LETTERS * 2


@pytest.mark.parametrize(
    "shape",
    [
        {"kind": "floor", "corners": "0 0; " * (MOST_LIST_LETTERS // 4), "depth_mm": 100},
        {"kind": "depths", "readings": "95 " * (MOST_LIST_LETTERS // 2), "length_mm": 3000, "width_mm": 2000},
    ],
    ids=["corners", "depths"],
)
def test_corners_and_depths_as_text_are_bounded_too(shape: dict[str, Any]) -> None:
    tried = try_plan({"shapes": [shape], "mix": "c270-n"}, CATALOGUE)
    assert any("too long" in plain(fault.sentence) for fault in tried.faults)
