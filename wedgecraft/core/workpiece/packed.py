"""A mesh as bytes, and by the hash of them.

Deflated: two unsigned 32-bit counts, then points (n, 3) as 64-bit floats, then triangles (m, 3) as
unsigned 32-bit numbers, all little-endian; mm in the axes of the file it came from.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import zlib

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.records.solid_ref import SolidRef
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.keeper import kept
from wedgecraft.core.workpiece.mend import NotABody, one_body

#: Meshes of more points and triangles than these are not read.
_MOST = 2_000_000


def packed(points: NDArray[np.float64], triangles: NDArray[np.int64]) -> bytes:
    """Raises nothing: whatever is packed is only looked at when it is unpacked."""
    counts = np.array([len(points), len(triangles)], dtype="<u4")
    return zlib.compress(
        counts.tobytes() + points.astype("<f8").tobytes() + triangles.astype("<u4").tobytes(), 6
    )


def unpacked(data: bytes) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Points and triangles. Raises ValueError for bytes that are no mesh."""
    try:
        opened = zlib.decompressobj()
        raw = opened.decompress(data, 8 + _MOST * 36)
    except zlib.error:
        raise ValueError("the mesh cannot be read: its bytes are damaged") from None
    if not opened.eof or len(raw) < 8:
        raise ValueError("the mesh cannot be read: it is cut short")
    count, sides = (int(value) for value in np.frombuffer(raw, "<u4", 2))
    if count > _MOST or sides > _MOST or len(raw) != 8 + count * 24 + sides * 12:
        raise ValueError("the mesh cannot be read: it is not as long as it says")
    points = np.frombuffer(raw, "<f8", count * 3, 8).reshape(-1, 3)
    triangles = np.frombuffer(raw, "<u4", sides * 3, 8 + count * 24).reshape(-1, 3)
    if sides and int(triangles.max()) >= count:
        raise ValueError("the mesh cannot be read: a triangle has a corner that is not there")
    return points.astype(float), triangles.astype(np.int64)


def reference(
    points: NDArray[np.float64], triangles: NDArray[np.int64], chord_error_mm: float
) -> tuple[SolidRef, bytes]:
    """What stands for a mesh in a document, and its bytes for the store."""
    data = packed(points, triangles)
    return SolidRef(sha256=hashlib.sha256(data).hexdigest(), chord_error_mm=chord_error_mm), data


def body_of(solid: SolidRef) -> Body | None:
    """The body a document names; nothing where it is not at hand. Raises NotABody."""
    key = (solid.sha256, solid.chord_error_mm)
    if key not in _KNOWN:
        found = _read(*key, solid.mesh_base64)
        if found is None:
            return None
        while len(_KNOWN) >= _MOST_KNOWN:
            del _KNOWN[next(iter(_KNOWN))]
        _KNOWN[key] = found
    return _KNOWN[key]


#: Bodies asked for before, the oldest first; one that was not at hand is asked for again.
_KNOWN: dict[tuple[str, float], Body] = {}
_MOST_KNOWN = 8


def _read(sha256: str, chord_error_mm: float, mesh_base64: str | None) -> Body | None:
    again = "export the job again where it was made, or load the part's file again"
    try:
        if mesh_base64 is not None:
            data: bytes | None = base64.b64decode(mesh_base64, validate=True)
        else:
            data = kept(sha256)
        if data is None:
            return None
        points, triangles = unpacked(data)
    except (binascii.Error, ValueError) as error:
        raise NotABody(str(error), again) from None
    if hashlib.sha256(data).hexdigest() != sha256:
        raise NotABody("the mesh is not the one the document names", again)
    return one_body(points, triangles, chord_error_mm).bodies[0]
