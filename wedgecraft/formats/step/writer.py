"""Pieces as STEP, true planes and cylinders, by the CAD kernel: in a process of its own only."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from wedgecraft.core.ground.bends import Bend, amid, bends_of
from wedgecraft.core.make.finish import solid_plan
from wedgecraft.core.make.sides import Array, frame
from wedgecraft.core.make.strokes import strokes
from wedgecraft.core.records.assembly import Assembly, Solid
from wedgecraft.core.records.piece import Holes, Piece

#: A tool goes so far beyond the faces it comes through, mm.
_OVER_MM = 1.0
#: A hole that begins inside a piece begins so little before.
_INSIDE_MM = 0.01


def write_step(documents: list[str]) -> bytes:
    """One file for pieces given as JSON, each a named body, in mm; blocks of a piece that is in
    several are bodies of their own.
    """
    document, shapes = _begun()
    for text in documents:
        for name, shape in bodies(Piece.model_validate_json(text)):
            _name(shapes.AddShape(shape, False), name)
    return _written(document)


def write_assembly(document: str) -> bytes:
    """A setup put together, given as JSON: every shape once, named, wherever it stands."""
    from OCP.gp import gp_Trsf
    from OCP.TopLoc import TopLoc_Location

    given = Assembly.model_validate_json(document)
    whole, shapes = _begun()
    top = shapes.NewShape()
    _name(top, f"setup {given.number}")
    labels = []
    for solid in given.solids:
        labels.append(shapes.AddShape(_together(solid), False))
        _name(labels[-1], solid.name)
    for item in given.stands:
        move = gp_Trsf()
        move.SetValues(*(value for row in item.pose for value in row))
        _name(shapes.AddComponent(top, labels[item.solid], TopLoc_Location(move)), item.name)
    shapes.UpdateAssemblies()
    return _written(whole)


def _begun() -> tuple[Any, Any]:
    """An empty document, and what takes its shapes."""
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDocStd import TDocStd_Document
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    return document, XCAFDoc_DocumentTool.ShapeTool_s(document.Main())


def _name(label: Any, name: str) -> None:
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name

    TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))


def _written(document: Any) -> bytes:
    from OCP.STEPCAFControl import STEPCAFControl_Writer

    writer = STEPCAFControl_Writer()
    writer.Transfer(document)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pieces.step"
        writer.Write(str(path))
        return path.read_bytes()


def _together(solid: Solid) -> Any:
    """One shape: the piece as it is cut, or slabs as one."""
    from OCP.BRep import BRep_Builder
    from OCP.TopoDS import TopoDS_Compound

    if solid.piece is not None:
        bare = solid.piece.model_copy(update={"marks": []})
        parts = [shape for _, shape in bodies(bare)]
    else:
        parts = [
            _prism(rings, slab.low_mm, slab.high_mm) for slab in solid.slabs for rings in slab.areas
        ]
    if len(parts) == 1:
        return parts[0]
    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for part in parts:
        builder.Add(whole, part)
    return whole


def bodies(piece: Piece) -> list[tuple[str, Any]]:
    """Each block of a piece with everything cut out of it, with its name."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.collections import List_TopoDS_Shape

    plans = solid_plan(piece)
    tools = List_TopoDS_Shape()
    for shape in [*_drilled(piece), *_milled(piece)]:
        tools.Append(shape)
    found = []
    for number, plan in enumerate(plans, 1):
        ring = [(float(x), float(y)) for x, y in plan.exterior.coords[:-1]]
        block = _prism([ring], 0.0, piece.thickness_mm)
        if len(tools):
            whole = List_TopoDS_Shape()
            whole.Append(block)
            cut = BRepAlgoAPI_Cut()
            cut.SetArguments(whole)
            cut.SetTools(tools)
            cut.Build()
            block = cut.Shape()
        found.append((f"{piece.name} {number}" if len(plans) > 1 else piece.name, block))
    if piece.marks:
        found.append((f"{piece.name} marking", _marking(piece)))
    return found


def _marking(piece: Piece) -> Any:
    """Its lines as open wires on the top: a cutter follows them."""
    from OCP.BRep import BRep_Builder
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakePolygon
    from OCP.gp import gp_Pnt
    from OCP.TopoDS import TopoDS_Compound

    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for mark in piece.marks:
        for line in strokes(mark.text, mark.x_mm, mark.y_mm, mark.high_mm):
            wire = BRepBuilderAPI_MakePolygon()
            for x, y in line:
                wire.Add(gp_Pnt(x, y, piece.thickness_mm))
            if wire.IsDone():
                builder.Add(whole, wire.Wire())
    return whole


def _drilled(piece: Piece) -> list[Any]:
    return [
        shape
        for row in piece.holes
        if not row.in_pocket
        for place in row.places
        for shape in _hole(piece, row, place.x_mm, place.y_mm)
    ]


def _hole(piece: Piece, row: Holes, x: float, y: float) -> list[Any]:
    """Its cylinders: main, counterbore, and what goes on through."""
    side = frame(piece, row.side)
    thick = side.through_mm - row.begins_mm
    start = side.at(x, y) + row.begins_mm * side.into
    over = _INSIDE_MM if row.begins_mm else _OVER_MM
    steps = [(row.diameter_mm, thick + _OVER_MM if row.depth_mm is None else row.depth_mm)]
    if row.sink_mm is not None and row.sink_depth_mm is not None:
        steps.append((row.sink_mm, row.sink_depth_mm))
    if row.through_mm is not None:
        steps.append((row.through_mm, thick + _OVER_MM))
    return [_cylinder(start, side.into, diameter / 2, depth, over) for diameter, depth in steps]


def _cylinder(start: Array, way: Array, radius: float, depth: float, over_mm: float) -> Any:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    back = start - over_mm * way
    axis = gp_Ax2(gp_Pnt(*map(float, back)), gp_Dir(*map(float, way)))
    return BRepPrimAPI_MakeCylinder(axis, radius, depth + over_mm).Shape()


def _milled(piece: Piece) -> list[Any]:
    found = []
    for pocket in piece.pockets:
        high = pocket.floor_mm + pocket.depth_mm
        if high >= piece.thickness_mm - 1e-6:
            high += _OVER_MM
        low = pocket.floor_mm if pocket.floor_mm > 0 else -_OVER_MM
        found.append(_prism(pocket.outline, low, high))
    return found


def _wire(bends: list[Bend], z: float) -> Any:
    """A closed ring of lines and arcs at a height."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
    from OCP.GC import GC_MakeArcOfCircle
    from OCP.gp import gp_Pnt

    wire = BRepBuilderAPI_MakeWire()
    for start, end in zip(bends, [*bends[1:], bends[0]], strict=True):
        a, b = gp_Pnt(start[0], start[1], z), gp_Pnt(end[0], end[1], z)
        if start[2]:
            arc = GC_MakeArcOfCircle(a, gp_Pnt(*amid(start, end), z), b).Value()
            wire.Add(BRepBuilderAPI_MakeEdge(arc).Edge())
        else:
            wire.Add(BRepBuilderAPI_MakeEdge(a, b).Edge())
    return wire.Wire()


def _prism(rings: list[list[tuple[float, float]]], low: float, high: float) -> Any:
    """An area between two heights, its holes left standing: planes and cylinders."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
    from OCP.gp import gp_Vec

    wires = [_wire(bends_of(ring), low) for ring in rings]
    face = BRepBuilderAPI_MakeFace(wires[0])
    for wire in wires[1:]:
        wire.Reverse()
        face.Add(wire)
    return BRepPrimAPI_MakePrism(face.Face(), gp_Vec(0.0, 0.0, high - low)).Shape()
