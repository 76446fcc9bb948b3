"""What happened at the machine, values adopted from it, and fixtures that exist."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "log_entry",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("setup", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=12), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("received_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("clock_off_s", sa.Float(), nullable=False),
        sa.Column("person_id", sa.String(length=32), nullable=True),
        sa.Column("data", postgresql.JSONB(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("job_id", "id"),
    )
    op.create_index("log_by_time", "log_entry", ["job_id", "at", "id"])
    op.create_table(
        "adopted",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("field", sa.String(length=200), nullable=False),
        sa.Column("before", postgresql.JSONB(), nullable=True),
        sa.Column("after", postgresql.JSONB(), nullable=True),
        sa.Column("cases", sa.Integer(), nullable=False),
        sa.Column("undone", sa.Boolean(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("person", sa.String(length=120), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("adopted_by_job", "adopted", ["job_id", "at"])
    op.create_table(
        "fixture",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("number", sa.String(length=40), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=True),
        sa.Column("setup", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("place", sa.String(length=120), nullable=False),
        sa.Column("state", sa.String(length=12), nullable=False),
        sa.Column("parts", sa.Integer(), nullable=False),
        sa.Column("data", postgresql.JSONB(), nullable=False),
        sa.Column("history", postgresql.JSONB(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("number"),
        sa.CheckConstraint(
            "state IN ('in use', 'to mend', 'crashed', 'scrapped')", name="state_known"
        ),
    )


def downgrade() -> None:
    op.drop_table("fixture")
    op.drop_table("adopted")
    op.drop_table("log_entry")
