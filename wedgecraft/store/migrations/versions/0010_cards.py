"""Each planned job at a glance, so that a list of them is quick; on which step a page is."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("run", sa.Column("card", postgresql.JSONB(), nullable=True))
    step = sa.Column("step", sa.String(length=40), nullable=False, server_default="")
    op.add_column("presence", step)


def downgrade() -> None:
    op.drop_column("presence", "step")
    op.drop_column("run", "card")
