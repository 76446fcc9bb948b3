"""How far a station's parts, and what carries them, give: under the clamps, and at the cutter."""

from __future__ import annotations

import math

from wedgecraft.core.cutting.load import cutting_load
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import FigureInput as Input
from wedgecraft.core.hold.deflection import beam_give_mm, plate_give_mm
from wedgecraft.core.hold.share_out import share_out
from wedgecraft.core.records.cut import Cut, CuttingRequest
from wedgecraft.core.records.deflection import BeamRequest, PlateRequest
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.hold import Give
from wedgecraft.core.records.plan import CutLoad
from wedgecraft.core.records.share import ShareRequest
from wedgecraft.core.records.view import OpView
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.contacts import station_contacts, station_loads
from wedgecraft.core.station.preload import preload_of
from wedgecraft.core.workpiece.sitting import Sitting

#: A hole cut this near to a feature's place is the one that makes it.
_SAME_PLACE_MM = 1.0


def feature_places(view: OpView, sitting: Sitting) -> list[tuple[float, float]]:
    """Where the judged features are on the part as it sits."""
    middle = view.part.height_mm / 2
    places = (
        sitting.place(item.x_mm, item.y_mm, middle if item.z_mm is None else item.z_mm)
        for item in view.judged
    )
    return [(x, y) for x, y, _ in places]


def finishing_cut(view: OpView, feature: Feature, sitting: Sitting) -> Cut:
    """The cut that makes a feature: the last hole cut at its place, the last that faces for the
    face it takes, else the last of the op.

    What was cut before leaves no trace.
    """
    facing = [cut for cut in sitting.cuts if cut.of.facing]
    if view.op.up in feature.takes and facing:
        return facing[-1]
    x, y = dict(
        zip([item.name for item in view.judged], feature_places(view, sitting), strict=True)
    )[feature.name]
    at_place = [
        cut
        for cut in sitting.cuts
        if cut.of.hole and any(math.dist((x, y), at) <= _SAME_PLACE_MM for at in cut.at)
    ]
    return (at_place or sitting.cuts)[-1]


def feature_gives(view: OpView, sitting: Sitting, station: Station) -> dict[str, float]:
    """By judged feature: how far the part moves on its contacts under the cut that finishes it,
    with what its block gives.

    Nothing where cut or clamping is not possible yet: the plan says so.
    """
    found: dict[str, float] = {}
    known: dict[str, float] = {}
    for feature in view.judged:
        if not view.op.cuts:
            return {}
        cut = finishing_cut(view, feature, sitting)
        key = cut.model_dump_json()
        if key not in known:
            try:
                known[key] = _gives(view, sitting, station, cut)
            except OutOfRange:
                known[key] = 0.0
        found[feature.name] = known[key]
    return found


def _gives(view: OpView, sitting: Sitting, station: Station, cut: Cut) -> float:
    load = cutting_load(CuttingRequest(material=view.part.material, cut=cut))
    preload, material = preload_of(view, sitting, station), view.part.material
    shared = share_out(
        ShareRequest(
            contacts=station_contacts(
                station, sitting, view.station, preload.low_n, youngs_mpa=material.youngs_mpa
            ),
            centre_of_gravity_mm=sitting.before.centre_mm,
            loads=station_loads(sitting, cut, cut.of.guide(cut, sitting.scene), load),
            youngs_mpa=material.youngs_mpa,
            yield_mpa=material.yield_mpa,
        )
    )
    block = block_beam(view, max(load.in_plane_peak_n, load.push_peak_n))
    moves = (
        shared.moves_mm if shared.settled else 0.0
    )  # what comes to no rest slides: hold refuses it
    return moves + (beam_give_mm(block) if block else 0.0)


def block_beam(view: OpView, force_n: float) -> BeamRequest | None:
    """The block of several plates as a beam, pushed where it gives most; nothing where its size is
    not known.
    """
    block, plate = view.block, view.plate
    if block.faces == 1 or not block.across_mm:
        return None
    length = plate.depth_mm if block.axis == "upright" else plate.width_mm
    return BeamRequest(
        length_mm=length,
        across_mm=block.across_mm,
        wall_mm=block.wall_mm,
        youngs_mpa=block.material.youngs_mpa,
        force_n=force_n,
        at_mm=length * (0.6 if block.tail else 1.0),
        tail=block.tail,
        joint_nmm_per_rad=block.joint_nm_per_mrad * 1e6,
    )


def gives(
    view: OpView,
    sitting: Sitting,
    station: Station,
    loads: list[CutLoad],
    moves_mm: float,
    under: str,
) -> list[Give]:
    """Everything that gives, for the hold step. ``moves_mm``: on its contacts, under the worst cut.
    Raises OutOfRange.
    """
    material = view.part.material
    youngs = material.youngs_mpa
    found = [
        Give(
            id="give_0",
            label="Part on its contacts, under the worst cut",
            digits=4,
            unit="mm",
            value=moves_mm,
            counted=False,
            formula="contacts as springs with friction, the part stiff",
            source="share-out of the contact forces (Johnson 1985; Mindlin 1949)",
            inputs=[
                Input(
                    name=f"under {under}"[:120] if under else "no cut",
                    value=moves_mm,
                    unit="mm",
                    source="share-out",
                )
            ],
        )
    ]
    for name, value in feature_gives(view, sitting, station).items():
        found.append(
            Give(
                id=f"give_{len(found)}",
                label=f"{name}, under the cut that finishes it"[:120],
                digits=4,
                unit="mm",
                value=value,
                counted=True,
                formula=(
                    "part on its contacts as springs, and the block as a beam, under that cut alone"
                ),
                source="share-out of the contact forces; beam theory",
                inputs=[_e(youngs, material.source)],
            )
        )
    hardest = max(
        (max(item.load.in_plane_peak_n, item.load.push_peak_n) for item in loads), default=0.0
    )
    beam = block_beam(view, hardest)
    if beam:
        what = "Bar" if view.block.axis == "lying" else "Block"
        found.append(
            Give(
                id=f"give_{len(found)}",
                label=f"{what} under the hardest cut",
                digits=4,
                unit="mm",
                value=beam_give_mm(beam),
                counted=False,
                formula="F l³ / (3 E I) + F l / (G A) + F l² / joint"
                + (", less what the tail support carries" if beam.tail else ""),
                source="beam theory with shear (Timoshenko)",
                inputs=[
                    _f(hardest),
                    Input(name="length", value=beam.length_mm, unit="mm", source="plate"),
                    Input(name="across", value=beam.across_mm, unit="mm", source="block"),
                    Input(name="wall, 0 solid", value=beam.wall_mm, unit="mm", source="block"),
                    _e(beam.youngs_mpa, view.block.material.source),
                ],
            )
        )
    return found + _plate(view, loads)


def _f(value: float) -> Input:
    return Input(name="F", value=value, unit="N", source="this plan, at the high end")


def _e(value: float, source: str) -> Input:
    return Input(name="E", value=value, unit="MPa", source=source)


def _plate(view: OpView, loads: list[CutLoad]) -> list[Give]:
    """The plate between its hold-down screws, pulled up in its middle by the cut that pulls
    most.
    """
    plate = view.plate
    screws = [(item.x_mm, item.y_mm) for item in plate.keepouts if item.shape == "round"]
    screws = [(x, y) for x, y in screws if 0 <= x <= plate.width_mm and 0 <= y <= plate.depth_mm]
    pull = max((item.load.pull_peak_n for item in loads), default=0.0)
    if len(screws) < 3 or pull <= 0:
        return []
    at = (plate.width_mm / 2, plate.depth_mm / 2)
    try:
        value = plate_give_mm(
            PlateRequest(
                width_mm=plate.width_mm,
                depth_mm=plate.depth_mm,
                thickness_mm=plate.thickness_mm,
                youngs_mpa=plate.material.youngs_mpa,
                screws_mm=screws,
                at_mm=at,
                force_n=pull,
            )
        )
    except OutOfRange:
        return []
    return [
        Give(
            id="give_plate",
            label="Plate lifted between its screws",
            digits=4,
            unit="mm",
            value=value,
            counted=False,
            formula="thin plate held by its screws alone, pulled in the middle; Ritz's method",
            source=(
                "plate energy (Timoshenko and Woinowsky-Krieger 1959); keep-outs that are round are"
                " its screws"
            ),
            inputs=[
                _f(pull),
                Input(name="thickness", value=plate.thickness_mm, unit="mm", source="plate"),
                Input(name="screws", value=len(screws), source="keep-outs"),
                _e(plate.material.youngs_mpa, plate.material.source),
            ],
        )
    ]
