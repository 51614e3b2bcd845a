"""The house stays small enough to hold in the head: functions, modules and the lines of templates."""

import ast
from collections.abc import Iterator
from pathlib import Path

import keeve

HOME = Path(keeve.__file__).parent
MOST_LINES = 40
MOST_MODULE_LINES = 400
MOST_LETTERS = 160
# A released migration is never edited.
CODE = [path for path in HOME.rglob("*.py") if "migrations" not in path.parts]
TEMPLATES = list(HOME.rglob("*.html"))


def functions(path: Path) -> Iterator[tuple[str, int]]:
    """Each function with the lines of its body; what its docstring says does not count."""
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            body = node.body[1:] if ast.get_docstring(node) is not None else node.body
            yield node.name, (body[-1].end_lineno or 0) - body[0].lineno + 1 if body else 0


def test_no_function_is_longer_than_a_screen() -> None:
    found = [f"{path.name} {name}: {lines}" for path in CODE for name, lines in functions(path) if lines > MOST_LINES]
    assert found == []


def test_no_module_is_longer_than_can_be_read_in_one_go() -> None:
    long = {
        path.name: n for path in CODE if (n := len(path.read_text(encoding="utf-8").splitlines())) > MOST_MODULE_LINES
    }
    assert long == {}


def test_no_line_of_a_template_runs_off_the_screen() -> None:
    found = [
        f"{path.relative_to(HOME)}:{number}: {len(line)}"
        for path in TEMPLATES
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
        if len(line) > MOST_LETTERS
    ]
    assert found == []
