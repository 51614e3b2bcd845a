"""A restore puts two logs of one job together, and only it may number entries anew; run links can be taken back."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """Let an entry be numbered anew by who says, for this transaction alone, that two logs are put together.

    Run links are counted: those of before the count are taken back.
    """
    op.add_column("jobs", sa.Column("link_n", sa.Integer, nullable=False, server_default="0"))
    op.execute(
        """
        create function keeve_log_stays() returns trigger language plpgsql as $$
        begin
          if tg_op = 'UPDATE' and current_setting('keeve.merging', true) = 'on'
             and (new.crew_id, new.job_id, new.id) = (old.crew_id, old.job_id, old.id) then
            return new;
          end if;
          raise exception 'the log of a load is append only';
        end $$
        """
    )
    op.execute("drop trigger run_events_append_only on run_events")
    op.execute(
        "create trigger run_events_append_only before update or delete on run_events "
        "for each row execute function keeve_log_stays()"
    )
