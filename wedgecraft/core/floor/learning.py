"""From what was assumed and what was logged to what is known: prior, posterior, interval.

Ratios of real to assumed: normal with unknown mean and spread, conjugate (normal and inverse gamma;
the posterior of the mean is Student's t). Lives of edges: Weibull of a known shape, conjugate in
its scale to that power (inverse gamma), with those that were changed before they were worn.
Places: normal about a place that is itself normal about the drawing, or, seldom, anywhere (two
normals; what the log shows says which). From memory; any text on Bayesian statistics has them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import optimize, special, stats

_SURE = 0.9
#: What an assumption weighs, in cases.
_PRIOR_CASES = 0.1
#: Spread of one case over its mean, where nothing is known yet.
_PRIOR_SPREAD = 0.3
#: How seldom a station is not as its drawing says, and how far it is off then, mm.
_SELDOM, _ANYWHERE_MM = 0.05, 0.2
#: So many robust spreads from the middle it is no longer one of them.
_FAR = 6.0
#: Few cases have no middle to be far from.
_LEAST = 6


@dataclass(frozen=True)
class Posterior:
    """A value, and between what it lies with 90 %."""

    mean: float
    low: float
    high: float
    cases: int


def ratio(real: Sequence[float]) -> Posterior:
    """The mean of ratios real over assumed; the assumption is a ratio of 1.

    >>> found = ratio([])
    >>> found.mean, found.low < 1 < found.high
    (1.0, True)
    """
    y = np.asarray(real, dtype=float)
    n = len(y)
    kappa, alpha = _PRIOR_CASES + n, (_PRIOR_CASES + n) / 2
    mean = (_PRIOR_CASES + float(np.sum(y))) / kappa
    beta = _PRIOR_CASES / 2 * _PRIOR_SPREAD**2
    if n:
        centre = float(np.mean(y))
        beta += 0.5 * float(np.sum((y - centre) ** 2))
        beta += 0.5 * _PRIOR_CASES * n * (centre - 1) ** 2 / kappa
    scale = math.sqrt(beta / (alpha * kappa))
    half = float(stats.t.ppf(0.5 + _SURE / 2, 2 * alpha)) * scale
    return Posterior(mean, max(0.0, mean - half), mean + half, n)


def edge_life(
    worn: Sequence[float], before: Sequence[float], assumed: float, spread: float
) -> Posterior:
    """Mean life of an edge: of lives that ended, and of edges that were changed before. ``spread``
    over mean is taken as known.
    """
    shape = weibull_shape(max(0.02, spread))
    mean_of_scale = special.gamma(1 + 1 / shape)
    # the scale to the power of the shape is inverse gamma; the prior's mean is what was assumed
    a = 2.0 + len(worn)
    b = (assumed / mean_of_scale) ** shape
    b += float(np.sum(np.asarray([*worn, *before], dtype=float) ** shape))
    law = stats.invgamma(a, scale=b)
    low, mid, high = law.ppf([(1 - _SURE) / 2, 0.5, 0.5 + _SURE / 2])
    life = [float(x ** (1 / shape) * mean_of_scale) for x in (mid, low, high)]
    return Posterior(life[0], life[1], life[2], len(worn))


def weibull_shape(spread: float) -> float:
    """Of a Weibull law with this spread over its mean.

    >>> round(weibull_shape(1.0), 3)
    1.0
    """

    def off(k: float) -> float:
        mean = special.gammaln(1 + 1 / k)
        return float(math.exp(special.gammaln(1 + 2 / k) - 2 * mean) - 1 - spread**2)

    return float(optimize.brentq(off, 0.3, 80))


def place(off_mm: Sequence[float], drawn_within_mm: float, scatter_mm: float) -> Posterior:
    """How far a station is off: its measurements about it scatter by ``scatter_mm``; the prior is
    the drawing, within so much (95 %), or seldom anywhere.
    """
    n = len(off_mm)
    each = max(scatter_mm, 1e-6) ** 2
    total = float(np.sum(np.asarray(off_mm, dtype=float)))
    priors = ((1 - _SELDOM, (drawn_within_mm / 1.96) ** 2), (_SELDOM, _ANYWHERE_MM**2))
    logs, laws = [], []
    for share, prior in priors:
        weight = 1 / prior + n / each
        mean = total / each / weight
        laws.append((mean, 1 / math.sqrt(weight)))
        # how likely the mean of these is, the place being anywhere in this prior
        far = (total / n) ** 2 / (2 * (prior + each / n)) if n else 0.0
        wide = 0.5 * math.log(prior + each / n) if n else 0.0
        logs.append(math.log(share) - far - wide)
    most = max(logs)
    shares = [math.exp(value - most) for value in logs]
    shares = [share / sum(shares) for share in shares]

    def below(x: float) -> float:
        pairs = zip(shares, laws, strict=True)
        return sum(share * float(stats.norm.cdf(x, m, s)) for share, (m, s) in pairs)

    reach = max(abs(m) + 12 * s for m, s in laws)
    low, high = (
        float(optimize.brentq(lambda x, p=p: below(x) - p, -reach, reach))
        for p in ((1 - _SURE) / 2, 0.5 + _SURE / 2)
    )
    middle = sum(share * m for share, (m, _) in zip(shares, laws, strict=True))
    return Posterior(middle, low, high, n)


def pooled_scatter(groups: Sequence[Sequence[float]]) -> float | None:
    """Of values about their own means; nothing where no group has two."""
    squares = sum(float(np.sum((np.asarray(g) - np.mean(g)) ** 2)) for g in groups if len(g) > 1)
    free = sum(len(g) - 1 for g in groups if len(g) > 1)
    return math.sqrt(squares / free) if free else None


def far_out(values: Sequence[float]) -> list[int]:
    """Which are no longer of the others, by the median and its absolute deviation.

    >>> far_out([1.0, 1.1, 0.9, 1.05, 0.95, 1.0, 9.0])
    [6]
    """
    if len(values) < _LEAST:
        return []
    array = np.asarray(values, dtype=float)
    middle = float(np.median(array))
    spread = 1.4826 * float(np.median(np.abs(array - middle)))
    spread = max(spread, 0.02 * abs(middle), 1e-12)
    return [int(k) for k in np.flatnonzero(np.abs(array - middle) > _FAR * spread)]
