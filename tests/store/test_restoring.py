"""Two yards that began as one and went on apart: put into each other they hold what both were told, and go on."""

import json
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import text
from sqlalchemy.orm import Session

from keeve.catalogue.trying import Outlook
from keeve.store.cluster import Cluster
from keeve.store.database import make_engine
from keeve.store.rows.crew_store import CrewStore, crew_named
from keeve.store.rows.logs import Log
from keeve.store.rows.run_store import RunStore
from keeve.store.tables import JobRow
from keeve.store.whole.archive import dump
from keeve.store.whole.restoring import Restored, restore
from keeve.store.whole.uniting import Entry, numbers
from tests.conftest import Ticketer, fresh

AT = datetime(2026, 9, 14, 8, tzinfo=UTC)


class Yard:
    """One yard with one job, and a hand that taps in it."""

    def __init__(self, session: Session, name: str) -> None:
        self.session, self.name = session, name
        self.crew = crew_named(session, name).id
        self.runs, self.jobs = RunStore(session, self.crew), CrewStore(session, self.crew)
        self.told: set[str] = set()

    def job(self, job_id: UUID) -> JobRow:
        self.session.expire_all()
        found = self.jobs.job(job_id)
        assert found is not None
        return found

    def tap(self, job_id: UUID, minute: int, litres: float, phone: str = "", id_: str = "") -> str:
        tap = {
            "id": id_ or str(uuid4()), "at": (AT + timedelta(minutes=minute)).isoformat(), "phone": phone or f"{self.name}.1",
            "seq": minute, "kind": "poured", "load": 1 + minute % 3, "mixer": "drum-site", "litres": litres,
        }  # fmt: skip
        done = self.runs.append(
            self.job(job_id), [tap], received=AT + timedelta(minutes=minute, seconds=len(self.name))
        )
        assert done.refused == []
        self.session.commit()
        self.told.add(str(tap["id"]))
        return str(tap["id"])

    def take_ticket(self, job_id: UUID, ticket: Any, origin: str) -> None:
        job = self.job(job_id)
        self.runs.keep(job, ticket, origin, self.runs.log(job), made_at=AT)
        self.session.commit()

    def log(self, job_id: UUID) -> Log:
        return self.runs.log(self.job(job_id))

    def out(self) -> list[str]:
        return list(dump(self.session, self.crew))

    def take_in(self, lines: list[str]) -> Restored:
        done = restore(self.session, self.crew, lines)
        self.session.commit()
        return done

    def names(self) -> list[str]:
        return sorted(line.name for line in self.jobs.jobs())


def began(session: Session, ticketed: Ticketer) -> tuple[Yard, Yard, UUID]:
    """Two yards that hold the same job with a ticket and two taps."""
    one, other = Yard(session, "a"), Yard(session, "other")
    job = one.jobs.new_job({"job": "Gable", "mix": "cement-mortar-1-3"}, Outlook("ready", 0.2, "M4", 3))
    one.take_ticket(job.id, ticketed(mix="cement-mortar-1-3", mixer="drum-site"), "first")
    one.tap(job.id, 0, 2.0)
    one.tap(job.id, 1, 0.5)
    other.take_in(one.out())
    other.told |= one.told
    return one, other, job.id


@pytest.fixture
def two(session: Session, ticketed: Ticketer) -> tuple[Yard, Yard, UUID]:
    return began(session, ticketed)


def ids(log: Log) -> set[str]:
    return {event.id for event in log.events}


def test_a_newer_file_put_into_an_older_state_goes_on(two: tuple[Yard, Yard, UUID]) -> None:
    one, other, job = two
    for minute in (3, 4, 5):
        one.tap(job, minute, 0.25)
    done = other.take_in(one.out())
    assert done.new == 3
    assert other.job(job).event_n == 5
    other.tap(job, 6, 0.1)  # ended in a fault for ever
    one.take_ticket(job, one.log(job).tickets[1], "second")
    assert other.take_in(one.out()).new == 1
    assert other.job(job).ticket_n == 2
    other.take_ticket(job, other.log(job).tickets[1], "third")
    assert sorted(other.log(job).tickets) == [1, 2, 3]


TAPS = st.lists(
    st.tuples(st.sampled_from(["one", "other", "both"]), st.integers(2, 40), st.sampled_from([0.1, 0.25, 2.0])),
    max_size=10,
)


@pytest.fixture(scope="module")
def long_lived(cluster: Cluster) -> Any:
    with fresh(cluster) as url:
        engine = make_engine(url)
        with Session(engine) as session:
            yield session
        engine.dispose()


@settings(max_examples=12)
@given(TAPS, st.booleans(), st.lists(st.sampled_from(["one", "other"]), min_size=2, max_size=5))
def test_two_yards_that_went_on_apart_hold_the_same_taps_once_put_into_each_other(
    long_lived: Session, ticketed: Ticketer, taps: list[tuple[str, int, float]], shared: bool, order: list[str]
) -> None:
    with long_lived.no_autoflush:
        long_lived.execute(text("truncate crews cascade"))
        long_lived.commit()
        one, other, job = began(long_lived, ticketed)
        for n, (who, minute, litres) in enumerate(taps):
            id_ = one.tap(job, minute, litres, id_=f"{n:08x}-0000-4000-8000-000000000000") if who != "other" else ""
            if who == "both":  # a phone that was not told by the one tells the other
                other.tap(job, minute, litres, "a.1", id_)
            elif who == "other":
                other.tap(job, minute, litres)
        if shared:
            one.take_ticket(job, one.log(job).tickets[1], "second")
        for who in [*order, "one", "other"]:
            into, frm = (one, other) if who == "one" else (other, one)
            into.take_in(frm.out())
        told = one.told | other.told
        for yard in (one, other):
            assert ids(yard.log(job)) == told
            assert yard.names() == ["Gable"]
        assert one.log(job).run == other.log(job).run
        assert one.job(job).ticket_n == other.job(job).ticket_n == 1 + shared
        for yard in (one, other):  # and each goes on
            yard.tap(job, 50, 0.3)
            assert len(ids(yard.log(job))) == len(told) + 1


ENTRIES = st.dictionaries(st.sampled_from("abcdefgh"), st.integers(0, 5), max_size=6)


@given(ENTRIES, ENTRIES)
def test_both_sides_number_alike_past_all_that_was_given(one: dict[str, int], other: dict[str, int]) -> None:
    mine, theirs = (
        {key: Entry(n, AT + timedelta(minutes=minute)) for n, (key, minute) in enumerate(side.items(), 1)}
        for side in (one, other)
    )
    found = numbers(mine, theirs)
    assert found.keys() == mine.keys() | theirs.keys()
    assert len(set(found.values())) == len(found)
    heard = max((entry.n for entry in mine.values()), default=0)
    assert all(found[key] > heard for key in theirs.keys() - mine.keys())
    if theirs.keys() - mine.keys() and mine.keys() - theirs.keys():
        assert found == numbers(theirs, mine)


def test_tickets_of_one_number_that_differ_come_in_as_a_job_beside_it_and_home_again(
    two: tuple[Yard, Yard, UUID], ticketed: Ticketer
) -> None:
    one, other, job = two
    one.take_ticket(job, ticketed(mix="cement-mortar-1-3", mixer="drum-site"), "here")
    other.take_ticket(job, ticketed(mix="bricklaying-mortar-1-4", mixer="drum-site"), "there")
    one.tap(job, 5, 0.5)
    undone = other.tap(job, 8, 0.25)
    other.runs.append(
        other.job(job),
        [{"id": str(uuid4()), "at": AT.isoformat(), "phone": "other.1", "seq": 90, "kind": "undone", "undoes": undone}],
        received=AT + timedelta(minutes=9),
    )
    other.session.commit()
    done = one.take_in(other.out())
    assert [(copy.name, copy.named) for copy in done.copies] == [("Gable", "Gable (2)")]
    assert one.names() == ["Gable", "Gable (2)"]
    beside = next(line.id for line in one.jobs.jobs() if line.name == "Gable (2)")
    assert one.log(beside).run.poured_l == other.log(job).run.poured_l == 2.5
    assert one.log(job).run.poured_l == 3.0
    assert not ids(one.log(job)) & ids(one.log(beside))
    again = one.take_in(other.out())
    assert (again.new, again.copies) == (0, ())
    # What was tapped in the copy there comes home to the job itself; nothing stands twice.
    other.take_in(one.out())
    assert other.names() == ["Gable", "Gable (2)"]
    one.tap(beside, 12, 0.75)
    other.take_in(one.out())
    assert other.log(job).run.poured_l == 3.25
    assert other.names() == ["Gable", "Gable (2)"]


def test_of_two_tellings_of_a_tap_one_that_can_be_read_stays(two: tuple[Yard, Yard, UUID]) -> None:
    one, other, job = two
    tap = one.tap(job, 7, 1.0)
    lines = one.out()
    other.take_in([line if tap not in line else spoilt(line) for line in lines])
    assert len(other.log(job).unreadable) == 1
    other.take_in(lines)
    assert (other.log(job).unreadable, tap in ids(other.log(job))) == ([], True)


def spoilt(line: str) -> str:
    row = json.loads(line)
    return json.dumps(row | {"body": 0}) + "\n"
