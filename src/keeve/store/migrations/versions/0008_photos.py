"""Photos of loads: small, and with nothing in them but the picture; what is to be mixed is found by an index."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Add the table and the index."""
    ready = sa.text("state in ('ready', 'mixing') and not away")
    op.create_index("ix_jobs_to_mix", "jobs", ["crew_id", sa.text("changed_at desc"), "id"], postgresql_where=ready)
    op.create_table(
        "photos",
        sa.Column("crew_id", sa.Uuid, sa.ForeignKey("crews.id"), primary_key=True),
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("job_id", sa.Uuid, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("load", sa.Integer),
        sa.Column("says", sa.Text, nullable=False),
        sa.Column("wide", sa.Integer, nullable=False),
        sa.Column("high", sa.Integer, nullable=False),
        sa.Column("jpeg", sa.LargeBinary, nullable=False),
        sa.ForeignKeyConstraint(["crew_id", "job_id"], ["jobs.crew_id", "jobs.id"]),
    )
    op.create_index("ix_photos_job", "photos", ["crew_id", "job_id", "at"])
    op.execute(
        "create trigger photos_counted after insert or update or delete on photos "
        "for each row execute function keeve_book_changed()"
    )
