"""Revisions of the book counted by the database itself; tokens for programs; jobs found by their words."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("crews", sa.Column("book_n", sa.BigInteger, nullable=False, server_default="0"))
    op.execute(
        """
        create function keeve_book_changed() returns trigger language plpgsql as $$
        begin
          update crews set book_n = book_n + 1 where id = coalesce(new.crew_id, old.crew_id);
          return null;
        end $$
        """
    )
    op.execute(
        "create trigger book_entries_counted after insert or update or delete on book_entries "
        "for each row execute function keeve_book_changed()"
    )
    op.create_table(
        "api_tokens",
        sa.Column("crew_id", sa.Uuid(), sa.ForeignKey("crews.id"), primary_key=True),
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("print", sa.String, nullable=False, unique=True),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=sa.func.clock_timestamp(), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True)),
    )
    # An index takes no text longer than a few thousand letters.
    op.execute(
        "alter table jobs add column found_by text not null "
        "generated always as (lower(left(name, 150) || ' ' || left(place, 150) || ' ' || left(mix_name, 150))) stored"
    )
    op.create_index("ix_jobs_found", "jobs", ["crew_id", sa.text("changed_at desc"), "id", "found_by"])
    op.drop_index("ix_jobs_recent", "jobs")
