"""Two people wrote the same sheet: what only one of them changed is taken from both, the rest is told."""

from typing import Any, Final, NamedTuple

_GONE: Final = object()


class Clash(NamedTuple):
    """A figure that both changed: mine stands, theirs is told."""

    path: str
    mine: Any
    theirs: Any


class Merged(NamedTuple):
    """What is to be kept of a write."""

    document: Any
    meanwhile: bool
    """Somebody else had written since the writer's version."""
    clashes: list[Clash]


def settle(kept: Any, kept_version: int, typed: Any, base: Any, version: int | None) -> Merged:
    """Put a write together with what was kept since the version it began from.

    Parameters
    ----------
    kept, kept_version : what is kept now; its row is locked
    typed, base, version : what was written, what it began from, and which version that was; None asks nothing
    """
    if version is None or version == kept_version:
        return Merged(typed, meanwhile=False, clashes=[])
    both, clashes = merged(base, typed, kept)
    return Merged(both, meanwhile=True, clashes=clashes)


def merged(base: Any, mine: Any, theirs: Any) -> tuple[Any, list[Clash]]:
    """Merge two changes of one document.

    Parameters
    ----------
    base : what both began from
    mine, theirs : what each made of it; theirs is what is kept now

    Returns
    -------
    the document with both changes, and the figures that both changed differently
    """
    clashes: list[Clash] = []
    return _merged(base, mine, theirs, "", clashes), clashes


def _merged(base: Any, mine: Any, theirs: Any, path: str, clashes: list[Clash]) -> Any:
    if theirs in (mine, base):
        return mine
    if mine == base:
        return theirs
    if isinstance(mine, dict) and isinstance(theirs, dict):
        return _dicts(base if isinstance(base, dict) else {}, mine, theirs, path, clashes)
    if isinstance(mine, list) and isinstance(theirs, list):
        return _lists(base if isinstance(base, list) else [], mine, theirs, path, clashes)
    clashes.append(Clash(path, None if mine is _GONE else mine, None if theirs is _GONE else theirs))
    return mine


def _dicts(base: Any, mine: Any, theirs: Any, path: str, clashes: list[Clash]) -> Any:
    found = {}
    for key in [*theirs, *(key for key in mine if key not in theirs)]:
        b, m, t = (side.get(key, _GONE) for side in (base, mine, theirs))
        value = _merged(b, m, t, f"{path}.{key}" if path else str(key), clashes)
        if value is not _GONE:
            found[key] = value
    return found


def _lists(base: Any, mine: Any, theirs: Any, path: str, clashes: list[Clash]) -> Any:
    if len(base) == len(mine) == len(theirs):
        rows = zip(base, mine, theirs, strict=True)
        return [_merged(b, m, t, f"{path}.{i}", clashes) for i, (b, m, t) in enumerate(rows)]
    # Rows were added or taken away on both sides: nobody's new row is lost, nobody's removal undone, none is doubled.
    added = [row for row in theirs if row not in base and row not in mine]
    mine_kept = [row for row in mine if row in theirs or row not in base]
    return [*mine_kept, *added]
