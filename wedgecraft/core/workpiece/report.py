"""A part from blank to finished, as a document: states, faces, holes, left-over, gouges, and what
to look at, in words.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cut
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.workpiece import (
    BodyFacts,
    BurrFound,
    CutTaken,
    Doubt,
    FaceFound,
    GougeFound,
    HoleFound,
    LeftOverFound,
    StateFacts,
    WorkpieceRequest,
    WorkpieceResult,
)
from wedgecraft.core.workpiece.body import Body
from wedgecraft.core.workpiece.finished import solid_of
from wedgecraft.core.workpiece.mend import NotABody
from wedgecraft.core.workpiece.states import (
    Burr,
    LeftOver,
    Taken,
    Workpiece,
    least_seconds,
    workpiece,
)
from wedgecraft.core.workpiece.surfaces import planes_of, round_holes_of, side_of

#: Seconds that fall this much below what the removal rate allows are questioned.
_TOO_FAST = 0.98


def workpiece_report(request: WorkpieceRequest) -> WorkpieceResult:
    """Everything about it. Raises OutOfRange for a solid that cannot be read."""
    part = request.part
    try:
        found, largest = workpiece(part), workpiece(part, "largest")
    except NotABody as error:
        raise OutOfRange("part.solid", error.what, error.remedy) from None
    density = part.material.density_kg_m3
    return WorkpieceResult(
        finished=body_facts(found.finished, density),
        blank=body_facts(found.blank, density),
        faces=[
            FaceFound(
                normal=plane.normal,
                area_mm2=plane.area_mm2,
                place_mm=plane.place_mm,
                side=side_of(plane.normal),
            )
            for plane in planes_of(found.finished)
        ],
        holes=[
            HoleFound(
                diameter_mm=hole.diameter_mm,
                start_mm=hole.start_mm,
                end_mm=hole.end_mm,
                depth_mm=float(np.linalg.norm(np.subtract(hole.end_mm, hole.start_mm))),
                through=hole.through,
                open_to=list(hole.open_to),
                sides=[side for way in hole.open_to if (side := side_of(way)) is not None],
            )
            for hole in round_holes_of(found.finished)
        ],
        states=[
            StateFacts(
                op=state.op.number,
                up=state.op.up,
                turn_deg=state.op.turn_deg,
                before=body_facts(state.before, density),
                after=body_facts(state.after, density),
                cuts=[
                    _taken(cut, taken, part)
                    for cut, taken in zip(state.op.cuts, state.cuts, strict=True)
                ],
            )
            for state in found.ops
        ],
        left_over=[
            LeftOverFound(
                volume_mm3=item.volume_mm3,
                low_mm=item.low_mm,
                high_mm=item.high_mm,
                from_side=item.from_side,
                corner_mm=item.corner_mm,
            )
            for item in found.left_over
        ],
        burrs=[
            BurrFound(
                first=burr.first,
                second=burr.second,
                cut_away_by=burr.cut_away_by,
                before=burr.before,
            )
            for burr in found.burrs
        ],
        doubts=list(doubts(found, largest)),
    )


def not_as_drawn(parts: Sequence[Part]) -> list[Doubt]:
    """The doubts of a job's parts, with their fields as its document has them; a solid that cannot
    be read is one.
    """
    found = []
    for number, part in enumerate(parts):
        about = f"{part.name}: " if len(parts) > 1 else ""
        try:
            mine = list(doubts(workpiece(part), workpiece(part, "largest")))
        except NotABody as error:
            mine = [Doubt(field="solid", says=f"{error.what}: {error.remedy}")]
        found += [
            doubt.model_copy(
                update={"field": f"job.parts.{number}.{doubt.field}", "says": about + doubt.says}
            )
            for doubt in mine
        ]
    return found


def body_facts(body: Body, density_kg_m3: float) -> BodyFacts:
    """Raises ValueError for an empty body."""
    inertia = body.inertia_mm5 * density_kg_m3 * 1e-9
    rows = [(float(x), float(y), float(z)) for x, y, z in inertia]
    return BodyFacts(
        volume_mm3=body.volume_mm3,
        surface_mm2=body.surface_mm2,
        mass_kg=body.volume_mm3 * density_kg_m3 * 1e-9,
        centre_mm=body.centre_mm,
        inertia_kg_mm2=(rows[0], rows[1], rows[2]),
        low_mm=body.box[:3],
        high_mm=body.box[3:],
        chord_error_mm=body.chord_error_mm,
    )


def _taken(cut: Cut, taken: Taken, part: Part) -> CutTaken:
    return CutTaken(
        name=taken.name,
        volume_mm3=taken.volume_mm3,
        least_seconds=least_seconds(cut, taken, part),
        gouges=[
            GougeFound(volume_mm3=item.volume_mm3, depth_mm=item.depth_mm, place_mm=item.place_mm)
            for item in taken.gouges
        ],
        buried_mm=taken.buried_mm,
        loose_mm3=list(taken.loose),
        wrong=taken.wrong,
    )


def doubts(found: Workpiece, largest: Workpiece) -> Iterator[Doubt]:
    """What a machinist should look at, in the order of the ops; fields from the part on.
    ``largest``: the same from the largest blank there may be.
    """
    if found.part.solid is not None and solid_of(found.part) is None:
        yield Doubt(
            field="solid",
            says="the part's solid is not at hand: only its outline and height are looked at; load"
            " its file again",
        )
    if not any(state.op.cuts for state in found.ops):
        yield Doubt(field="ops", says="no op has a cut yet: nothing is checked", wrong=False)
    if found.standing_out_mm3:
        yield Doubt(
            field="stock",
            says=f"{found.standing_out_mm3:.0f} mm³ of the finished part stand out of the blank:"
            " more allowance",
        )
    for index, state in enumerate(found.ops):
        both = zip(state.op.cuts, state.cuts, largest.ops[index].cuts, strict=True)
        for number, (cut, taken, most) in enumerate(both):
            yield from _of_cut(cut, taken, most, f"ops.{index}.cuts.{number}", found.part)
    for item in found.left_over:
        yield Doubt(field="ops", says=_left_said(item), wrong=item.corner_mm != 0)
    for burr in found.burrs:
        by_hand = not (burr.cut_away_by or burr.before)
        yield Doubt(field="ops", says=_burr_said(burr), wrong=False, by_hand=by_hand)


def _of_cut(cut: Cut, taken: Taken, most: Taken, field: str, part: Part) -> Iterator[Doubt]:
    if taken.wrong is not None:
        yield Doubt(field=f"{field}.{taken.field.removeprefix('cut.')}", says=taken.wrong)
        return
    for item in taken.gouges:
        x, y, z = item.place_mm
        yield Doubt(
            field=f"{field}.axial_depth_mm",
            says=f"{cut.name} takes {item.volume_mm3:.1f} mm³ of the finished part,"
            f" {item.depth_mm:.2f} mm thick, round X{x:.1f} Y{y:.1f} Z{z:.1f}",
        )
    if most.buried_mm:
        begins = cut.from_top_mm - most.buried_mm
        yield Doubt(
            field=f"{field}.from_top_mm",
            says=f"{cut.name} begins {most.buried_mm:.2f} mm under the top of the largest blank:"
            f" begin it at {begins:.2f} mm, or face that off before",
        )
    if not taken.volume_mm3 and not cut.of.by_pitch:
        yield Doubt(field=f"{field}.name", says=f"{cut.name} cuts air: nothing is left there")
    if taken.loose:
        count = len(taken.loose)
        what = "a piece" if count == 1 else f"{count} pieces"
        yield Doubt(
            field=f"{field}.name",
            says=f"{cut.name} frees {what} of {sum(taken.loose):.0f} mm³ in all, which can jam or"
            " fly: keep it on a tab, or let it fall where it does no harm",
            wrong=False,
        )
    least = least_seconds(cut, taken, part)
    if cut.seconds is not None and least is not None and cut.seconds < _TOO_FAST * least:
        yield Doubt(
            field=f"{field}.seconds",
            says=f"{cut.name} cannot take {taken.volume_mm3:.0f} mm³ in {cut.seconds:.3g} s: at"
            f" its removal rate that is {least:.3g} s",
        )


def _left_said(item: LeftOver) -> str:
    place = ", ".join(
        f"{axis} {low:.1f} to {high:.1f} mm"
        for axis, low, high in zip("XYZ", item.low_mm, item.high_mm, strict=True)
    )
    said = f"{item.volume_mm3:.1f} mm³ are left that no cut takes, {place}"
    if item.corner_mm is not None:
        return f"{said}: " + (
            f"a round cutter leaves them in a corner; one of {item.corner_mm:g} mm does not"
            if item.corner_mm
            else "in a sharp corner, which no round cutter reaches"
        )
    if item.from_side is None:
        return f"{said}: no tool gets there straight from any of the six sides"
    return f"{said}: a tool could come from {item.from_side}"


def _burr_said(burr: Burr) -> str:
    said = f"{burr.second} breaks into {burr.first} and leaves a burr there"
    if burr.cut_away_by:
        return f"{said}, which {burr.cut_away_by} cuts away"
    if burr.before:
        return f"{said}; before {burr.before} it would be cut away"
    return f"{said}, which is taken off by hand"
