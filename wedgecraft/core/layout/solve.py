"""Layout, all of it in order: regular layouts, corner fills, blocks, a choice among the positions found, and the bound."""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction

import shapely

from wedgecraft.core.layout import bound, exact, fill, recursive, regular
from wedgecraft.core.layout.document import Face, LayoutRequest, LayoutResult, Placement
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.search import FaceProblem, Layout, Spot, best, compatible

_DIGITS = 4
_MOST_UNITS = 400


def layout(request: LayoutRequest) -> LayoutResult:
    """Place stations on every face. The same request gives the same answer; touching counts as clear.

    Faces are filled one by one, each with all it holds, until ``most`` stations stand. ``bound`` is the sum over faces.
    """
    geometry = Geometry(request.kinds)
    placements: list[Placement] = []
    bounds = by_hand = 0
    usable = used = 0.0
    methods: list[str] = []
    hindrance = None
    for number, face in enumerate(request.faces):
        problem = FaceProblem(face, geometry)
        if not problem.variants:
            hindrance = hindrance or _why_nothing_fits(face, geometry)
            continue
        found, limit, hand = _fill_face(problem, request.effort)
        found = _tidy(problem, found)
        takes = bound.used_area(problem)
        usable += bound.usable_area(problem)
        for variant, x, y in _reading_order(problem, found.spots):
            if len(placements) >= request.most:
                break
            place = problem.variants[variant]
            used += takes[variant]
            placements.append(
                Placement(face=number, kind=place.kind, x_mm=round(x, _DIGITS), y_mm=round(y, _DIGITS), turn=place.turn)
            )
        bounds += limit
        by_hand += len(hand.spots)
        methods.append(found.method)
    bounds = min(bounds, request.most)
    proven = len(placements) >= bounds
    statement = "proven largest" if proven else f"at most {bounds}"
    return LayoutResult(
        placements=placements, count=len(placements), bound=bounds, proven=proven, by_hand=min(by_hand, request.most),
        method=", ".join(dict.fromkeys(methods)) or "none", statement=statement, usable_mm2=usable, used_mm2=used,
        hindrance=hindrance if not placements else None,
    )  # fmt: skip


def hindrance(request: LayoutRequest) -> str | None:
    """Why no station fits on any face, in words; nothing when one does. Quick: nothing is placed."""
    geometry = Geometry(request.kinds)
    if any(FaceProblem(face, geometry).variants for face in request.faces):
        return None
    return _why_nothing_fits(request.faces[0], geometry)


def _fill_face(problem: FaceProblem, effort: float) -> tuple[Layout, int, Layout]:
    """The best layout, the bound, and what spacing boxes by hand would give."""
    hand = regular.hand_grid(problem)
    limit = bound.upper_bound(problem)
    layouts = [hand]
    steps = [regular.lattices, _blocks, fill.fills]
    for step in steps:
        layouts += step(problem)
        layouts = [_rounded(item) for item in layouts]
        incumbent = best(layouts, problem)
        if len(incumbent.spots) >= limit:
            return incumbent, limit, hand
    incumbent = _topped_up(problem, layouts, incumbent)
    if effort > 0 and len(incumbent.spots) < limit:
        chosen, exact_bound = exact.choose(problem, layouts, incumbent, effort)
        incumbent = _rounded(chosen)
        limit = min(limit, exact_bound) if exact_bound is not None else limit
        if len(incumbent.spots) < limit:
            incumbent = _topped_up(problem, [incumbent], incumbent)
    return incumbent, max(limit, len(incumbent.spots)), hand


def _topped_up(problem: FaceProblem, layouts: Sequence[Layout], incumbent: Layout) -> Layout:
    """Regular layouts leave pockets at edges and keep-outs: fill those of the fullest few."""
    everything = range(len(problem.variants))
    filled = [incumbent]
    for item in sorted(layouts, key=lambda candidate: candidate.rank(problem))[:6]:
        more = fill.fill(problem, everything, *fill.DIRECTIONS[0], start=item.spots)
        if more:
            filled.append(_rounded(Layout(f"{item.method}, pockets filled", (*item.spots, *more))))
    return best(filled, problem)


def _tidy(problem: FaceProblem, item: Layout) -> Layout:
    """Positions a person would write down, hundredths before thousandths, where every station still stands clear."""
    for digits in (2, 3):
        spots = [(v, round(x, digits), round(y, digits)) for v, x, y in item.spots]
        if len(compatible(problem, spots)) == len(spots):
            return Layout(item.method, tuple(spots))
    return item


def _rounded(item: Layout) -> Layout:
    return Layout(item.method, tuple((v, round(x, _DIGITS), round(y, _DIGITS)) for v, x, y in item.spots))


def _reading_order(problem: FaceProblem, spots: Sequence[Spot]) -> list[Spot]:
    """Numbered as one loads them: rows from the datum corner up, each from left to right, though rows may be ragged."""
    middles = []
    for spot in spots:
        left, low, right, high = problem.geometry.body(problem.variants[spot[0]]).bounds
        middles.append((spot[2] + (low + high) / 2, spot[1] + (left + right) / 2, high - low, spot))
    ordered: list[Spot] = []
    row: list[tuple[float, float, float, Spot]] = []
    for item in [*sorted(middles), None]:
        if item is None or (row and item[0] - row[0][0] > 0.45 * min(row[0][2], item[2])):
            ordered += [entry[3] for entry in sorted(row, key=lambda entry: entry[1])]
            row = []
        if item is not None:
            row.append(item)
    return ordered


def _blocks(problem: FaceProblem) -> list[Layout]:
    """Boxes round the stations, in blocks, where the sizes share a workable unit."""
    if len({variant.kind for variant in problem.variants}) != 1 or problem.face.keepouts:
        return []
    quarter = [next((i for i, v in enumerate(problem.variants) if v.turn % 180 == turn), None) for turn in (0, 90)]
    if None in quarter:
        return []
    lying, upright = (index for index in quarter if index is not None)
    left, low, right, high = problem.nofit(lying, lying).bounds
    size = (right - left) / 2, (high - low) / 2
    kind = problem.geometry.kinds[0]
    gap = problem.geometry.kinds[problem.variants[0].kind].clearance_mm
    if len(kind.layers) != 1 or kind.regions:
        return []
    x0, y0, x1, y1 = shapely.Polygon(problem.face.outer).bounds
    lengths = [*size, x1 - x0 + gap, y1 - y0 + gap]
    unit = _common_unit(lengths)
    w, d, width, depth = (int((value + 1e-3) / unit) for value in lengths)
    if max(width, depth) > _MOST_UNITS:
        return []
    search = recursive.BlockSearch(max(w, d), min(w, d))
    spots: list[Spot] = []
    for x, y, turned in search.boxes(width, depth):
        index = lying if turned == (w < d) else upright
        body = problem.geometry.body(problem.variants[index]).bounds
        spots.append((index, x0 + x * unit - body[0], y0 + y * unit - body[1]))
    return [Layout("blocks of turned boxes", tuple(compatible(problem, spots)))]


def _common_unit(lengths: Sequence[float]) -> float:
    """Largest unit of which the two box sides are whole numbers, to a hundredth of a millimetre."""
    sides = [Fraction(round(value * 100), 100) for value in lengths[:2]]
    top = math.gcd(sides[0].numerator * sides[1].denominator, sides[1].numerator * sides[0].denominator)
    return top / (sides[0].denominator * sides[1].denominator)


def _why_nothing_fits(face: Face, geometry: Geometry) -> str:
    """In words, by how much the nearest variant misses."""
    outline = shapely.Polygon(face.outer)
    x0, y0, x1, y1 = outline.bounds
    misses = []
    for variant in geometry.variants:
        left, low, right, high = geometry.body(variant).bounds
        over = max(0.0, right - left - (x1 - x0)), max(0.0, high - low - (y1 - y0))
        misses.append((sum(over), variant, (right - left, high - low), over))
    _, variant, size, over = min(misses, key=lambda miss: (miss[0], miss[1].turn))
    needs = (
        f"the station needs {size[0]:.1f} x {size[1]:.1f} mm at {variant.turn}°, the face leaves {x1 - x0:.1f} x {y1 - y0:.1f} mm"
    )
    if sum(over) > 0:
        return f"{needs}: {over[0]:.1f} mm too wide, {over[1]:.1f} mm too deep"
    bare = Face(name=face.name, outer=face.outer)
    if any(FaceProblem(bare, Geometry([kind.model_copy(update={"regions": []})])).rooms for kind in geometry.kinds):
        names = sorted({region.name for kind in geometry.kinds for region in kind.regions})
        return f"{needs}; it would fit, but keep-outs{' and ' + ', '.join(names) if names else ''} leave no place"
    return f"{needs}, and no turn fits the face's shape"
