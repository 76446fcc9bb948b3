"""Solids given as triangles: STL, 3MF, GLB. Runs in the reader's own process only."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.records.part import SolidFace
from wedgecraft.core.records.solid import SolidReading
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.mend import NotABody, one_body
from wedgecraft.core.workpiece.mesh import Mesh
from wedgecraft.core.workpiece.packed import reference
from wedgecraft.core.workpiece.surfaces import planes_of, round_holes_of, sagitta_mm
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.solid_kinds import kind_of
from wedgecraft.formats.solid_ways import asked_ways, silhouettes, way_up

Array = NDArray[np.float64]
_MOST_TRIANGLES = 400_000
#: What a file's own unit is in mm, where it says one; STL says none and is taken as mm.
_UNITS = {"mm": 1.0, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "meter": 1000.0}
_UNITS |= {"micron": 1e-3, "foot": 304.8}


def read_mesh(
    data: bytes, name: str, unit: str = "mm"
) -> tuple[SolidReading, bytes, bytes, bytes, bytes]:
    """As ``step.kernel.read_step``; ``unit``: mm or in, of a file that names none. Raises
    FileRefused.
    """
    points, triangles, notes = _triangles(data, unit)
    if len(triangles) > _MOST_TRIANGLES:
        raise FileRefused(
            f"the mesh has more than {_MOST_TRIANGLES:,} triangles", "export it coarser"
        )
    size = np.ptp(points, axis=0) if len(points) else np.zeros(3)
    if size.min() < 0.5 or size.max() > 5000:
        raise FileRefused(
            f"the solid is {size[0]:.4g} x {size[1]:.4g} x {size[2]:.4g} mm",
            "parts from 1 to 5000 mm are read; are the units right?",
        )
    try:
        found = one_body(points, triangles, 0.0)
    except NotABody as error:
        raise FileRefused(error.what, error.remedy) from None
    stray = min(1.0, sagitta_mm(found.bodies[0]))
    body = Body(found.bodies[0].solid, stray)
    corners, sides = body.mesh
    mesh = Mesh(corners, sides, np.arange(len(sides)))
    planes = [SolidFace(normal=plane.normal, area_mm2=plane.area_mm2) for plane in planes_of(body)]
    holes = [
        (
            hole.diameter_mm,
            np.array(hole.start_mm),
            np.subtract(hole.end_mm, hole.start_mm) / _far(hole.start_mm, hole.end_mm),
            0.0,
            _far(hole.start_mm, hole.end_mm),
            hole.through,
        )
        for hole in round_holes_of(body)
    ]
    asked = asked_ways(planes)
    seen = silhouettes(mesh, [up for up, _ in asked])
    ways = [
        way_up(mesh, up, said, outline, name, planes, {}, stray, holes)
        for (up, said), outline in zip(asked, seen, strict=True)
    ]
    ref, packed_mesh = reference(corners, sides, stray)
    reading = SolidReading(
        name=name[:200],
        solids=1,
        volume_mm3=body.volume_mm3,
        surface_mm2=body.surface_mm2,
        size_mm=(float(size[0]), float(size[1]), float(size[2])),
        faces=planes[:500],
        ways=ways,
        triangles=len(sides),
        notes=[*notes, *found.notes],
        mesh=ref,
    )
    arrays = mesh.points.tobytes(), mesh.triangles.tobytes(), mesh.faces.tobytes()
    return reading, *arrays, packed_mesh


def _far(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    return float(np.linalg.norm(np.subtract(b, a)))


def _triangles(data: bytes, unit: str) -> tuple[Array, NDArray[np.int64], list[str]]:
    """Points in mm, triangles, and what was assumed."""
    import trimesh

    kind = kind_of(data)
    if kind is None:
        raise FileRefused(
            "the file is none of STEP, STL, 3MF, GLB", "export the part as one of them"
        )
    try:
        scene = trimesh.load_scene(io.BytesIO(data), file_type=kind)
        mesh = scene.to_mesh()
    except Exception as error:  # whatever its reader makes of a damaged file
        raise FileRefused(f"the {kind.upper()} file is damaged", "export it again") from error
    points = np.asarray(mesh.vertices, dtype=float)
    triangles = np.asarray(mesh.faces, dtype=np.int64)
    if not len(triangles) or not np.isfinite(points).all():
        raise FileRefused("the file holds no surface", "export the part as a solid body")
    if kind == "stl":
        scale, said = (25.4, "inches") if unit == "in" else (1.0, "millimetres")
        return scale * points, triangles, [f"an STL file says no unit: {said} were taken"]
    if kind == "glb":
        # glTF is in metres, Y up
        turned = np.column_stack([points[:, 0], -points[:, 2], points[:, 1]])
        return 1000 * turned, triangles, []
    unit = str(scene.units or "millimeter")
    return _UNITS.get(unit, 1.0) * points, triangles, []
