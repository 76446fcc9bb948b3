"""Raw stock: how big the blank is, how much blanks vary, how many come out of a bar."""

from __future__ import annotations

import math
import statistics

from wedgecraft.core.ground.limits import Figure, FigureInput
from wedgecraft.core.records.stock import (
    AXES,
    NAMES,
    Axis,
    DimensionFacts,
    Stock,
    StockFacts,
    StockKind,
    Variation,
)

#: Usual plus-or-minus of a dimension, mm: (made by the mill or the forge, made by the saw or the
#: torch). Orders of magnitude from memory: cold-drawn bar h11 (EN 10278), sawing ±0.25, ground
#: plate ±0.013, flame cutting ISO 9013 class 2, forging EN 10243.
USUAL_MM: dict[StockKind, tuple[float, float]] = {
    "saw-cut bar": (0.08, 0.25),
    "saw-cut plate": (0.2, 0.5),
    "round bar": (0.08, 0.25),
    "hexagon bar": (0.08, 0.25),
    "ground plate": (0.013, 0.1),
    "flame-cut plate": (0.3, 1.5),
    "forged": (0.8, 0.8),
}
#: How far raw faces stray from flat where they touch: (made by the mill or the forge, by the saw or
#: the torch); from memory, as above.
STRAIGHT_MM: dict[StockKind, tuple[float, float]] = {
    "saw-cut bar": (0.02, 0.05),
    "saw-cut plate": (0.03, 0.05),
    "round bar": (0.02, 0.05),
    "hexagon bar": (0.02, 0.05),
    "ground plate": (0.003, 0.05),
    "flame-cut plate": (0.1, 0.5),
    "forged": (0.2, 0.2),
}
#: What is left of the variation after a blank was faced to one length, plus or minus.
FACED_MM = 0.005
#: A dimension varies the most when its standard deviation leads the next by this much.
_LEADS = 1.2


def spread(stock: Stock, axis: Axis) -> tuple[float, str]:
    """Standard deviation of a dimension in mm, and where it comes from."""
    variation: Variation = getattr(stock, axis).variation
    if variation.kind == "range":
        return variation.value_mm / math.sqrt(3), f"±{variation.value_mm:g} mm, evenly spread"
    if variation.kind == "standard deviation":
        return variation.value_mm, "as typed"
    if variation.kind == "measured" and len(variation.measured_mm) >= 2:
        return (
            statistics.stdev(variation.measured_mm),
            f"{len(variation.measured_mm)} blanks measured",
        )
    usual = USUAL_MM[stock.kind][1 if _is_cut(stock, axis) else 0]
    return usual / math.sqrt(3), f"usual for {stock.kind}, ±{usual:g} mm, from memory"


def half_range_mm(stock: Stock, axis: Axis) -> float:
    """How far a dimension of the blank may lie from its nominal, either way: what an even spread
    allows, three standard deviations of any other.
    """
    even = getattr(stock, axis).variation.kind in ("usual", "range")
    return spread(stock, axis)[0] * (math.sqrt(3) if even else 3)


def straight_mm(stock: Stock, axis: Axis) -> float:
    """How far the raw faces square to an axis stray from flat, plus or minus."""
    return STRAIGHT_MM[stock.kind][1 if _is_cut(stock, axis) else 0]


def _is_cut(stock: Stock, axis: Axis) -> bool:
    """Was this dimension made by the saw or the torch?"""
    if stock.kind in ("saw-cut plate", "flame-cut plate", "ground plate"):
        return axis != "z"
    return axis == stock.along


def stock_facts(
    stock: Stock, size_mm: tuple[float, float, float], density_kg_m3: float, wanted: int
) -> StockFacts:
    """Work the blank out for a finished part of this size; ``wanted`` parts in all."""
    nominal = {
        axis: size + sum(getattr(stock, axis).sides_mm)
        for axis, size in zip(AXES, size_mm, strict=True)
    }
    spreads = {axis: spread(stock, axis) for axis in AXES}
    dimensions = [_dimension(stock, axis, nominal[axis], *spreads[axis]) for axis in AXES]
    ranked = sorted(AXES, key=lambda axis: -spreads[axis][0])
    leads = spreads[ranked[0]][0] > _LEADS * spreads[ranked[1]][0]
    most = ranked[0] if leads else None
    volume = nominal["x"] * nominal["y"] * nominal["z"]
    across = [nominal[axis] for axis in AXES if axis != stock.along]
    if stock.kind == "round bar":
        volume = math.pi / 4 * max(across) ** 2 * nominal[stock.along]
    elif stock.kind == "hexagon bar":
        volume = math.sqrt(3) / 2 * min(across) ** 2 * nominal[stock.along]
    warning, remedies = _grip_warning(stock, most, spreads, ranked[-1])
    per_bar, bars, figures, wrong = _bars(stock, nominal[stock.along], wanted)
    return StockFacts(
        dimensions=dimensions,
        mass_kg=volume * density_kg_m3 * 1e-9,
        most_varying=most,
        warning=warning,
        remedies=remedies,
        figures=figures,
        bars=bars,
        per_bar=per_bar,
        wrong=wrong,
    )


def _dimension(
    stock: Stock, axis: Axis, nominal: float, deviation: float, source: str
) -> DimensionFacts:
    measured = (
        getattr(stock, axis).variation.measured_mm
        if getattr(stock, axis).variation.kind == "measured"
        else []
    )
    return DimensionFacts(
        axis=axis,
        name=NAMES[axis],
        nominal_mm=nominal,
        spread_mm=deviation,
        source=source,
        samples=len(measured),
        mean_mm=statistics.fmean(measured) if measured else None,
    )


def _grip_warning(
    stock: Stock, most: Axis | None, spreads: dict[Axis, tuple[float, str]], least: Axis
) -> tuple[str | None, list[str]]:
    if most is None or most != stock.gripped:
        return None, []
    deviation, best = spreads[most][0], spreads[least][0]
    warning = (
        f"The clamps grip over the {NAMES[most]}, which varies the most: standard deviation"
        f" {deviation:.3f} mm. A rigid jaw over several blanks then holds the biggest and lets the"
        " others go."
    )
    remedies = [
        (
            f"Order or turn the blank the other way round, so that the {NAMES[least]} is gripped:"
            f" {best:.3f} mm."
        ),
        f"Face it to one length first: what is left is about {FACED_MM / math.sqrt(3):.3f} mm.",
    ]
    return warning, remedies


def _bars(
    stock: Stock, blank: float, wanted: int
) -> tuple[int | None, int | None, list[Figure], str | None]:
    """Blanks per bar, bars to order, their story, and what is wrong."""
    if stock.bar_length_mm is None:
        return None, None, [], None
    usable = stock.bar_length_mm - stock.trim_mm - stock.remnant_mm
    per_bar = (
        math.floor((usable + stock.kerf_mm) / (blank + stock.kerf_mm) + 1e-9) if usable > 0 else 0
    )
    if per_bar < 1:
        longer = math.ceil(blank + stock.trim_mm + stock.remnant_mm)
        wrong = (
            f"a bar of {stock.bar_length_mm:g} mm gives no blank of {blank:g} mm; it must be at"
            f" least {longer} mm long"
        )
        return 0, None, [], wrong
    blanks = math.ceil(wanted * (1 + stock.spare_percent / 100) - 1e-9)
    bars = math.ceil(blanks / per_bar)
    inputs = [
        _in("bar", stock.bar_length_mm),
        _in("trimmed off the first end", stock.trim_mm),
        _in("left in the saw", stock.remnant_mm),
        _in("blank", blank, "part and allowances"),
        _in("kerf", stock.kerf_mm),
    ]
    return (
        per_bar,
        bars,
        [
            Figure(
                id="per_bar",
                label="Blanks per bar",
                value=per_bar,
                digits=0,
                inputs=inputs,
                source="arithmetic",
                formula=(
                    "(bar - trim - remnant + kerf) / (blank + kerf), rounded down: the last blank"
                    " needs no cut of its own"
                ),
            ),
            Figure(
                id="bars",
                label="Bars to order",
                value=bars,
                digits=0,
                source="arithmetic",
                formula="parts wanted with spares / blanks per bar, rounded up",
                inputs=[
                    FigureInput(name="parts wanted", value=wanted, source="this job"),
                    FigureInput(
                        name="spares", value=stock.spare_percent, unit="%", source="this job"
                    ),
                    FigureInput(name="blanks per bar", value=per_bar, source="arithmetic"),
                ],
            ),
        ],
        None,
    )


def _in(name: str, value: float, source: str = "this job") -> FigureInput:
    return FigureInput(name=name, value=value, unit="mm", source=source)
