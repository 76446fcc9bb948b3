"""Programs of a job's ops, kept as they were loaded: by the part's name and the op's number, so
that they stay with them when others are taken out.
"""

from __future__ import annotations

import hashlib
from typing import Any

from sqlalchemy import delete, insert, literal, select
from sqlalchemy.dialects import postgresql
from sqlalchemy.orm import Session

from wedgecraft.store.models import OpProgram, ProgramTried, now


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


def key_of(session: Session, job_id: str, run_id: str) -> str:
    """What a run of a job and its programs as they are loaded have in common with nothing else."""
    query = select(OpProgram.part, OpProgram.op, OpProgram.loaded_at)
    rows = session.execute(
        query.where(OpProgram.job_id == job_id).order_by(OpProgram.part, OpProgram.op)
    )
    said = [run_id, *(f"{part}\n{op}\n{at.isoformat()}" for part, op, at in rows)]
    return hashlib.sha256("\n".join(said).encode()).hexdigest()


def note_tried(
    session: Session,
    job_id: str,
    setup: int,
    *,
    key: str,
    step: dict[str, Any],
    seconds: float | None,
) -> None:
    """In place of what was known; nothing is written where that is the same."""
    known = session.get(ProgramTried, (job_id, setup))
    if known is not None and (known.key, known.step, known.seconds) == (key, step, seconds):
        return
    given = {"key": key, "step": step, "seconds": seconds, "tried_at": now()}
    query = postgresql.insert(ProgramTried).values(job_id=job_id, setup=setup, **given)
    session.execute(query.on_conflict_do_update(index_elements=["job_id", "setup"], set_=given))


def tried(session: Session, job_id: str, run_id: str) -> dict[int, ProgramTried]:
    """By setup, of those that were tried as they are now."""
    rows = list(session.scalars(select(ProgramTried).where(ProgramTried.job_id == job_id)))
    if not rows:
        return {}
    key = key_of(session, job_id, run_id)
    return {row.setup: row for row in rows if row.key == key}
