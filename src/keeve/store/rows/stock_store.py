"""What was used of the stock since somebody counted it, read from the logs of the jobs."""

from datetime import datetime
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from keeve.store.rows.logs import used_before
from keeve.store.rows.run_store import RunStore
from keeve.store.tables import EventRow, JobRow


class StockStore:
    """The stock of one crew."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self._crew_id = crew_id

    def used_since(self, moments: list[datetime]) -> dict[datetime, dict[str, float]]:
        """Return what all loads used from each moment on [kg], by material key.

        Thrown away loads and rescue count: the sacks are empty all the same.
        """
        found: dict[datetime, dict[str, float]] = {moment: {} for moment in moments}
        if not moments:
            return found
        query = (
            select(JobRow)
            .where(
                JobRow.crew_id == self._crew_id,
                JobRow.id.in_(
                    select(EventRow.job_id).where(
                        EventRow.crew_id == self._crew_id, EventRow.received_at >= min(moments)
                    )
                ),
            )
            .order_by(JobRow.id)
        )
        jobs = list(self._session.scalars(query))
        for job, log in zip(jobs, RunStore(self._session, self._crew_id).logs(jobs), strict=True):
            before = used_before(self._session, self._crew_id, job, log, moments)
            for moment, then in zip(moments, before, strict=True):
                for key, kg in log.run.used_kg.items():
                    used = kg - then.get(key, 0.0)
                    if used > 0:
                        found[moment][key] = found[moment].get(key, 0.0) + used
        return found
