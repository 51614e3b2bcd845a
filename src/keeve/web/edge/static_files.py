"""Files that ship with the pages: read once, without their comments, under an address that names all as they are.

An address holds the hash of the whole tree, so that a module finds those it imports beside it, of its own day; what
asks for another tree's files is told that they are not here.
"""

import gzip
import hashlib
import mimetypes
import re
from functools import cache
from pathlib import Path
from typing import Final

from fastapi import HTTPException, status
from markupsafe import Markup
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import Receive, Scope, Send

STATIC: Final = Path(__file__).parents[1] / "static"
_SERVED: Final = (".js", ".css", ".svg", ".woff2")
_IMPORTS: Final = re.compile(r'^import\b[^"\n]*"(\.{1,2}/[^"]+)";', re.MULTILINE)
_COMMENT_LINES: Final = re.compile(r"^[ \t]*(?://.*|/\*\*(?:.|\n)*?\*/[ \t]*)\n", re.MULTILINE)
_COMMENTS: Final = re.compile(r"/\*.*?\*/\s*", re.DOTALL)


def prepared(path: str, written: bytes) -> bytes:
    r"""Return a file as it is sent: ours without the comments that stand on lines of their own.

    >>> prepared("run/x.js", b"// Why.\nconst one = 1; // near\n")
    b'const one = 1; // near\n'
    """
    if path.startswith("vendor/") or not path.endswith((".js", ".css")):
        return written
    text = written.decode()
    return (_COMMENT_LINES.sub("", text) if path.endswith(".js") else _COMMENTS.sub("", text)).encode()


@cache
def files() -> dict[str, bytes]:
    """Return every file that is served, by its path, as it is sent."""
    every = sorted(path for path in STATIC.rglob("*") if path.suffix in _SERVED)
    named = {path.relative_to(STATIC).as_posix(): path for path in every}
    return {name: prepared(name, path.read_bytes()) for name, path in named.items()}


@cache
def tree() -> str:
    """Return the short hash of all files together."""
    whole = hashlib.sha256()
    for name, content in files().items():
        whole.update(f"{name} {len(content)}\n".encode() + content)
    return whole.hexdigest()[:12]


def address_of(path: str) -> str:
    """Return where a file is served."""
    return f"/static/{tree()}/{path}"


@cache
def modules_of(*entries: str) -> tuple[str, ...]:
    """List the modules that some of them import, and those import, each once; the entries themselves stand last."""
    found: dict[str, None] = {}

    def read(path: str) -> None:
        folder = Path(path).parent
        for named in _IMPORTS.findall(files()[path].decode()):
            module = (STATIC / folder / named).resolve().relative_to(STATIC.resolve()).as_posix()
            if module not in found and module not in entries:
                found[module] = None
                read(module)

    for entry in entries:
        read(entry)
    return (*found, *entries)


@cache
def scripts_of(own: tuple[str, ...]) -> Markup:
    """Have a page's own scripts run in their order, then every page's, and all they import fetched at once."""
    entries = (*own, "house/page.js")
    fetched = [name for name in modules_of(*entries) if name not in entries]
    preload, script = Markup('<link rel="modulepreload" href="{}">'), Markup('<script type="module" src="{}"></script>')
    lines = [preload.format(address_of(name)) for name in fetched] + [script.format(address_of(one)) for one in entries]
    return Markup("").join(lines)


@cache
def _packed(path: str) -> bytes:
    return gzip.compress(files()[path], mtime=0)


class StaticFiles:
    """Serves the files of this tree."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer with a file, packed for whoever takes it so; its address is another as soon as anything changes."""
        asked, _, path = scope["path"].removeprefix(scope.get("root_path", "")).strip("/").partition("/")
        if scope["method"] not in ("GET", "HEAD"):
            raise HTTPException(status.HTTP_405_METHOD_NOT_ALLOWED)
        if asked != tree() or path not in files():
            raise HTTPException(status.HTTP_404_NOT_FOUND)
        headers = {"cache-control": "public, max-age=31536000, immutable", "vary": "accept-encoding"}
        body = files()[path]
        if not path.endswith(".woff2") and "gzip" in Headers(scope=scope).get("accept-encoding", ""):
            body, headers["content-encoding"] = _packed(path), "gzip"
        kind = "text/javascript" if path.endswith(".js") else mimetypes.guess_type(path)[0] or "font/woff2"
        await Response(body, headers=headers, media_type=kind)(scope, receive, send)
