"""States of the workpiece, and pieces of a fixture, as GLB (glTF 2.0), for a 3-D view: a mesh for
each op that cut a surface.

Nodes are named ``raw``, ``op 10`` and so on by what made the surface, ``removed op 10`` for what it
takes; lengths in metres, as glTF has it, Y up.
"""

from __future__ import annotations

import io
import re
import uuid
import zipfile
from collections.abc import Sequence

import numpy as np

from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.sitting import Sitting
from wedgecraft.core.workpiece.states import Workpiece

_UUID = re.compile(rb"[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}")
#: Z up in mm becomes Y up in m.
_TO_GLTF = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1000.0]]) / 1000


def state_glb(piece: Workpiece, state: int) -> bytes:
    """The blank (0), the workpiece after each op (1 and on), or the finished part (one more), in
    the part's frame; after an op with what that took.

    Raises IndexError for a state that is not there.
    """
    ops = piece.ops
    if not 0 <= state <= len(ops) + 1:
        raise IndexError(state)
    if state == len(ops) + 1:
        return _glb([("finished", *piece.finished.mesh)])
    body = piece.blank if state == 0 else ops[state - 1].pose.back(ops[state - 1].after)
    meshes = _by_origin(piece, body)
    if state > 0:
        before = ops[state - 1].pose.back(ops[state - 1].before)
        removed = before - body
        if not removed.empty:
            meshes.append((f"removed op {ops[state - 1].op.number}", *removed.mesh))
    return _glb(meshes)


def stood_glb(sitting: Sitting) -> bytes:
    """The workpiece as it is put in (``before``), in its station's frame."""
    return _glb([("before", *sitting.before.mesh)])


def bodies_glb(bodies: Sequence[tuple[str, Body]]) -> bytes:
    """Solids by name."""
    return _glb([(name, *body.mesh) for name, body in bodies])


def bodies_3mf(bodies: Sequence[tuple[str, Body]]) -> bytes:
    """Solids by name as 3MF, in mm, for a printed trial."""
    import trimesh

    scene = trimesh.Scene()
    for name, body in bodies:
        mesh = trimesh.Trimesh(*body.mesh, process=False)
        scene.add_geometry(mesh, node_name=name, geom_name=name)
    scene.units = "mm"
    return _always_alike(scene.export(file_type="3mf"))


def _always_alike(pack: bytes) -> bytes:
    """A 3MF without what differs from one writing to the next: dates, identities drawn by lot."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(pack)) as old, zipfile.ZipFile(out, "w") as new:
        for name in sorted(old.namelist()):
            parts = _UUID.split(old.read(name))
            data = parts[0] + b"".join(
                _numbered(number) + part for number, part in enumerate(parts[1:])
            )
            new.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _numbered(number: int) -> bytes:
    return str(uuid.uuid5(uuid.NAMESPACE_OID, f"wedgecraft {number}")).encode()


Named = tuple[str, np.ndarray, np.ndarray]


def _by_origin(piece: Workpiece, body: Body) -> list[Named]:
    """Its triangles, by the op that made them."""
    points, triangles = body.mesh
    numbers = [op.number for op in piece.part.ops]
    ops = np.array([piece.made_by.get(int(ident), (-1, -1))[0] for ident in body.origins])
    found: list[Named] = []
    for op in np.unique(ops):
        name = "raw" if op < 0 else f"op {numbers[op]}"
        found.append((name, points, triangles[ops == op]))
    return found


def _glb(meshes: list[Named]) -> bytes:
    import trimesh  # only where a view asks

    scene = trimesh.Scene()
    for name, points, triangles in meshes:
        used, renumbered = np.unique(triangles, return_inverse=True)
        mesh = trimesh.Trimesh(points[used], renumbered.reshape(-1, 3), process=False)
        scene.add_geometry(mesh, node_name=name, geom_name=name)
    scene.apply_transform(_TO_GLTF)
    found = scene.export(file_type="glb")
    return bytes(found)
