"""The batch log of a yard: loads of all jobs lately, found by words, two of them side by side."""

from datetime import UTC, datetime, timedelta
from typing import Annotated, Any, Final, NamedTuple, get_args
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from keeve.core.lessons.evenness import Group, by_group
from keeve.core.message.said import mark, plain
from keeve.core.records.notes import Noted, notes_of
from keeve.core.records.review import LoadRow, review
from keeve.core.ticket.cards import TicketCard
from keeve.core.ticket.ticket import Ticket
from keeve.formats.writing.log_table import Logged, log_as
from keeve.store.rows.logs import Log
from keeve.store.tables import JobRow
from keeve.web.asking.deps import Desk, Looking, ReadBy
from keeve.web.edge.answers import PAGE, REFUSALS, file_of
from keeve.web.edge.settings import here
from keeve.web.pages.files import TYPES, TableKind
from keeve.web.pages.remembered import remembered
from keeve.web.pages.render import Page, page
from keeve.words import saying
from keeve.words.putting import put, t
from keeve.words.reader import Reader
from keeve.words.showing import show

router = APIRouter(responses=REFUSALS)
MOST_JOBS: Final = 20
"""Whose loads are shown: those worked on last; more are on the jobs' own pages."""
MOST_LOADS: Final = 200
MOST_IN_A_FILE: Final = 200
"""Jobs of the file: all of a yard is another file, see `store/whole/archive.py`."""
LOOKED_BACK: Final = timedelta(days=400)


class Line(NamedTuple):
    """One load in the log."""

    key: str
    job: str
    name: str
    mix: str
    begun: datetime
    row: LoadRow
    phones: str
    """Who tapped: the phones."""
    notes: tuple[str, ...]

    def has(self, find: str) -> bool:
        """Whether every word that is looked for is one of its."""
        words = f"{self.name} {self.mix} {self.row.state.mixer} {self.phones} {' '.join(self.notes)}".lower()
        return all(word in words for word in find.lower().split())


def _phones(log: Log) -> dict[tuple[int, str], str]:
    found: dict[tuple[int, str], set[str]] = {}
    for event in log.events:
        load, mixer = getattr(event, "load", None), getattr(event, "mixer", "")
        if load is not None:
            found.setdefault((load, mixer), set()).add(event.phone.split(".", 1)[0])
    return {key: ", ".join(sorted(names)) for key, names in found.items()}


def _lines(job: JobRow, log: Log, zone: ZoneInfo, notes: tuple[Noted, ...]) -> list[Line]:
    phones = _phones(log)
    return [
        Line(
            f"{job.id}.{row.state.number}.{row.state.mixer}",
            str(job.id),
            job.name,
            job.mix_name,
            datetime.fromtimestamp(row.state.begun_ms / 1000, zone),
            row,
            phones.get((row.state.number, row.state.mixer), ""),
            tuple(one.last.text for one in notes if one.load == row.state.number and one.last.text),
        )
        for row in review(log.run, log.tickets).rows
    ]


def _card(log: Log, row: LoadRow) -> tuple[Ticket, TicketCard] | None:
    ticket = log.tickets.get(row.state.ticket)
    return (ticket, ticket.cards[row.state.card]) if ticket is not None and row.state.card is not None else None


def _figures(log: Log, line: Line, reader: Reader) -> dict[str, str]:
    """Say all that is known of a load, by its heading, for a comparison."""
    load, found = line.row.state, _card(log, line.row)
    said = {
        t(reader, "Job"): line.name,
        t(reader, "Mix"): put(line.mix, reader),
        t(reader, "Begun"): f"{line.begun:%d.%m.%Y %H:%M}",
        t(reader, "Mixer"): put(found[0].mixer.name, reader) if found else load.mixer,
    }
    if found is not None:
        ticket, card = found
        said |= {put(dose.name, reader): saying.dose(dose, ticket, reader) for dose in card.doses}
        said[t(reader, "Water asked")] = show(card.water.pour.target, "L", reader)
    said |= {
        t(reader, "Water poured"): show(load.poured_l, "L", reader),
        t(reader, "of it late"): show(load.late_l, "L", reader),
        t(reader, "Looked"): " → ".join(t(reader, _VERDICTS[one]) for one in load.verdicts) or "–",
        t(reader, "Took"): show(line.row.minutes, "min", reader) if line.row.minutes is not None else "–",
        t(reader, "Who"): line.phones,
    }
    return said | {t(reader, what): f"{value:g}" for what, value in load.measured.items()}


_VERDICTS: Final = {"dry": mark("too dry"), "right": mark("right"), "wet": mark("too wet")}


def _compared(lines: list[tuple[Log, Line]], wanted: list[str], reader: Reader) -> list[tuple[str, str, str, bool]]:
    """Put two loads side by side: what, one, the other, and whether they differ."""
    pair = [_figures(log, line, reader) for key in wanted[:2] for log, line in lines if line.key == key]
    if len(pair) < 2:
        return []
    heads = list(dict.fromkeys([*pair[0], *pair[1]]))
    rows = [(head, pair[0].get(head, "–"), pair[1].get(head, "–")) for head in heads]
    return [(head, one, other, one != other) for head, one, other in rows]


@router.get("/log", name="crew_log", **PAGE)
def crew_log(
    request: Request,
    desk: Looking,
    reader: ReadBy,
    find: Annotated[str, Query(max_length=200)] = "",
    load: Annotated[list[str] | None, Query(max_length=MOST_LOADS)] = None,
) -> Response:
    """Show the loads of the jobs worked on last."""
    wanted = [one[:140] for one in load or ()][:2]  # of more the first two are compared
    with desk() as at:
        worked = at.days.worked_since(datetime.now(UTC) - LOOKED_BACK, MOST_JOBS)
        told = (tuple((str(row.id), row.event_n, row.ticket_n, row.name, last) for row, last in worked), at.book_n())
        return remembered(
            request, ("log", find, *wanted), told, lambda: _page(request, at, worked, find, wanted, reader)
        )


def _found(at: Desk, worked: list[tuple[JobRow, datetime]]) -> list[tuple[Log, Line]]:
    """Return the loads of some jobs, the last begun first."""
    zone, told = ZoneInfo(here()), at.proofs.lately()
    found: list[tuple[Log, Line]] = []
    jobs = [job for job, _ in worked]
    for job, log in zip(jobs, at.runs.logs(jobs), strict=True):
        found += [(log, line) for line in _lines(job, log, zone, notes_of(told.get(job.id, ())))]
    return sorted(found, key=lambda one: one[1].begun, reverse=True)


@router.get("/log.{kind}", name="crew_log_file", **file_of(*(TYPES[one] for one in get_args(TableKind))))
def crew_log_file(kind: TableKind, desk: Looking, find: Annotated[str, Query(max_length=200)] = "") -> Response:
    """Hand the batch log out as a file: the loads of a year's jobs, figures in SI units."""
    with desk() as at:
        worked = at.days.worked_since(datetime.now(UTC) - LOOKED_BACK, MOST_IN_A_FILE)
        lines = [line for _, line in _found(at, worked) if line.has(find)]
    body = log_as(kind, (Logged(one.name, plain(one.mix), one.row, one.phones, one.notes) for one in lines))
    headers = {"content-disposition": f'attachment; filename="batch-log.{kind}"'}
    return Response(body, media_type=TYPES[kind], headers=headers)


def _page(
    request: Request, at: Desk, worked: list[tuple[JobRow, datetime]], find: str, wanted: list[str], reader: Reader
) -> Page:
    found = _found(at, worked)
    shown = [line for _, line in found if line.has(find)]
    values: dict[str, Any] = {"lines": shown[:MOST_LOADS], "more": max(len(shown) - MOST_LOADS, 0), "find": find}
    compared = _compared(found, wanted, reader)
    values["groups"] = _evenness(shown, reader)
    return page(request, "look_back/crew_log.html", room="jobs", compared=compared, wanted=wanted, **values)


def _evenness(lines: list[Line], reader: Reader) -> list[tuple[str, tuple[Group, ...]]]:
    """Set the water of used loads beside their tickets' [%], mix by mix and phone by phone."""
    used = [line for line in lines if line.row.state.ended == "accepted" and line.row.pour and line.row.pour.target > 0]
    off = [(line.row.state.poured_l / line.row.pour.target - 1) * 100 for line in used if line.row.pour]
    named = [
        (t(reader, "By mix"), [put(line.mix, reader) for line in used]),
        (t(reader, "By phone"), [line.phones for line in used]),
    ]
    return [(head, groups) for head, names in named if (groups := by_group(off, names))]
