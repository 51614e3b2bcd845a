"""The ticket: whole, without language, and readable for ever."""

import json
import re
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.message.said import Amount, Names, Said, percent, plain, words_json
from keeve.core.ticket.difference import difference
from keeve.core.ticket.ticket import VERSION, Ticket
from keeve.core.ticket.ticket_past import open_ticket
from keeve.formats.writing.ticket_text import ticket as as_text
from keeve.words.putting import put
from keeve.words.reader import METRIC, US
from tests.conftest import Ticketer, slab
from tests.prose import PROSE

FIXTURES = sorted((Path(__file__).parents[2] / "fixtures" / "tickets").glob("*.json"))


def test_every_released_version_has_a_fixture() -> None:
    assert {int(path.name[1]) for path in FIXTURES} == set(range(VERSION + 1))


@pytest.mark.parametrize("path", FIXTURES, ids=lambda p: p.stem)
@pytest.mark.parametrize("system", [METRIC, US])
def test_a_ticket_of_every_released_version_opens_and_can_be_mixed_from(path: Path, system: Any) -> None:
    ticket = open_ticket(json.loads(path.read_text(encoding="utf-8")))
    text = as_text(ticket, "Job", system)
    for word in ("Load", "Water", "never past", "right:", "Use within", "  1. "):
        assert word in text
    assert "None" not in text
    assert open_ticket(json.loads(ticket.model_dump_json())) == ticket


def test_a_ticket_of_the_last_release_keeps_its_figures() -> None:
    raw = json.loads(next(p for p in FIXTURES if p.name == "v0-c926-p-first.json").read_text(encoding="utf-8"))
    ticket = open_ticket(raw)
    old = raw["plan"]["cards"][0]
    assert ticket.cards[0].water.pour.target == old["water"]["pour"][1]
    assert [d.batch_kg for d in ticket.cards[0].doses] == [d["batch_kg"] for d in old["doses"]]
    assert ticket.rescue.dry_kg_per_litre == raw["plan"]["correction"]["dry_kg_per_litre_over"]


SCHEMA = Path(__file__).parents[2] / "fixtures" / "ticket-schema.json"


def test_the_shape_of_a_ticket_is_a_contract() -> None:
    """Its schema is kept. A change of it is a new VERSION with a step in ticket_past, a fixture, and this file anew:

    .keeve/venv/bin/python -m tests.core.ticket.test_ticket
    """
    assert json.loads(SCHEMA.read_text(encoding="utf-8")) == Ticket.model_json_schema(mode="serialization")


def test_what_a_newer_program_wrote_besides_is_not_understood_and_kept() -> None:
    raw = json.loads(next(p for p in FIXTURES if p.name.startswith(f"v{VERSION}-")).read_text(encoding="utf-8"))
    plain_one = open_ticket(raw)
    card, more = raw["cards"][0], {"more": ["than", {"this": None}]}
    known = json.loads(json.dumps(raw))
    for place in (
        raw, raw["mixer"], raw["jug"], raw["jug"]["section"], raw["rescue"], card, card["water"], card["doses"][0],
        card["steps"][1], raw["workings"]["order_m3"],
    ):  # fmt: skip
        place["of_tomorrow"] = more
    ticket = open_ticket(json.loads(json.dumps(raw)))
    assert ticket.model_dump() == plain_one.model_dump()
    assert ticket.document() == raw
    assert ticket.model_copy(update={"revision": 7}).document() == raw | {"revision": 7}
    assert plain_one.document() == known
    with pytest.raises(ValueError, match=PROSE["cannot-be-read"]):
        open_ticket(raw | {"cards": []})


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.text(max_size=5),
        lambda x: st.lists(x, max_size=3) | st.dictionaries(st.text(max_size=8), x, max_size=3),
        max_leaves=10,
    )
)
def test_nonsense_is_a_ticket_that_cannot_be_read_and_nothing_worse(raw: Any) -> None:
    with pytest.raises(ValueError, match=PROSE["cannot-be-read"]):
        open_ticket(raw)


@given(st.sampled_from(FIXTURES), st.data())
def test_a_ticket_that_lost_a_part_cannot_be_read_or_is_whole_without_it(path: Path, data: st.DataObject) -> None:
    raw = json.loads(path.read_text(encoding="utf-8"))
    del raw[data.draw(st.sampled_from(sorted(raw)))]
    with suppress(ValueError):  # nothing else may come out
        assert isinstance(open_ticket(raw), Ticket)


def messages_in(thing: Any) -> list[Any]:
    """Every message of a ticket's document: a pair of text and quantities."""
    if isinstance(thing, list) and len(thing) == 2 and isinstance(thing[0], str) and isinstance(thing[1], dict):
        return [thing]
    inside = thing.values() if isinstance(thing, dict) else thing if isinstance(thing, list) else ()
    return [message for one in inside for message in messages_in(one)]


def test_what_a_ticket_says_carries_its_quantities_apart(ticketed: Ticketer) -> None:
    wanted = [{"admixture": "plasticiser", "dose": "900 mL/100 kg"}]
    ticket = ticketed(mix="concrete-1-2-4", admixtures=wanted, moisture_percent={"sharp-sand": 5})
    document = json.loads(ticket.model_dump_json())
    said = messages_in(document)
    assert ["{mixer}: mass it carries", {"mixer": {"said": words_json(ticket.mixer.name)}}] in said
    warning = next(msg for msg in said if "outside its label's" in msg[0])
    assert warning[1]["dose"] == ["mL/100 kg", 900.0]
    for text, values in said:
        assert not re.search(r"\d", re.sub(r"ACI [\d.-]+|section [\d.]+|in 1 m³", "", text)), text
        assert set(re.findall(r"\{(\w+)\}", text)) == set(values)


def test_a_ticket_is_the_same_for_every_reader_and_says_each_their_units(ticketed: Ticketer) -> None:
    ticket = ticketed(mix="concrete-1-2-4", mixer="drum-site")
    metric, us = as_text(ticket, "Job", METRIC), as_text(ticket, "Job", US)
    assert " kg" in metric
    assert " lb" in us
    assert "gal" in us


# ── messages ─────────────────────────────────────────────────────────────────


def test_a_message_and_its_quantities_must_fit() -> None:
    for wrong in (lambda: Said("Pour {water}."), lambda: Said("Pour.", water=Amount(1.0, "L"))):
        with pytest.raises(ValueError, match=PROSE["do-not-fit"]):
            wrong()


def test_a_message_is_said_in_the_readers_units() -> None:
    said = Said(
        "{what} brings {water}, {share} of {mass}.",
        what=Said("The {heap}", heap="sand"),
        water=Amount(3.785411784, "L"),
        share=percent(4),
        mass=Amount(45.359237, "kg"),
    )
    assert put(said, METRIC) == "The sand brings 3.79 L, 4 % of 45.4 kg."
    assert put(said, US) == "The sand brings 1.00 gal, 4 % of 100 lb."
    assert plain(Said("{names}", names=Names(("Cement", "Hydrated lime")))) == "Cement and hydrated lime"
    assert plain(Said("{number}", number=Amount(2.0, "whole"))) == "2"


TEXT = st.text(max_size=8)
VALUES = st.one_of(
    st.builds(Amount, st.floats(-1e6, 1e6), st.sampled_from(["L", "kg", "%", "ratio"])),
    TEXT,
    st.builds(Names, st.lists(TEXT, max_size=3).map(tuple)),
)


@given(VALUES, VALUES)
def test_a_message_comes_back_from_storage_as_it_was_whatever_the_order_of_its_keys(a: Any, b: Any) -> None:
    from pydantic import TypeAdapter

    said = Said("{b} and {a}", a=a, b=b)
    adapter = TypeAdapter(Said)
    stored = json.loads(adapter.dump_json(said))
    stored[1] = dict(reversed(stored[1].items()))
    assert adapter.validate_python(stored) == said


@given(TEXT)
def test_what_a_person_typed_is_shown_as_it_is(typed: str) -> None:
    assert put(Said("{name}", name=typed), US) == typed


@pytest.mark.parametrize(
    "raw", [["x"], ["x", 3], [3, {}], ["{a}", {}], ["x", {"a": ["L"]}], ["{a}", {"a": ["L", "many"]}], {}]
)
def test_a_message_that_lost_a_part_is_refused(raw: Any) -> None:
    from pydantic import TypeAdapter, ValidationError

    with pytest.raises(ValidationError, match=r"message|do not fit|convert|index"):
        TypeAdapter(Said).validate_python(raw)


# ── what a new ticket changes ────────────────────────────────────────────────


def test_a_difference_tells_what_changes_and_nothing_where_nothing_does(ticketed: Ticketer) -> None:
    damp = ticketed(
        mix="concrete-1-2-4", mixer="drum-site", shapes=[slab(depth_mm=180)], moisture_percent={"sharp-sand": 5}
    )
    wet = ticketed(
        mix="concrete-1-2-4", mixer="drum-site", shapes=[slab(depth_mm=180)], moisture_percent={"sharp-sand": 8}
    )
    every = tuple(load.card for load in damp.loads)
    assert difference(damp, every, damp).nothing
    found = difference(damp, every, wet)
    assert [plain(dose.name) for dose in found.doses] == ["Sharp sand"]
    changed = {plain(f.what): (f.before, f.after) for f in found.figures if f.changed}
    # By hand: 3 % more water on the dry sand of a load comes off the pour.
    sand = damp.cards[0].doses[1].dry_kg
    before, after = changed["Water to pour into the next load"]
    assert before - after == pytest.approx(0.03 * sand)
    assert PROSE["loads-still-to-make"] not in changed


def test_another_mix_is_named_and_its_constituents_come_and_go(ticketed: Ticketer) -> None:
    concrete, mortar = (
        ticketed(mix="concrete-1-2-4", mixer="drum-site"),
        ticketed(mix="cement-mortar-1-3", mixer="drum-small"),
    )
    found = difference(concrete, (0,), mortar)
    assert [plain(what) for what, _, _ in found.names] == ["Mix", "Mixed in"]
    gone = next(d for d in found.doses if plain(d.name) == "Gravel 20 mm")
    assert gone.after is None


def test_another_school_changes_the_steps_and_says_which_and_why(ticketed: Ticketer) -> None:
    mix: dict[str, Any] = {"mix": "cement-mortar-1-3", "mixer": "drum-small", "moisture_percent": {"sharp-sand": 5}}
    before, after = ticketed(**mix), ticketed(**mix, changes={"schools": {"first": "dry"}})
    every = tuple(load.card for load in before.loads)
    found = difference(before, every, after)
    assert not found.nothing
    new = [plain(one.after.title) for one in found.steps if one.after is not None]
    gone = [plain(one.before.title) for one in found.steps if one.before is not None]
    assert PROSE["turn-it-dry-to"] in new
    assert PROSE["rinse-the-drum-let"] in gone
    assert PROSE["is-it-right"] not in [*new, *gone]  # what stays is not told
    assert set(after.warnings) - set(before.warnings)  # why
    assert difference(after, every, after).steps == ()


if __name__ == "__main__":
    SCHEMA.write_text(json.dumps(Ticket.model_json_schema(mode="serialization"), indent=1) + "\n", encoding="utf-8")
