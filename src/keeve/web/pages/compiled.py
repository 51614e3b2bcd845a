"""Keeps templates as they were compiled, from one start to the next: to compile them all takes seconds."""

import contextlib
import hashlib
import shutil
from pathlib import Path
from typing import Final

import jinja2
from jinja2 import BytecodeCache, FileSystemBytecodeCache
from jinja2.bccache import Bucket

from keeve.words.catalogues import ENGLISH, FOLDER

_COMPILED_BY: Final = Path(__file__).with_name("translated.py")


class _Kept(FileSystemBytecodeCache):
    """Files in a folder; where none can be read or written, each start compiles anew."""

    def load_bytecode(self, bucket: Bucket) -> None:
        """Read one template, unless its file is spoilt."""
        with contextlib.suppress(OSError):
            super().load_bytecode(bucket)

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Keep one template, unless the disk is full."""
        with contextlib.suppress(OSError):
            super().dump_bytecode(bucket)


def kept_pages(home: Path, language: str) -> BytecodeCache | None:
    """Return where the compiled templates of a language are kept; None for one that is made up as it is read.

    What they were compiled with, and into which words, is in the folder's name: a new version, or a new translation,
    begins another and takes the old one away.
    """
    words = FOLDER / f"{language}.po"
    if language != ENGLISH and not words.exists():
        return None
    with_what = hashlib.sha256(f"{jinja2.__version__}\n".encode() + _COMPILED_BY.read_bytes())
    if words.exists():
        with_what.update(words.read_bytes())
    folder = home / "pages" / f"{language}-{with_what.hexdigest()[:16]}"
    try:
        for old in folder.parent.glob(f"{language}-*"):
            if old != folder:
                shutil.rmtree(old, ignore_errors=True)
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError:
        return None
    return _Kept(str(folder))
