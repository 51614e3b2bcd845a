"""Photos of a job's loads: so many a job, each kept small."""

from typing import Final
from uuid import UUID

from sqlalchemy import ColumnElement, delete, func, select
from sqlalchemy.orm import Session

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said, mark
from keeve.store.tables import PhotoRow

MOST_OF_A_JOB: Final = 60
MOST_OF_A_CREW: Final = 3000


class PhotoStore:
    """The photos of one crew; flushes only, the caller commits."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self._crew_id = crew_id

    def picture(self, job_id: UUID, photo_id: str) -> bytes | None:
        """Return one picture; None where there is none."""
        return self._session.scalar(select(PhotoRow.jpeg).where(*self._one(job_id, photo_id)))

    def add(self, row: PhotoRow) -> None:
        """Keep a photo.

        Raises
        ------
        MixError : as many as a job, or a crew, may have are there
        """
        of_crew = select(func.count()).where(PhotoRow.crew_id == self._crew_id)
        for query, most in ((of_crew.where(PhotoRow.job_id == row.job_id), MOST_OF_A_JOB), (of_crew, MOST_OF_A_CREW)):
            if (self._session.scalar(query) or 0) >= most:
                said = Said("{most} photos are there already: that is as many as are kept.", most=Amount(most, "whole"))
                raise MixError(Fault(Code.TOO_MANY, said, mark("Take one out first."), field="photo"))
        row.crew_id = self._crew_id
        self._session.add(row)
        self._session.flush()

    def take_out(self, job_id: UUID, photo_id: str) -> None:
        """Take a photo out; it is gone then."""
        self._session.execute(delete(PhotoRow).where(*self._one(job_id, photo_id)))

    def _one(self, job_id: UUID, photo_id: str) -> tuple[ColumnElement[bool], ...]:
        return (PhotoRow.crew_id == self._crew_id, PhotoRow.job_id == job_id, PhotoRow.id == photo_id)
