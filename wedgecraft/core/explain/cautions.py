"""Cautions that are always shown where they apply."""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.locate.ready import Ready, bare_kg
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.workpiece.states import Workpiece

#: Recommended weight limit of one lift in ideal conditions: NIOSH, revised lifting equation (1994),
#: 23 kg.
LIFT_LIMIT_KG = 23.0
#: More left than the variation of blanks on sides that stay raw.
_MUCH_MORE = 0.1


def cautions_of(request: PlanRequest, kinds: Sequence[Ready], counts: Sequence[int]) -> list[str]:
    """What is always shown where it applies; ``counts``: stations of each kind."""
    found = [
        "First article in single block, reduced rapid, door shut; nothing runs alone before it.",
        "Screws within their rating. Machine builder, local codes, licensed practice come first.",
    ]
    total = bare_kg(request.block, kinds[0].masses) + sum(
        count * item.masses.station_kg for count, item in zip(counts, kinds, strict=True)
    )
    if total > LIFT_LIMIT_KG and not request.station.element.setup_said:
        what = "Loaded block" if request.block.faces > 1 else "Loaded plate"
        found.append(
            f"{what} weighs {total:.1f} kg, over {LIFT_LIMIT_KG:g} kg (51 lb) for one person: use"
            " lifting gear."
        )
    if request.station.element.back_mm is not None:
        found.append(
            "One screw draws both stations of a vise: a part in each, or a filler as wide."
        )
    if request.block.faces > 1:
        found.append("An indexing block: swing, unbalance and pallet load as the builder states.")
    for name in dict.fromkeys(
        item.view.part.material.name for item in kinds if item.view.part.material.chips_burn
    ):
        found.append(
            f"Chips of {name} can burn: never piled up, and the right extinguisher at hand."
        )
    pieces = {item.view.part.name: item.sitting.piece for item in kinds}
    for name, piece in pieces.items():
        found += _not_as_drawn(name, piece)
    return found


def _not_as_drawn(name: str, piece: Workpiece) -> list[str]:
    """What the cuts as they stand would make of a part instead of it."""
    found = []
    where = "see Part, Blank to finished"
    if piece.more_than_finished > _MUCH_MORE:
        found.append(
            f"The cuts leave {name} with {100 * piece.more_than_finished:.0f} % more material than"
            f" the finished part has: {where}."
        )
    gouging = [cut.name for state in piece.ops for cut in state.cuts if cut.gouges]
    if gouging:
        found.append(f"{', '.join(gouging)} cut into the finished {name}: {where}.")
    return found
