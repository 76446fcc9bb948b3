"""Sign-ins that can be ended, changes that can be sent twice and taken back, jobs that rest before
they are gone
"""

import hashlib
import json

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"

_WHEN = postgresql.TIMESTAMP(timezone=True)
_JSON = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.create_table(
        "signed_in",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("person_id", sa.String(length=32), nullable=False),
        sa.Column("address", sa.String(length=60), nullable=False),
        sa.Column("at", _WHEN, nullable=False),
        sa.Column("seen_at", _WHEN, nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("signed_in_by_person", "signed_in", ["person_id"])
    op.create_table(
        "sign_in_attempt",
        sa.Column("key", sa.String(length=200), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("since", _WHEN, nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "change",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("number", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("what", sa.String(length=120), nullable=False),
        sa.Column("subject", sa.String(length=32), nullable=False),
        sa.Column("person_id", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=True),
        sa.Column("path", sa.String(length=200), nullable=True),
        sa.Column("before", _JSON, nullable=True),
        sa.Column("after", _JSON, nullable=True),
        sa.Column("undone", sa.Boolean(), nullable=False),
        sa.Column("at", _WHEN, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("change_by_job", "change", ["job_id", "person_id", "number"])
    op.create_index("change_by_age", "change", ["at"])
    op.add_column("job", sa.Column("deleted_at", _WHEN, nullable=True))
    for column in (
        sa.Column("digest", sa.String(length=64), nullable=True),
        sa.Column("machine", sa.String(length=120), nullable=True),
        sa.Column("per_kit", sa.Integer(), nullable=True),
    ):
        op.add_column("job", column)
    _fill()
    for name in ("digest", "machine", "per_kit"):
        op.alter_column("job", name, nullable=False)
    op.add_column("run", sa.Column("note", sa.String(length=200), nullable=True))
    op.add_column("run", sa.Column("attempts", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("run", sa.Column("asked_by", sa.String(length=32), nullable=True))
    op.create_foreign_key(None, "run", "person", ["asked_by"], ["id"], ondelete="SET NULL")
    op.add_column("upload", sa.Column("attempts", sa.Integer(), nullable=False, server_default="0"))
    for table in ("run", "upload"):
        op.alter_column(table, "attempts", server_default=None)
    op.drop_column("person", "session_number")


def _fill() -> None:
    """What is read off a request, for the requests that are there; the digest as their runs were
    marked with.
    """
    job = sa.table(
        "job",
        *(sa.column(name) for name in ("id", "digest", "machine", "per_kit")),
        sa.column("request", _JSON),
    )
    connection = op.get_bind()
    for ident, request in connection.execute(sa.select(job.c.id, job.c.request)).all():
        nothing = {"own": False, "stations": []}
        kept = {
            key: value for key, value in request.items() if key != "arrangement" or value != nothing
        }
        parts, planned = request.get("parts", []), request.get("planned", {}).get("part", 0)
        values = {
            "digest": hashlib.sha256(json.dumps(kept, sort_keys=True).encode()).hexdigest(),
            "machine": request.get("machine", {}).get("name", ""),
            "per_kit": parts[planned].get("per_kit", 1) if planned < len(parts) else 1,
        }
        connection.execute(sa.update(job).where(job.c.id == ident).values(**values))


def downgrade() -> None:
    op.add_column(
        "person", sa.Column("session_number", sa.Integer(), nullable=False, server_default="1")
    )
    op.drop_column("upload", "attempts")
    for name in ("note", "attempts", "asked_by"):
        op.drop_column("run", name)
    for name in ("deleted_at", "digest", "machine", "per_kit"):
        op.drop_column("job", name)
    for name in ("change", "sign_in_attempt", "signed_in"):
        op.drop_table(name)
