"""Every message is in the catalogue, none is left over, and a broken translation never breaks a page."""

import ast
import logging
import re
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from babel.messages.catalog import Catalog
from babel.messages.pofile import read_po
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import JobSheet, load_catalogue, resolve
from keeve.core.message.said import Amount, Said, fields, many, plain
from keeve.core.planning.plan import plan
from keeve.core.ticket.ticketing import issue
from keeve.words import catalogues, collecting
from keeve.words.catalogues import ALL_MESSAGES, compiled, fits, languages, translations
from keeve.words.made_up import MADE_UP, accented
from keeve.words.putting import put, t
from keeve.words.reader import METRIC, US, Reader, locale_of
from keeve.words.showing import show, show_mass
from tests.prose import PROSE

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
FOUND, WRONG = collecting.collect()
KEPT = {m.id if isinstance(m.id, str) else tuple(m.id) for m in read_po(BytesIO(ALL_MESSAGES.read_bytes())) if m.id}


def test_the_catalogue_holds_every_message_and_no_dead_one() -> None:
    now = {one.msg for one in FOUND}
    assert sorted(map(str, now - KEPT)) == [], "missing: run scripts/words"
    assert sorted(map(str, KEPT - now)) == [], "dead: run scripts/words"


def test_no_message_is_put_together_at_run_time() -> None:
    assert WRONG == []


def messages(thing: Any) -> set[Any]:
    """Every message inside what the core gives back, with those inside messages."""
    if isinstance(thing, Said):
        return {thing.msg} | {m for _, v in thing.values for m in messages(v)}
    if hasattr(type(thing), "model_fields"):
        return {m for name in type(thing).model_fields for m in messages(getattr(thing, name))}
    if isinstance(thing, dict):
        return {m for one in thing.values() for m in messages(one)}
    if isinstance(thing, (tuple, list)) and not isinstance(thing, Amount):
        return {m for one in thing for m in messages(one)}
    return set()


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_all_that_a_ticket_and_its_plan_say_can_be_translated(path: Path) -> None:
    request = resolve(JobSheet.model_validate_json(path.read_text()), load_catalogue())
    made = plan(request)
    ticket = issue(request, made)
    assert messages((made, ticket)) - {"{text}"} <= KEPT  # what was typed is said as it is
    plain_words = [ticket.mix_name, *ticket.cautions, ticket.reason, ticket.temperatures, *ticket.warnings]
    plain_words += [w.formula for w in ticket.workings.values()] + [w.source for w in ticket.workings.values()]
    plain_words += [g.name for w in ticket.workings.values() for g in w.given]
    plain_words += [s.title for card in ticket.cards for s in card.steps]
    assert {words for words in plain_words if isinstance(words, str) and words} <= KEPT | {
        shape.note for shape in request.shapes
    }


def catalog(**entries: Any) -> Catalog:
    made = Catalog(locale="de")
    for msg, said in entries.items():
        made.add(msg, said)
    return made


def test_a_translation_that_lost_a_quantity_or_made_one_up_is_left_in_english(caplog: Any) -> None:
    made = Catalog(locale="de")
    made.add("Pour {water}.", "Gieße es.")
    made.add("Stop at {water}.", "Halt bei {wasser}.")
    made.add("Mix.", "Mische.")
    with caplog.at_level(logging.WARNING):
        found = compiled(made, "de")
    assert [found.gettext(m) for m in ("Pour {water}.", "Stop at {water}.", "Mix.")] == [
        "Pour {water}.", "Stop at {water}.", "Mische.",
    ]  # fmt: skip
    assert len(caplog.records) == 2


def test_no_language_that_ships_drops_a_quantity() -> None:
    for path in catalogues.FOLDER.glob("*.po"):
        language = read_po(BytesIO(path.read_bytes()), locale=path.stem.replace("-", "_"))
        said = [message for message in language if message.id and message.string and any(message.string)]
        assert [message.id for message in said if not fits(message.id, message.string)] == [], path.name


def test_a_broken_plural_leaves_the_language_in_english_and_is_logged(caplog: Any) -> None:
    text = b'msgid ""\nmsgstr ""\n"Content-Type: text/plain; charset=utf-8\\n"\n' \
           b'"Plural-Forms: nplurals=2; plural=(n ?? 1);\\n"\n\nmsgid "{n} load"\nmsgid_plural "{n} loads"\n' \
           b'msgstr[0] "{n} Ladung"\nmsgstr[1] "{n} Ladungen"\n'  # fmt: skip
    with caplog.at_level(logging.WARNING):
        found = compiled(read_po(BytesIO(text)), "de")
    assert found.ngettext("{n} load", "{n} loads", 3) in ("{n} loads", "{n} Ladungen")
    assert "plural" in caplog.text or found.ngettext("{n} load", "{n} loads", 3) == "{n} Ladungen"


def test_a_catalogue_file_that_is_garbage_is_english(tmp_path: Path, monkeypatch: Any, caplog: Any) -> None:
    (tmp_path / "de.po").write_bytes(b'msgid "Mix."\nmsgstr "\xff\xfe"')
    monkeypatch.setattr(catalogues, "FOLDER", tmp_path)
    translations.cache_clear()
    with caplog.at_level(logging.WARNING):
        assert t(Reader("metric", "de"), "Mix.") == "Mix."
    translations.cache_clear()
    assert PROSE["english-is-shown"] in caplog.text


def test_a_real_language_is_put_in_with_its_plural_list_and_decimal_mark(tmp_path: Path, monkeypatch: Any) -> None:
    (tmp_path / "de.po").write_text(
        'msgid ""\nmsgstr ""\n"Content-Type: text/plain; charset=utf-8\\n"\n'
        '"Plural-Forms: nplurals=2; plural=(n != 1);\\n"\n\n'
        'msgid "Pour {water}."\nmsgstr "{water} eingießen."\n\n'
        'msgid "{n} load"\nmsgid_plural "{n} loads"\nmsgstr[0] "{n} Ladung"\nmsgstr[1] "{n} Ladungen"\n',
        encoding="utf-8",
    )
    monkeypatch.setattr(catalogues, "FOLDER", tmp_path)
    translations.cache_clear()
    german = Reader("metric", "de")
    assert put(Said("Pour {water}.", water=Amount(2.5, "L")), german) == "2,50 L eingießen."
    assert put(many("{n} load", "{n} loads", 1), german) == "1 Ladung"
    assert put(many("{n} load", "{n} loads", 12), german) == "12 Ladungen"
    assert show(0.617, "ratio", german) == "0,62"
    assert show_mass(1234.5, german).number == "1\u202f234"
    translations.cache_clear()


def test_an_empty_message_is_never_the_catalogues_own_header() -> None:
    assert t(Reader("metric", MADE_UP), "") == ""


@pytest.mark.parametrize("language", ["xx", "de-moon", "../../etc", "", "🧱"])
def test_a_language_nobody_set_here_reads_as_english(language: str) -> None:
    assert language not in languages()
    assert t(Reader("metric", language), "Mix") == "Mix"
    assert locale_of(language).language in ("en", "de")


def test_the_made_up_language_is_longer_by_two_fifths_and_keeps_its_fields() -> None:
    for msg in KEPT:
        for one in (msg,) if isinstance(msg, str) else msg:
            said = accented(one)
            assert fields(said) == fields(one)
            letters = len(re.sub(r"\{[a-z_]+\}", "", one))
            assert len(said) - len(one) >= 0.4 * letters or letters < 2


@given(st.text(max_size=30), st.floats(-1e6, 1e6))
def test_what_was_typed_stands_in_a_message_as_it_is(typed: str, litres: float) -> None:
    said = Said("{name}: {water}", name=typed, water=Amount(litres, "L"))
    for reader in (METRIC, US):
        assert put(said, reader).startswith(f"{typed}: ")
    assert plain(said).startswith(f"{typed}: ")


def test_fits_wants_all_fields_and_no_other() -> None:
    assert fits("{a} of {b}", "{b} von {a}")
    assert not fits("{a} of {b}", "{b}")
    assert not fits("{a}", "{a} {c}")
    assert fits(("{n} load of {mix}", "{n} loads of {mix}"), ("eine Ladung {mix}, {n}", "{n} Ladungen {mix}"))


def _prose(path: Path) -> list[str]:
    """Comparisons with a text of more than one word: what reads prose instead of a key."""
    found = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Compare):
            for one in (node.left, *node.comparators):
                if (
                    isinstance(one, ast.Constant)
                    and isinstance(one.value, str)
                    and one.value[:1].isupper()
                    and " " in one.value
                ):
                    found.append(f"{path.name}: {one.value}")
    return found


def test_no_logic_of_the_core_reads_prose() -> None:
    home = Path(collecting.__file__).parents[1]
    read = [one for room in ("core", "catalogue") for path in (home / room).rglob("*.py") for one in _prose(path)]
    standards = {"scale_check.py: ASTM C94", "scale_check.py: EN 206"}
    assert set(read) <= standards
