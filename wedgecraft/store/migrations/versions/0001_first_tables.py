"""Accounts, jobs, runs and settings"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "person",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("sign_in", sa.String(length=60), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("role", sa.String(length=12), nullable=False),
        sa.Column("password_hash", sa.String(length=200), nullable=False),
        sa.Column("units", sa.String(length=8), nullable=False),
        sa.Column("theme", sa.String(length=8), nullable=False),
        sa.Column("active", sa.Boolean(), nullable=False),
        sa.Column("session_number", sa.Integer(), nullable=False),
        sa.Column("demo", sa.Boolean(), nullable=False),
        sa.Column("created_at", postgresql.TIMESTAMP(timezone=True), nullable=False),
        sa.CheckConstraint("role IN ('admin', 'planner', 'operator', 'viewer')", name="role_known"),
        sa.CheckConstraint("theme IN ('light', 'dark')", name="theme_known"),
        sa.CheckConstraint("units IN ('metric', 'inch')", name="units_known"),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("sign_in"),
    )
    op.create_table(
        "setting",
        sa.Column("key", sa.String(length=60), nullable=False),
        sa.Column("value", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "job",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("quantity", sa.Integer(), nullable=False),
        sa.Column("due", sa.Date(), nullable=True),
        sa.Column("request", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("demo", sa.Boolean(), nullable=False),
        sa.Column("created_at", postgresql.TIMESTAMP(timezone=True), nullable=False),
        sa.Column("updated_at", postgresql.TIMESTAMP(timezone=True), nullable=False),
        sa.Column("updated_by", sa.String(length=32), nullable=True),
        sa.ForeignKeyConstraint(["updated_by"], ["person.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_job_name"), "job", ["name"], unique=False)
    op.create_table(
        "run",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("request", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("digest", sa.String(length=64), nullable=False),
        sa.Column("status", sa.String(length=12), nullable=False),
        sa.Column("step", sa.String(length=60), nullable=False),
        sa.Column("share", sa.Double(), nullable=False),
        sa.Column("result", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.Column("count", sa.Integer(), nullable=True),
        sa.Column("error", sa.String(), nullable=True),
        sa.Column("created_at", postgresql.TIMESTAMP(timezone=True), nullable=False),
        sa.Column("finished_at", postgresql.TIMESTAMP(timezone=True), nullable=True),
        sa.CheckConstraint(
            "status IN ('queued', 'running', 'done', 'failed', 'cancelled')", name="status_known"
        ),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("run_by_job", "run", ["job_id", "created_at"], unique=False)
    op.create_index(
        "run_one_active",
        "run",
        ["job_id"],
        unique=True,
        postgresql_where=sa.text("status IN ('queued', 'running')"),
    )


def downgrade() -> None:
    op.drop_index(
        "run_one_active",
        table_name="run",
        postgresql_where=sa.text("status IN ('queued', 'running')"),
    )
    op.drop_index("run_by_job", table_name="run")
    op.drop_table("run")
    op.drop_index(op.f("ix_job_name"), table_name="job")
    op.drop_table("job")
    op.drop_table("setting")
    op.drop_table("person")
