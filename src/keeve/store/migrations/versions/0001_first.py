"""The first tables: crews, mixes, jobs, shapes, plans, batches, batch events."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None

NOW = sa.func.clock_timestamp()


def _owned() -> list[sa.Column]:  # type: ignore[type-arg]
    return [
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("crew_id", sa.Uuid(), sa.ForeignKey("crews.id"), nullable=False, index=True),
    ]


def _when(name: str) -> sa.Column:  # type: ignore[type-arg]
    return sa.Column(name, sa.DateTime(timezone=True), server_default=NOW, nullable=False)


def upgrade() -> None:
    op.create_table("crews", sa.Column("id", sa.Uuid(), primary_key=True), sa.Column("name", sa.String, nullable=False))
    op.create_table(
        "mixes",
        *_owned(),
        sa.Column("based_on", sa.String, nullable=False),
        sa.Column("changes", JSONB, nullable=False),
    )
    op.create_table(
        "jobs",
        *_owned(),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("place", sa.String, nullable=False),
        sa.Column("mix_id", sa.Uuid(), sa.ForeignKey("mixes.id"), nullable=False),
        sa.Column("entry", JSONB, nullable=False),
        _when("created_at"),
        _when("changed_at"),
    )
    op.create_table(
        "shapes",
        *_owned(),
        sa.Column("job_id", sa.Uuid(), sa.ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("entry", JSONB, nullable=False),
    )
    op.create_table(
        "plans",
        *_owned(),
        sa.Column("job_id", sa.Uuid(), sa.ForeignKey("jobs.id"), nullable=False, index=True),
        _when("made_at"),
        sa.Column("core_version", sa.String, nullable=False),
        sa.Column("sheet", JSONB, nullable=False),
        sa.Column("request", JSONB, nullable=False),
        sa.Column("plan", JSONB, nullable=False),
    )
    op.create_table(
        "batches",
        *_owned(),
        sa.Column("job_id", sa.Uuid(), sa.ForeignKey("jobs.id"), nullable=False, index=True),
        sa.Column("plan_id", sa.Uuid(), sa.ForeignKey("plans.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.UniqueConstraint("plan_id", "number"),
    )
    op.create_table(
        "batch_events",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("crew_id", sa.Uuid(), sa.ForeignKey("crews.id"), primary_key=True),
        sa.Column("batch_id", sa.Uuid(), sa.ForeignKey("batches.id"), nullable=False, index=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        _when("received_at"),
        sa.Column("body", JSONB, nullable=False),
    )
    op.execute(
        """
        create function keeve_append_only() returns trigger language plpgsql as $$
        begin raise exception 'the log of a load is append only'; end $$
        """
    )
    op.execute(
        """
        create trigger batch_events_append_only before update or delete on batch_events
        for each row execute function keeve_append_only()
        """
    )
