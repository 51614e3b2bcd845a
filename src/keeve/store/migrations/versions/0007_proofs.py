"""Tests of hardened and fresh work: specimens, their results, weighings; each a row that is never changed."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "proofs",
        sa.Column("crew_id", sa.Uuid, sa.ForeignKey("crews.id"), primary_key=True),
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("job_id", sa.Uuid, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.ForeignKeyConstraint(["crew_id", "job_id"], ["jobs.crew_id", "jobs.id"]),
    )
    op.create_index("ix_proofs_job", "proofs", ["crew_id", "job_id", "at"])
    op.execute(
        "create trigger proofs_stay before update or delete on proofs for each row execute function keeve_append_only()"
    )
    op.execute(
        "create trigger proofs_counted after insert on proofs for each row execute function keeve_book_changed()"
    )
