"""Programs of ops, as they were loaded."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "op_program",
        sa.Column("job_id", sa.String(length=32), nullable=False),
        sa.Column("part", sa.String(length=120), nullable=False),
        sa.Column("op", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("loaded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("loaded_by", sa.String(length=32), nullable=True),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["loaded_by"], ["person.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("job_id", "part", "op"),
    )


def downgrade() -> None:
    op.drop_table("op_program")
