"""Files beside a program: its zeros as a table."""

from __future__ import annotations

import csv
import io

from wedgecraft.core.records.program import ZeroTable


def zeros_csv(table: ZeroTable) -> str:
    """Every part with the offset it is cut from, machine coordinates in mm, and from what."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(
        ["offset", "face", "index", "part", "station", "x_mm", "y_mm", "z_mm", "turn_deg", "from"]
    )
    zeros = {zero.name: zero for zero in table.zeros}
    for zero in table.zeros:
        face = "" if zero.face is None else zero.face + 1
        place = [f"{value:.3f}" for value in zero.at_mm]
        row = [zero.name, face, f"{zero.index_deg:g}", "", "", *place]
        writer.writerow([*row, f"{zero.turn_deg:g}", zero.says])
    for part in table.parts:
        place = [f"{value:.3f}" for value in part.at_mm]
        index = f"{zeros[part.zero].index_deg:g}" if zeros[part.zero].face is not None else ""
        row = [part.zero, part.face + 1, index, part.number, part.station, *place]
        writer.writerow([*row, f"{part.turn_deg:g}", "its own zero"])
    return out.getvalue()
