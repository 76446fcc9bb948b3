"""How a setup's program came out when it was last tried."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "program_tried",
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("setup", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(length=64), nullable=False),
        sa.Column("step", postgresql.JSONB(), nullable=False),
        sa.Column("seconds", sa.Float(), nullable=True),
        sa.Column("tried_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id", "setup"),
    )


def downgrade() -> None:
    op.drop_table("program_tried")
