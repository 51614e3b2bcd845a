"""What failed on a busy machine is tried once more by itself: green is told as shaky, red stays red."""

from pathlib import Path

import pytest

from keeve import suite
from tests.prose import PROSE

GREEN_AT_SECOND = """
    from pathlib import Path
    def test_shaky_{n}():
        before = Path("tried-{n}")
        if not before.exists():
            before.touch()
            raise AssertionError("busy")
"""


@pytest.mark.parametrize(
    ("bodies", "code", "told"),
    [
        (["def test_good():\n    pass"], 0, []),
        ([GREEN_AT_SECOND] * 3, 0, ["SHAKY test_0.py", "SHAKY test_1.py", "SHAKY test_2.py"]),
        ([GREEN_AT_SECOND] * 4, 1, []),
        ([GREEN_AT_SECOND, "def test_bad():\n    assert False"], 1, ["SHAKY test_0.py", "RED   test_1.py::test_bad"]),
        (["import nothing_of_the_kind", GREEN_AT_SECOND], 2, []),
    ],
    ids=["green", "three shaky", "four are no accident", "red stays red", "what cannot be read"],
)
def test_what_fails_is_tried_once_more_by_itself(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, bodies: list[str], code: int, told: list[str]
) -> None:
    monkeypatch.setenv("PYTEST_DISABLE_PLUGIN_AUTOLOAD", "1")  # they take longer to load than these tests
    for n, body in enumerate(bodies):
        lines = body.replace("{n}", str(n)).strip("\n").splitlines()
        indent = len(lines[0]) - len(lines[0].lstrip())
        (tmp_path / f"test_{n}.py").write_text("\n".join(line[indent:] for line in lines))
    said: list[str] = []
    assert suite.again(tmp_path, ["-q", "-p", "no:cacheprovider"], said.append) == code
    lines = "\n".join(said).splitlines()
    assert [line.startswith(words) for line, words in zip(lines, told, strict=True)] == [True] * len(told)
    assert all(PROSE["red-beside-others"] in line and "by itself" in line for line in lines)
