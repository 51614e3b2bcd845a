"""Models being read: kept where every server sees how far one is."""

from datetime import timedelta
from typing import Any, Final
from uuid import UUID

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from keeve.core.message.said import mark
from keeve.store.tables import ModelRow

KEPT: Final = timedelta(minutes=10)
_COUNTING: Final = 0x6B656576
"""Names the lock; own choice."""
SILENT: Final = timedelta(seconds=30)
"""A reading whose server has not been heard of for so long is not being read any more."""


class ModelStore:
    """The models a crew has sent in; flushes only, the caller commits."""

    def __init__(self, session: Session, crew_id: UUID) -> None:
        self._session = session
        self.crew_id = crew_id

    def forget_old(self) -> None:
        """Forget readings that are long over."""
        self._session.execute(delete(ModelRow).where(ModelRow.since < func.clock_timestamp() - KEPT))

    def under_way(self) -> int:
        """How many models are being read just now, of all crews: they share the machines.

        Nobody else counts until the end of the transaction, so that whoever counts may add one.
        """
        self._session.execute(select(func.pg_advisory_xact_lock(_COUNTING)))
        alive = ModelRow.beat_at > func.clock_timestamp() - SILENT
        query = select(func.count()).select_from(ModelRow).where(~ModelRow.done, ~ModelRow.stopped, alive)
        return self._session.scalar(query) or 0

    def add(self, key: str, name: str) -> None:
        """Begin to follow a reading."""
        self._session.add(ModelRow(crew_id=self.crew_id, key=key, name=name, faults=[]))
        self._session.flush()

    def find(self, key: str) -> ModelRow | None:
        """Return one reading; one whose server fell silent is done, with a sentence."""
        query = select(ModelRow, ModelRow.beat_at < func.clock_timestamp() - SILENT)
        found = self._session.execute(query.where(ModelRow.crew_id == self.crew_id, ModelRow.key == key)).first()
        if found is None:
            return None
        row, silent = found
        if silent and not row.done:
            row.done = True
            row.faults = [
                {
                    "sentence": mark("The reading of this model was broken off."),
                    "hint": mark("Send it again."),
                }
            ]
        return row

    def stop(self, row: ModelRow) -> None:
        """Ask whoever reads it to stop."""
        row.stopped = True
        self._session.flush()


def beat(session: Session, crew_id: UUID, key: str, state: dict[str, Any]) -> bool:
    """Write down how far a reading is; returns whether it is to be stopped."""
    mine = (ModelRow.crew_id == crew_id, ModelRow.key == key)
    session.execute(update(ModelRow).where(*mine).values(beat_at=func.clock_timestamp(), **state))
    return bool(session.scalar(select(ModelRow.stopped).where(*mine)))
