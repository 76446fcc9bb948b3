"""Soft jaws of two ops on one pair of blanks: one on each side, the jaws turned round."""

from __future__ import annotations

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.make.asked import Asked
from wedgecraft.core.make.fasteners import SUNK_MM, THREADS
from wedgecraft.core.make.pair import Pair, pair_of
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.records.vise import Vise

#: Between the pockets of both sides stays so much; house usage, from memory.
_BETWEEN_MM = 8.0


def deep_into(pair: Pair) -> tuple[float, float]:
    """How far pockets go into the fixed and into the moving jaw, from the gap."""
    milled = [cutting.area.bounds for cutting in pair.cuttings]
    fixed = pair.fixed.bounds[2] - min(box[0] for box in milled)
    moving = max(box[2] for box in milled) - pair.moving.bounds[0]
    return max(0.0, fixed), max(0.0, moving)


def on_one_pair(pair: Pair, other: Pair, vise: Vise, rules: HouseRules, op: int) -> str:
    """What is to be read on the jaws of an op where those of another are cut for the same vise:
    whether both go on one pair, what that saves, what it costs.
    """
    head = THREADS[vise.jaw_screw].head_high_mm + SUNK_MM if vise.jaw_screw else 0.0
    left = [
        float(jaw.bounds[2] - jaw.bounds[0]) - here - there
        for jaw, here, there in zip(
            (pair.fixed, pair.moving), deep_into(pair), deep_into(other), strict=True
        )
    ]
    least = max(_BETWEEN_MM, 2 * head)
    if min(left) < least:
        return (
            f"Not on the back of op {op}'s jaws: {max(min(left), 0.0):.1f} mm would be left between"
            f" both pockets; at least {least:.1f} mm. A blank {least - min(left):.0f} mm thicker"
            " would do."
        )
    return (
        f"Op {op}'s pocket fits on the back of these jaws, turned round: {min(left):.0f} mm stay"
        f" between both. It saves a pair of blanks; each change is off, round, on, picked up again:"
        f" {rules.setup_minutes:g} min (house rule)."
    )


def says_of_others(asked: Asked, others: list[Asked], vise: Vise) -> dict[int, list[str]]:
    """By op, what its soft jaws could share with those of other setups in a vise alike."""
    found: dict[int, list[str]] = {}
    for kind, ready in enumerate(asked.kinds):
        pair = pair_of(ready)
        if pair is None:
            continue
        for item in others:
            for k, again in enumerate(item.kinds):
                try:
                    other = pair_of(again)
                except OutOfRange:
                    continue
                if other is None:
                    continue
                op = item.design.kinds[k].op_number
                says = on_one_pair(pair, other, vise, asked.request.rules, op)
                found.setdefault(asked.design.kinds[kind].op_number, []).append(says)
    return found
