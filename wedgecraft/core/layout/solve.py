"""Layout: the request as faces that are alike, their stations by ``mix`` and ``one``, and the
answer numbered as one loads.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import shapely

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.layout import bound, mix, one, recursive, rounds, skyline, squeeze
from wedgecraft.core.layout.check import Fault, faults
from wedgecraft.core.layout.joint import apart, whole
from wedgecraft.core.layout.nofit import Geometry, Variant, geometry_of
from wedgecraft.core.layout.search import FaceProblem, Layout, compatible
from wedgecraft.core.records.layout import Face, LayoutRequest, LayoutResult, Placement, StationKind

_DIGITS = 4
#: Share of the sets that room may cost, and gaps that are tried, mm more than asked.
_ENOUGH = 0.9
_MORE_ROOM = (1.0, 2.0, 3.0, 5.0, 8.0, 12.0, 20.0)


def layout(
    request: LayoutRequest, report: Report | None = None, filled: one.Fill = one.fill_face
) -> LayoutResult:
    """Place stations on every face, those that are fixed first. The same request gives the same
    answer; touching counts as clear.

    One kind fills every face; several share them for the most complete sets. ``bound`` counts the
    fixed stations where they are. ``report`` gets each better answer as soon as it is found. Raises
    OutOfRange for a fixed station that stands wrong.

    >>> body = {"role": "body", "name": "part", "outer": [(0, 0), (7, 0), (7, 3), (0, 3)]}
    >>> asked = LayoutRequest.model_validate({
    ...     "faces": [{"name": "plate", "outer": [(0, 0), (40, 0), (40, 25), (0, 25)]}],
    ...     "kinds": [{"name": "box", "turns": [0, 90], "layers": [body]}],
    ... })
    >>> found = layout(asked)
    >>> found.count, found.proven
    (47, True)
    """
    if request.joint is not None:
        told: Report | None = None
        if report is not None:
            told = lambda found: report(apart(request, found))  # noqa: E731
        _stand_clear(request, faults(request, request.fixed))
        return apart(request, layout(whole(request), told, filled))
    geometry = geometry_of(request.kinds)
    _stand_clear(request, faults(request, request.fixed, geometry))
    fixtures = _alike(request, geometry)
    answer = _Answer(request, geometry, fixtures)
    if not any(item.problem.variants for item in fixtures) and not request.fixed:
        return answer.of({}, 0, 0, _why_nothing_fits(request.faces[0], geometry))
    tell: Callable[[mix.Shared], None] = lambda found: None  # noqa: E731
    if report is not None:
        tell = lambda found: report(answer.of(found.layouts, found.bound, found.by_hand))  # noqa: E731
    found = mix.share(fixtures, request.kinds, request.effort, request.most, tell, filled)
    tidy = {
        key: [_tidy(fixtures[key].problem, item) for item in layouts]
        for key, layouts in found.layouts.items()
    }
    return answer.of(tidy, found.bound, found.by_hand)


def ready() -> None:
    """Have what is compiled ready before someone waits for it."""
    for method in (recursive, skyline, squeeze, rounds):
        method.ready()


def _stand_clear(request: LayoutRequest, wrong: Sequence[Fault]) -> None:
    for fault in wrong:
        if fault.other is None or fault.other < fault.station:
            place = request.fixed[fault.station]
            raise OutOfRange(
                f"fixed.{fault.station}", f"X{place.x_mm:g} Y{place.y_mm:g}", f"it {fault.says}"
            )


Report = Callable[[LayoutResult], None]


@dataclass(frozen=True)
class Alternative:
    """A layout worth a look beside the largest, what it is best at, and the gap it leaves between
    stations beyond the one asked.
    """

    name: str
    result: LayoutResult
    more_room_mm: float = 0.0


def alternatives(request: LayoutRequest, found: LayoutResult) -> list[Alternative]:
    """Those that are no different from the largest, or from one another, are left out.

    The most regular: straight rows of one turn. The fewest offsets: every station turned alike,
    else as full as it goes. The most room: the widest gap between stations at nine tenths of the
    sets or more.
    """
    named: list[Alternative] = []
    plain = layout(request, filled=one.fill_regularly)
    if plain.sets and plain.placements != found.placements:
        named.append(Alternative("most regular", plain))
    if len({item.turn for item in found.placements}) > 1:
        alike = max(_of_one_turn(request), key=lambda item: item.sets, default=plain)
        if alike.sets > (plain.sets if named else 0):
            bounds = {
                "bound": max(found.bound, alike.sets),
                "by_hand": found.by_hand,
                "proven": alike.sets >= found.bound,
            }
            named.append(Alternative("fewest offsets", alike.model_copy(update=bounds)))
    least = math.ceil(_ENOUGH * found.sets)
    more_room = (
        _MORE_ROOM if len(request.kinds) == 1 else _MORE_ROOM[2:3]
    )  # kinds that share faces take long
    low, high = 0, len(more_room)
    roomy: Alternative | None = None
    while low < high:
        middle = (low + high) // 2
        more = more_room[middle]
        kinds = [
            kind.model_copy(update={"clearance_mm": kind.clearance_mm + more})
            for kind in request.kinds
        ]
        wide = layout(
            request.model_copy(update={"kinds": kinds, "effort": 0.0}), filled=one.fill_unbounded
        )
        if wide.sets >= max(1, least):
            roomy = Alternative("most room", wide, more)
            low = middle + 1
        else:
            high = middle
    if roomy is not None:
        sets = roomy.result.sets
        bounds = {
            "bound": max(found.bound, sets),
            "by_hand": found.by_hand,
            "proven": sets >= found.bound,
        }
        named.append(replace(roomy, result=roomy.result.model_copy(update=bounds)))
    return named


def _of_one_turn(request: LayoutRequest) -> Iterator[LayoutResult]:
    """The layout with all stations at one turn, for each turn that all kinds may have."""
    turns = sorted(set.intersection(*(set(kind.turns) for kind in request.kinds)))
    for turn in turns:
        kinds = [kind.model_copy(update={"turns": [turn]}) for kind in request.kinds]
        yield layout(
            request.model_copy(update={"kinds": kinds, "effort": 0.0}), filled=one.fill_unbounded
        )


def _alike(request: LayoutRequest, geometry: Geometry) -> list[mix.Alike]:
    """The faces, those together that are alike in everything but their name and bear nothing
    yet.
    """
    found: dict[str, mix.Alike] = {}
    for number, face in enumerate(request.faces):
        stand = [
            item.model_copy(update={"fixed": True}) for item in request.fixed if item.face == number
        ]
        kinds = frozenset(
            index
            for index, kind in enumerate(request.kinds)
            if kind.faces is None or number in kind.faces
        )
        key = f"{face.model_dump_json(exclude={'name'})} {sorted(kinds)} {number if stand else ''}"
        if key in found:
            found[key].faces.append(number)
        else:
            found[key] = mix.Alike(FaceProblem(face, geometry, stand, kinds), [number], stand)
    return list(found.values())


class _Answer:
    """Makes results of what stands on the faces; what does not change between them is worked out
    once.
    """

    def __init__(
        self, request: LayoutRequest, geometry: Geometry, fixtures: list[mix.Alike]
    ) -> None:
        self._request, self._geometry, self._fixtures = request, geometry, fixtures
        self._takes = {variant: bound.taken(geometry, variant) for variant in geometry.variants}

    @cached_property
    def _usable(self) -> float:
        bare = (
            FaceProblem(item.problem.face, self._geometry, kinds=item.problem.kinds)
            for item in self._fixtures
        )
        return sum(
            len(item.faces) * bound.usable_area(face)
            for item, face in zip(self._fixtures, bare, strict=True)
        )

    def of(
        self,
        layouts: dict[int, list[Layout]],
        limit: int,
        by_hand: int,
        hindered: str | None = None,
    ) -> LayoutResult:
        request = self._request
        stations: dict[int, list[Placement]] = {number: [] for number in range(len(request.faces))}
        methods: list[str] = []
        for key, item in enumerate(self._fixtures):
            for number, found in zip(item.faces, layouts.get(key, []), strict=False):
                stations[number] = _placed(item.problem, number, found)
                methods += [found.method] if found.spots else []
            stations[item.faces[0]] += item.stand
        faces = [reading_order(self._geometry, stations[number]) for number in sorted(stations)]
        placements = _complete(
            [item for face in faces for item in face], request.kinds, request.most
        )
        counts = mix.by_kind(placements, len(request.kinds))
        fixed = mix.by_kind((item for item in placements if item.fixed), len(request.kinds))
        sets = min(
            mix.sets_of(counts, request.kinds), max(request.most, mix.sets_of(fixed, request.kinds))
        )
        limit = max(min(limit, request.most), sets)
        proven = sets >= limit
        return LayoutResult(
            placements=placements,
            count=len(placements),
            sets=sets,
            bound=limit,
            proven=proven,
            by_hand=min(by_hand, request.most),
            method=", ".join(dict.fromkeys(methods)) or "none",
            statement="proven largest" if proven else f"at most {limit}",
            usable_mm2=self._usable,
            used_mm2=sum(self._takes[Variant(item.kind, item.turn)] for item in placements),
            hindrance=hindered if not placements else None,
        )


def _complete(
    stations: list[Placement], kinds: Sequence[StationKind], most: int
) -> list[Placement]:
    """Stations without those over: an incomplete set is no use, nor are more sets than wanted.
    Fixed ones stay, the last go first.
    """
    counts = mix.by_kind(stations, len(kinds))
    sets = min(mix.sets_of(counts, kinds), most)
    over = [max(0, count - kind.stations(sets)) for count, kind in zip(counts, kinds, strict=True)]
    kept: list[Placement] = []
    for item in reversed(stations):
        if over[item.kind] > 0 and not item.fixed:
            over[item.kind] -= 1
        else:
            kept.append(item)
    return kept[::-1]


def hindrance(request: LayoutRequest) -> str | None:
    """Why no station fits on any face, in words; nothing when one does. Quick: nothing is
    placed.
    """
    request = whole(request)
    geometry = geometry_of(request.kinds)
    if any(FaceProblem(face, geometry).variants for face in request.faces):
        return None
    return _why_nothing_fits(request.faces[0], geometry)


def _tidy(problem: FaceProblem, item: Layout) -> Layout:
    """Positions a person would write down, hundredths before thousandths, where every station still
    stands clear.
    """
    for digits in (2, 3):
        spots = [(v, round(x, digits), round(y, digits)) for v, x, y in item.spots]
        if len(compatible(problem, spots)) == len(spots):
            return Layout(item.method, tuple(spots))
    return item


def _placed(problem: FaceProblem, face: int, found: Layout) -> list[Placement]:
    variants = problem.variants
    return [
        Placement(
            face=face,
            kind=variants[v].kind,
            x_mm=round(x, _DIGITS) + 0.0,
            y_mm=round(y, _DIGITS) + 0.0,
            turn=variants[v].turn,
        )
        for v, x, y in found.spots
    ]


def reading_order(geometry: Geometry, stations: Sequence[Placement]) -> list[Placement]:
    """Numbered as one loads them: rows from the datum corner up, each from left to right, though
    rows may be ragged.
    """
    middles = []
    for number, item in enumerate(stations):
        left, low, right, high = geometry.body(Variant(item.kind, item.turn)).bounds
        middles.append(
            (item.y_mm + (low + high) / 2, item.x_mm + (left + right) / 2, high - low, number)
        )
    ordered: list[Placement] = []
    row: list[tuple[float, float, float, int]] = []
    for entry in [*sorted(middles), None]:
        if entry is None or (row and entry[0] - row[0][0] > 0.45 * min(row[0][2], entry[2])):
            ordered += [stations[other[3]] for other in sorted(row, key=lambda other: other[1])]
            row = []
        if entry is not None:
            row.append(entry)
    return ordered


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
        f"the station needs {size[0]:.1f} x {size[1]:.1f} mm at {variant.turn}°, the face leaves"
        f" {x1 - x0:.1f} x {y1 - y0:.1f} mm"
    )
    if sum(over) > 0:
        return f"{needs}: {over[0]:.1f} mm too wide, {over[1]:.1f} mm too deep"
    bare = Face(name=face.name, outer=face.outer)
    if any(
        FaceProblem(bare, Geometry([kind.model_copy(update={"regions": []})])).rooms
        for kind in geometry.kinds
    ):
        names = sorted({region.name for kind in geometry.kinds for region in kind.regions})
        return (
            f"{needs}; it would fit, but keep-outs{' and ' + ', '.join(names) if names else ''}"
            " leave no place"
        )
    return f"{needs}, and no turn fits the face's shape"
