"""The tables. Every row belongs to a crew."""

from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import DateTime, ForeignKey, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

Document = dict[str, Any]


class Base(DeclarativeBase):
    """Registry of all tables."""

    type_annotation_map = {Document: JSONB, datetime: DateTime(timezone=True)}


class Crew(Base):
    """People who share a yard."""

    __tablename__ = "crews"

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str]


class _Owned:
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), index=True)


class MixRow(_Owned, Base):
    """A catalogue mix as this crew uses it on a job: the changes as typed."""

    __tablename__ = "mixes"

    based_on: Mapped[str]
    changes: Mapped[Document]


class BookRow(_Owned, Base):
    """Something of a crew's own in its mix book: a mix, an admixture, a sand test; as typed, and as last understood."""

    __tablename__ = "book_entries"
    __table_args__ = (UniqueConstraint("crew_id", "kind", "key"),)

    kind: Mapped[str]
    key: Mapped[str]
    base: Mapped[Document | None]
    """What it began as: a whole mix, kept so that a new catalogue does not change it."""
    entry: Mapped[Document]
    document: Mapped[Document | None]
    away: Mapped[bool] = mapped_column(default=False)
    changed_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())


class JobRow(_Owned, Base):
    """A job; its entries are kept exactly as typed, right or wrong, so that nothing is lost."""

    __tablename__ = "jobs"

    name: Mapped[str]
    place: Mapped[str] = mapped_column(default="")
    mix_id: Mapped[UUID] = mapped_column(ForeignKey("mixes.id"))
    entry: Mapped[Document]
    created_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    changed_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())

    mix: Mapped[MixRow] = relationship(lazy="joined")
    shapes: Mapped[list["ShapeRow"]] = relationship(
        order_by="ShapeRow.position", cascade="all, delete-orphan", lazy="selectin"
    )


class ShapeRow(_Owned, Base):
    """One shape of a take-off, as typed."""

    __tablename__ = "shapes"

    job_id: Mapped[UUID] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    entry: Mapped[Document]


class PlanRow(_Owned, Base):
    """A plan as it was when mixing began; never changed afterwards."""

    __tablename__ = "plans"

    job_id: Mapped[UUID] = mapped_column(ForeignKey("jobs.id"), index=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    core_version: Mapped[str]
    sheet: Mapped[Document]
    request: Mapped[Document]
    plan: Mapped[Document]


class BatchRow(_Owned, Base):
    """One load that was begun."""

    __tablename__ = "batches"
    __table_args__ = (UniqueConstraint("plan_id", "number"),)

    job_id: Mapped[UUID] = mapped_column(ForeignKey("jobs.id"), index=True)
    plan_id: Mapped[UUID] = mapped_column(ForeignKey("plans.id"))
    number: Mapped[int]


class EventRow(Base):
    """One event of a load; the database itself refuses to change or delete it."""

    __tablename__ = "batch_events"

    id: Mapped[str] = mapped_column(primary_key=True)
    crew_id: Mapped[UUID] = mapped_column(ForeignKey("crews.id"), primary_key=True)
    batch_id: Mapped[UUID] = mapped_column(ForeignKey("batches.id"), index=True)
    at: Mapped[datetime]
    received_at: Mapped[datetime] = mapped_column(server_default=func.clock_timestamp())
    body: Mapped[Document]
