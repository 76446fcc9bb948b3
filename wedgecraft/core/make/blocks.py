"""What faces stand round: a solid block, or walls to be welded and machined after."""

from __future__ import annotations

from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.finish import finished
from wedgecraft.core.records.piece import Bought, MakeDoubt, Piece

#: Walls are machined after welding, mm a side; from memory.
_ALLOWANCE_MM = 3.0


def block_pieces(asked: Asked) -> list[Piece]:
    """The body of a block of four faces or two: one solid piece, or a cut list of walls."""
    block, plate = asked.request.block, asked.request.plate
    upright = block.axis == "upright"
    long_mm = plate.depth_mm if upright else plate.width_mm
    name, across = "Block", block.across_mm
    common = {
        "name": name,
        "kind": "block",
        "alike": asked.copies,
        "ops": asked.ops,
        "material": block.material,
        "datum_mm": (0.0, 0.0),
        "datum_says": "X0 Y0: lower left corner of its foot",
    }
    if not across:
        return []
    if block.wall_mm and 2 * block.wall_mm >= across:
        doubt = MakeDoubt(
            what="wall",
            says=f"two walls of {block.wall_mm:g} mm leave nothing between them in {across:g} mm",
            remedy=f"walls under {across / 2:g} mm, or 0 for a solid block",
        )
        return [
            Piece(**common, width_mm=across, depth_mm=across, thickness_mm=long_mm, doubts=[doubt])
        ]
    if not block.wall_mm:
        piece = Piece(
            **common,
            width_mm=across,
            depth_mm=across,
            thickness_mm=long_mm,
            notes=["All faces square to its foot; faces finished in place, one clamping."],
        )
        return [finished(piece, asked.request.machine, asked.request.rules)]
    wall, more = block.wall_mm, _ALLOWANCE_MM
    inner = across - 2 * wall
    cut = [
        (2, across + 2 * more, long_mm + 2 * more, "outer walls"),
        (2, inner, long_mm + 2 * more, "inner walls, between those"),
        (1, inner, inner, "a lid, let in"),
    ]
    pieces = Piece(
        **common,
        width_mm=across,
        depth_mm=across,
        thickness_mm=long_mm,
        bought=[
            Bought(says=f"Plate {wall:g}: {x:.0f} x {y:.0f}", count=count, why=why)
            for count, x, y, why in cut
        ],
        notes=[
            "Weld all seams outside, chamfered; stress relieve; then machine its foot.",
            f"Faces finished in place on its own foot, {more:g} mm allowed a side.",
            "A hole for air in the lid: a closed hollow bursts when it is heated.",
        ],
    )
    whole = finished(pieces, asked.request.machine, asked.request.rules)
    share = (across**2 - inner**2) / across**2
    return [whole.model_copy(update={"mass_kg": whole.mass_kg * share})]
