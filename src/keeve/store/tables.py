"""The tables. Every row belongs to a crew, and its key begins with it."""

from datetime import date, datetime
from typing import Any, Final
from uuid import UUID, uuid4

from sqlalchemy import (
    BigInteger,
    Computed,
    DateTime,
    ForeignKey,
    ForeignKeyConstraint,
    Index,
    Text,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

Document = dict[str, Any]


TO_MIX: Final = text("state in ('ready', 'mixing') and not away")
"""Jobs that are ready to mix or under way, written as the index has it."""


class Base(DeclarativeBase):
    """Registry of all tables."""

    type_annotation_map = {Document: JSONB, datetime: DateTime(timezone=True)}


class Crew(Base):
    """People who share a yard."""

    __tablename__ = "crews"

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str] = mapped_column(unique=True)
    book_n: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    """Counts the changes of the crew's book: the database does it, so that no writer can forget to."""


class TokenRow(Base):
    """A token the crew made for a program, by its print."""

    __tablename__ = "api_tokens"

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str]
    print: Mapped[str] = mapped_column(unique=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    used_at: Mapped[datetime | None]


class BookRow(Base):
    """Something of a crew's own in its mix book: a mix, an admixture, a sand test; as typed, and as last understood."""

    __tablename__ = "book_entries"
    __table_args__ = (UniqueConstraint("crew_id", "kind", "key"),)

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    kind: Mapped[str]
    key: Mapped[str]
    base: Mapped[Document | None]
    """What it began as: a whole mix, kept so that a new catalogue does not change it."""
    entry: Mapped[Document]
    document: Mapped[Document | None]
    away: Mapped[bool] = mapped_column(default=False)
    changed_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    version: Mapped[int] = mapped_column(default=1, server_default="1")


class JobRow(Base):
    """A job; its sheet is kept exactly as typed, right or wrong, so that nothing is lost.

    Beside it what the list of jobs shows, so that the list reads one row a job and works nothing out.
    """

    __tablename__ = "jobs"
    __table_args__ = (
        Index("ix_jobs_found", "crew_id", "away", text("changed_at desc"), "id", "found_by"),
        Index("ix_jobs_to_mix", "crew_id", text("changed_at desc"), "id", postgresql_where=TO_MIX),
    )

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str]
    place: Mapped[str] = mapped_column(default="")
    sheet: Mapped[Document]
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    """Counts the writes of the sheet: who writes an older one is merged with what came between."""
    mix_key: Mapped[str] = mapped_column(default="", server_default="")
    mix_name: Mapped[str] = mapped_column(default="", server_default="")
    state: Mapped[str] = mapped_column(default="", server_default="")
    """measure, ready, mixing, done; empty where nobody has looked since something it stands on changed."""
    to_fill_m3: Mapped[float | None]
    loads: Mapped[int] = mapped_column(default=0, server_default="0")
    made: Mapped[int] = mapped_column(default=0, server_default="0")
    event_n: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    """Number of the last event of its log: counted in the row, so that numbers follow the order of commits."""
    ticket_n: Mapped[int] = mapped_column(default=0, server_default="0")
    link_n: Mapped[int] = mapped_column(default=0, server_default="0")
    """Counts how often the run's links were taken back: those of before open nothing."""
    away: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    """Whether it was put away: not among the jobs, and brought back by a tap."""
    found_by: Mapped[str] = mapped_column(
        Text,
        Computed("lower(left(name, 150) || ' ' || left(place, 150) || ' ' || left(mix_name, 150))", persisted=True),
        deferred=True,
    )
    """What a job is found by."""
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    changed_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class TicketRow(Base):
    """A ticket of a job, as it was when it was taken; never changed afterwards."""

    __tablename__ = "tickets"
    __table_args__ = (ForeignKeyConstraint(["crew_id", "job_id"], ["jobs.crew_id", "jobs.id"]),)

    crew_id: Mapped[UUID] = mapped_column(primary_key=True)
    job_id: Mapped[UUID] = mapped_column(primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    made_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    made_from: Mapped[str]
    """Print of the request it was made from, to see whether the sheet was changed since."""
    document: Mapped[Document]


class EventRow(Base):
    """One event of a job's log; the database itself refuses to change or delete it."""

    __tablename__ = "run_events"
    __table_args__ = (
        ForeignKeyConstraint(["crew_id", "job_id"], ["jobs.crew_id", "jobs.id"]),
        UniqueConstraint("crew_id", "id"),
        Index("ix_run_events_lately", "crew_id", text("received_at desc"), "job_id"),
    )

    crew_id: Mapped[UUID] = mapped_column(primary_key=True)
    job_id: Mapped[UUID] = mapped_column(primary_key=True)
    n: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    id: Mapped[str]
    received_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    body: Mapped[Document]


class DayRow(Base):
    """What happened in the yard between loads, or was looked at; the database refuses to change or delete it."""

    __tablename__ = "day_log"
    __table_args__ = (Index("ix_day_log_at", "crew_id", text("at desc")),)

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    at: Mapped[datetime]
    body: Mapped[Document]


class DayPlanRow(Base):
    """How a crew plans one day, as typed."""

    __tablename__ = "day_plans"

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    day: Mapped[date] = mapped_column(primary_key=True)
    document: Mapped[Document]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class ProofRow(Base):
    """A specimen, a result, a weighing of a job's work; the database refuses to change or delete it."""

    __tablename__ = "proofs"
    __table_args__ = (
        ForeignKeyConstraint(["crew_id", "job_id"], ["jobs.crew_id", "jobs.id"]),
        Index("ix_proofs_job", "crew_id", "job_id", "at"),
    )

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[UUID]
    at: Mapped[datetime]
    body: Mapped[Document]


class PhotoRow(Base):
    """A photo of a job or a load, small and with nothing in it but the picture."""

    __tablename__ = "photos"
    __table_args__ = (
        ForeignKeyConstraint(["crew_id", "job_id"], ["jobs.crew_id", "jobs.id"]),
        Index("ix_photos_job", "crew_id", "job_id", "at"),
    )

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    job_id: Mapped[UUID]
    at: Mapped[datetime]
    load: Mapped[int | None]
    says: Mapped[str] = mapped_column(Text)
    wide: Mapped[int]
    high: Mapped[int]
    jpeg: Mapped[bytes]


class ModelRow(Base):
    """A model being read: whichever server is asked can tell how far it is, or stop it."""

    __tablename__ = "readings"

    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    since: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    beat_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    """Last sign of life of the server that reads it."""
    stage: Mapped[str] = mapped_column(default="waiting")
    share: Mapped[float] = mapped_column(default=0.0)
    done: Mapped[bool] = mapped_column(default=False)
    stopped: Mapped[bool] = mapped_column(default=False)
    result: Mapped[Document | None]
    faults: Mapped[Any] = mapped_column(JSONB, default=list)
