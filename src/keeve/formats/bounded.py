"""Runs a reader of uploaded files in a process that may neither take long nor swell."""

import contextlib
import json
import resource
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

from keeve.core.errors import Code, Fault, TakeoffError
from keeve.core.said import Amount, Said, mark, read_words

READER: Final = ("-m", "keeve.formats.file_reader")
WAITS: Final = "--wait"
MOST_BYTES: Final = 2_500_000_000
LIST_SECONDS: Final = 20.0
MESH_SECONDS: Final = 180.0
_POLL_S: Final = 0.05


class BoundedReader:
    """One file being read; asked for its state from other threads."""

    def __init__(
        self,
        kind: str,
        path: Path,
        *,
        most_seconds: float,
        most_bytes: int = MOST_BYTES,
        reader: tuple[str, ...] = READER,
    ) -> None:
        self.stage = "waiting"
        self.share = 0.0
        self.result: Any = None
        self.peak_bytes = 0
        self.faults: list[dict[str, Any]] = []
        self.done = threading.Event()
        self._cancelled = False
        self._most_seconds = most_seconds
        warm = _Warm.one() if reader == READER else None
        self._process = warm or _started(*reader, kind, str(path))
        most_cpu_s = int(most_seconds) + 5  # should we be gone, it ends all the same
        for what, most in (
            (resource.RLIMIT_AS, most_bytes), (resource.RLIMIT_CORE, 0), (resource.RLIMIT_CPU, most_cpu_s)
        ):  # fmt: skip
            resource.prlimit(self._process.pid, what, (most, most))
        if warm is not None:
            _tell(warm, json.dumps([kind, str(path)]))
        threading.Thread(target=self._follow, daemon=True).start()

    def cancel(self) -> None:
        """Stop reading; nothing is kept."""
        self._cancelled = True
        self._process.kill()

    def _follow(self) -> None:
        threading.Thread(target=self._watch, daemon=True).start()
        assert self._process.stdout is not None  # noqa: S101 - asked for above
        with self._process.stdout as lines:
            for line in lines:
                self._hear(line)
        self._process.wait()
        if self.result is None and not self.faults:
            self.faults = [self._why()]
        self.done.set()

    def _hear(self, line: str) -> None:
        try:
            said = json.loads(line)
        except ValueError:
            return
        self.stage, self.share = said.get("stage", self.stage), said.get("share", self.share)
        self.result = said.get("result", self.result)
        self.peak_bytes = said.get("peak_bytes", self.peak_bytes)
        self.faults = said.get("faults", self.faults)

    def _watch(self) -> None:
        ends = time.monotonic() + self._most_seconds
        while time.monotonic() < ends and self._process.poll() is None:
            time.sleep(_POLL_S)
        if self._process.poll() is None:
            self.stage = "too long"
            self._process.kill()

    def _why(self) -> dict[str, Any]:
        if self._cancelled:
            return {"sentence": mark("Stopped."), "hint": mark("Nothing was taken in.")}
        if self.stage == "too long":
            return {
                "sentence": Said(
                    "Reading this file took longer than {n} s, and was stopped.",
                    n=Amount(self._most_seconds, "whole"),
                ).json(),
                "hint": mark("Export it coarser or smaller."),
            }
        return {
            "sentence": mark("This file could not be read within the memory it may have."),
            "hint": mark("Export it coarser or smaller, or check that it is the right file."),
        }


def _started(*arguments: str) -> "subprocess.Popen[str]":
    return subprocess.Popen(  # noqa: S603 - our own reader, the path is ours
        [sys.executable, *arguments],
        stdin=subprocess.PIPE if WAITS in arguments else subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )


def _tell(process: "subprocess.Popen[str]", line: str) -> None:
    """Say something to a reader that may be dead already; then its silence is the answer."""
    assert process.stdin is not None  # noqa: S101 - asked for when it was started
    with contextlib.suppress(BrokenPipeError), process.stdin as lines:
        lines.write(line + "\n")


class _Warm:
    """A reader that has loaded its libraries and waits for its one file: loading is most of what a small file costs."""

    kept = False
    _waiting: "subprocess.Popen[str] | None" = None
    _lock = threading.Lock()

    @classmethod
    def one(cls) -> "subprocess.Popen[str] | None":
        """Take the one that waits, if any, and let the next get warm."""
        if not cls.kept:
            return None
        with cls._lock:
            taken, cls._waiting = cls._waiting, _started(*READER, WAITS)
        return taken if taken is not None and taken.poll() is None else None

    @classmethod
    def end(cls) -> None:
        """Let the one that waits go."""
        with cls._lock:
            waiting, cls._waiting, cls.kept = cls._waiting, None, False
        if waiting is not None:
            waiting.kill()
            waiting.communicate()


@contextlib.contextmanager
def warm_readers() -> Iterator[None]:
    """Keep a reader warm meanwhile."""
    _Warm.kept = True
    _Warm.one()
    try:
        yield
    finally:
        _Warm.end()


_ROOM: Final = threading.BoundedSemaphore(3)
"""So many lists and drawings are read at once."""
_WAIT_S: Final = 8.0


def read_now(kind: str, path: Path) -> Any:
    """Read a small file and wait for it.

    Raises
    ------
    TakeoffError : what is wrong with it, or that others are being read
    """
    if not _ROOM.acquire(timeout=_WAIT_S):
        raise TakeoffError(
            Fault(Code.TOO_MANY, "Several files are being read just now.", "Wait a moment and send it again.")
        )
    try:
        return _read_now(kind, path)
    finally:
        _ROOM.release()


def _read_now(kind: str, path: Path) -> Any:
    reading = BoundedReader(kind, path, most_seconds=LIST_SECONDS)
    reading.done.wait(LIST_SECONDS + 5)
    if reading.result is None:
        raise TakeoffError(
            *(Fault(Code.UNREADABLE, read_words(f["sentence"]), read_words(f["hint"])) for f in reading.faults)
        )
    return reading.result
