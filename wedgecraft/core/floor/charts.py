"""Control charts, shares and capability.

Constants by integration of the range of normal samples (Tippett 1925); run rules as the Western
Electric handbook (1956) gives them, from memory; the interval of Cpk after Bissell (1990), of a
share after Clopper and Pearson (1934), from memory.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import integrate, stats

from wedgecraft.core.ground.errors import OutOfRange


@dataclass(frozen=True)
class Constants:
    """Of samples of n: mean and spread of the range over sigma; factors of the limits."""

    d2: float
    d3: float
    a2: float
    low: float
    high: float


@lru_cache(maxsize=32)
def constants(n: int) -> Constants:
    """For samples of 2 to 25.

    >>> found = constants(5)
    >>> round(found.d2, 3), round(found.a2, 3)
    (2.326, 0.577)
    """
    if not 2 <= n <= 25:
        raise OutOfRange("n", n, "samples of 2 to 25")

    def tail(x: float) -> float:
        p = stats.norm.cdf(x)
        return float(1 - (1 - p) ** n - p**n)

    d2 = integrate.quad(tail, -8, 8, limit=200)[0]

    def both(y: float, x: float) -> float:
        a, b = stats.norm.cdf(x), stats.norm.cdf(y)
        return float(1 - b**n - (1 - a) ** n + (b - a) ** n)

    grid = np.linspace(-7, 7, 701)
    p = stats.norm.cdf(grid)
    low, up = np.meshgrid(p, p, indexing="ij")
    inside = np.where(low <= up, 1 - up**n - (1 - low) ** n + np.clip(up - low, 0, None) ** n, 0.0)
    step = grid[1] - grid[0]
    area = float(np.sum(inside) - 0.5 * np.sum(np.diag(inside))) * step * step
    d3 = math.sqrt(max(0.0, 2 * area - d2**2))
    reach = 3 * d3 / d2
    return Constants(d2, d3, 3 / (d2 * math.sqrt(n)), max(0.0, 1 - reach), 1 + reach)


@dataclass(frozen=True)
class Individuals:
    """Centre, sigma from the moving range, limits at three of it, signals (index, why)."""

    centre: float
    sigma: float
    low: float
    high: float
    signals: list[tuple[int, str]]


def individuals(values: Sequence[float]) -> Individuals:
    """At least two values. Raises OutOfRange."""
    if len(values) < 2:
        raise OutOfRange("values", len(values), "at least two")
    array = np.asarray(values, dtype=float)
    sigma = float(np.mean(np.abs(np.diff(array)))) / constants(2).d2
    centre = float(np.mean(array))
    found = runs(values, centre, sigma) if sigma > 0 else []
    return Individuals(centre, sigma, centre - 3 * sigma, centre + 3 * sigma, found)


def runs(values: Sequence[float], centre: float, sigma: float) -> list[tuple[int, str]]:
    """Where a run rule is broken, at its last value: one beyond 3 sigma; two of three beyond 2,
    four of five beyond 1, eight in a row, each on one side.

    >>> runs([0, 0, 3.5, 0, 0, 2.1, 2.2], 0, 1)
    [(2, 'beyond 3 sigma'), (6, 'two of three beyond 2 sigma')]
    """
    z = (np.asarray(values, dtype=float) - centre) / sigma
    found = []
    rules = [
        (1, 1, 3.0, "beyond 3 sigma"),
        (3, 2, 2.0, "two of three beyond 2 sigma"),
        (5, 4, 1.0, "four of five beyond 1 sigma"),
        (8, 8, 0.0, "eight in a row on one side"),
    ]
    for k in range(len(z)):
        for window, need, limit, why in rules:
            seen = z[max(0, k - window + 1) : k + 1]
            if len(seen) < window:
                continue
            hit = any(
                side * z[k] > limit and np.sum(side * seen > limit) >= need for side in (1, -1)
            )
            if hit:
                found.append((k, why))
                break
    return found


def capability(
    values: Sequence[float], low: float, high: float, sure: float = 0.9
) -> tuple[float, float, float]:
    """Cpk, and between what it lies with this certainty. Raises OutOfRange for fewer than 5."""
    if len(values) < 5:
        raise OutOfRange("values", len(values), "at least five")
    array = np.asarray(values, dtype=float)
    n, mean, sigma = len(array), float(np.mean(array)), float(np.std(array, ddof=1))
    if sigma <= 0:
        inside = low <= mean <= high
        return (math.inf, math.inf, math.inf) if inside else (-math.inf, -math.inf, -math.inf)
    cpk = min(high - mean, mean - low) / (3 * sigma)
    z = float(stats.norm.ppf(0.5 + sure / 2))
    off = z * math.sqrt(1 / (9 * n) + cpk**2 / (2 * (n - 1)))
    return cpk, cpk - off, cpk + off


def share_between(bad: int, made: int, sure: float = 0.9) -> tuple[float, float]:
    """Between what the true share lies, whatever it is, with at least this certainty.

    >>> low, high = share_between(0, 10)
    >>> low, round(high, 3)
    (0.0, 0.259)
    """
    tail = (1 - sure) / 2
    low = 0.0 if bad == 0 else float(stats.beta.ppf(tail, bad, made - bad + 1))
    high = 1.0 if bad == made else float(stats.beta.ppf(1 - tail, bad + 1, made - bad))
    return low, high


def stands_out(bad: int, made: int, others_bad: int, others_made: int, tests: int) -> bool:
    """Whether so many bad ones of this one, seen beside the others, come by chance in less than one
    case of a hundred, with so many looked at (Fisher's exact test, Bonferroni).
    """
    if bad == 0 or others_made == 0:
        return False
    table = [[bad, made - bad], [others_bad, others_made - others_bad]]
    return bool(stats.fisher_exact(table, alternative="greater").pvalue * max(1, tests) < 0.01)
