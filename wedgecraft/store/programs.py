"""Programs of a job's ops, kept as they were loaded: by the part's name and the op's number, so
that they stay with them when others are taken out.
"""

from __future__ import annotations

from sqlalchemy import delete, insert, literal, select
from sqlalchemy.dialects import postgresql
from sqlalchemy.orm import Session

from wedgecraft.store.models import OpProgram, now


def keep(
    session: Session, job_id: str, part: str, op: int, *, name: str, text: str, person: str
) -> None:
    """In place of what was there."""
    given = {"name": name, "text": text, "loaded_at": now(), "loaded_by": person}
    query = postgresql.insert(OpProgram).values(job_id=job_id, part=part, op=op, **given)
    session.execute(
        query.on_conflict_do_update(index_elements=["job_id", "part", "op"], set_=given)
    )


def of_job(session: Session, job_id: str) -> list[OpProgram]:
    """All of them, as parts and ops are called."""
    query = select(OpProgram).where(OpProgram.job_id == job_id)
    return list(session.scalars(query.order_by(OpProgram.part, OpProgram.op)))


def remove(session: Session, job_id: str, part: str, op: int) -> None:
    """Twice is once."""
    session.execute(
        delete(OpProgram).where(
            OpProgram.job_id == job_id, OpProgram.part == part, OpProgram.op == op
        )
    )


def copy(session: Session, job_id: str, to: str) -> None:
    """Those of a job, for its copy too."""
    columns = ["part", "op", "name", "text", "loaded_at", "loaded_by"]
    taken = select(literal(to), *(getattr(OpProgram, name) for name in columns))
    source = taken.where(OpProgram.job_id == job_id)
    session.execute(insert(OpProgram).from_select(["job_id", *columns], source))
