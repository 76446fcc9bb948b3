"""Which kind of mesh a file is; nothing is loaded for it."""

from __future__ import annotations


def kind_of(data: bytes) -> str | None:
    """``stl``, ``3mf`` or ``glb``, by how the file begins; nothing for any other."""
    if data[:4] == b"glTF":
        return "glb"
    if data[:4] == b"PK\x03\x04" and b"3D/" in data[:4_000_000]:
        return "3mf"
    text = data[:400].lstrip().lower()
    if text.startswith(b"solid") and b"facet" in data[:4000].lower():
        return "stl"
    if len(data) >= 84:
        count = int.from_bytes(data[80:84], "little")
        if count > 0 and len(data) == 84 + 50 * count:
            return "stl"
    return None
