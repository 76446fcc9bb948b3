"""The shop with its history, and solids on their way in"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"

_JSON = postgresql.JSONB(astext_type=sa.Text())
_TIME = postgresql.TIMESTAMP(timezone=True)


def upgrade() -> None:
    op.create_table(
        "shop_entry",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("kind", sa.String(length=12), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("data", _JSON, nullable=False),
        sa.Column("source", sa.String(length=200), nullable=False),
        sa.Column("sources", _JSON, nullable=False),
        sa.Column("ships", sa.Boolean(), nullable=False),
        sa.Column("retired", sa.Boolean(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("updated_at", _TIME, nullable=False),
        sa.Column("updated_by", sa.String(length=120), nullable=True),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("kind", "name"),
    )
    op.create_index("shop_entry_by_kind", "shop_entry", ["kind"])
    op.create_table(
        "shop_change",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("entry_id", sa.String(length=32), nullable=False),
        sa.Column("at", _TIME, nullable=False),
        sa.Column("person", sa.String(length=120), nullable=False),
        sa.Column("what", sa.String(length=40), nullable=False),
        sa.Column("fields", _JSON, nullable=False),
        sa.ForeignKeyConstraint(["entry_id"], ["shop_entry.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("shop_change_by_entry", "shop_change", ["entry_id", "at"])
    op.create_table(
        "upload",
        sa.Column("id", sa.String(length=32), nullable=False),
        sa.Column("name", sa.String(length=200), nullable=False),
        sa.Column("file", sa.LargeBinary(), nullable=True),
        sa.Column("status", sa.String(length=12), nullable=False),
        sa.Column("step", sa.String(length=60), nullable=False),
        sa.Column("share", sa.Float(), nullable=False),
        sa.Column("error", sa.String(), nullable=True),
        sa.Column("result", _JSON, nullable=True),
        sa.Column("points", sa.LargeBinary(), nullable=True),
        sa.Column("triangles", sa.LargeBinary(), nullable=True),
        sa.Column("faces", sa.LargeBinary(), nullable=True),
        sa.Column("created_at", _TIME, nullable=False),
        sa.Column("created_by", sa.String(length=32), nullable=True),
        sa.CheckConstraint(
            "status IN ('queued', 'running', 'done', 'failed', 'cancelled')", name="status_known"
        ),
        sa.ForeignKeyConstraint(["created_by"], ["person.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("upload_by_status", "upload", ["status"])


def downgrade() -> None:
    for name in ("upload", "shop_change", "shop_entry"):
        op.drop_table(name)
