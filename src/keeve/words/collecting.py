"""Collects every message there is, for the catalogues: from Python by its tree, from data, pages and scripts.

A message must stand as it is: what is put together at run time cannot be translated, and is reported as wrong.
"""

import ast
import io
import re
import tomllib
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Final, NamedTuple

from babel.messages.catalog import Catalog
from babel.messages.pofile import write_po
from jinja2 import Environment, nodes

from keeve.catalogue.texts import msg_of, texts_in
from keeve.core.message.said import Msg, fields

HOME: Final = Path(__file__).resolve().parents[1]

# Calls whose arguments are messages: by place, and by name.
SAYS: Final[dict[str, tuple[tuple[int, ...], tuple[str, ...]]]] = {
    "Said": ((0,), ()),
    "mark": ((0,), ()),
    "measured": ((0,), ()),
    "Given": ((0,), ()),
    "mm": ((0,), ()),
    "Fault": ((1, 2), ("sentence", "hint")),
    "Working": ((), ("figure", "formula", "source")),
    "missing": ((1,), ("sentence",)),
    "does_not_fit": ((0, 1), ()),
    "SumError": ((0,), ()),
    "door": ((), ("too_low", "too_high")),
    "_refused": ((0, 1), ()),
    "_step": ((0, 1, 5), ()),
    "t": ((1,), ()),
    "HTTPException": ((1,), ("detail",)),
    "tell": ((0,), ()),
    "Ask": ((1, 3), ("label", "hint")),
    "Pick": ((1, 2), ("label",)),
    "Asked": ((1, 3), ("label", "hint")),
    "AskedList": ((2, 3), ()),
    "_form": ((1, 2), ()),
}
SAYS_MANY: Final = "many"


class Found(NamedTuple):
    """A message and the file it stands in."""

    msg: Msg
    where: str


class Wrong(NamedTuple):
    """A place where a message is put together at run time."""

    where: str
    what: str


def _literal(node: ast.expr) -> Iterator[ast.expr]:
    """Unfold what a choice may come to; of pairs, as a field's options are, what people read is the second."""
    if isinstance(node, ast.Tuple):
        for one in node.elts:
            yield from _literal(one.elts[-1] if isinstance(one, ast.Tuple) and one.elts else one)
    elif isinstance(node, ast.IfExp):
        yield from _literal(node.body)
        yield from _literal(node.orelse)
    else:
        yield node


def _called(node: ast.Call) -> str:
    return node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")


def _said_in(call: ast.Call) -> Iterator[ast.expr]:
    places, names = SAYS[_called(call)]
    for at in places:
        if at < len(call.args):
            yield from _literal(call.args[at])
    for given in call.keywords:
        if given.arg in names:
            yield from _literal(given.value)


def from_python(path: Path) -> tuple[list[Found], list[Wrong]]:
    """Collect the messages of a Python file, and what no catalogue could translate."""
    where = str(path.relative_to(HOME))
    found: list[Found] = []
    wrong: list[Wrong] = []
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if not isinstance(node, ast.Call):
            continue
        if _called(node) == SAYS_MANY and len(node.args) >= 3:
            one, other = node.args[:2]
            if isinstance(one, ast.Constant) and isinstance(other, ast.Constant):
                found.append(Found((str(one.value), str(other.value)), where))
        elif _called(node) in SAYS:
            for said in _said_in(node):
                if isinstance(said, ast.Constant) and isinstance(said.value, str):
                    found.append(Found(said.value, where))
                elif isinstance(said, ast.JoinedStr | ast.BinOp):
                    wrong.append(Wrong(f"{where}:{said.lineno}", ast.unparse(said)))
    return [one for one in found if one.msg], wrong


def from_data(path: Path) -> list[Found]:
    """Collect the texts of a catalogue's records that people read."""
    where = str(path.relative_to(HOME))
    return [Found(msg_of(text), where) for text in texts_in(tomllib.loads(path.read_text(encoding="utf-8")))]


_TEXT: Final = r"""(?P<q{0}>["'])(?P<msg{0}>(?:\\.|(?!(?P=q{0})).)*)(?P=q{0})"""
_ONE: Final = re.compile(r"(?<![\w.])t\(\s*" + _TEXT.format(1), re.DOTALL)
_MANY: Final = re.compile(r"(?<![\w.])many\(\s*" + _TEXT.format(1) + r"\s*,\s*" + _TEXT.format(2), re.DOTALL)


def _plain(text: str) -> str:
    return re.sub(r"\\(.)", r"\1", text)


def from_page(path: Path) -> tuple[list[Found], list[Wrong]]:
    """Collect the messages of a template: what its calls of `t` and `many` are given."""
    where = str(path.relative_to(HOME))
    found: list[Found] = []
    wrong: list[Wrong] = []
    for call in Environment(autoescape=True).parse(path.read_text(encoding="utf-8")).find_all(nodes.Call):
        name = call.node.name if isinstance(call.node, nodes.Name) else ""
        if name not in ("t", SAYS_MANY):
            continue
        said = call.args[: 2 if name == SAYS_MANY else 1]
        texts = [one.value for one in said if isinstance(one, nodes.Const)]
        if len(texts) != len(said):
            wrong.append(Wrong(f"{where}:{call.lineno}", name))
        elif name == SAYS_MANY:
            found.append(Found((texts[0], texts[1]), where))
        else:
            found.append(Found(texts[0], where))
    return found, wrong


def from_script(path: Path) -> list[Found]:
    """Collect the messages of a script: t("…") and many("…", "…", n)."""
    where, text = str(path.relative_to(HOME)), path.read_text(encoding="utf-8")
    found = [Found(_plain(one["msg1"]), where) for one in _ONE.finditer(text)]
    return found + [Found((_plain(one["msg1"]), _plain(one["msg2"])), where) for one in _MANY.finditer(text)]


def sources(suffix: str) -> Iterator[Path]:
    """Find the files of a kind that are ours."""
    return (path for path in sorted(HOME.rglob(f"*{suffix}")) if not {"vendor", "migrations"} & set(path.parts))


def collect() -> tuple[list[Found], list[Wrong]]:
    """Collect every message there is, and what cannot be one."""
    found: list[Found] = []
    wrong: list[Wrong] = []
    for path in sources(".py"):
        here, not_here = from_python(path)
        found += here
        wrong += not_here
    for path in (HOME / "catalogue" / "data").glob("*.toml"):
        found += from_data(path)
    for path in sources(".html"):
        here, not_here = from_page(path)
        found += here
        wrong += not_here
    for path in sources(".js"):
        found += from_script(path)
    return found, wrong


def catalog(found: Iterable[Found]) -> Catalog:
    """Put messages into a catalogue, each with the files it stands in."""
    made = Catalog(fuzzy=False)
    where: dict[Msg, set[str]] = {}
    for msg, path in found:
        where.setdefault(msg, set()).add(path)
    for msg, paths in sorted(where.items(), key=lambda one: (min(one[1]), str(one[0]))):
        flags = ["python-brace-format"] if fields(msg if isinstance(msg, str) else msg[1]) else []
        made.add(msg, locations=[(path, None) for path in sorted(paths)], flags=flags)  # type: ignore[misc]
    return made


def written(messages: Catalog) -> bytes:
    """Write a catalogue the way it is kept: no dates, no lines of code, so that only messages change it."""
    file = io.BytesIO()
    write_po(file, messages, width=0, omit_header=True, include_lineno=False)
    return file.getvalue()
