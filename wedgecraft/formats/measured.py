"""Measured station positions of a real fixture, as a coordinate measuring machine or a spreadsheet
writes them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from wedgecraft.core.records.request import Measured, OwnStation
from wedgecraft.core.shop.table import RowFault
from wedgecraft.formats.stations import TableUnits, length, rows_of, scale_of

#: A station farther than this from where it is drawn is another one, another datum or another unit.
_FAR_MM = 3.0
Fixture = Sequence[OwnStation]


def from_csv(
    text: str, stations: Fixture, units: TableUnits = "mm", within_mm: float = 0.003
) -> tuple[list[OwnStation], list[RowFault]]:
    """The stations of a layout with where each was measured: columns x and y, and z (height off the
    drawing) and station where it has them; rows without a number count in order.

    A unit in a title ("x [inch]") or in a cell counts before ``units``. With any fault nothing is
    read.
    """
    titles, rows, wrong = rows_of(text, ("station", "x", "y", "z"), ("x", "y"))
    if wrong:
        return [], wrong
    scales = {name: scale_of(title, units) for name, title in titles.items()}
    found: dict[int, dict[str, float]] = {}
    faults: list[RowFault] = []
    for number, cells in enumerate(rows, 1):
        given = cells.get("station", "") or str(number)
        if not given.isdigit() or not 1 <= int(given) <= len(stations):
            faults.append(
                RowFault(
                    row=number,
                    column="station",
                    message=f"“{given[:20]}” is none of the {len(stations)} stations",
                )
            )
            continue
        if int(given) in found:
            faults.append(
                RowFault(row=number, column="station", message=f"station {given} is there twice")
            )
            continue
        place: dict[str, float] = {}
        for name in ("x", "y", "z"):
            if not cells.get(name, "").strip():
                if name != "z":
                    faults.append(RowFault(row=number, column=name, message="there is no number"))
                continue
            try:
                place[f"{name}_mm"] = length(cells[name], scales[name])
            except ValueError as error:
                faults.append(RowFault(row=number, column=name, message=str(error)))
        found[int(given)] = place
    missing = [number for number in range(1, len(stations) + 1) if number not in found]
    if missing and not faults:
        listed = ", ".join(map(str, missing[:8])) + (" …" if len(missing) > 8 else "")
        faults.append(
            RowFault(
                row=0,
                column="",
                message=(
                    f"{len(rows)} rows for {len(stations)} stations; not measured: {listed}."
                    " Measure all, or none"
                ),
            )
        )
    if faults:
        return [], faults
    return placed(found, stations, within_mm)


def placed(
    found: dict[int, dict[str, float]], stations: Fixture, within_mm: float
) -> tuple[list[OwnStation], list[RowFault]]:
    """Stations, counted from 1, with their measured places; those too far from the drawing to be
    true are faults.
    """
    faults, result = [], []
    for number, station in enumerate(stations, 1):
        place = found.get(number)
        if place is None:
            result.append(station)
            continue
        away = math.dist((place["x_mm"], place["y_mm"]), (station.x_mm, station.y_mm))
        if away > _FAR_MM or abs(place.get("z_mm", 0.0)) > _FAR_MM:
            faults.append(
                RowFault(
                    row=number,
                    column="x, y",
                    message=(
                        f"station {number} would be {away:.2f} mm from X {station.x_mm:.2f} Y"
                        f" {station.y_mm:.2f}, where it is drawn"
                    )
                    + _units_said(found, stations),
                )
            )
        result.append(
            station.model_copy(update={"measured": Measured(**place, within_mm=within_mm)})
        )
    return ([], faults) if faults else (result, [])


def _units_said(found: dict[int, dict[str, float]], stations: Fixture) -> str:
    """Whether the numbers fit as another unit."""
    for factor, word in ((25.4, "inches"), (1 / 25.4, "millimetres")):
        if all(
            math.dist(
                (factor * place["x_mm"], factor * place["y_mm"]),
                (stations[k - 1].x_mm, stations[k - 1].y_mm),
            )
            <= _FAR_MM
            for k, place in found.items()
        ):
            return f"; read as {word} they fit"
    return "; another datum, or another fixture"
