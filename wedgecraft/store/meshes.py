"""Meshes of solids, kept once by the hash of their content."""

from __future__ import annotations

import base64
import binascii
import hashlib
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.solid_ref import SolidRef
from wedgecraft.core.workpiece.keeper import meshes_from
from wedgecraft.store.database import Database
from wedgecraft.store.models import StoredMesh, now


def keep(session: Session, data: bytes) -> str:
    """Its hash; what is there already stays."""
    sha256 = hashlib.sha256(data).hexdigest()
    session.execute(
        insert(StoredMesh)
        .values(sha256=sha256, data=data, created_at=now())
        .on_conflict_do_nothing()
    )
    return sha256


def data_of(session: Session, sha256: str) -> bytes | None:
    return session.scalar(select(StoredMesh.data).where(StoredMesh.sha256 == sha256))


def serve(database: Database) -> None:
    """Let the core find in this database what documents only name."""

    def found(sha256: str) -> bytes | None:
        with database.session() as session:
            return data_of(session, sha256)

    meshes_from(found)


def taken_out(session: Session, document: JobDocument) -> JobDocument:
    """The document with its meshes kept here and named only. Raises ValueError for one that is not
    the mesh it says.
    """

    def kept(ref: SolidRef) -> SolidRef:
        if ref.mesh_base64 is None:
            return ref
        try:
            data = base64.b64decode(ref.mesh_base64, validate=True)
        except binascii.Error:
            raise ValueError("a mesh of the document is damaged: export the job again") from None
        if keep(session, data) != ref.sha256:
            raise ValueError("a mesh of the document is not the one it names: export the job again")
        return ref.model_copy(update={"mesh_base64": None})

    return _with(document, kept)


def put_in(session: Session, document: JobDocument) -> JobDocument:
    """The document with its meshes in it, to travel by itself."""

    def carried(ref: SolidRef) -> SolidRef:
        data = data_of(session, ref.sha256)
        if data is None:
            return ref
        return ref.model_copy(update={"mesh_base64": base64.b64encode(data).decode()})

    return _with(document, carried)


def _with(document: JobDocument, change: Any) -> JobDocument:
    parts = []
    for part in document.job.parts:
        updates: dict[str, Any] = {}
        if part.solid is not None and part.solid.mesh is not None:
            mesh = change(part.solid.mesh)
            updates["solid"] = part.solid.model_copy(update={"mesh": mesh})
        if part.stock.solid is not None:
            solid = change(part.stock.solid)
            updates["stock"] = part.stock.model_copy(update={"solid": solid})
        parts.append(part.model_copy(update=updates) if updates else part)
    job = document.job.model_copy(update={"parts": parts})
    return document.model_copy(update={"job": job})
