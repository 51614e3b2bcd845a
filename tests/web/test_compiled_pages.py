"""Templates kept as they were compiled: read at the next start, and never in the way of one."""

import shutil
from pathlib import Path

import pytest
from jinja2 import DictLoader, Environment

from keeve.web.pages.compiled import kept_pages
from keeve.web.pages.translated import TranslatedPages
from keeve.words.made_up import MADE_UP
from keeve.words.reader import METRIC


def shown(home: Path) -> str:
    pages = TranslatedPages("en", loader=DictLoader({"a.html": "{{ n }} loads"}), bytecode_cache=kept_pages(home, "en"))
    return pages.get_template("a.html").render(n=3, reader=METRIC)


def kept(home: Path) -> list[Path]:
    return [path for path in (home / "pages").rglob("*") if path.is_file()]


def test_what_was_compiled_is_not_compiled_again(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert shown(tmp_path) == "3 loads"
    assert len(kept(tmp_path)) == 1

    def refuse(*_: object, **__: object) -> None:
        raise AssertionError("compiled again")

    monkeypatch.setattr(Environment, "compile", refuse)
    assert shown(tmp_path) == "3 loads"


@pytest.mark.parametrize("spoilt", [b"", b"x" * 10, b"\0" * 5000])
def test_a_spoilt_file_is_compiled_anew(tmp_path: Path, spoilt: bytes) -> None:
    shown(tmp_path)
    kept(tmp_path)[0].write_bytes(spoilt)
    assert shown(tmp_path) == "3 loads"


def test_where_nothing_can_be_kept_pages_are_shown_all_the_same(tmp_path: Path) -> None:
    pages = TranslatedPages("en", loader=DictLoader({"a.html": "{{ n }}"}), bytecode_cache=kept_pages(tmp_path, "en"))
    shutil.rmtree(tmp_path / "pages")  # as a disk that is full, or a folder somebody took away
    assert pages.get_template("a.html").render(n=3, reader=METRIC) == "3"
    (tmp_path / "file").write_text("no folder")
    assert kept_pages(tmp_path / "file", "en") is None
    assert kept_pages(tmp_path, MADE_UP) is None


def test_another_version_takes_the_old_one_away(tmp_path: Path) -> None:
    old = tmp_path / "pages" / "en-0123456789abcdef"
    other = tmp_path / "pages" / "de-0123456789abcdef"
    for folder in (old, other):
        folder.mkdir(parents=True)
    shown(tmp_path)
    assert not old.exists()
    assert other.exists()
