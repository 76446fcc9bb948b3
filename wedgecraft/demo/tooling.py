"""What stands in the magazines of the demo's vertical machines, and its ops' programs: those of two
parts were written by hand; ``python -m wedgecraft.demo.write_programs`` wrote the others.
"""

from __future__ import annotations

from pathlib import Path

from wedgecraft.core.records.cut import Cutter
from wedgecraft.core.records.job import JobDocument, Route
from wedgecraft.core.records.tool import Holder, Tool
from wedgecraft.core.shop.picks import named

PROGRAMS = Path(__file__).parent / "programs"
STEMS = {
    "Manifold block, 8-port": "manifold",
    "Vane yoke": "yoke",
    "Float-arm hub": "hub",
    "Gland plate": "gland",
    "Anchor lug": "lug",
    "Probe clamp, body": "clamp-body",
    "Probe clamp, jaw": "clamp-jaw",
    "Staff-gauge cover": "cover",
    "Gauge-well collar": "collar",
}
#: From the spindle's face at its reference to the middle of the table; invented.
_MIDDLE = {"middle_x_mm": -380.0, "middle_y_mm": -230.0, "middle_z_mm": -560.0}
#: A cutter stands out of its holder so much farther than it cuts.
_OUT_MM = 10.0
_ARBOR_MM, _SLIM_MM = 25.0, 10.0


def op_programs(document: JobDocument) -> list[tuple[str, int, str, str]]:
    """Of a job's ops, those there are: the part, the op's number, the file's name, its text."""
    return [
        (part.name, op.number, path.name, path.read_text())
        for part in document.job.parts
        for op in part.ops
        if (path := path_of(part.name, op.number)).exists()
    ]


def path_of(part: str, op: int) -> Path:
    return PROGRAMS / f"{STEMS[part]}-op{op}.nc"


def with_tools(document: JobDocument) -> JobDocument:
    """With every cutter of its cuts in the magazines nobody has described yet, by the number in the
    cut's name.
    """
    tools: dict[int, Tool] = {}
    for cut in (cut for part in document.job.parts for op in part.ops for cut in op.cuts):
        number = int(cut.name.split()[0].removeprefix("T"))
        reach = max(cut.tool.reach_mm, cut.tool.flute_length_mm + _OUT_MM)
        cutter = cut.tool.model_copy(update={"reach_mm": reach})
        tools.setdefault(number, Tool(number=number, cutter=cutter, holder=_holder(cutter)))
    table = [tools[number] for number in sorted(tools)]
    setups = [
        setup
        if setup.machine.tools
        else setup.model_copy(
            update={"machine": setup.machine.model_copy(update={**_MIDDLE, "tools": table})}
        )
        for setup in (document.route or Route(setups=[])).setups
    ]
    return document.model_copy(update={"route": Route(setups=setups)})


def _holder(cutter: Cutter) -> Holder:
    if "face" in cutter.kind or cutter.diameter_mm > _ARBOR_MM:
        found = "Face mill arbor 22 mm"
    elif cutter.kind == "tap":
        found = "Tapping chuck M3 to M12"
    else:
        large = cutter.diameter_mm > _SLIM_MM
        found = "Collet chuck, 20 mm, long" if large else "Collet chuck, 16 mm"
    return Holder.model_validate(named("holder", found).model_dump())
