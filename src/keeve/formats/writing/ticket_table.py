"""The ticket as a table: a row for each constituent of each load, and one for its water."""

from typing import Final

from keeve.core.ticket.ticket import Ticket
from keeve.formats.writing.tables import csv_of, xlsx_of
from keeve.words import saying
from keeve.words.putting import put, t
from keeve.words.reader import Reader

HEADINGS: Final = ("load", "constituent", "measured", "batch_kg", "dry_kg", "packs", "water_l", "water_never_past_l")
_NUMBERS: Final = frozenset({0, 3, 4, 5, 6, 7})


def rows(ticket: Ticket, reader: Reader) -> list[list[str]]:
    """Lay a ticket out in rows; figures in SI units with a point, as programs read them."""
    found = [list(HEADINGS)]
    for number, load in enumerate(ticket.loads, 1):
        card = ticket.cards[load.card]
        for dose in card.doses:
            packs = f"{dose.packs:.6g}" if dose.packs is not None else ""
            said = saying.dose(dose, ticket, reader)
            name = put(dose.name, reader)
            found.append([str(number), name, said, f"{dose.batch_kg:.6g}", f"{dose.dry_kg:.6g}", packs, "", ""])
        for given in card.admixtures:
            name = put(given.name, reader)
            said = saying.admixture(given, ticket, reader)
            found.append([str(number), name, said, f"{given.mass_kg:.6g}", "", "", "", ""])
        pour = card.water.pour
        said = saying.water(card, reader)
        found.append([str(number), t(reader, "Water"), said, "", "", "", f"{pour.target:.6g}", f"{pour.high:.6g}"])
    return found


def as_csv(ticket: Ticket, reader: Reader) -> bytes:
    """Write a ticket as CSV."""
    return csv_of(rows(ticket, reader)).encode()


def as_xlsx(ticket: Ticket, reader: Reader) -> bytes:
    """Write a ticket as a workbook."""
    return xlsx_of(rows(ticket, reader), _NUMBERS)
