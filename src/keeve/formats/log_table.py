"""The loads of a job as a table: what was asked, what was real, when and how it ended."""

from datetime import UTC, datetime
from typing import Final

from keeve.core.review import Review
from keeve.formats.tables import csv_of, xlsx_of

HEADINGS: Final = (
    "load", "mixer", "ticket", "begun", "minutes", "water_asked_l", "water_poured_l", "water_late_l", "looked",
    "dry_added_kg", "made_l", "ended",
)  # fmt: skip
_NUMBERS: Final = frozenset({0, 2, 4, 5, 6, 7, 9, 10})


def rows(review: Review) -> list[list[str]]:
    """Lay the loads out in rows; figures in SI units with a point, as programs read them."""
    found = [list(HEADINGS)]
    for row in review.rows:
        load = row.state
        begun = datetime.fromtimestamp(load.begun_ms / 1000, UTC).isoformat(timespec="seconds")
        minutes = str(row.minutes) if row.minutes is not None else ""
        asked = f"{row.pour.target:.6g}" if row.pour else ""
        litres = [f"{one:.6g}" for one in (load.poured_l, load.late_l)]
        dry, made = f"{load.dry_added_kg:.6g}", f"{load.made_m3 * 1000:.6g}"
        head = [str(load.number), load.mixer, str(load.ticket), begun, minutes, asked]
        found.append([*head, *litres, " ".join(load.verdicts), dry, made, load.ended or "in the mixer"])
    return found


def as_csv(review: Review) -> bytes:
    """Write the loads as CSV."""
    return csv_of(rows(review)).encode()


def as_xlsx(review: Review) -> bytes:
    """Write the loads as a workbook."""
    return xlsx_of(rows(review), _NUMBERS)
