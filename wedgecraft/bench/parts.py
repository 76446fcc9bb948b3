"""Speed of bringing parts in: a drawing of 5,000 entities, a large solid on a warm reader, setups
of a part with many features.
"""

from __future__ import annotations

import io
import math
import tempfile
import time
from pathlib import Path

import ezdxf

from wedgecraft.core.plan.schemes import setups
from wedgecraft.core.records.part import Part
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.formats.drawings import read_drawing
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.step.reader import StepReader


def _drawing(entities: int) -> bytes:
    """Half of it one outline of short lines, half of it holes."""
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    lines = entities // 2
    ring = [
        (300 * math.cos(a) + 20 * math.cos(9 * a), 300 * math.sin(a))
        for a in (2 * math.pi * k / lines for k in range(lines))
    ]
    for start, end in zip(ring, ring[1:] + ring[:1], strict=True):
        space.add_line(start, end)
    side = math.ceil(math.sqrt(entities - lines))
    for k in range(entities - lines):
        space.add_circle((-150 + 300 * (k % side) / side, -150 + 300 * (k // side) / side), 1.2)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def _solid(holes: int) -> bytes:
    """A plate with this many rows and columns of holes, written by the kernel in a process that
    ends with the bench.
    """
    from OCP.BRep import BRep_Builder
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
    from OCP.TopoDS import TopoDS_Compound

    drills, builder, pitch = TopoDS_Compound(), BRep_Builder(), 480 / holes
    builder.MakeCompound(drills)
    for k in range(holes * holes):
        place = gp_Ax2(
            gp_Pnt(20 + pitch * (k % holes), 20 + pitch * (k // holes), -1.0), gp_Dir(0, 0, 1)
        )
        builder.Add(drills, BRepPrimAPI_MakeCylinder(place, pitch / 3, 40.0).Shape())
    writer = STEPControl_Writer()
    writer.Transfer(
        BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(500.0, 500.0, 25.0).Shape(), drills).Shape(),
        STEPControl_AsIs,
    )
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "plate.step"
        writer.Write(str(path))
        return path.read_bytes()


def _part(features: int) -> Part:
    sides = ("+Z", "-Z", "+X", "-X", "+Y", "-Y")
    listed = [
        {
            "name": f"f{k}",
            "tolerance_mm": 0.1,
            "directions": [sides[k % 6]],
            "takes": [sides[k % 6]] if k % 5 == 0 else [],
        }
        for k in range(features)
    ]
    return Part.model_validate(
        starting_request("bench", 100).parts[0].model_dump() | {"features": listed}
    )


def measured() -> list[tuple[str, str, str, str]]:
    """Name, seconds, bar, what was found."""
    found = []
    for entities, bar in ((5_000, "1 s on screen"), (40_000, "-")):
        data = _drawing(entities)
        began = time.perf_counter()
        try:
            read = read_drawing(data, None, "x.dxf")
            said = f"{len(read.outlines[0].outline.holes)} holes"
        except FileRefused as error:
            said = f"refused: {error.what}"
        found.append(
            (
                f"DXF, {entities:,} entities, {len(data) / 1e6:.1f} MB",
                f"{time.perf_counter() - began:.2f} s",
                bar,
                said,
            )
        )
    reader, solid = StepReader(), _solid(22)
    began = time.perf_counter()
    reader.warm()
    found.append(("CAD kernel, first start", f"{time.perf_counter() - began:.2f} s", "-", ""))
    began = time.perf_counter()
    reading, points, triangles, _, _ = reader.read(solid, "plate.step")
    said = (
        f"{reading.triangles:,} triangles, {len(reading.ways)} ways up, kernel"
        f" {_memory(reader):.0f} MB"
    )
    found.append(
        (
            f"STEP, {len(solid) / 1e6:.1f} MB, warm",
            f"{time.perf_counter() - began:.2f} s",
            "10 s, 1.5 GB",
            said,
        )
    )
    reader.close()
    began = time.perf_counter()
    schemes = setups(_part(40), 100, 45, 40)
    said = ", ".join(f"{len(scheme.ops)} on a {scheme.form}" for scheme in schemes[:3])
    found.append(
        ("setups, 40 features, six forms", f"{time.perf_counter() - began:.2f} s", "-", said)
    )
    return found


def _memory(reader: StepReader) -> float:
    """Peak of the kernel's process, MB."""
    (pid,) = reader.pids
    status = Path(f"/proc/{pid}/status").read_text()
    return (
        int(next(line for line in status.splitlines() if line.startswith("VmHWM")).split()[1])
        / 1024
    )
