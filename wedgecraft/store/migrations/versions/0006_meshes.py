"""Meshes by their content. Designs made before the workpiece was a solid are planned again."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "mesh",
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("sha256"),
    )
    # What was laid out answers parts that were prisms of their finished outline: not these jobs.
    op.execute("UPDATE run SET digest = ''")


def downgrade() -> None:
    op.drop_table("mesh")
