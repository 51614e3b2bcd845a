"""Lays pages out in processes of their own: whoever reads a page meanwhile waits for none of it.

A printer loads its libraries once and prints one page after the other; it ends when whom it prints for is gone.
"""

import contextlib
import json
import os
import resource
import signal
import struct
import subprocess
import sys
import threading
from importlib import import_module
from pathlib import Path
from typing import IO, Final

MOST_S: Final = 60.0
MOST_BYTES: Final = 2_000_000_000
_HEAD: Final = struct.Struct("!BQ")
_DONE, _NO_PANGO, _FAILED = range(3)


class CannotPrint(Exception):  # noqa: N818 - what is said of it depends on why
    """A page was not laid out."""


class NoPango(CannotPrint):
    """What draws paper is not on this machine."""


class Stopped(CannotPrint):
    """Nobody wants it any more, or it took too long."""


class Printer:
    """One process that prints."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "keeve.formats.writing.printing"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            start_new_session=True,  # Ctrl-C is for whom it prints for
        )
        with contextlib.suppress(OSError, ValueError):
            resource.prlimit(self._process.pid, resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))

    def lay_out(self, html: str, paper: str, folder: Path, style: str) -> bytes:
        """Lay a page out, and wait for it.

        Raises
        ------
        NoPango : this machine lacks what draws paper
        Stopped : it was ended, or took too long
        CannotPrint : the page cannot be laid out
        """
        asked = json.dumps([html, paper, str(folder), style]).encode()
        late = threading.Timer(MOST_S, self.end)
        late.start()
        try:
            _write(self._process.stdin, asked)
            how, given = _read(self._process.stdout)
        except (OSError, EOFError):
            self.end()
            raise Stopped from None
        finally:
            late.cancel()
        if how == _DONE:
            return given
        raise NoPango if how == _NO_PANGO else CannotPrint(given.decode())

    @property
    def alive(self) -> bool:
        """Whether it may print another page."""
        return self._process.poll() is None

    def end(self) -> None:
        """End it, whatever it is doing."""
        self._process.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                with contextlib.suppress(OSError):
                    pipe.close()


def _write(to: IO[bytes] | None, what: bytes, how: int = _DONE) -> None:
    if to is None:
        raise EOFError
    to.write(_HEAD.pack(how, len(what)) + what)
    to.flush()


def _read(frm: IO[bytes] | None) -> tuple[int, bytes]:
    head = frm.read(_HEAD.size) if frm is not None else b""
    if frm is None or len(head) < _HEAD.size:
        raise EOFError
    how, length = _HEAD.unpack(head)
    given = frm.read(length)
    if len(given) < length:
        raise EOFError
    return how, given


def _serve() -> None:
    """Be a printer."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    asked, answers = os.fdopen(os.dup(0), "rb"), os.fdopen(os.dup(1), "wb")
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)  # nothing else is written between answers
    while True:
        try:
            _, given = _read(asked)
        except EOFError:
            return
        try:
            # Loaded when somebody prints: it takes a third of a second, and the libraries it stands on may be missing.
            pdf = import_module("keeve.formats.writing.pdf")
            html, paper, folder, style = json.loads(given)
            _write(answers, pdf.as_pdf(html, paper, Path(folder), style))
        except OSError as error:
            _write(answers, str(error).encode(), _NO_PANGO)
        except Exception as error:  # whatever it is, the next page may be in order
            _write(answers, f"{type(error).__name__}: {error}".encode(), _FAILED)


if __name__ == "__main__":
    with contextlib.suppress(BrokenPipeError):
        _serve()
