"""Reads one uploaded file in a process of its own: python -m keeve.formats.reading.file_reader KIND PATH.

Started and bounded by `bounded`. Prints one JSON document a line: {"stage", "share"} while it works, at last
{"result"} or {"faults"}. With --serve it loads all its libraries, and splits off one of itself for each file.
"""

import gc
import importlib
import json
import resource
import sys
from pathlib import Path
from typing import Any

from keeve.core.message.errors import TradeError
from keeve.core.message.said import Said, mark, words_json
from keeve.formats.reading.warm import SERVES, serve


def _say(document: dict[str, Any]) -> None:
    sys.stdout.write(json.dumps(document) + "\n")
    sys.stdout.flush()


def read(kind: str, path: Path) -> Any:
    """Read a file of a kind: csv, xlsx, dxf, photo, stl, obj or ply.

    Raises
    ------
    TakeoffError : it cannot be read, in words
    """
    # A list needs no mesh library, and start-up is what people wait for: each reader is loaded when it is needed.
    if kind == "csv":
        return importlib.import_module("keeve.formats.reading.shape_list").read_csv(path.read_bytes())
    if kind == "xlsx":
        return importlib.import_module("keeve.formats.reading.shape_list").read_xlsx(path)
    if kind == "dxf":
        return importlib.import_module("keeve.formats.reading.dxf_outlines").read_dxf(path).model_dump(mode="json")
    if kind == "photo":
        return dict(importlib.import_module("keeve.formats.reading.photo").read_photo(path))
    reader = importlib.import_module("keeve.formats.reading.mesh")
    return reader.read_mesh(path, kind, lambda stage, share: _say({"stage": stage, "share": share})).model_dump()


def main() -> int:
    """Read and print."""
    if sys.argv[1] == SERVES:
        for name in ("shape_list", "dxf_outlines", "mesh", "photo"):
            importlib.import_module(f"keeve.formats.reading.{name}")
        gc.freeze()
        for kind, path in serve():
            _read(kind, path)
    else:
        _read(sys.argv[1], Path(sys.argv[2]))
    return 0


def _read(kind: str, path: Path) -> None:
    try:
        _say({"result": read(kind, path), "peak_bytes": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024})
    except TradeError as error:
        _say({"faults": [{"sentence": words_json(f.sentence), "hint": words_json(f.hint)} for f in error.faults]})
    except MemoryError:
        _say(
            {
                "faults": [
                    {
                        "sentence": mark("This file needs more memory than it may have."),
                        "hint": mark("Make it smaller."),
                    }
                ]
            }
        )
    except Exception:  # libraries that read foreign files fail in ways nobody can list
        said = Said("This {kind} file is damaged.", kind=kind.upper())
        _say({"faults": [{"sentence": said.json(), "hint": mark("Save or export it again.")}]})


if __name__ == "__main__":
    sys.exit(main())
