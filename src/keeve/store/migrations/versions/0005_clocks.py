"""What was tapped lately is found without reading every entry of every log."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_index("ix_run_events_lately", "run_events", ["crew_id", sa.text("received_at desc"), "job_id"])
