"""The verdict on every feature at every station, for the screen, the inspector and the first
article.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import Figure, given, state_of
from wedgecraft.core.locate.freedoms import Vector
from wedgecraft.core.locate.judge import Sampled, histogram, variance_shares
from wedgecraft.core.locate.pair import must_match
from wedgecraft.core.locate.ready import Ready, own_placements, ready
from wedgecraft.core.locate.remedies import remedies
from wedgecraft.core.locate.schemes import Located, about
from wedgecraft.core.locate.verdicts import Judged, judged, known_places, sample
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.request import OwnStation
from wedgecraft.core.records.verdicts import (
    Adds,
    BeforeSaid,
    Detail,
    FeatureColumn,
    FeatureVerdict,
    FirstArticle,
    FoundAt,
    LocatorDrawn,
    Nominal,
    Scheme,
    VerdictsRequest,
    VerdictsResult,
)
from wedgecraft.core.records.view import views_of

#: Samples for each station and feature, in all not more than this many draws.
_DRAWS = 30_000_000


def verdicts(asked: VerdictsRequest) -> VerdictsResult:
    """Judge the stations of the arrangement. Raises OutOfRange."""
    request = asked.request
    placements = own_placements(
        request.model_copy(
            update={"arrangement": request.arrangement.model_copy(update={"own": True})}
        )
    )
    if asked.station is not None and asked.station >= len(placements):
        raise OutOfRange("station", asked.station, f"less than {len(placements)}, counted from 0")
    known = known_places(request.arrangement.stations, placements)
    columns: list[FeatureColumn] = []
    schemes, first, every, detail = [], [], [], None
    good = np.ones(len(placements))
    placed = len(placements) - min(asked.left_out, len(placements))
    parts = np.zeros(len(placements))
    for kind, view in enumerate(views_of(request)):
        item = ready(view)
        mine = [index for index, placement in enumerate(placements) if placement.kind == kind]
        corners = np.array([(placements[k].x_mm, placements[k].y_mm) for k in mine]).reshape(-1, 2)
        found = judged(
            item.locating, corners, [placements[k].turn for k in mine], [known[k] for k in mine]
        )
        columns += _columns(kind, found, mine, asked.samples, good)
        schemes.append(_scheme(kind, item))
        parts[mine] = len(item.station.members)
        counted = [row for row, index in enumerate(mine) if index < placed]
        standing = judged(
            item.locating,
            corners[counted],
            [placements[mine[k]].turn for k in counted],
            [known[mine[k]] for k in counted],
        )
        first += _first_article(kind, item, standing, [mine[k] for k in counted])
        every += standing
        for one in found:
            if asked.station in mine and one.feature.name == asked.feature and not one.problem:
                detail = _detail(kind, item, one, mine.index(asked.station), asked)
    first = [line.model_copy(update={"order": number}) for number, line in enumerate(first, 1)]
    return VerdictsResult(
        schemes=schemes,
        columns=columns,
        good_share=[float(value) for value in good],
        first_article=first,
        placed=placed,
        parts=int(parts[:placed].sum()),
        good_parts=float((parts * good)[:placed].sum()),
        pair=must_match(request, every),
        measured=_found_at(request.arrangement.stations),
        detail=detail,
        figures=_good_figures(good[:placed], parts[:placed], asked.samples),
    )


def _found_at(stations: Sequence[OwnStation]) -> list[FoundAt]:
    return [
        FoundAt(
            station=k,
            x_mm=at.x_mm,
            y_mm=at.y_mm,
            z_mm=at.z_mm,
            off_mm=math.hypot(at.x_mm - one.x_mm, at.y_mm - one.y_mm),
        )
        for k, one in enumerate(stations)
        if (at := one.measured) is not None
    ]


def what_is_given(feature: Feature) -> str:
    """What the number of a tolerance is."""
    return feature.of.given


def _lines(
    item: Judged, drawn: Sampled, mine: Sequence[int], good: np.ndarray
) -> list[FeatureVerdict]:
    """Of each station; ``good`` is taken down by the share that is out."""
    lines = []
    for row, index in enumerate(mine):
        share = float(item.share[row])
        good[index] *= 1 - float(drawn.out_share[row])
        lines.append(
            FeatureVerdict(
                station=index,
                share=share,
                state=state_of(share),
                worst_state=state_of(float(item.worst_mm[row]) / item.feature.tolerance_mm),
                probable_mm=float(item.probable_mm[row]),
                worst_mm=float(item.worst_mm[row]),
                within_mm=float(drawn.within_mm[row]),
                out_share=float(drawn.out_share[row]),
                cpk=float(drawn.cpk[row]),
                cpk_at_least=bool(drawn.at_least[row]),
            )
        )
    return lines


def _columns(
    kind: int, found: Sequence[Judged], mine: Sequence[int], samples: int, good: np.ndarray
) -> list[FeatureColumn]:
    draws = max(5000, min(samples, _DRAWS // max(1, len(mine) * len(found))))
    columns = []
    for item, drawn in zip(found, sample(found, draws), strict=True):
        lines = [] if drawn is None else _lines(item, drawn, mine, good)
        said = item.check(0).said if item.stacks and mine else ""
        columns.append(
            FeatureColumn(
                kind=kind,
                feature=item.feature.name,
                said=said,
                tolerance_mm=item.feature.tolerance_mm,
                what=what_is_given(item.feature),
                problem=item.problem,
                verdicts=lines,
            )
        )
    return columns


def _scheme(kind: int, item: Ready) -> Scheme:
    one: Located = item.locating.located[0]
    follows = about(one.locators, (*one.pivot, 0.0))
    drawn = [
        LocatorDrawn(
            name=locator.name,
            point_mm=locator.point_mm,
            normal=locator.normal,
            shift=_three(follows[:3, k]),
            turn=_three(follows[3:, k]),
        )
        for k, locator in enumerate(one.locators)
    ]
    datums = (
        [face.why for face in one.faces.values()]
        if item.view.station.stopped
        else [one.faces["-Z"].why]
    )
    return Scheme(
        kind=kind,
        name=one.scheme,
        sentence=one.sentence,
        free=one.free,
        extra=one.extra,
        warnings=one.warnings,
        locators=drawn,
        datums=[*one.notes, *datums],
        before=[
            BeforeSaid(
                number=op.number, said=f"Op {op.number} counts as {op.held}", trouble=op.trouble
            )
            for op in item.locating.before
        ],
    )


def _three(values: np.ndarray) -> Vector:
    return float(values[0]), float(values[1]), float(values[2])


def _first_article(
    kind: int, item: Ready, found: Sequence[Judged], mine: Sequence[int]
) -> list[FirstArticle]:
    """Bases before what is measured from them; each at the station where it uses most."""
    able = {one.feature.name: one for one in found if not one.problem and len(one.share)}
    ordered: list[str] = []

    def add(name: str) -> None:
        if name in ordered or name not in able:
            return
        base = (
            able[name].feature.from_feature
            if able[name].feature.measured_from == "feature"
            else None
        )
        if base is not None:
            add(base)
        ordered.append(name)

    for one in sorted(able.values(), key=lambda each: each.feature.measured_from == "feature"):
        add(one.feature.name)
    lines = []
    for name in ordered:
        one = able[name]
        row = int(np.argmax(np.round(one.share, 9)))
        feature = one.feature
        probable = float(one.probable_mm[row])
        lines.append(
            FirstArticle(
                order=0,
                kind=kind,
                feature=name,
                station=mine[row],
                said=one.check(row).said,
                nominal=[
                    Nominal(axis=axis, value_mm=value) for axis, value in one.check(row).nominal
                ],
                tolerance_mm=feature.tolerance_mm,
                expect_mm=probable,
                worst_mm=float(one.worst_mm[row]),
                act_mm=min(feature.tolerance_mm, max(probable, feature.tolerance_mm / 2)),
            )
        )
    return lines


def _detail(kind: int, item: Ready, one: Judged, row: int, asked: VerdictsRequest) -> Detail:
    stack, ways = one.stack(row)
    check = one.check(row)
    scale = check.feature.tolerance_mm / check.limit_mm
    shares = variance_shares(stack, ways)
    adds = []
    for name, values in one.contributions(row):
        mine = [k for k, other in enumerate(stack.names) if other == name]
        kinds = sorted({stack.spreads[k] for k in mine})
        adds.append(
            Adds(
                name=name,
                x_mm=float(values[0]),
                y_mm=float(values[1]) if len(values) > 1 else None,
                spread=" and ".join(kinds),
                variance_share=float(shares[name][0]),
                why=list(dict.fromkeys(stack.whys[k] for k in mine)),
            )
        )
    edges, counts = histogram(stack, ways, check.limit_mm, min(asked.samples, 50_000))
    return Detail(
        station=asked.station or 0,
        kind=kind,
        feature=check.feature.name,
        said=check.said,
        tolerance_mm=check.feature.tolerance_mm,
        what=what_is_given(check.feature),
        state=state_of(float(one.share[row])),
        probable_mm=float(one.probable_mm[row]),
        worst_mm=float(one.worst_mm[row]),
        place_mm=_three(one.place[row]),
        adds=adds,
        edges_mm=[scale * value for value in edges],
        counts=counts,
        limit_mm=check.feature.tolerance_mm,
        figures=_figures(item, one, row, asked.samples, adds),
        remedies=remedies(item, one, row),
    )


def _figures(
    item: Ready, one: Judged, row: int, samples: int, adds: Sequence[Adds]
) -> list[Figure]:
    """Where the numbers of one feature at one station come from."""
    zone = one.feature.of.zone
    inputs = [
        given(f"{add.name}{f', {axis}' if zone else ''}"[:120], value, "mm", add.why[0][:200])
        for add in adds
        for axis, value in (("X", add.x_mm), ("Y", add.y_mm))
        if value is not None
    ]
    drawn = sample([one], samples)[0]
    name = f"{one.feature.name}, station"[:100]
    root = (
        "2 x √(Σx² + Σy²)" if zone else "√Σx²" + (", both ways" if one.feature.of.both_ways else "")
    )
    plain = "2 x √((Σ|x|)² + (Σ|y|)²)" if zone else "Σ|x|"
    source = (
        "ISO 1101, ASME Y14.5; root of the sum of squares, the usual rule for independent"
        " contributors"
    )
    found = [
        Figure(
            id="locate_probable",
            label=f"{name}: probable",
            value=float(one.probable_mm[row]),
            unit="mm",
            digits=4,
            formula=f"{root}, ranges at three standard deviations, never more than the worst",
            inputs=inputs,
            source=source,
        ),
        Figure(
            id="locate_worst",
            label=f"{name}: worst case",
            value=float(one.worst_mm[row]),
            unit="mm",
            digits=4,
            formula=f"{plain}, each at the end of its range",
            inputs=inputs,
            source=source,
        ),
    ]
    if drawn is not None:
        counted = given("parts drawn", samples, "", "seeded: the same every time")
        found.append(
            Figure(
                id="locate_out",
                label=f"{name}: out of tolerance",
                value=100 * float(drawn.out_share[row]),
                unit="%",
                digits=2,
                formula="parts drawn with a deviation beyond the limit / parts drawn",
                inputs=[counted, *inputs][:40],
                source="Monte Carlo over the contributors, each with its own spread",
            )
        )
        how = (
            "the Cpk of a plain normal dimension with that share out"
            if zone
            else "(limit - |mean|) / (3 x standard deviation)"
        )
        found.append(
            Figure(
                id="locate_cpk",
                label=f"{name}: Cpk",
                value=float(drawn.cpk[row]),
                digits=2,
                formula=how,
                inputs=[counted, given("limit", one.feature.tolerance_mm, "mm", "drawing")],
                source="ISO 22514-2",
            )
        )
    return found


def _good_figures(good: np.ndarray, parts: np.ndarray, samples: int) -> list[Figure]:
    return [
        Figure(
            id="good_parts",
            label="Good parts a cycle, to be expected",
            value=float((good * parts).sum()),
            digits=2,
            formula=(
                "over all stations: parts x product over features of the share inside its tolerance"
            ),
            inputs=[
                given("parts a cycle", float(parts.sum()), "", "layout"),
                given("parts drawn for each", samples, "", "seeded"),
            ],
            source=(
                "Monte Carlo; features taken as independent, which is on the safe side where they"
                " share contributors"
            ),
        )
    ]
