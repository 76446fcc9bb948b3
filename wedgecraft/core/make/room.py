"""Where text has room: beside holes on a drawing, and on a piece that is marked."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np

from wedgecraft.core.make.strokes import plain, text_width_mm
from wedgecraft.core.records.piece import Holes, Mark

#: A letter is as wide as this share of its height, near enough.
LETTER = 0.68


class Box(NamedTuple):
    """A rectangle that is taken."""

    x0: float
    y0: float
    x1: float
    y1: float


def beside(text: str, x: float, y: float, radius: float, high: float, taken: list[Box]) -> Box:
    """The corner round a hole where its name covers least of what is there already; it is taken
    then.
    """
    wide, off = len(text) * high * LETTER, 0.75 * radius + 0.25 * high
    tried = [
        Box(x + off, y + off, x + off + wide, y + off + high),
        Box(x - off - wide, y + off, x - off, y + off + high),
        Box(x + off, y - off - high, x + off + wide, y - off),
        Box(x - off - wide, y - off - high, x - off, y - off),
        Box(x - wide / 2, y + radius + 0.4 * high, x + wide / 2, y + radius + 1.4 * high),
        Box(x - wide / 2, y - radius - 1.4 * high, x + wide / 2, y - radius - 0.4 * high),
    ]
    there, own = np.array(taken).reshape(-1, 1, 4), np.array(tried)
    across = np.minimum(there[..., 2], own[:, 2]) - np.maximum(there[..., 0], own[:, 0])
    along = np.minimum(there[..., 3], own[:, 3]) - np.maximum(there[..., 1], own[:, 1])
    covered = (across.clip(0.0) * along.clip(0.0)).sum(axis=0)
    best = tried[int(np.argmin(covered))]
    taken.append(best)
    return best


def marked(
    lines: Sequence[str], width_mm: float, depth_mm: float, rows: Iterable[Holes], high_mm: float
) -> list[Mark]:
    """Lines of marking where they keep farthest from all holes, smaller where they would not fit;
    none where not even small ones do.
    """
    holes = np.array(
        [
            (place.x_mm, place.y_mm, row.widest_mm / 2)
            for row in rows
            if row.side == "top"
            for place in row.places
        ]
    ).reshape(-1, 3)
    for high in (high_mm, 0.7 * high_mm, 0.5 * high_mm):
        wide = max(text_width_mm(line, high) for line in lines)
        tall = high * (1.6 * len(lines) - 0.6)
        xs = np.arange(high, width_mm - wide - high + 1e-9, max(high, 2.0))
        ys = np.arange(high, depth_mm - tall - high + 1e-9, max(high, 2.0))
        if not len(xs) or not len(ys):
            continue
        x, y = np.meshgrid(xs, ys)
        clear = np.full(x.shape, 1e3)
        for hx, hy, radius in holes:
            dx = np.maximum(np.maximum(x - hx, hx - x - wide), 0)
            dy = np.maximum(np.maximum(y - hy, hy - y - tall), 0)
            clear = np.minimum(clear, np.hypot(dx, dy) - radius)
        at = np.unravel_index(int(np.argmax(np.minimum(clear, 5.0))), clear.shape)
        if clear[at] > 0.5:
            return [
                Mark(
                    text=plain(line),
                    x_mm=round(float(x[at]), 2),
                    y_mm=round(float(y[at]) + 1.6 * high * k, 2),
                    high_mm=high,
                )
                for k, line in enumerate(reversed(lines))
            ]
    return []
