"""Notes with their corrections, which load went into which piece, how old heat makes a cast, what a beam carries."""

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keeve.core.hardening.maturity import At, equivalent_days, fitted_28_days_mpa, share_of_28_days
from keeve.core.message.errors import MixError
from keeve.core.records.notes import notes_of
from keeve.core.records.proofs import Note
from keeve.core.records.tracing import Delivery, Made, Piece, bags_of, filled_by
from keeve.formats.reading.warmth import KEPT, read_trace

AT = datetime(2026, 9, 14, 8, tzinfo=UTC)
ROOM = st.floats(1, 500)


def note(number: int, text: str, corrects: int | None = None) -> Note:
    before = f"note-{corrects:04}" if corrects is not None else ""
    return Note(id=f"note-{number:04}", at=AT + timedelta(minutes=number), text=text, corrects=before)


def test_a_note_is_corrected_again_and_again_and_every_word_of_it_stays() -> None:
    (one,) = notes_of((note(3, "wetter still", 1), note(1, "sand dry"), note(2, "sand wet", 1)))
    assert (one.last.text, [old.text for old in one.before]) == ("wetter still", ["sand dry", "sand wet"])


def test_a_correction_of_nothing_stands_by_itself() -> None:
    assert [one.last.text for one in notes_of((note(2, "what was it?", 9),))] == ["what was it?"]


@given(st.lists(st.tuples(st.integers(0, 30), st.integers(0, 30)), max_size=25))
def test_no_note_is_ever_lost(pairs: list[tuple[int, int]]) -> None:
    notes = {number: note(number, f"n{number}", corrects) for number, corrects in pairs}
    found = notes_of(notes.values())
    told = [one.id for noted in found for one in (*noted.before, noted.last)]
    assert sorted(told) == sorted(one.id for one in notes.values())


@given(st.lists(ROOM, min_size=1, max_size=12), st.lists(ROOM, min_size=1, max_size=12))
def test_a_load_is_in_the_pieces_whose_room_it_covers_and_in_no_other(rooms: list[float], loads: list[float]) -> None:
    pieces = [Piece("Post", number, len(rooms), litres) for number, litres in enumerate(rooms, 1)]
    found = filled_by(pieces, [Made(number, litres) for number, litres in enumerate(loads, 1)])
    # Litre by litre, as with a ruler: which load lies in the middle of each stretch between any two ends.
    ends = sorted(
        {0.0, *(sum(rooms[:n]) for n in range(1, len(rooms) + 1)), *(sum(loads[:n]) for n in range(1, len(loads) + 1))}
    )
    wanted: dict[int, set[int]] = {number: set() for number in range(1, len(rooms) + 1)}
    for low, high in pairwise(ends):
        middle = (low + high) / 2
        piece = next((n for n in range(1, len(rooms) + 1) if middle < sum(rooms[:n])), None)
        load = next((n for n in range(1, len(loads) + 1) if middle < sum(loads[:n])), None)
        if piece is not None and load is not None and high - low > rooms[piece - 1] * 2e-3:
            wanted[piece].add(load)
    for one in found:
        assert wanted[one.piece.number] <= set(one.loads)
        assert list(one.loads) == sorted(one.loads)
        assert one.full == (sum(loads) >= sum(rooms[: one.piece.number]) - one.piece.litres * 1e-3)


def test_the_bags_are_those_that_had_come_by_then() -> None:
    came = [Delivery("lime", date(2026, 9, 20), "late"), Delivery("lime", date(2026, 9, 1), "batch 7")]
    assert [one.note for one in bags_of(came, ["lime"], date(2026, 9, 19))] == ["batch 7"]
    assert bags_of(came, ["lime"], date(2026, 8, 1)) == ()


def test_the_curve_goes_through_what_lies_on_it() -> None:
    ages = (1.0, 3.0, 7.0, 28.0, 56.0)
    assert fitted_28_days_mpa([(age, 31 * share_of_28_days(age)) for age in ages]) == pytest.approx(31)
    assert fitted_28_days_mpa([]) is None


def test_a_day_at_forty_is_as_good_as_five_thirds_at_twenty() -> None:
    # Saul with −10 °C: (40 + 10) / (20 + 10) = 1.667; from memory.
    assert equivalent_days([At(h, 40.0) for h in range(0, 25, 4)]) == pytest.approx(5 / 3)


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("hours, °C\n0, 20\n4, 30", [(0, 20), (4, 30)]),
        ("time;temp C\n2026-09-14 08:00;20\n2026-09-14T10:00Z;21", [(0, 20), (2, 21)]),
        ("hours, deg F\n0, 68\n4, 86", [(0, 20), (4, 30)]),
        ("time,temp °F\n4, 86\n0, 68", [(0, 20), (4, 30)]),
        ("0, 68 °F\n4, 86", [(0, 20), (4, 30)]),
        ("h\t°C\n0\t20.5 °C\n1\t21", [(0, 20.5), (1, 21)]),
        # Read morning and evening, as by hand with a thermometer in the blanket.
        ("h, °C\n0, 20\n11, 30\n24, 22", [(0, 20), (11, 30), (24, 22)]),
    ],
)
def test_a_trace_is_read_as_loggers_write_it(text: str, wanted: list[tuple[float, float]]) -> None:
    read = read_trace(text, AT, ZoneInfo("UTC"))
    assert [tuple(one) for one in read] == [(pytest.approx(h), pytest.approx(c)) for h, c in wanted]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "two readings at least"),
        ("0, 20 °C\nmorning, 30", "Line 2 of the trace"),
        ("h, c\n0, 20\n1", "Line 3 of the trace"),
        ("0, 20\n4, 30", "in °C or in °F"),
        ("0, 20 °C\n17, 30", "silent from"),
        ("2026-09-14 07:00, 20 °C\n2026-09-14 08:00, 20", "before the cast"),
        ("0, 20 °C\n1, 300", "No concrete is at"),
        ("\n".join("0, 20 °C" for _ in range(20_002)), "20 000 lines"),
    ],
)
def test_a_trace_that_tells_too_little_says_so(text: str, says: str) -> None:
    with pytest.raises(MixError) as refused:
        read_trace(text, AT, ZoneInfo("UTC"))
    assert says in str(refused.value)


def test_a_long_trace_is_thinned_and_tells_the_same() -> None:
    lines = [f"{n / 60}, {20 + (n % 120) / 60}" for n in range(15_000)]
    read = read_trace("\n".join(["h, °C", *lines]), AT, ZoneInfo("UTC"))
    assert len(read) == KEPT
    assert equivalent_days(read) == pytest.approx(
        equivalent_days([At(n / 60, 20 + (n % 120) / 60) for n in range(15_000)]), rel=0.005
    )
