"""Solids on their way in."""

from __future__ import annotations

from typing import Any

import numpy as np
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, load_only

from wedgecraft.core.workpiece.mesh import Mesh
from wedgecraft.store.models import ACTIVE, Upload


def add(session: Session, name: str, file: bytes, person: str | None) -> Upload:
    upload = Upload(name=name[:200], file=file, created_by=person)
    session.add(upload)
    session.flush()
    return upload


def without_files(session: Session, upload_id: str) -> Upload | None:
    """The upload as it stands, its file and mesh left in the database."""
    columns = (
        Upload.id,
        Upload.name,
        Upload.status,
        Upload.step,
        Upload.share,
        Upload.error,
        Upload.result,
    )
    return session.scalar(select(Upload).options(load_only(*columns)).where(Upload.id == upload_id))


def report(session: Session, upload_id: str, **values: Any) -> bool:
    """Write progress or the outcome down; false when it was cancelled meanwhile."""
    changed = session.execute(
        update(Upload).where(Upload.id == upload_id, Upload.status.in_(ACTIVE)).values(**values)
    )
    return bool(changed.rowcount)  # type: ignore[attr-defined]


def active_of(session: Session, person: str | None) -> int:
    """How many solids of this person wait or are being read."""
    where = (Upload.created_by == person, Upload.status.in_(ACTIVE))
    return session.scalar(select(func.count()).select_from(Upload).where(*where)) or 0


def waiting(session: Session) -> list[str]:
    return list(session.scalars(select(Upload.id).where(Upload.status.in_(ACTIVE))))


def mesh_of(session: Session, upload_id: str) -> Mesh | None:
    row = session.execute(
        select(Upload.points, Upload.triangles, Upload.faces).where(Upload.id == upload_id)
    ).one_or_none()
    if row is None or row[0] is None or row[1] is None or row[2] is None:
        return None
    points = np.frombuffer(row[0], dtype=np.float64).reshape(-1, 3)
    triangles = np.frombuffer(row[1], dtype=np.int64).reshape(-1, 3)
    return Mesh(points, triangles, np.frombuffer(row[2], dtype=np.int64))
