"""Where uploaded files lie while they are read: a folder of this process, gone with it."""

import atexit
import os
import re
import shutil
import tempfile
import threading
from pathlib import Path
from typing import IO, Any, Final

_PREFIX: Final = "keeve-files-"
_NAMED: Final = re.compile(rf"{_PREFIX}(\d+)-\w+")
_folders: dict[str, Path] = {}
_lock = threading.Lock()


def _folder() -> Path:
    with _lock:
        where = tempfile.gettempdir()
        if where not in _folders or not _folders[where].exists():
            made = Path(tempfile.mkdtemp(prefix=f"{_PREFIX}{os.getpid()}-", dir=where))
            _folders[where] = made
            atexit.register(shutil.rmtree, made, ignore_errors=True)
        return _folders[where]


def new_file(kind: str) -> IO[Any]:
    """Open a new file to keep an upload of a kind in; whoever asked takes it away."""
    return tempfile.NamedTemporaryFile(suffix=f".{kind}", dir=_folder(), delete=False)


def sweep() -> int:
    """Take away what processes left that are no more; returns how many folders."""
    swept = 0
    for folder in Path(tempfile.gettempdir()).glob(f"{_PREFIX}*"):
        named = _NAMED.fullmatch(folder.name)
        if named is None or Path(f"/proc/{named[1]}").exists() or folder.is_symlink():
            continue
        shutil.rmtree(folder, ignore_errors=True)
        swept += 1
    return swept
