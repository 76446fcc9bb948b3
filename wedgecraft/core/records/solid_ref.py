"""A mesh that stands outside a document, by the hash of its content."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from wedgecraft.core.ground.documents import Document


class SolidRef(Document):
    """A closed mesh by the hash of its content; ``mesh_base64`` is the mesh itself in a document
    that travels by itself (``workpiece/packed.py`` says how it is written), nothing where the
    store keeps it.
    """

    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    chord_error_mm: Annotated[float, Field(ge=0, le=1)] = 0.0
    mesh_base64: Annotated[str, Field(max_length=60_000_000)] | None = None
