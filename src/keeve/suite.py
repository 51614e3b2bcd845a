"""Runs the tests. What failed beside others is tried once more by itself: green then is shaky, and told by name.

As a plugin of pytest it writes down what failed, and how long that took.
"""

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, Final

import pytest

MOST_WORKERS: Final = 4
MOST_SHAKY: Final = 3
"""More than so many have one cause, and it is not a busy machine."""
_TOLD: Final = "KEEVE_FAILED"
_SOME_FAILED: Final = 1


class _Failed:
    """Hears each report of a run."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._took: dict[str, float] = {}

    def pytest_runtest_logreport(self, report: Any) -> None:
        if report.failed:
            self._took[report.nodeid] = self._took.get(report.nodeid, 0.0) + report.duration

    def pytest_collectreport(self, report: Any) -> None:
        if report.failed:  # what cannot even be read is not shaky
            self._took |= {f"{report.nodeid} {n}": 0.0 for n in range(MOST_SHAKY + 1)}

    def pytest_sessionfinish(self) -> None:
        self._path.write_text(json.dumps(self._took), encoding="utf-8")


def pytest_configure(config: pytest.Config) -> None:
    """Write down what fails, where somebody wants to know: in the process that hears of all tests."""
    if _TOLD in os.environ and not hasattr(config, "workerinput"):
        config.pluginmanager.register(_Failed(Path(os.environ[_TOLD])))


def _pytest(root: Path, arguments: list[str], told: Path | None = None) -> int:
    environment = dict(os.environ) | ({_TOLD: str(told)} if told else {})
    named = ["-p", "keeve.suite"] if told else []
    return subprocess.call([sys.executable, "-m", "pytest", *named, *arguments], cwd=root, env=environment)  # noqa: S603


def run(root: Path, arguments: list[str], say: Callable[[str], object] = print) -> int:
    """Run all tests, dealt out to the machine's processors; or those that are named, in one go.

    Parameters
    ----------
    root : folder of the project
    arguments : what is named; the rest of pytest's own words
    say : takes what is told at the end

    Returns
    -------
    0 where all are green, be it at the second try of at most three; else what pytest says
    """
    if arguments:
        return _pytest(root, arguments)
    workers = min(os.cpu_count() or 1, MOST_WORKERS)
    # By whole files in their order: what drives Chromium comes first and stays together.
    dealt = ["-n", str(workers), "--dist", "loadfile", "--no-loadscope-reorder"] if workers > 1 else []
    return again(root, dealt, say)


def again(root: Path, dealt: list[str], say: Callable[[str], object]) -> int:
    """Run once, and what failed once more by itself, in quiet; as `run`."""
    with TemporaryDirectory(prefix="keeve-tests-") as folder:
        told = Path(folder) / "failed.json"
        code = _pytest(root, dealt, told)
        failed: dict[str, float] = json.loads(told.read_text(encoding="utf-8")) if told.exists() else {}
    if code != _SOME_FAILED or not failed or len(failed) > MOST_SHAKY:
        return code
    red = False
    lines = []
    for name, took_s in failed.items():
        began = time.monotonic()
        found = _pytest(root, ["-q", name])
        red |= found != 0
        lines.append(f"{'RED  ' if found else 'SHAKY'} {name}: {took_s:.1f} s and red beside others, ")
        lines[-1] += f"{time.monotonic() - began:.1f} s and {'red' if found else 'green'} by itself"
    say("\n".join(lines))
    return code if red else 0
