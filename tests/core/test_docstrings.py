"""The house rule: what is public in the core says its units and its source, in sections that can be read by a program."""

import importlib
import inspect
import pkgutil
import re
from collections.abc import Iterator
from types import FunctionType
from typing import get_args

import pytest

import keeve.core

UNIT_NAME = re.compile(r"_(mm|mm2|m2|m3|l|kg|min|s|ms|percent|per_m3|per_dry|kg_m3|kg_m2|l_min|mpa|c|share)$")
UNIT = re.compile(r"\[[^\]]+\]|\bunits?\b")
SECTION = re.compile(r"^([A-Z][a-z ]+)\n-{3,}$", re.MULTILINE)
SOURCE = re.compile(
    r"arithmetic|[Cc]ommon practice|[Oo]wn (assumption|estimate)|from memory|NIST SP \d|(ACI|ASTM|EN|IS|ISO|BS|IEC) \w?\d"
    r"|OGC simple features|own source|methods named|[Aa]s `\w+"
)


def sections(text: str) -> dict[str, str]:
    """A docstring by its sections; what stands before the first one is under ""."""
    parts = SECTION.split(inspect.cleandoc(text))
    return {"": parts[0]} | dict(zip(parts[1::2], parts[2::2], strict=True))


def without_examples(text: str) -> str:
    """An example shows how to call a thing; it proves no source."""
    return text.split(">>>", maxsplit=1)[0]


def public() -> Iterator[tuple[str, FunctionType]]:
    """Each public function and method of the core, once, where it is written."""
    for module in pkgutil.walk_packages(keeve.core.__path__, "keeve.core."):
        for name, thing in vars(importlib.import_module(module.name)).items():
            if name.startswith("_") or getattr(thing, "__module__", "") != module.name:
                continue
            if isinstance(thing, FunctionType):
                yield f"{module.name}.{name}", thing
            elif isinstance(thing, type):
                for method, held in vars(thing).items():
                    inner = held.fget if isinstance(held, property) else getattr(held, "__func__", held)
                    if not method.startswith("_") and isinstance(inner, FunctionType) and inner.__name__ == method:
                        yield f"{module.name}.{name}.{method}", inner


PUBLIC = list(public())


def is_float(annotation: object) -> bool:
    return annotation in (float, "float") or float in get_args(annotation)


def described(function: FunctionType) -> str:
    return inspect.getdoc(function) or ""


def test_there_is_something_to_look_at() -> None:
    names = {name for name, _ in PUBLIC}
    assert "keeve.core.dosing.water.account" in names
    assert "keeve.core.proportions.bases.kit.Kit.held_l" in names
    assert len(names) > 200


@pytest.mark.parametrize(("name", "function"), PUBLIC)
def test_what_is_public_is_described_with_its_units(name: str, function: FunctionType) -> None:
    text = described(function)
    assert text, f"{name} has no docstring"
    found = sections(text)
    for parameter in inspect.signature(function).parameters.values():
        if is_float(parameter.annotation) and not UNIT_NAME.search(parameter.name):
            # A docstring of a few lines has no sections: a unit in it is meant for all it takes.
            given = found.get("Parameters")
            lines = (
                [found[""]]
                if given is None
                else [line for line in given.splitlines() if re.search(rf"\b{parameter.name}\b", line)]
            )
            assert any(UNIT.search(line) for line in lines), f"{name}: {parameter.name} has no unit"
    if is_float(inspect.signature(function).return_annotation) and not UNIT_NAME.search(function.__name__):
        said = found.get("Returns", found[""])
        assert UNIT.search(said), f"{name}: what it returns has no unit"


def works_something_out(function: FunctionType) -> bool:
    """A method that gives a figure with a unit; one that hands on what its class holds need not say whence."""
    returned = inspect.signature(function).return_annotation
    simple = len(inspect.getsource(function).replace(described(function), "").splitlines()) <= 4
    return is_float(returned) and not simple


@pytest.mark.parametrize(("name", "function"), PUBLIC)
def test_what_works_something_out_names_its_source(name: str, function: FunctionType) -> None:
    of_class = name.split(".")[-2][:1].isupper()
    if name.startswith(("keeve.core.message.errors.", "keeve.core.message.said.")) or (
        of_class and not works_something_out(function)
    ):
        return
    found = sections(described(function))
    source = found.get("References", found[""])
    assert SOURCE.search(without_examples(source)), f"{name} names no source"
