"""Adding up: worst case, probable (root of the sum of squares), and sampling.

Probable is three standard deviations of what varies, and never more than the worst; a uniform range
counts as the square root of three times itself. Fixed sources count with their sign. Of a position
all are diameters of the zone (ISO 1101, ASME Y14.5).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wedgecraft.core.locate.sources import Array, Stack
from wedgecraft.core.records.locating import SIGMAS

_SEED = 20_250_301
_CHUNK = 20_000
#: Fewer samples out of tolerance than this say only "at least".
_FEW = 10


@dataclass(frozen=True)
class Sampled:
    """By place: share out of tolerance, Cpk, whether that is only a lower bound, and what 997 in
    1,000 stay within.
    """

    out_share: Array
    cpk: Array
    at_least: np.ndarray
    within_mm: Array


def along(stack: Stack, ways: Array | None) -> Array:
    """Components that matter, (n, sources, 1 or 2): along ``ways`` (n, 3), or in the plane of the
    plate.
    """
    if ways is None:
        return stack.moves[:, :, :2]
    parts: Array = np.einsum("nsi,ni->ns", stack.moves, ways)[:, :, None]
    return parts


@dataclass(frozen=True)
class Sums:
    """Along every axis that matters, (n, 1 or 2): fixed ones with their sign, ends of the ranges of
    the others, squares of 3 sigma.
    """

    fixed: Array
    ends: Array
    squares: Array

    def __add__(self, other: Sums) -> Sums:
        return Sums(self.fixed + other.fixed, self.ends + other.ends, self.squares + other.squares)

    def used(self) -> tuple[Array, Array]:
        """(worst, probable), shape (n,): diameters of two axes, plus-or-minus along one."""
        worst = np.abs(self.fixed) + self.ends
        likely = np.minimum(worst, np.abs(self.fixed) + np.sqrt(self.squares))
        double = 2.0 if worst.shape[1] == 2 else 1.0
        return double * np.sqrt((worst**2).sum(axis=1)), double * np.sqrt((likely**2).sum(axis=1))


def sums(stack: Stack, ways: Array | None) -> Sums:
    """Add the sources of every place up."""
    parts = along(stack, ways)
    fixed = np.array([spread == "fixed" for spread in stack.spreads], dtype=bool)
    sigmas = np.array([SIGMAS[spread] for spread in stack.spreads])
    sure, varying = parts[:, fixed].sum(axis=1), parts[:, ~fixed]
    return Sums(
        sure, np.abs(varying).sum(axis=1), ((varying * sigmas[~fixed, None]) ** 2).sum(axis=1)
    )


def used(stack: Stack, ways: Array | None) -> tuple[Array, Array]:
    """(worst, probable), shape (n,): diameters where ``ways`` is nothing, plus-or-minus along it
    otherwise.
    """
    return sums(stack, ways).used()


def variance_shares(stack: Stack, ways: Array | None) -> dict[str, Array]:
    """By group, its share of the variance; those that do not vary have none. Shape (n,) each."""
    parts = along(stack, ways)
    sigmas = np.array([SIGMAS[spread] for spread in stack.spreads])
    squares = ((parts * sigmas[:, None]) ** 2).sum(axis=2)
    whole = np.maximum(squares.sum(axis=1), 1e-30)
    return {
        name: squares[:, _of(stack, name)].sum(axis=1) / whole
        for name in dict.fromkeys(stack.names)
    }


def ranges(stack: Stack, ways: Array | None) -> dict[str, Array]:
    """By group, (n, 1 or 2): plus-or-minus at three standard deviations, or the fixed value."""
    parts = along(stack, ways)
    found = {}
    for name in dict.fromkeys(stack.names):
        mine = _of(stack, name)
        fixed = [k for k in mine if stack.spreads[k] == "fixed"]
        sigmas = np.array([SIGMAS[stack.spreads[k]] for k in mine])
        varies = np.sqrt(((parts[:, mine] * sigmas[:, None]) ** 2).sum(axis=1))
        found[name] = np.minimum(varies, np.abs(parts[:, mine]).sum(axis=1)) + np.abs(
            parts[:, fixed].sum(axis=1)
        )
    return found


def _of(stack: Stack, name: str) -> list[int]:
    return [k for k, other in enumerate(stack.names) if other == name]


def sampled(
    items: Sequence[tuple[Stack, Array | None, float]], samples: int = 100_000
) -> list[Sampled]:
    """Draw ``samples`` parts for every item (stack, ways, limit), each limit a diameter or a
    plus-or-minus. Seeded: same answer always.

    What is common to all places of an item is drawn once, as it happens on a fixture; items are
    sampled with the same numbers.
    """
    rng = np.random.default_rng(_SEED)
    prepared = [_split(stack, ways) for stack, ways, _ in items]
    counts = [(int(normal.shape[0]), int(uniform.shape[0])) for normal, uniform, _ in prepared]
    most = [max((count[k] for count in counts), default=0) for k in (0, 1)]
    outs = [np.zeros(len(stack.moves)) for stack, _, _ in items]
    kept: list[list[np.ndarray]] = [[] for _ in items]
    done = 0
    while done < samples:
        size = min(_CHUNK, samples - done)
        normals = rng.standard_normal((size, most[0]), dtype=np.float32)
        uniforms = rng.random((size, most[1]), dtype=np.float32) * 2 - 1
        for number, ((stack, ways, limit), (normal, uniform, fixed)) in enumerate(
            zip(items, prepared, strict=True)
        ):
            places = len(stack.moves)
            moved = (
                normals[:, : normal.shape[0]] @ normal
                + uniforms[:, : uniform.shape[0]] @ uniform
                + fixed
            )
            far = (
                np.abs(moved)
                if ways is not None
                else 2 * np.hypot(moved[:, :places], moved[:, places:])
            )
            outs[number] += (far > limit).sum(axis=0)
            if done == 0:
                kept[number].append(far)
        done += size
    return [
        _told(item, out / samples, np.concatenate(far), samples)
        for item, out, far in zip(items, outs, kept, strict=True)
    ]


def _split(stack: Stack, ways: Array | None) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Standard deviations of the normal sources, half ranges of the uniform ones, sum of the fixed:
    (sources, places x axes).
    """
    parts = along(stack, ways)
    flat = np.concatenate([parts[:, :, k] for k in range(parts.shape[2])]).T.astype(np.float32)
    # Rows: sources; columns: all places along the first axis, then all along the second.
    kinds = np.array(stack.spreads)
    return (
        flat[kinds == "normal"] / np.float32(3),
        flat[kinds == "uniform"],
        flat[kinds == "fixed"].sum(axis=0),
    )


def _told(
    item: tuple[Stack, Array | None, float], out: Array, far: np.ndarray, samples: int
) -> Sampled:
    stack, ways, limit = item
    within = np.quantile(far, 0.997, axis=0).astype(float)
    if ways is None:
        few = out * samples < _FEW
        from scipy.special import ndtri  # takes as long to load as all the rest

        cpk = -ndtri(np.maximum(out, _FEW / samples) / 2) / 3
        return Sampled(out, cpk, few, within)
    mean, deviation = moments(stack, ways)
    with np.errstate(divide="ignore"):
        cpk = (limit - np.abs(mean)) / np.maximum(3 * deviation, 1e-12)
    return Sampled(out, cpk, np.zeros(len(out), dtype=bool), within)


def moments(stack: Stack, ways: Array) -> tuple[Array, Array]:
    """Mean and standard deviation along ``ways``, (n,) each: exact, as all is linear."""
    parts = along(stack, ways)[:, :, 0]
    fixed = np.array([spread == "fixed" for spread in stack.spreads])
    sigmas = np.array([SIGMAS[spread] / 3 for spread in stack.spreads])
    return parts[:, fixed].sum(axis=1), np.sqrt(((parts * sigmas) ** 2).sum(axis=1))


def histogram(
    stack: Stack, ways: Array | None, limit: float, samples: int = 100_000, bins: int = 41
) -> tuple[list[float], list[int]]:
    """Edges (bins + 1) and counts of the first place: diameters from 0, or signed along the way; as
    far as limit or spread go.
    """
    rng = np.random.default_rng(_SEED)
    normal, uniform, fixed = _split(stack.of(0), None if ways is None else ways[:1])
    moved = (
        rng.standard_normal((samples, len(normal))) @ normal
        + rng.uniform(-1, 1, (samples, len(uniform))) @ uniform
        + fixed
    )
    far = 2 * np.linalg.norm(moved, axis=1) if ways is None else moved[:, 0]
    reach = 1.1 * max(limit, float(np.abs(far).max()))
    counts, edges = np.histogram(far, bins=bins, range=(0.0 if ways is None else -reach, reach))
    return [float(value) for value in edges], [int(value) for value in counts]
