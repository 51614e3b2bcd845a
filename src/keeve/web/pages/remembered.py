"""Pages as they were last written, shown again as long as nothing they stand on has changed."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from datetime import UTC, datetime
from threading import Lock
from typing import Final, NamedTuple

from fastapi import Request, status

from keeve.web.asking.deps import NIGHT_COOKIE, get_reader
from keeve.web.edge.links import from_outside
from keeve.web.edge.security import cookie
from keeve.web.pages.render import Page, finished

MOST_BYTES: Final = 64_000_000
"""Some thousand pages."""


class _Kept(NamedTuple):
    revision: Hashable
    until: datetime | None
    written: bytes


class Pages:
    """The pages written last, the one not asked for longest forgotten first."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._pages: OrderedDict[Hashable, _Kept] = OrderedDict()
        self._most_bytes, self.bytes = most_bytes, 0
        self._lock = Lock()

    def find(self, key: Hashable, revision: Hashable) -> bytes | None:
        """Return a page as it was written for a revision of what it stands on."""
        with self._lock:
            kept = self._pages.get(key)
            if kept is None or kept.revision != revision:
                return None
            if kept.until is not None and datetime.now(UTC) >= kept.until:
                return None
            self._pages.move_to_end(key)
            return kept.written

    def keep(self, key: Hashable, revision: Hashable, written: bytes, until: datetime | None = None) -> None:
        """Keep a page, at most until a moment."""
        with self._lock:
            before = self._pages.pop(key, None)
            self.bytes += len(written) - (len(before.written) if before else 0)
            self._pages[key] = _Kept(revision, until, written)
            while self.bytes > self._most_bytes and self._pages:
                self.bytes -= len(self._pages.popitem(last=False)[1].written)


def remembered(
    request: Request,
    key: tuple[Hashable, ...],
    revision: Hashable,
    make: Callable[[], Page],
    until: datetime | None = None,
) -> Page:
    """Answer with the page as it was last written, or write it.

    Parameters
    ----------
    request : who asks, with units, language and colours
    key : names the page
    revision : of all it stands on; read before what the page is made of, so that at worst a page is written twice
    make : writes it
    until : when it must be written anew all the same
    """
    pages: Pages = request.app.state.pages
    whole = (*key, get_reader(request), cookie(request, NIGHT_COOKIE) == "1", from_outside(request))
    written = pages.find(whole, revision)
    if written is not None:
        return finished(request, written)
    answer = make()
    if answer.status_code == status.HTTP_200_OK:
        pages.keep(whole, revision, answer.written, until)
    return answer
