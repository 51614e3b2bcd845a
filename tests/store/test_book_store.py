"""The mix book as it is kept: whose it is, what is away, what a job needs."""

from typing import Any

import pytest
from sqlalchemy.orm import Session

from keeve.catalogue import OWN, load_catalogue
from keeve.catalogue.trying import outlook
from keeve.core.message.errors import MixError
from keeve.core.message.said import plain
from keeve.store.rows import book_store
from keeve.store.rows.book_store import BookStore, new_key
from keeve.store.rows.crew_store import CrewStore, crew_named
from keeve.store.tables import BookRow
from tests.conftest import slab
from tests.prose import PROSE

SHELF = load_catalogue()


@pytest.fixture
def book(session: Session) -> BookStore:
    return BookStore(session, crew_named(session, "Lantern Yard").id)


def add(book: BookStore, name: str = "Ours", base: str = "pervious") -> BookRow:
    mix = SHELF.mixes[base]
    document = mix.model_copy(update={"name": name}).model_dump(mode="json")
    return book.add("mix", {"name": name}, document, base=mix.model_dump(mode="json"))


def test_own_mixes_stand_beside_those_that_ship(book: BookStore) -> None:
    row = add(book)
    shelf = book.shelf(SHELF)
    assert set(shelf.mixes) == set(SHELF.mixes) | {row.key}
    assert plain(shelf.mixes[row.key].name) == "Ours"
    assert shelf.mixes[row.key].key == row.key
    assert shelf.mixes[row.key].basis == SHELF.mixes["pervious"].basis


def test_keys_are_own_and_never_twice(book: BookStore) -> None:
    assert len({new_key() for _ in range(500)}) == 500
    assert add(book).key.startswith(OWN)


def test_what_cannot_be_understood_leaves_the_last_understood_form_in_use(book: BookStore) -> None:
    row = add(book, "First")
    better = SHELF.mixes["pervious"].model_copy(update={"name": "Second"}).model_dump(mode="json")
    book.save(row, {"name": "Second"}, better)
    assert plain(book.shelf(SHELF).mixes[row.key].name) == "Second"
    book.save(row, {"name": ""}, None)
    assert row.entry == {"name": ""}
    assert plain(book.shelf(SHELF).mixes[row.key].name) == "Second"


def test_what_is_put_away_is_off_the_shelf_and_comes_back(book: BookStore) -> None:
    row = add(book)
    book.put_away(row, away=True)
    assert row.key not in book.shelf(SHELF).mixes
    assert book.entries("mix") == []
    assert book.count() == 0
    assert book.entry("mix", row.key) is row
    book.put_away(row, away=False)
    assert row.key in book.shelf(SHELF).mixes


def test_the_one_last_worked_on_comes_first(book: BookStore) -> None:
    first, second = add(book, "First"), add(book, "Second")
    book.save(first, {"name": "First again"}, None)
    assert [row.key for row in book.entries("mix")] == [first.key, second.key]


def test_an_entry_is_of_one_kind_and_of_one_crew(book: BookStore, session: Session) -> None:
    row = add(book)
    assert book.entry("sand", row.key) is None
    assert book.entry("mix", "own-nothing") is None
    other = BookStore(session, crew_named(session, "Another yard").id)
    assert other.entry("mix", row.key) is None
    assert set(other.shelf(SHELF).mixes) == set(SHELF.mixes)
    assert other.count() == 0


def test_jobs_that_need_a_mix_are_named(book: BookStore, session: Session) -> None:
    row = add(book)
    store = CrewStore(session, book.crew_id)
    sheet: dict[str, Any] = {"job": "Path", "mix": row.key, "shapes": [slab()]}
    for one in (sheet, sheet | {"job": "Yard", "mix": "pervious"}):
        store.new_job(one, outlook(one, SHELF))
    assert book.in_sheets(row.key) == ["Path"]


def test_a_full_book_says_so(book: BookStore, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(book_store, "MOST_ENTRIES", 2)
    add(book)
    row = add(book)
    with pytest.raises(MixError, match=PROSE["the-book-is-full"]):
        add(book)
    book.put_away(row, away=True)
    add(book)


def test_a_can_of_the_crews_own_stands_among_the_admixtures(book: BookStore) -> None:
    label = SHELF.admixtures["retarder"].model_copy(update={"name": "Slow set"}).model_dump(mode="json")
    row = book.add("admixture", {}, label)
    assert book.shelf(SHELF).admixtures[row.key].name == "Slow set"
    assert book.shelf(SHELF).admixtures[row.key].key == row.key
