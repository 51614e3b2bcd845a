"""The mix book: a crew's own mixes, admixtures and sand tests."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "book_entries",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("crew_id", sa.Uuid(), sa.ForeignKey("crews.id"), nullable=False, index=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("key", sa.String, nullable=False),
        sa.Column("base", JSONB),
        sa.Column("entry", JSONB, nullable=False),
        sa.Column("document", JSONB),
        sa.Column("away", sa.Boolean, nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=sa.func.clock_timestamp(), nullable=False),
        sa.UniqueConstraint("crew_id", "kind", "key"),
    )
