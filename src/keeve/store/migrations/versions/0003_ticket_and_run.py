"""Tickets and one log a job; sheets whole; every row under its crew's key; readings shared between servers."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"

NOW = sa.func.clock_timestamp()


def upgrade() -> None:
    bind = op.get_bind()
    op.execute("drop trigger batch_events_append_only on batch_events")
    _one_crew_a_name(bind)
    _new_tables()
    _move_sheets()
    _move_tickets()
    _move_log(bind)
    for old in ("batch_events", "batches", "plans", "shapes"):
        op.drop_table(old)
    op.drop_column("jobs", "mix_id")
    op.drop_column("jobs", "entry")
    op.drop_table("mixes")
    op.alter_column("jobs", "sheet", nullable=False)
    _keys_under_the_crew()
    op.execute(
        "create trigger run_events_append_only before update or delete on run_events "
        "for each row execute function keeve_append_only()"
    )


def _one_crew_a_name(bind: sa.Connection) -> None:
    """Two first visits at once could found a crew twice: what both have belongs together."""
    twins = bind.execute(
        sa.text("select array_agg(id order by id::text) from crews group by name having count(*) > 1")
    ).scalars()
    for first, *others in twins.all():
        for table in ("mixes", "jobs", "shapes", "plans", "batches", "batch_events", "book_entries"):
            bind.execute(
                sa.text(f"update {table} set crew_id = :first where crew_id = any(:others)"),  # noqa: S608 - our names
                {"first": first, "others": others},
            )
        bind.execute(sa.text("delete from crews where id = any(:others)"), {"others": others})
    op.create_unique_constraint("crews_name_key", "crews", ["name"])


def _new_tables() -> None:
    for column in (
        sa.Column("sheet", JSONB),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        sa.Column("mix_key", sa.String, nullable=False, server_default=""),
        sa.Column("mix_name", sa.String, nullable=False, server_default=""),
        sa.Column("state", sa.String, nullable=False, server_default=""),
        sa.Column("to_fill_m3", sa.Float),
        sa.Column("loads", sa.Integer, nullable=False, server_default="0"),
        sa.Column("made", sa.Integer, nullable=False, server_default="0"),
        sa.Column("event_n", sa.BigInteger, nullable=False, server_default="0"),
        sa.Column("ticket_n", sa.Integer, nullable=False, server_default="0"),
    ):
        op.add_column("jobs", column)
    op.add_column("book_entries", sa.Column("version", sa.Integer, nullable=False, server_default="1"))
    op.create_table(
        "tickets",
        sa.Column("crew_id", sa.Uuid(), primary_key=True),
        sa.Column("job_id", sa.Uuid(), primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.Column("made_from", sa.String, nullable=False),
        sa.Column("document", JSONB, nullable=False),
    )
    op.create_table(
        "run_events",
        sa.Column("crew_id", sa.Uuid(), primary_key=True),
        sa.Column("job_id", sa.Uuid(), primary_key=True),
        sa.Column("n", sa.BigInteger, primary_key=True, autoincrement=False),
        sa.Column("id", sa.String, nullable=False),
        sa.Column("received_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.UniqueConstraint("crew_id", "id"),
    )
    op.create_table(
        "readings",
        sa.Column("crew_id", sa.Uuid(), sa.ForeignKey("crews.id"), primary_key=True),
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("since", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.Column("beat_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.Column("stage", sa.String, nullable=False),
        sa.Column("share", sa.Float, nullable=False),
        sa.Column("done", sa.Boolean, nullable=False),
        sa.Column("stopped", sa.Boolean, nullable=False),
        sa.Column("result", JSONB),
        sa.Column("faults", JSONB, nullable=False),
    )


def _move_sheets() -> None:
    op.execute(
        """
        update jobs j set mix_key = m.based_on, sheet = case when jsonb_typeof(j.entry) <> 'object' then j.entry else
            j.entry || jsonb_build_object('job', j.name, 'place', j.place, 'mix', m.based_on, 'changes', m.changes,
                'shapes', coalesce((select jsonb_agg(s.entry order by s.position) from shapes s where s.job_id = j.id),
                                   '[]'::jsonb)) end
        from mixes m where m.id = j.mix_id
        """
    )


def _move_tickets() -> None:
    """Each plan was for the whole order, so each begins a round of its own."""
    op.execute(
        """
        insert into tickets (crew_id, job_id, revision, made_at, made_from, document)
        select crew_id, job_id, r, made_at, '', jsonb_build_object(
            'version', 0, 'revision', r, 'round', r, 'request', request, 'plan', plan)
        from (select *, row_number() over (partition by job_id order by made_at, id) as r from plans) as numbered
        """
    )
    op.execute(
        "update jobs j set ticket_n = t.n from "
        "(select job_id, max(revision) as n from tickets group by job_id) as t where t.job_id = j.id"
    )


_LOG = """
    select p.job_id, p.crew_id, p.id as plan_id, b.number, e.id, e.at, e.received_at, e.body,
           p.request->'mixer'->>'key' as mixer,
           dense_rank() over (partition by p.job_id order by p.made_at, p.id) as revision
    from plans p left join batches b on b.plan_id = p.id left join batch_events e on e.batch_id = b.id
    order by p.job_id, p.made_at, p.id, e.at, e.id
"""
_KINDS = {"water": "poured"}


def _move_log(bind: sa.Connection) -> None:
    """Loads were numbered within a plan; now they are numbered on through the job."""
    job: Any = None
    n = before = highest = 0
    revision_now = 0
    for row in bind.execute(sa.text(_LOG)).mappings().all():
        if row["job_id"] != job:
            job, n, before, highest, revision_now = row["job_id"], 0, 0, 0, 1
        if row["revision"] != revision_now:
            before, revision_now = highest, row["revision"]
        if row["id"] is None:
            continue
        n += 1
        load = before + row["number"]
        highest = max(highest, load)
        bind.execute(
            sa.text(
                "insert into run_events (crew_id, job_id, n, id, received_at, body) "
                "values (:crew, :job, :n, :id, :received, cast(:body as jsonb))"
            ),
            {
                "crew": row["crew_id"],
                "job": job,
                "n": n,
                "id": row["id"],
                "received": row["received_at"],
                "body": json.dumps(_body(row, load, n)),
            },
        )
        bind.execute(sa.text("update jobs set event_n = :n where id = :job"), {"n": n, "job": job})


def _body(row: Any, load: int, n: int) -> Any:
    old = row["body"]
    if not isinstance(old, dict) or not isinstance(old.get("kind"), str):
        return {"unreadable": old}
    kind = _KINDS.get(old["kind"], old["kind"])
    new = {"id": row["id"], "at": row["at"].isoformat(), "phone": "before", "seq": n, "kind": kind}
    if kind == "undone":
        return new | {"undoes": old.get("undoes")}
    more: dict[str, Any] = {
        "started": {"ticket": row["revision"], "slot": row["number"] - 1},
        "poured": {"litres": old.get("litres") or 0.0},
        "step_done": {"step": old.get("step") or 0},
        "step_back": {"step": old.get("step") or 0},
        "judged": {"verdict": old.get("verdict")},
        "dry_added": {"dry_kg": old.get("dry_kg")},
    }
    return new | {"load": load, "mixer": row["mixer"]} | more.get(str(kind), {})


def _keys_under_the_crew() -> None:
    for table in ("jobs", "book_entries"):
        op.drop_constraint(f"{table}_pkey", table, type_="primary")
        op.create_primary_key(f"{table}_pkey", table, ["crew_id", "id"])
        op.drop_index(f"ix_{table}_crew_id", table)
    op.create_index("ix_jobs_recent", "jobs", ["crew_id", sa.text("changed_at desc"), "id"])
    for table in ("tickets", "run_events"):
        op.create_foreign_key(None, table, "jobs", ["crew_id", "job_id"], ["crew_id", "id"])
