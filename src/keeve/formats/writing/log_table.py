"""The loads of a job as a table: what was asked, what was real, when and how it ended."""

import json
from collections.abc import Iterable
from datetime import UTC, datetime
from typing import Final, Literal, NamedTuple

from keeve.core.records.review import LoadRow, Review
from keeve.formats.writing.tables import csv_of, xlsx_of

HEADINGS: Final = (
    "load", "mixer", "ticket", "begun", "minutes", "water_asked_l", "water_poured_l", "water_late_l", "looked",
    "dry_added_kg", "made_l", "ended",
)  # fmt: skip
_NUMBERS: Final = frozenset({0, 2, 4, 5, 6, 7, 9, 10})


LOG_HEADINGS: Final = ("job", "mix", *HEADINGS, "measured", "phones", "notes")
_LOG_NUMBERS: Final = frozenset(at + 2 for at in _NUMBERS)


class Logged(NamedTuple):
    """A load in the log of a whole yard."""

    job: str
    mix: str
    row: LoadRow
    phones: str
    notes: tuple[str, ...]


def _cells(row: LoadRow) -> list[str]:
    load = row.state
    begun = datetime.fromtimestamp(load.begun_ms / 1000, UTC).isoformat(timespec="seconds")
    minutes = str(row.minutes) if row.minutes is not None else ""
    asked = f"{row.pour.target:.6g}" if row.pour else ""
    litres = [f"{one:.6g}" for one in (load.poured_l, load.late_l)]
    dry, made = f"{load.dry_added_kg:.6g}", f"{load.made_m3 * 1000:.6g}"
    head = [str(load.number), load.mixer, str(load.ticket), begun, minutes, asked]
    return [*head, *litres, " ".join(load.verdicts), dry, made, load.ended or "in the mixer"]


def rows(review: Review) -> list[list[str]]:
    """Lay the loads out in rows; figures in SI units with a point, as programs read them."""
    return [list(HEADINGS), *(_cells(row) for row in review.rows)]


def as_csv(review: Review) -> bytes:
    """Write the loads as CSV."""
    return csv_of(rows(review)).encode()


def as_xlsx(review: Review) -> bytes:
    """Write the loads as a workbook."""
    return xlsx_of(rows(review), _NUMBERS)


def log_rows(loads: Iterable[Logged]) -> list[list[str]]:
    """Lay the log of a whole yard out in rows, as `rows` does."""
    found = [list(LOG_HEADINGS)]
    for one in loads:
        measured = " ".join(f"{what}={value:g}" for what, value in one.row.state.measured.items())
        found.append([one.job, one.mix, *_cells(one.row), measured, one.phones, " / ".join(one.notes)])
    return found


def log_as(kind: Literal["csv", "xlsx", "json"], loads: Iterable[Logged]) -> bytes:
    """Write the log of a whole yard as a file."""
    found = log_rows(loads)
    if kind == "csv":
        return csv_of(found).encode()
    if kind == "xlsx":
        return xlsx_of(found, _LOG_NUMBERS)
    return json.dumps([dict(zip(found[0], row, strict=True)) for row in found[1:]], ensure_ascii=False).encode()
