"""A job is one document with its route; what was laid out is its first setup."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from pydantic import ValidationError
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"

_JSON = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.alter_column("job", "machine", type_=sa.String(length=300))
    op.alter_column("job", "per_kit", new_column_name="per_set")
    for table in ("job", "run"):
        op.alter_column(table, "request", new_column_name="document")
    _bring_over()
    # What a path held before stood in the old document: it cannot be put back into the new one.
    op.execute("UPDATE change SET path = NULL, before = NULL, after = NULL")


def _bring_over() -> None:
    """Every document as version 3, with what is read off it; results of one setup taken along."""
    connection = op.get_bind()
    job, run = (
        sa.table(name, *(sa.column(c) for c in columns), *(sa.column(c, _JSON) for c in documents))
        for name, columns, documents in (
            ("job", ("id", "digest", "machine", "per_set"), ("document",)),
            ("run", ("id", "digest"), ("document", "result")),
        )
    )
    for table in (job, run):
        for ident in connection.scalars(sa.select(table.c.id)).all():
            row = connection.execute(sa.select(table).where(table.c.id == ident)).one()
            values = _version_3(row)
            connection.execute(sa.update(table).where(table.c.id == ident).values(**values))


def _version_3(row: Any) -> dict[str, Any]:
    """What changes in a row. A document that not even its own version could read stays as it is:
    opening the job says what is wrong with it.
    """
    from wedgecraft.core.plan.whole import of_version_2
    from wedgecraft.core.records.job import JobDocument
    from wedgecraft.store.jobs import as_json, digest, read_off

    try:
        document = JobDocument.model_validate(row.document)
    except ValidationError:
        return {"digest": row.digest}
    stored = as_json(document)
    if not hasattr(row, "result"):
        return {"document": stored, **read_off(stored)}
    result = of_version_2(document, row.result) if row.result is not None else None
    kept = row.result if result is None else json.loads(result.model_dump_json())
    return {"document": stored, "digest": digest(stored), "result": kept}


def downgrade() -> None:
    raise NotImplementedError("a job of version 3 has no older form; restore a backup instead")
