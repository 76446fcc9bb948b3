"""Each planned job at a glance, so that a list of them is quick."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("run", sa.Column("card", postgresql.JSONB(), nullable=True))


def downgrade() -> None:
    op.drop_column("run", "card")
