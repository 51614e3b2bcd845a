"""Tests of a job's work: appended, never changed."""

import json
from typing import Final
from uuid import UUID

from sqlalchemy import func, select, union_all
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from keeve.core.records.proofs import Proof, read_proof
from keeve.store.tables import PhotoRow, ProofRow

MOST_READ: Final = 2000


class ProofStore:
    """The tests of one crew's jobs; flushes only, the caller commits."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self._crew_id = crew_id

    def of(self, job_id: UUID) -> tuple[Proof, ...]:
        """Return the entries of a job and its photos in one question, oldest first; what cannot be read is left out."""
        written = select(ProofRow.at, ProofRow.id, ProofRow.body).where(
            ProofRow.crew_id == self._crew_id, ProofRow.job_id == job_id
        )
        told = {one.name: one for one in (PhotoRow.id, PhotoRow.at, PhotoRow.load, PhotoRow.says, PhotoRow.wide)}
        named = [part for name, one in (told | {"high": PhotoRow.high}).items() for part in (name, one)]
        taken = select(PhotoRow.at, PhotoRow.id, func.jsonb_build_object("kind", "photo", *named)).where(
            PhotoRow.crew_id == self._crew_id, PhotoRow.job_id == job_id
        )
        both = union_all(written, taken).subquery()
        query = select(both.c.body).order_by(both.c.at, both.c.id).limit(MOST_READ)
        found: list[Proof] = []
        for body in self._session.scalars(query):
            try:
                found.append(read_proof(body))
            except ValueError:
                continue
        return tuple(found)

    def lately(self) -> dict[UUID, list[Proof]]:
        """Return the latest entries of all jobs, by job, in one question; one that cannot be read is left out."""
        query = (
            select(ProofRow.job_id, ProofRow.body)
            .where(ProofRow.crew_id == self._crew_id)
            .order_by(ProofRow.at.desc(), ProofRow.id)
            .limit(MOST_READ)
        )
        found: dict[UUID, list[Proof]] = {}
        for job_id, body in self._session.execute(query):
            try:
                found.setdefault(job_id, []).append(read_proof(body))
            except ValueError:
                continue
        return found

    def append(self, job_id: UUID, entry: Proof) -> None:
        """Append an entry; one that is there already stays as it is."""
        body = json.loads(entry.model_dump_json())
        row = {"crew_id": self._crew_id, "id": entry.id, "job_id": job_id, "at": entry.at, "body": body}
        self._session.execute(insert(ProofRow).values(row).on_conflict_do_nothing())
