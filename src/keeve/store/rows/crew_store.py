"""A crew's jobs and their sheets; flushes only, the caller commits."""

from contextlib import suppress
from datetime import UTC, datetime
from typing import Any, Final, NamedTuple
from uuid import UUID

from sqlalchemy import Text, delete, func, literal_column, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from keeve.catalogue.trying import Outlook
from keeve.store.rows.merging import Merged, settle
from keeve.store.tables import TO_MIX, Crew, Document, JobRow

ON_A_PAGE: Final = 40
"""Jobs on one page of the list."""
MOST_WORDS: Final = 8
_MOST_LETTERS: Final = 200
"""Of a name in the list; the sheet keeps all that was typed."""
_STAMP: Final = literal_column("jobs.xmin::text || jobs.ctid::text", Text)
"""Another at every write of a row, whoever writes it."""


class JobLine(NamedTuple):
    """One job in the list: what its row says, and nothing worked out."""

    id: UUID
    name: str
    place: str
    mix_name: str
    mix_key: str
    state: str
    to_fill_m3: float | None
    loads: int
    made: int
    readable: bool


class Seen(NamedTuple):
    """A job as it was read, and by what a change of it, or of the crew's book, is told."""

    job: JobRow
    stamp: str
    book_n: int


class CrewStore:
    """Everything one crew has."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self.session = session
        self.crew_id = crew_id

    def jobs(self, page: int = 1, words: str = "", *, away: bool = False) -> list[JobLine]:
        """Return one page of the crew's jobs, the one last worked on first, and one line more where there are more.

        Parameters
        ----------
        page : from 1
        words : each must stand in the job's name, place or mix
        away : those that were put away, in the place of the others
        """
        # Which jobs is found in an index alone; what they are, sheet and all, is read for one page of them.
        on_page = (
            select(JobRow.id)
            .where(JobRow.crew_id == self.crew_id, JobRow.away.is_(away))
            .where(*(JobRow.found_by.contains(word, autoescape=True) for word in words.lower().split()[:MOST_WORDS]))
            .order_by(JobRow.changed_at.desc(), JobRow.id)
            .offset((page - 1) * ON_A_PAGE)
            .limit(ON_A_PAGE + 1)
        )
        query = (
            select(
                JobRow.id,
                JobRow.name,
                JobRow.place,
                JobRow.mix_name,
                JobRow.mix_key,
                JobRow.state,
                JobRow.to_fill_m3,
                JobRow.loads,
                JobRow.made,
                func.jsonb_typeof(JobRow.sheet) == "object",
            )
            .where(JobRow.crew_id == self.crew_id, JobRow.id.in_(on_page))
            .order_by(JobRow.changed_at.desc(), JobRow.id)
        )
        return [JobLine._make(row) for row in self.session.execute(query)]

    def has_jobs(self) -> bool:
        """Whether the crew has any job."""
        return self.session.scalar(select(JobRow.id).where(JobRow.crew_id == self.crew_id).limit(1)) is not None

    def job(self, job_id: UUID, *, lock: bool = False) -> JobRow | None:
        """Return one of the crew's jobs; locked until the end of the request where it is going to be written."""
        query = select(JobRow).where(JobRow.crew_id == self.crew_id, JobRow.id == job_id)
        if lock:
            query = query.with_for_update().execution_options(populate_existing=True)
        return self.session.scalars(query).one_or_none()

    def link_n(self, job_id: str) -> int | None:
        """Return how often the links of a run were taken back; None where there is no such job."""
        found = self.job_named(job_id)
        return None if found is None else found.link_n

    def put_away(self, job: JobRow, *, away: bool) -> None:
        """Take a job out of the list, or bring it back."""
        job.away = away
        self.session.flush()

    def delete(self, job: JobRow) -> bool:
        """Delete a job that was put away, for good; False where a ticket, a log or a test hangs on it: those stay."""
        of_job = (JobRow.crew_id == self.crew_id, JobRow.id == job.id, JobRow.away)
        try:
            with self.session.begin_nested():
                return self.session.scalar(delete(JobRow).where(*of_job).returning(JobRow.id)) is not None
        except IntegrityError:
            return False

    def rename(self, job: JobRow, name: str, place: str) -> None:
        """Give a job another name and place, in its row and in its sheet."""
        job.name, job.place = name, place
        if isinstance(job.sheet, dict):
            job.sheet = job.sheet | {"job": name, "place": place}
            job.version += 1
        self.session.flush()

    def job_named(self, text: str) -> JobRow | None:
        """Return one of the crew's jobs by what somebody says is its number."""
        return self.jobs_named([text]).get(text)

    def jobs_named(self, texts: list[str]) -> dict[str, JobRow]:
        """Return those of the crew's jobs that there are by what somebody says are their numbers, in one question."""
        keys: dict[str, UUID] = {}
        for text in texts:
            with suppress(ValueError):
                keys[text] = UUID(text)
        query = select(JobRow).where(JobRow.crew_id == self.crew_id, JobRow.id.in_(keys.values()))
        found = {row.id: row for row in self.session.scalars(query)} if keys else {}
        return {text: found[key] for text, key in keys.items() if key in found}

    def at_place(self, place: str) -> list[JobRow]:
        """Return the jobs of one place, the first begun first; no more than a page shows."""
        query = (
            select(JobRow)
            .where(JobRow.crew_id == self.crew_id, JobRow.place == place, JobRow.away.is_(False))
            .where(JobRow.found_by.contains(place.lower(), autoescape=True))  # an index knows it
            .order_by(JobRow.created_at, JobRow.id)
            .limit(ON_A_PAGE)
        )
        return list(self.session.scalars(query))

    def to_mix(self, most: int) -> list[tuple[UUID, str]]:
        """Return jobs that are ready to mix or under way, the one last worked on first: number and name."""
        query = (
            select(JobRow.id, JobRow.name)
            .where(JobRow.crew_id == self.crew_id, TO_MIX)
            .order_by(JobRow.changed_at.desc(), JobRow.id)
            .limit(most)
        )
        return [(key, name) for key, name in self.session.execute(query)]

    def seen(self, job_id: UUID) -> Seen | None:
        """Return one of the crew's jobs to be looked at."""
        query = select(JobRow, _STAMP, Crew.book_n).join(Crew, Crew.id == JobRow.crew_id)
        found = self.session.execute(query.where(JobRow.crew_id == self.crew_id, JobRow.id == job_id)).one_or_none()
        return None if found is None else Seen(*found)

    def new_job(self, typed: Document, seen: Outlook) -> JobRow:
        """Open a job from a sheet as typed."""
        job = JobRow(crew_id=self.crew_id, name="", place="", sheet={}, version=0)
        _put_sheet(job, typed, seen)
        self.session.add(job)
        self.session.flush()
        return job

    def save_sheet(self, job: JobRow, typed: Document, seen: Outlook) -> None:
        """Keep a sheet as typed, valid or not."""
        _put_sheet(job, typed, seen)
        self.session.flush()

    def sheet(self, job: JobRow) -> Document:
        """Return a job's sheet as it was typed; an empty one where what is kept cannot be read."""
        kept: Any = job.sheet
        if not isinstance(kept, dict):
            return {"job": job.name, "place": job.place, "mix": job.mix_key, "changes": {}, "shapes": []}
        return kept

    def stale(self, mix_key: str) -> None:
        """Say that nobody has looked at the jobs of this mix since it was changed."""
        query = (
            update(JobRow)
            .where(JobRow.crew_id == self.crew_id, JobRow.mix_key == mix_key, JobRow.state.in_(("ready", "measure")))
            .values(state="")
        )
        self.session.execute(query)


def merge_sheet(store: CrewStore, job: JobRow, typed: Document, base: Document | None, version: int | None) -> Merged:
    """Put what was typed together with what somebody else wrote since `version`; the job is locked."""
    return settle(store.sheet(job), job.version, _tidy(typed, job), _tidy(base or {}, job), version)


def _tidy(typed: Document, job: JobRow) -> Document:
    """Bring a sheet into the form it is kept in: parts that are of another kind cannot be kept as such."""
    shapes, changes = typed.get("shapes"), typed.get("changes")
    return typed | {
        "job": str(typed.get("job") or job.name),
        "place": str(typed.get("place") or ""),
        "mix": str(typed.get("mix") or job.mix_key or ""),
        "changes": changes if isinstance(changes, dict) else {},
        "shapes": [one for one in shapes if isinstance(one, dict)] if isinstance(shapes, list) else [],
    }


def _put_sheet(job: JobRow, typed: Document, seen: Outlook) -> None:
    sheet = _tidy(typed, job)
    job.sheet = sheet
    job.name, job.place, job.mix_key = (sheet[part][:_MOST_LETTERS] for part in ("job", "place", "mix"))
    job.version += 1
    job.changed_at = datetime.now(UTC)
    if not job.ticket_n:  # once it is mixed from, the list tells of the run
        job.state, job.to_fill_m3, job.mix_name, job.loads = seen


def crew_named(session: Session, name: str) -> Crew:
    """Return the crew of that name, founding it if need be; two first visits at once found one."""
    known = session.scalars(select(Crew).where(Crew.name == name)).one_or_none()
    if known is None:
        session.execute(insert(Crew).values(name=name).on_conflict_do_nothing(index_elements=["name"]))
        known = session.scalars(select(Crew).where(Crew.name == name)).one()
    return known
