"""Tests of a job's work: appended, never changed."""

import json
from typing import Final
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from keeve.core.proofs import Proof, read_proof
from keeve.store.tables import ProofRow

MOST_READ: Final = 2000


class ProofStore:
    """The tests of one crew's jobs; flushes only, the caller commits."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self._crew_id = crew_id

    def of(self, job_id: UUID) -> tuple[Proof, ...]:
        """Return the entries of a job, oldest first; one that cannot be read is left out."""
        query = (
            select(ProofRow.body)
            .where(ProofRow.crew_id == self._crew_id, ProofRow.job_id == job_id)
            .order_by(ProofRow.at, ProofRow.id)
            .limit(MOST_READ)
        )
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
