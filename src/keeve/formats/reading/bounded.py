"""Runs a reader of uploaded files in a process that may neither take long nor swell."""

import json
import resource
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any, Final

from keeve.core.message.errors import Code, Fault, TakeoffError
from keeve.core.message.said import Amount, Said, mark, read_words
from keeve.formats.reading.warm import Split, split

READER: Final = ("-m", "keeve.formats.reading.file_reader")
MOST_BYTES: Final = 2_500_000_000
LIST_SECONDS: Final = 20.0
MESH_SECONDS: Final = 180.0


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
        self._late = False
        self._ended = threading.Event()
        self._most_seconds = most_seconds
        most_cpu_s = int(most_seconds) + 5  # should we be gone, it ends all the same
        split_off = split(kind, path, most_bytes, most_cpu_s) if reader == READER else None
        self._process = split_off or _started(*reader, kind, str(path), most_bytes=most_bytes, most_cpu_s=most_cpu_s)
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
        self._ended.set()
        if self.result is None and not self.faults:
            self.faults = [self._why()]
        self.done.set()

    def _hear(self, line: str) -> None:
        try:
            said = json.loads(line)
        except ValueError:
            return
        if "pid" in said and isinstance(self._process, Split):
            self._process.is_called(said["pid"])
        self.stage, self.share = said.get("stage", self.stage), said.get("share", self.share)
        self.result = said.get("result", self.result)
        self.peak_bytes = said.get("peak_bytes", self.peak_bytes)
        self.faults = said.get("faults", self.faults)

    def _watch(self) -> None:
        if not self._ended.wait(self._most_seconds):
            self._late = True  # a flag of its own: lines that were on the way still set the stage
            self._process.kill()

    def _why(self) -> dict[str, Any]:
        if self._cancelled:
            return {"sentence": mark("Stopped."), "hint": mark("Nothing was taken in.")}
        if self._late:
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


def _started(*arguments: str, most_bytes: int, most_cpu_s: int) -> "subprocess.Popen[str]":
    process = subprocess.Popen(  # noqa: S603 - our own reader, the path is ours
        [sys.executable, *arguments],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    for what, most in (
        (resource.RLIMIT_AS, most_bytes), (resource.RLIMIT_CORE, 0), (resource.RLIMIT_CPU, most_cpu_s)
    ):  # fmt: skip
        resource.prlimit(process.pid, what, (most, most))
    return process


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
