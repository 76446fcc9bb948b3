"""How much larger, or smaller, one contributor may be with all others as they are: solved by adding
up again.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np

from wedgecraft.core.locate.judge import used
from wedgecraft.core.locate.sources import Array, Stack
from wedgecraft.core.locate.verdicts import Judged
from wedgecraft.core.records.rules import Rule

_STEPS = 40


def scaled(stack: Stack, groups: Collection[str], factor: float) -> Stack:
    """With some groups that many times as large; those of ops before count by the name behind their
    number.
    """
    sizes = np.array([factor if _plain(name) in groups else 1.0 for name in stack.names])
    return replace(stack, moves=stack.moves * sizes[None, :, None])


def _plain(name: str) -> str:
    found = name.split(": ", 1)[1] if name.startswith("op ") and ": " in name else name
    return "temperature" if found.startswith("temperature") else found


def share_of(stack: Stack, ways: Array | None, limit_mm: float, rule: Rule) -> Array:
    """Share of the tolerance by the house rule, (n,)."""
    worst, probable = used(stack, ways)
    return (worst if rule == "worst case" else probable) / limit_mm


def largest_factor(
    found: Sequence[Judged], groups: Collection[str], rule: Rule, most: float
) -> float:
    """The largest, up to ``most``, at which every feature at every station is in; 0 when not even
    without these groups.
    """
    items = []
    for one in found:
        for k in np.unique(one.which) if one.stacks else []:
            stack, ways = one.stacks[int(k)]
            mine = np.flatnonzero(one.which == k)
            if any(_plain(name) in groups for name in stack.names):
                part = replace(stack, moves=stack.moves[mine])
                items.append(
                    (part, None if ways is None else ways[mine], one.looked_at[int(k)][0].limit_mm)
                )

    def fits(factor: float) -> bool:
        return all(
            (share_of(scaled(stack, groups, factor), ways, limit, rule) <= 1 + 1e-9).all()
            for stack, ways, limit in items
        )

    if fits(most):
        return most
    if not fits(0.0):
        return 0.0
    low, high = 0.0, most
    for _ in range(_STEPS):
        middle = (low + high) / 2
        low, high = (middle, high) if fits(middle) else (low, middle)
    return low
