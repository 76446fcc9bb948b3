"""Reading a STEP file with the CAD kernel: triangles, planar faces, round holes, volume. Runs in
the reader's own process only.
"""

from __future__ import annotations

import math
import tempfile
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.records.part import SolidFace
from wedgecraft.core.records.solid import SolidReading
from wedgecraft.core.workpiece.mend import NotABody, one_body
from wedgecraft.core.workpiece.mesh import Mesh
from wedgecraft.core.workpiece.packed import reference
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.solid_ways import asked_ways, silhouettes, way_up

Array = NDArray[np.float64]
_MOST_FACES, _MOST_TRIANGLES = 20_000, 400_000


def read_step(data: bytes, name: str) -> tuple[SolidReading, bytes, bytes, bytes, bytes]:
    """The reading, its triangles as bytes (float64 points, int64 triangles, int64 faces), and its
    closed mesh, packed; nothing where it does not close. Raises FileRefused.
    """
    shape, solids = _shape(data)
    volume, surface = _properties(shape)
    if not volume > 1e-3:
        raise FileRefused(
            "the file holds surfaces but no solid with a volume", "export the part as a solid body"
        )
    mesh, planes, rounds, stray = _meshed(shape)
    size = np.ptp(mesh.points, axis=0)
    if size.min() < 0.5 or size.max() > 5000:
        raise FileRefused(
            f"the solid is {size[0]:.4g} x {size[1]:.4g} x {size[2]:.4g} mm",
            "parts from 1 to 5000 mm are read; are the units right?",
        )
    notes = [f"{solids} solids were taken together as one part"] if solids > 1 else []
    inside = _classifier(shape, mesh.points.min(axis=0), mesh.points.max(axis=0))
    holes = _holes([item for item in rounds.values() if item is not None and item.inwards], inside)
    planes.sort(key=lambda face: -face.area_mm2)
    asked = asked_ways(planes)
    seen = silhouettes(mesh, [up for up, _ in asked])
    ways = [
        way_up(mesh, up, said, outline, name, planes, rounds, stray, holes)
        for (up, said), outline in zip(asked, seen, strict=True)
    ]
    mesh_of_it, packed_mesh = None, b""
    try:
        body = one_body(mesh.points, mesh.triangles, stray)
    except NotABody as error:
        notes.append(
            f"its faces make no closed body ({error.what}): only its outline and height are used"
        )
    else:
        notes += body.notes
        mesh_of_it, packed_mesh = reference(*body.bodies[0].mesh, stray)
    reading = SolidReading(
        name=name[:200],
        mesh=mesh_of_it,
        solids=solids,
        volume_mm3=volume,
        surface_mm2=surface,
        size_mm=(float(size[0]), float(size[1]), float(size[2])),
        faces=planes[:500],
        ways=ways,
        triangles=len(mesh.triangles),
        notes=notes,
    )
    arrays = mesh.points.tobytes(), mesh.triangles.tobytes(), mesh.faces.tobytes()
    return reading, *arrays, packed_mesh


#: Nearer than this, solids hang together.
_TOUCH_MM = 0.01
_MOST_SOLIDS = 60


def _groups(solids: list[Any]) -> int:
    """How many groups of solids stand apart from one another. Raises FileRefused for a whole
    assembly.
    """
    from OCP.BRepExtrema import BRepExtrema_DistShapeShape

    if len(solids) > _MOST_SOLIDS:
        raise FileRefused(
            f"the file holds {len(solids)} solids, an assembly and no part", "export the part alone"
        )
    left, groups = list(range(1, len(solids))), 1
    edge = [0]
    while left:
        if not edge:
            groups, edge = groups + 1, [left.pop()]
            continue
        one = edge.pop()
        near = [
            other
            for other in left
            if BRepExtrema_DistShapeShape(solids[one], solids[other]).Value() < _TOUCH_MM
        ]
        left = [other for other in left if other not in near]
        edge += near
    return groups


def _shape(data: bytes) -> tuple[Any, int]:
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.STEPControl import STEPControl_Reader
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer

    with tempfile.NamedTemporaryFile(suffix=".step") as file:
        file.write(data)
        file.flush()
        reader = STEPControl_Reader()
        if reader.ReadFile(file.name) != IFSelect_RetDone:
            raise FileRefused(
                "the STEP file is damaged or cut short",
                "export the solid again as STEP (AP203, AP214 or AP242)",
            )
        reader.TransferRoots()
    shape = reader.OneShape()
    if shape is None or shape.IsNull():
        raise FileRefused("the STEP file holds no shape", "export the part as a solid body")
    solids, explorer = [], TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_SOLID)
    while explorer.More():
        solids.append(explorer.Current())
        explorer.Next()
    if not solids:
        raise FileRefused(
            "the STEP file holds no solid, only surfaces, wires or points",
            "export the part as a solid body",
        )
    apart = _groups(solids)
    if apart > 1:
        raise FileRefused(
            f"the file holds {apart} solids that do not touch, which are not one part",
            "export the part alone, without what stands beside it",
        )
    return shape, len(solids)


def _properties(shape: Any) -> tuple[float, float]:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    volume, surface = GProp_GProps(), GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, volume)
    BRepGProp.SurfaceProperties_s(shape, surface)
    return float(volume.Mass()), float(surface.Mass())


class _Cylinder:
    """A cylindrical face; one that curves inwards is part of a hole."""

    def __init__(
        self,
        radius: float,
        point: Array,
        axis: Array,
        low: float,
        high: float,
        turn: float,
        inwards: bool,
    ) -> None:
        self.radius, self.point, self.axis, self.low, self.high, self.turn = (
            radius,
            point,
            axis,
            low,
            high,
            turn,
        )
        self.inwards = inwards

    def key(self) -> tuple[float, ...]:
        """The same for all faces of one hole: diameter, direction without sign, the axis's point
        nearest to the origin.
        """
        axis = self.axis * (1 if tuple(np.round(self.axis, 6)) > (0, 0, 0) else -1)
        foot = self.point - axis * float(self.point @ axis)
        return (
            round(self.radius, 4),
            *np.round(axis, 4).tolist(),
            *(np.round(foot, 3) + 0.0).tolist(),
        )


#: Curved faces by number; one that is no cylinder is None.
Rounds = dict[int, _Cylinder | None]


def _meshed(shape: Any) -> tuple[Mesh, list[SolidFace], Rounds, float]:
    """Triangles, planar faces, curved ones, and how far triangles lie from those."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRep import BRep_Tool
    from OCP.BRepBndLib import BRepBndLib
    from OCP.TopAbs import TopAbs_Orientation
    from OCP.TopLoc import TopLoc_Location

    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    diagonal = math.sqrt(box.SquareExtent()) if not box.IsVoid() else 100.0
    if not math.isfinite(diagonal) or diagonal > 20_000:
        raise FileRefused(
            f"the solid is {diagonal:.3g} mm across",
            "parts up to 5000 mm are read; are the units right?",
        )
    stray = min(0.05, max(0.01, diagonal / 10_000))
    _triangulate(shape, stray)
    points: list[Array] = []
    triangles: list[NDArray[np.int64]] = []
    owner: list[NDArray[np.int64]] = []
    planes: list[SolidFace] = []
    rounds: Rounds = {}
    count = number = total = 0
    for face in _faces(shape):
        number += 1
        if number > _MOST_FACES:
            raise FileRefused(
                f"the solid has more than {_MOST_FACES:,} faces",
                "simplify it: leave out threads, knurls and engraving",
            )
        reversed_ = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        plane, cylinder = _look_at(face, reversed_)
        if plane is not None:
            planes.append(plane)
        else:
            rounds[number] = cylinder
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        if mesh is None:
            continue
        total += mesh.NbTriangles()
        if total > _MOST_TRIANGLES:
            raise FileRefused(
                f"the solid needs more than {_MOST_TRIANGLES:,} triangles",
                "simplify it: leave out threads, knurls, engraving",
            )
        corners = [mesh.Node(k) for k in range(1, mesh.NbNodes() + 1)]
        if not place.IsIdentity():
            move = place.Transformation()
            corners = [corner.Transformed(move) for corner in corners]
        points.append(np.array([(p.X(), p.Y(), p.Z()) for p in corners]))
        index = (
            np.array(
                [mesh.Triangle(k).Get() for k in range(1, mesh.NbTriangles() + 1)], dtype=np.int64
            ).reshape(-1, 3)
            - 1
            + count
        )
        triangles.append(index[:, ::-1] if reversed_ else index)
        owner.append(np.full(len(index), number, dtype=np.int64))
        count += len(corners)
    if not points:
        raise FileRefused(
            "no face of the solid could be followed", "mend the solid and export it again"
        )
    found = Mesh(np.concatenate(points), np.concatenate(triangles), np.concatenate(owner))
    if not np.isfinite(found.points).all():
        raise FileRefused(
            "the solid has coordinates that are not finite", "mend the solid and export it again"
        )
    return found, planes, rounds, stray


def _triangulate(shape: Any, deflection_mm: float) -> None:
    """The quicker of the kernel's two ways (ten times so on plates with many holes); the other
    where that leaves a face out.
    """
    from OCP.BRep import BRep_Tool
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.BRepTools import BRepTools
    from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
    from OCP.TopLoc import TopLoc_Location

    for way in (
        IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella,
        IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson,
    ):
        asked = IMeshTools_Parameters()
        asked.Deflection, asked.Angle, asked.InParallel, asked.MeshAlgo = (
            deflection_mm,
            0.25,
            True,
            way,
        )
        BRepMesh_IncrementalMesh(shape, asked)
        if all(
            BRep_Tool.Triangulation_s(face, TopLoc_Location()) is not None for face in _faces(shape)
        ):
            return
        BRepTools.Clean_s(shape)


def _faces(shape: Any) -> Iterator[Any]:
    from OCP.TopAbs import TopAbs_ShapeEnum
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    explorer = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_FACE)
    while explorer.More():
        yield (
            TopoDS.Face(explorer.Current())
            if hasattr(TopoDS, "Face")
            else TopoDS.Face_s(explorer.Current())
        )
        explorer.Next()


def _look_at(face: Any, reversed_: bool) -> tuple[SolidFace | None, _Cylinder | None]:
    """What a face is, where it is planar or a cylinder."""
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.BRepGProp import BRepGProp
    from OCP.GeomAbs import GeomAbs_SurfaceType
    from OCP.GProp import GProp_GProps

    surface = BRepAdaptor_Surface(face)
    kind = surface.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        plane = surface.Plane()
        direction = plane.Axis().Direction()
        sign = (-1 if reversed_ else 1) * (1 if plane.Direct() else -1)
        mass = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, mass)
        normal = (sign * direction.X(), sign * direction.Y(), sign * direction.Z())
        return SolidFace(
            normal=tuple(round(v, 9) + 0.0 for v in normal), area_mm2=abs(mass.Mass())
        ), None
    if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        spot, direction = cylinder.Location(), cylinder.Axis().Direction()
        low, high = surface.FirstVParameter(), surface.LastVParameter()
        if math.isfinite(low) and math.isfinite(high) and max(abs(low), abs(high)) < 1e6:
            return None, _Cylinder(
                cylinder.Radius(),
                np.array([spot.X(), spot.Y(), spot.Z()]),
                np.array([direction.X(), direction.Y(), direction.Z()]),
                low,
                high,
                surface.LastUParameter() - surface.FirstUParameter(),
                reversed_ == cylinder.Direct(),
            )
    return None, None


Inside = Callable[[Array], bool]


def _classifier(shape: Any, low: Array, high: Array) -> Inside:
    from OCP.BRepClass3d import BRepClass3d_SolidClassifier
    from OCP.gp import gp_Pnt
    from OCP.TopAbs import TopAbs_State

    classifier = BRepClass3d_SolidClassifier(shape)

    def inside(point: Array) -> bool:
        if (point < low).any() or (point > high).any():
            return False  # outside its box: no need to ask the kernel, which takes milliseconds
        classifier.Perform(gp_Pnt(*map(float, point)), 1e-6)
        return bool(classifier.State() == TopAbs_State.TopAbs_IN)

    return inside


def _holes(
    cylinders: list[_Cylinder], inside: Inside
) -> list[tuple[float, Array, Array, float, float, bool]]:
    """Whole round holes: diameter, a point on the axis, its direction, from, to, through. Fillets
    and slots' ends are not holes.
    """
    groups: dict[tuple[float, ...], list[_Cylinder]] = {}
    for item in cylinders:
        groups.setdefault(item.key(), []).append(item)
    found = []
    for group in groups.values():
        first = group[0]
        spans = []
        for item in group:
            sign = 1 if item.axis @ first.axis > 0 else -1
            shift = float((item.point - first.point) @ first.axis)
            low, high = sorted((shift + sign * item.low, shift + sign * item.high))
            spans.append((low, high, item.turn))
        # Faces of one axis may be several holes one after another; those that overlap are the same
        # hole.
        for low, high, turn in _merged(spans):
            if turn < 2 * math.pi - 0.02:
                continue
            ends = [
                first.point + first.axis * (at + step) for at, step in ((low, -1e-3), (high, 1e-3))
            ]
            open_ends = [not inside(end) for end in ends]
            if not any(open_ends):
                continue
            found.append((2 * first.radius, first.point, first.axis, low, high, all(open_ends)))
    return found[:500]


def _merged(spans: list[tuple[float, float, float]]) -> list[tuple[float, float, float]]:
    merged: list[tuple[float, float, float]] = []
    for low, high, turn in sorted(spans):
        if merged and low < merged[-1][1] - 1e-6:
            before = merged[-1]
            merged[-1] = (min(before[0], low), max(before[1], high), before[2] + turn)
        else:
            merged.append((low, high, turn))
    return merged
