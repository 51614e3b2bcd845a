"""All questions put to the database, each within one crew; flushes only, the caller commits."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from keeve.catalogue import JobSheet
from keeve.core.batch import BatchEvent
from keeve.core.plan import Plan, PlanRequest
from keeve.store.tables import BatchRow, Crew, Document, EventRow, JobRow, MixRow, PlanRow, ShapeRow

_OF_THE_MIX = ("mix", "changes")
_OF_THE_JOB = ("job", "place", "shapes", *_OF_THE_MIX)


@dataclass(frozen=True, slots=True)
class Kept:
    """A plan that loads are being mixed from, with what happened so far."""

    id: UUID
    made_at: datetime
    sheet: JobSheet
    request: PlanRequest
    plan: Plan
    events: dict[int, tuple[BatchEvent, ...]]
    """By number of the load."""


class CrewStore:
    """Everything one crew has."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self.crew_id = crew_id

    def crew(self) -> Crew:
        """Return the crew itself."""
        return self._session.get_one(Crew, self.crew_id)

    def jobs(self) -> list[JobRow]:
        """Return the crew's jobs, the one last worked on first."""
        query = select(JobRow).where(JobRow.crew_id == self.crew_id).order_by(JobRow.changed_at.desc())
        return list(self._session.scalars(query))

    def job(self, job_id: UUID) -> JobRow | None:
        """Return one of the crew's jobs."""
        query = select(JobRow).where(JobRow.crew_id == self.crew_id, JobRow.id == job_id)
        return self._session.scalars(query).unique().one_or_none()

    def new_job(self, sheet: dict[str, Any]) -> JobRow:
        """Open a job from a sheet as typed."""
        mix = MixRow(crew_id=self.crew_id, based_on=str(sheet["mix"]), changes=_mapping(sheet.get("changes")))
        job = JobRow(crew_id=self.crew_id, name=str(sheet.get("job", "")), mix=mix, entry={})
        self._session.add_all([mix, job])
        self.save_sheet(job, sheet)
        return job

    def save_sheet(self, job: JobRow, sheet: dict[str, Any]) -> None:
        """Keep a sheet as typed, valid or not."""
        job.name = str(sheet.get("job") or job.name)
        job.place = str(sheet.get("place") or "")
        job.mix.based_on = str(sheet.get("mix") or job.mix.based_on)
        job.mix.changes = _mapping(sheet.get("changes"))
        job.entry = {key: value for key, value in sheet.items() if key not in _OF_THE_JOB}
        shapes = sheet.get("shapes")
        entries = [entry for entry in shapes if isinstance(entry, dict)] if isinstance(shapes, list) else []
        for position, entry in enumerate(entries):
            if position < len(job.shapes):
                job.shapes[position].entry = entry
            else:
                job.shapes.append(ShapeRow(crew_id=self.crew_id, position=position, entry=entry))
        del job.shapes[len(entries) :]
        job.changed_at = datetime.now(UTC)
        self._session.flush()

    def sheet(self, job: JobRow) -> Document:
        """Return a job's sheet as it was typed."""
        return {
            **job.entry,
            "job": job.name,
            "place": job.place,
            "mix": job.mix.based_on,
            "changes": job.mix.changes,
            "shapes": [shape.entry for shape in job.shapes],
        }

    def keep_plan(self, job: JobRow, sheet: Document, request: PlanRequest, plan: Plan) -> PlanRow:
        """Take a snapshot of a plan; it carries the version of the core that made it."""
        row = PlanRow(
            crew_id=self.crew_id,
            job_id=job.id,
            core_version=plan.core_version,
            sheet=sheet,
            request=request.model_dump(mode="json"),
            plan=plan.model_dump(mode="json"),
        )
        self._session.add(row)
        job.changed_at = datetime.now(UTC)
        self._session.flush()
        return row

    def kept(self, job: JobRow) -> Kept | None:
        """Return the plan last mixed from, with its events."""
        query = (
            select(PlanRow)
            .where(PlanRow.crew_id == self.crew_id, PlanRow.job_id == job.id)
            .order_by(PlanRow.made_at.desc())
            .limit(1)
        )
        row = self._session.scalars(query).one_or_none()
        if row is None:
            return None
        return Kept(
            id=row.id,
            made_at=row.made_at,
            sheet=JobSheet.model_validate(row.sheet),
            request=PlanRequest.model_validate(row.request),
            plan=Plan.model_validate(row.plan),
            events=self._events(row.id),
        )

    def _events(self, plan_id: UUID) -> dict[int, tuple[BatchEvent, ...]]:
        query = (
            select(BatchRow.number, EventRow.body)
            .join(EventRow, EventRow.batch_id == BatchRow.id)
            .where(BatchRow.crew_id == self.crew_id, BatchRow.plan_id == plan_id)
            .order_by(BatchRow.number, EventRow.at)
        )
        found: dict[int, list[BatchEvent]] = {}
        for number, body in self._session.execute(query):
            found.setdefault(number, []).append(BatchEvent.model_validate(body))
        return {number: tuple(events) for number, events in found.items()}

    def has_load(self, job: JobRow, plan_id: UUID, number: int) -> bool:
        """Whether a load is on a ticket of this job and crew."""
        query = select(func.jsonb_array_length(PlanRow.plan["loads"])).where(
            PlanRow.id == plan_id, PlanRow.job_id == job.id, PlanRow.crew_id == self.crew_id
        )
        count = self._session.scalar(query)
        return count is not None and 1 <= number <= count

    def append(self, job: JobRow, plan_id: UUID, number: int, events: Iterable[BatchEvent]) -> int:
        """Append events to a load's log; ids already there change nothing.

        Returns
        -------
        how many were new
        """
        batch = insert(BatchRow).values(crew_id=self.crew_id, job_id=job.id, plan_id=plan_id, number=number)
        self._session.execute(batch.on_conflict_do_nothing(index_elements=["plan_id", "number"]))
        batch_id = self._session.scalar(
            select(BatchRow.id).where(BatchRow.plan_id == plan_id, BatchRow.number == number)
        )
        rows = [
            {
                "id": e.id,
                "crew_id": self.crew_id,
                "batch_id": batch_id,
                "at": e.at,
                "body": e.model_dump(mode="json", exclude_defaults=True),
            }
            for e in events
        ]
        if not rows:
            return 0
        added = self._session.execute(insert(EventRow).values(rows).on_conflict_do_nothing().returning(EventRow.id))
        return len(added.all())


def _mapping(value: object) -> Document:
    return value if isinstance(value, dict) else {}


def crew_named(session: Session, name: str) -> Crew:
    """Return the crew of that name, founding it if need be."""
    crew = session.scalars(select(Crew).where(Crew.name == name)).first()
    if crew is None:
        crew = Crew(name=name)
        session.add(crew)
        session.flush()
    return crew
