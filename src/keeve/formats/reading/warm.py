"""A process that has loaded the readers' libraries and splits off one of itself for each file.

Loading them is most of what a small file costs. It is asked over a socket: a line says what to read and within what
bounds, and beside it travels the end of a pipe to answer on.
"""

import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Final

SERVES: Final = "--serve"
_LINE: Final = 65536


class Split:
    """One reader that was split off."""

    def __init__(self, answers: IO[str]) -> None:
        self.stdout: IO[str] = answers
        self._pid: int | None = None
        self._killed = False

    def is_called(self, pid: int) -> None:
        """Learn its process, which it says first."""
        self._pid = pid
        if self._killed:
            self.kill()

    def kill(self) -> None:
        """End it; if it has not yet said who it is, as soon as it does."""
        self._killed = True
        if self._pid is not None:
            with contextlib.suppress(ProcessLookupError):
                os.kill(self._pid, signal.SIGKILL)

    def wait(self) -> None:
        """Nothing to wait for: its answers have ended, and whom it was split off from sweeps up."""
        self._pid = None


class _Keeper:
    """The process that splits, while somebody wants it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._line: socket.socket | None = None
        self._wanted = 0

    def split(self, kind: str, path: Path, most_bytes: int, most_cpu_s: int) -> Split | None:
        """Let a file be read; None where there is nobody to ask."""
        asked = json.dumps([kind, str(path), most_bytes, most_cpu_s]).encode()
        with self._lock:
            if self._line is None:
                return None
            answers, end = os.pipe()
            try:
                socket.send_fds(self._line, [asked], [end])
            except OSError:  # it died: the next start is warm again
                os.close(answers)
                self._stop()
                self._start()
                return None
            finally:
                os.close(end)
        return Split(os.fdopen(answers, encoding="utf-8"))

    def begin(self) -> None:
        with self._lock:
            self._wanted += 1
            if self._line is None:
                self._start()

    def end(self) -> None:
        with self._lock:
            self._wanted -= 1
            if not self._wanted:
                self._stop()

    def _start(self) -> None:
        mine, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        with theirs:
            self._process = subprocess.Popen(  # noqa: S603 - our own reader
                [sys.executable, "-m", "keeve.formats.reading.file_reader", SERVES],
                stdin=theirs.fileno(),
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                start_new_session=True,  # Ctrl-C is for whoever keeps it
                env=os.environ | {"OPENBLAS_NUM_THREADS": "1"},  # what has threads cannot be split
            )
        self._line = mine

    def _stop(self) -> None:
        if self._line is not None:
            self._line.close()
        if self._process is not None:
            self._process.kill()
            self._process.wait()
        self._process = self._line = None


_keeper = _Keeper()
split = _keeper.split


@contextlib.contextmanager
def warm_readers() -> Iterator[None]:
    """Keep readers warm meanwhile."""
    _keeper.begin()
    try:
        yield
    finally:
        _keeper.end()


def serve() -> Iterator[tuple[str, Path]]:
    """Be the process that splits: yields, in each that was split off, what it is to read.

    Ends, in the one that splits, when nobody asks any more.
    """
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # those split off are swept up by themselves
    line = socket.socket(fileno=os.dup(0))
    while True:
        asked, ends, _, _ = socket.recv_fds(line, _LINE, 1)
        if not asked:
            return
        if os.fork() == 0:
            line.close()
            kind, path, most_bytes, most_cpu_s = json.loads(asked)
            os.dup2(ends[0], 1)
            _bound(most_bytes, most_cpu_s)
            print(json.dumps({"pid": os.getpid()}), flush=True)  # noqa: T201
            yield kind, Path(path)
            os._exit(0)
        for end in ends:
            os.close(end)


def _bound(most_bytes: int, most_cpu_s: int) -> None:
    import ctypes  # noqa: PLC0415 - only who was split off needs them
    import resource  # noqa: PLC0415

    ctypes.CDLL(None).prctl(1, int(signal.SIGKILL))  # PR_SET_PDEATHSIG: it does not outlive whom it was split off from
    for what, most in (
        (resource.RLIMIT_AS, most_bytes), (resource.RLIMIT_CORE, 0), (resource.RLIMIT_CPU, most_cpu_s)
    ):  # fmt: skip
        resource.setrlimit(what, (most, most))
