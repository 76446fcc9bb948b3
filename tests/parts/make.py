"""Parts nobody designed the product around, awkward on purpose, made with the CAD kernel."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_Transform,
)
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
)
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

Point = tuple[float, float, float]


def block(x: float, y: float, z: float, at: Point = (0, 0, 0)) -> Any:
    return BRepPrimAPI_MakeBox(gp_Pnt(*at), x, y, z).Shape()


def rod(at: Point, diameter: float, length: float, way: Point = (0, 0, 1)) -> Any:
    axis = gp_Ax2(gp_Pnt(*at), gp_Dir(*way))
    return BRepPrimAPI_MakeCylinder(axis, diameter / 2, length).Shape()


def prism(points: Sequence[tuple[float, float]], low: float, high: float) -> Any:
    wire = BRepBuilderAPI_MakePolygon()
    for x, y in points:
        wire.Add(gp_Pnt(x, y, low))
    wire.Close()
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, high - low)).Shape()


def turned(shape: Any, axis: Point, degrees: float) -> Any:
    turn = gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*axis)), math.radians(degrees))
    return BRepBuilderAPI_Transform(shape, turn, True).Shape()


def less(shape: Any, *others: Any) -> Any:
    for other in others:
        shape = BRepAlgoAPI_Cut(shape, other).Shape()
    return shape


def plus(shape: Any, *others: Any) -> Any:
    for other in others:
        shape = BRepAlgoAPI_Fuse(shape, other).Shape()
    return shape


def slotted(at: Point, length: float, width: float, depth: float) -> Any:
    """A slot with round ends along X, its middle at ``at``, downwards."""
    x, y, z = at
    half = (length - width) / 2
    low = z - depth
    return plus(
        block(2 * half, width, depth, (x - half, y - width / 2, low)),
        rod((x - half, y, low), width, depth),
        rod((x + half, y, low), width, depth),
    )


def angle_bracket() -> Any:
    legs = plus(block(70, 50, 8), block(8, 50, 60))
    return less(
        legs,
        *(rod((x, y, -1), 9, 20) for x in (30, 55) for y in (12, 38)),
        *(rod((-1, y, 40), 9, 20, (1, 0, 0)) for y in (12, 38)),
    )


def clevis() -> Any:
    fork = less(block(40, 30, 60), block(14, 40, 32, (13, -1, 28)))
    return less(fork, rod((-1, 15, 46), 12, 50, (1, 0, 0)), rod((20, 15, -1), 10.2, 24))


def housing() -> Any:
    hollow = less(
        block(90, 70, 35),
        block(80, 48, 30, (5, 11, 5)),
        block(68, 60, 30, (11, 5, 5)),
        *(rod((x, y, 5), 12, 40) for x in (11, 79) for y in (11, 59)),
    )
    posts = [rod((x, y, 4), 10, 24) for x in (24, 66) for y in (24, 46)]
    return less(
        plus(hollow, *posts), *(rod((x, y, 12), 3.3, 30) for x in (24, 66) for y in (24, 46))
    )


def counterbored_plate() -> Any:
    corners = [(x, y) for x in (14, 86) for y in (12, 48)]
    return less(
        block(100, 60, 15),
        *(rod((x, y, -1), 6.6, 20) for x, y in corners),
        *(rod((x, y, 8), 11, 10) for x, y in corners[:2]),
        *(rod((x, y, -1), 11, 8) for x, y in corners[2:]),
        slotted((50, 30, 15), 40, 12, 6),
    )


def t_nut() -> Any:
    profile = [(0, 0), (30, 0), (30, 8), (22, 8), (22, 18), (8, 18), (8, 8), (0, 8)]
    upright = turned(prism(profile, 0, 28), (1, 0, 0), 90)
    return less(upright, rod((15, -14, -1), 8.5, 30))


def spoked_hub() -> Any:
    disc = plus(rod((0, 0, 0), 90, 10), rod((0, 0, 0), 38, 26))
    holes = [
        rod((29 * math.cos(math.radians(a)), 29 * math.sin(math.radians(a)), -1), 14, 20)
        for a in range(0, 360, 60)
    ]
    return less(disc, rod((0, 0, -1), 20, 40), *holes)


def valve_body() -> Any:
    return less(
        block(64, 48, 40),
        rod((-1, 24, 22), 16, 50, (1, 0, 0)),
        rod((20, -1, 22), 8.5, 26, (0, 1, 0)),
        rod((40, 49, 22), 8.5, 26, (0, -1, 0)),
        rod((20, 24, 41), 10, 20, (0, 0, -1)),
        rod((65, 24, 22), 6.8, 17, (-1, 0, 0)),
        *(rod((x, y, -1), 5.5, 50) for x, y in ((6, 6), (58, 6), (6, 42), (58, 42))),
    )


def thin_frame() -> Any:
    window = plus(block(100, 48, 20, (10, 16, -5)), block(88, 60, 20, (16, 10, -5)))
    rounds = [rod((x, y, -5), 12, 20) for x in (16, 104) for y in (16, 64)]
    return less(
        block(120, 80, 10),
        plus(window, *rounds),
        *(rod((x, y, -1), 4.5, 20) for x in (5, 115) for y in (5, 75)),
    )


def d_disc() -> Any:
    disc = less(rod((0, 0, 0), 70, 18), block(20, 100, 30, (27, -50, -1)))
    return less(disc, rod((-8, 6, 8), 24, 20), rod((-8, 6, -1), 12, 20), rod((15, -15, -1), 6, 30))


def long_lever() -> Any:
    arm = plus(block(220, 22, 12, (0, -11, 0)), rod((0, 0, 0), 40, 20), rod((220, 0, 0), 30, 20))
    return less(arm, rod((0, 0, -1), 20, 30), rod((220, 0, -1), 12, 30), rod((110, 0, -1), 8, 30))


def chamfered_cover() -> Any:
    """Edges broken all round its top, rims of holes too, two of them countersunk."""
    corners = [(4, 0), (76, 0), (80, 4), (80, 46), (76, 50), (4, 50), (0, 46), (0, 4)]
    plate = prism(corners, 0, 12)
    edges = BRepFilletAPI_MakeChamfer(plate)
    walker = TopExp_Explorer(plate, TopAbs_ShapeEnum.TopAbs_EDGE)
    while walker.More():
        edge = TopoDS.Edge(walker.Current())
        curve = BRepAdaptor_Curve(edge)
        ends = (curve.FirstParameter(), curve.LastParameter())
        if all(abs(curve.Value(end).Z() - 12) < 1e-6 for end in ends):
            edges.Add(1.0, edge)
        walker.Next()
    sunk = [cone((x, 25, 12), 6.6, 13) for x in (15, 65)]
    rims = [cone((40, y, 12), 8, 9) for y in (12, 38)]
    holes = [rod((x, 25, -1), 6.6, 20) for x in (15, 65)]
    return less(edges.Shape(), *holes, *(rod((40, y, -1), 8, 20) for y in (12, 38)), *sunk, *rims)


def cone(at: Point, low: float, high: float) -> Any:
    """A countersink of 90° whose mouth is at ``at``."""
    deep = (high - low) / 2
    axis = gp_Ax2(gp_Pnt(at[0], at[1], at[2] - deep), gp_Dir(0, 0, 1))
    return BRepPrimAPI_MakeCone(axis, low / 2, high / 2, deep).Shape()


def sloped_wedge() -> Any:
    """Its slope lies level with none of the six sides up."""
    side = [(0, 0), (60, 0), (60, 14), (0, 30)]
    upright = turned(prism(side, 0, 40), (1, 0, 0), 90)
    tilted = turned(block(80, 80, 40, (-10, -60, 26)), (1, 1, 0), 8)
    return less(upright, tilted)


PARTS: dict[str, tuple[Callable[[], Any], str, int]] = {
    "angle_bracket": (angle_bracket, "aluminium-6061", 200),
    "clevis": (clevis, "steel-c45", 150),
    "housing": (housing, "aluminium-6061", 120),
    "counterbored_plate": (counterbored_plate, "steel-c45", 300),
    "t_nut": (t_nut, "steel-42crmo4", 400),
    "spoked_hub": (spoked_hub, "aluminium-7075", 250),
    "valve_body": (valve_body, "brass-cz121", 500),
    "thin_frame": (thin_frame, "aluminium-6061", 80),
    "d_disc": (d_disc, "stainless-304", 160),
    "long_lever": (long_lever, "aluminium-6061", 60),
    "chamfered_cover": (chamfered_cover, "aluminium-6061", 220),
    "sloped_wedge": (sloped_wedge, "steel-c45", 50),
}


def as_step(name: str, path: str) -> None:
    """Write one of them as a STEP file."""
    writer = STEPControl_Writer()
    writer.Transfer(PARTS[name][0](), STEPControl_StepModelType.STEPControl_AsIs)
    writer.Write(path)


if __name__ == "__main__":
    import sys

    for name in PARTS:
        as_step(name, f"{sys.argv[1]}/{name}.step")
