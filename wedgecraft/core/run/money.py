"""What an order costs with what stands on the table, and with tooling made first.

Both schools count: the total of either course, weighted by the chance of a repeat, decides.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from wedgecraft.core.records.run import Cost, Course, Interval, Money, Uncertain

#: Owners ask that a fixture pays within two years; common practice, no source.
_YEARS = 2.0
_DRAWS = 400
#: How far these usually are off, one standard deviation over the mean; from memory.
_OFF = {"cutting seconds": 0.15, "handling seconds": 0.25, "hours to make it": 0.3}
_NINETY = 1.645


@dataclass(frozen=True)
class Way:
    """One way to run an order, in money: what is made first, setting up each order, and a piece by
    what it depends on: cutting, handling, and the rest.
    """

    name: str
    made: float
    each_order: float
    cutting: float
    handling: float
    rest: float
    scrap: float
    seconds: float

    @property
    def a_piece(self) -> float:
        """With what is scrapped on the way."""
        return (self.cutting + self.handling + self.rest) / (1 - self.scrap)

    def order(self, quantity: int) -> float:
        """One order, what is made first with it."""
        return self.made + self.each_order + quantity * self.a_piece

    def scaled(self, cutting: float, handling: float, made: float) -> Way:
        """The same where estimates were off by these factors."""
        return replace(
            self,
            cutting=self.cutting * cutting,
            handling=self.handling * handling,
            made=self.made * made,
        )


@dataclass(frozen=True)
class Orders:
    """Pieces an order, orders a year (nothing where not known), chance that it comes again."""

    quantity: int
    a_year: float | None = None
    repeat: float | None = None

    @property
    def further(self) -> float:
        """Orders to expect after this one, in the two years in which a fixture has to pay."""
        chance = 1.0 if self.repeat is None and self.a_year is not None else (self.repeat or 0.0)
        return chance * (max(0.0, self.a_year * _YEARS - 1) if self.a_year is not None else 1.0)

    def all_of(self, way: Way) -> float:
        """This order and those to expect."""
        return way.made + (1 + self.further) * (way.order(self.quantity) - way.made)


def even_at(now: Way, tooled: Way) -> int | None:
    """From how many pieces on tooling is the cheaper, in one order; nothing where it never is.

    >>> bare = Way("a", 0, 10, 4, 1, 0, 0, 0)
    >>> even_at(bare, Way("b", 90, 20, 2, 1, 0, 0, 0))
    50
    """
    saves = now.a_piece - tooled.a_piece
    more = tooled.made + tooled.each_order - now.made - now.each_order
    if more <= 0:
        return 1 if saves >= 0 else None
    return math.ceil(more / saves - 1e-9) if saves > 0 else None


def payback_months(now: Way, tooled: Way, orders: Orders) -> float | None:
    """Until what tooling saves has paid for it; nothing where orders a year are not known, or it
    never does.
    """
    if orders.a_year is None:
        return None
    each = now.each_order - tooled.each_order + orders.quantity * (now.a_piece - tooled.a_piece)
    a_month = each * orders.a_year / 12
    return (tooled.made - now.made) / a_month if a_month > 0 else None


def money_of(now: Way, tooled: Way, orders: Orders, lines: Sequence[Cost], currency: str) -> Money:
    """Both courses with their interval, and what the answer hangs on."""
    rng = np.random.default_rng(20)
    off = [
        np.exp(rng.normal(-(s**2) / 2, s, _DRAWS) if s else np.zeros(_DRAWS)) for s in _OFF.values()
    ]
    drawn = [
        (now.scaled(float(c), float(h), float(m)), tooled.scaled(float(c), float(h), float(m)))
        for c, h, m in zip(*off, strict=True)
    ]
    courses = []
    for k, way in enumerate((now, tooled)):
        totals = np.array([pair[k].order(orders.quantity) for pair in drawn])
        courses.append(
            Course(
                name=way.name,
                made=way.made,
                each_order=way.each_order,
                a_piece=way.a_piece,
                total=way.order(orders.quantity),
                low=float(np.quantile(totals, 0.05)),
                high=float(np.quantile(totals, 0.95)),
                all_orders=orders.all_of(way),
                seconds_a_piece=way.seconds,
            )
        )
    return Money(
        currency=currency,
        missing=[],
        lines=list(lines),
        a_piece=tooled.order(orders.quantity) / orders.quantity,
        courses=courses,
        even_at=even_at(now, tooled),
        payback_months=_payback(now, tooled, orders, drawn),
        uncertain=_uncertain(now, tooled, orders),
        says=_says(now, tooled, orders, currency),
    )


def _payback(
    now: Way, tooled: Way, orders: Orders, drawn: Sequence[tuple[Way, Way]]
) -> Interval | None:
    mean = payback_months(now, tooled, orders)
    if mean is None:
        return None
    found = [payback_months(a, b, orders) for a, b in drawn]
    months = np.array([math.inf if each is None else each for each in found])
    low, high = np.quantile(months, [0.05, 0.95], method="nearest")
    return Interval(mean=mean, low=float(low), high=min(float(high), 1200.0))


def _uncertain(now: Way, tooled: Way, orders: Orders) -> list[Uncertain]:
    found = []
    for k, (what, off) in enumerate(_OFF.items()):
        gains = []
        for sign in (-1, 1):
            factors = [1.0, 1.0, 1.0]
            factors[k] = math.exp(sign * _NINETY * off)
            gains.append(
                orders.all_of(now.scaled(*factors)) - orders.all_of(tooled.scaled(*factors))
            )
        found.append(Uncertain(what=what, low=gains[0], high=gains[1]))
    return sorted(found, key=lambda item: -abs(item.high - item.low))


def _says(now: Way, tooled: Way, orders: Orders, currency: str) -> list[str]:
    even = even_at(now, tooled)
    gain = now.order(orders.quantity) - tooled.order(orders.quantity)
    said = []
    if even is None:
        said.append("A piece costs no less with it: the fixture does not pay.")
    elif even <= orders.quantity:
        said.append(
            f"It pays from {even} pieces on; this order is {orders.quantity}, and saves"
            f" {gain:,.0f} {currency}."
        )
    else:
        said.append(
            f"It pays from {even} pieces on; this order is {orders.quantity}, and costs"
            f" {-gain:,.0f} {currency} more with it."
        )
    later = orders.all_of(now) - orders.all_of(tooled)
    if orders.further > 0:
        word = "saves" if later >= 0 else "costs"
        said.append(
            f"With {orders.further:.1f} further orders to expect in two years it {word}"
            f" {abs(later):,.0f} {currency} in all."
        )
    elif orders.repeat is None and orders.a_year is None:
        said.append("Nobody has said whether it is ordered again: only this order is counted.")
    return said
