"""Kept are what happens in a yard between loads, what was looked at, the air, and how a day is planned."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "day_log",
        sa.Column("crew_id", sa.Uuid(), sa.ForeignKey("crews.id"), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("body", JSONB(), nullable=False),
    )
    op.create_index("ix_day_log_at", "day_log", ["crew_id", sa.text("at desc")])
    op.create_table(
        "day_plans",
        sa.Column("crew_id", sa.Uuid(), sa.ForeignKey("crews.id"), primary_key=True),
        sa.Column("day", sa.Date(), primary_key=True),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.clock_timestamp()),
    )
    op.add_column("jobs", sa.Column("away", sa.Boolean(), nullable=False, server_default=sa.text("false")))
    op.drop_index("ix_jobs_found", "jobs")
    op.create_index("ix_jobs_found", "jobs", ["crew_id", "away", sa.text("changed_at desc"), "id", "found_by"])
    # Pages that show what stands of it are remembered by the revision of the book: an entry makes them anew.
    op.execute(
        "create trigger day_log_counted after insert on day_log for each row execute function keeve_book_changed()"
    )
    op.execute(
        "create trigger day_log_stays before update or delete on day_log "
        "for each row execute function keeve_append_only()"
    )
