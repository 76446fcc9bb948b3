"""Layouts measured one by one: count, bound, what is known to be best, seconds, and what boxes
spaced by hand give.
"""

from __future__ import annotations

import math
import resource
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from wedgecraft.core.layout import boxed, rounds, solve
from wedgecraft.core.layout.joint import whole
from wedgecraft.core.layout.nofit import Geometry
from wedgecraft.core.layout.search import FaceProblem
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.plan.packing import layout_request
from wedgecraft.core.plan.setup_view import setup_request
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.layout import LayoutRequest, LayoutResult
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.picks import starting_request
from wedgecraft.demo.shop import demo_documents

#: Identical boxes with quarter turns, published optima (pallet loading literature).
BOXES = [
    (22, 16, 5, 3, 23),
    (30, 22, 7, 4, 23),
    (40, 25, 7, 3, 47),
    (86, 82, 15, 11, 42),
    (43, 26, 7, 3, 53),
    (49, 28, 8, 3, 57),
]

#: Where blocks in blocks fail: Lins, Lins and Morabito, "An L-approach for packing (l,
#: w)-rectangles into rectangular and L-shaped pieces", 2003 (from memory; each optimum is at once
#: the area bound, and the packings found are checked).
L_APPROACH = [
    (57, 34, 7, 4, 69), (63, 44, 8, 5, 69), (61, 35, 10, 3, 71), (67, 37, 11, 3, 75), (61, 38, 10,
           3, 77), (61, 38, 6, 5, 77),
    (67, 40, 11, 3, 81), (74, 49, 11, 4, 82), (93, 46, 13, 4, 82), (106, 59, 13, 5, 96), (141, 71,
           13, 8, 96), (74, 46, 7, 5, 97),
    (86, 52, 9, 5, 99),
]  # fmt: skip

#: What unhurried recursion in five blocks, every cut at every length weighed, finds of the seeded
#: boxes: two to eighty seconds for the larger ones.
SEEDED = [
    26, 80, 30, 44, 32, 21, 36, 63, 66, 34, 12, 119, 159, 55, 29, 56, 52, 10, 44, 62,
    46, 32, 32, 36, 64, 46, 34, 19, 30, 101, 88, 12, 112, 45, 55, 60, 70, 47, 27, 32,
    21, 48, 34, 15, 90, 47, 8, 51, 66, 64, 52, 27, 30, 179, 50, 52, 12, 40, 84, 66,
    29, 82, 53, 95, 32, 116, 20, 30, 68, 53, 49, 60, 14, 42, 25, 30, 46, 38, 51, 18,
    6, 16, 42, 31, 33, 160, 16, 27, 132, 36, 38, 75, 30, 28, 127, 34, 56, 19, 48, 58,
    20, 28, 112, 24, 30, 96, 10, 54, 56, 48, 33, 65, 207, 112, 27, 28, 126, 14, 47, 36,
    10, 26, 12, 19, 56, 17, 128, 84, 42, 24, 20, 35, 76, 12, 20, 42, 48, 15, 66, 67,
    46, 65, 30, 89, 10, 16, 24, 40, 37, 100, 180, 55, 44, 32, 52, 124, 18, 96, 18, 30,
    41, 61, 110, 8, 48, 72, 11, 153, 20, 59, 53, 142, 139, 119, 18, 21, 18, 30, 8, 25,
    55, 49, 30, 54, 103, 141, 21, 61, 173, 36, 12, 26, 21, 42, 28, 45, 20, 48, 62, 56,
]  # fmt: skip

#: Best-known radius of n equal circles in the unit square; container over circle radius in a
#: circle. Specht's tables, from memory.
IN_SQUARE = {
    5: 0.2071067,
    7: 0.1744576,
    10: 0.1482043,
    13: 0.1339935,
    19: 0.1122654,
    30: 0.0916710,
    39: 0.0818367,
    52: 0.0713077,
}
IN_CIRCLE = {
    7: 3.0,
    10: 3.8130256,
    13: 4.2360680,
    19: 4.8637033,
    31: 6.2915026,
    37: 6.7587704,
    61: 8.6612975,
}


@dataclass(frozen=True)
class Instance:
    """A layout to solve; ``known``: the published or best-known count, 0 where there is none."""

    name: str
    request: LayoutRequest
    known: int = 0


def box_request(width: float, depth: float, long: float, short: float) -> LayoutRequest:
    """Boxes in a rectangle, as a layout document."""
    return shape_request(
        [(0, 0), (long, 0), (long, short), (0, short)],
        [(0, 0), (width, 0), (width, depth), (0, depth)],
        [0, 90],
    )


def shape_request(
    outer: list[tuple[float, float]], face: list[tuple[float, float]], turns: list[int]
) -> LayoutRequest:
    """One shape on one face, as a layout document."""
    layers = [{"role": "body", "name": "body", "outer": outer}]
    kinds = [{"name": "station", "turns": turns, "layers": layers}]
    return LayoutRequest.model_validate(
        {"faces": [{"name": "face", "outer": face}], "kinds": kinds}
    )


def many_stations(
    width: float, depth: float, rows: int = 3, columns: int = 3, across: float = 20
) -> PlanRequest:
    """A plan on a large plate with keep-outs in rows and columns, so wide, and a tolerance mask."""
    request = starting_request("bench", 10_000).model_dump()
    keepouts = [
        {"x_mm": float(x), "y_mm": float(y), "width_mm": across}
        for x in np.linspace(20, width - 20, columns)
        for y in np.linspace(20, depth - 20, rows)
    ]
    request["plate"] |= {"width_mm": width, "depth_mm": depth, "keepouts": keepouts}
    request["machine"] |= {"travel_x_mm": 2000, "travel_y_mm": 1200, "table_load_kg": 2000}
    request["parts"][0]["features"][0]["tolerance_mm"] = 0.085 if width < 1000 else 0.2
    return PlanRequest.model_validate(request)


#: What holds the parts of the seeded plans, each with stops, sweeps and wrenches of its own.
SEEDED_PLANS, TURNED_PLANS = 40, 20
HELD_BY = ("vacuum", "edge clamp", "dovetail", "pull stud")


def seeded_plan(seed: int) -> PlanRequest:
    """A plan with stations from a seed: a box (even seeds) or a round (odd ones), held in one of
    four ways, on a plate with its screws and sometimes more, the tolerance tight or not.
    """
    rng = np.random.default_rng(7000 + seed)
    wide, deep = sorted((float(v) for v in rng.integers(26, 90, 2)), reverse=True)
    shape = (
        {"kind": "round", "diameter_mm": wide}
        if seed % 2
        else {"kind": "rectangle", "width_mm": wide, "depth_mm": deep}
    )
    across = wide if seed % 2 else deep
    width, depth = (float(round(60 + side * rng.uniform(3, 7) + 60)) for side in (wide, across))
    request = starting_request(f"seeded {seed}", 10_000).model_dump()
    part = request["parts"][0]
    part["outline"] = {"shape": shape}
    part["height_mm"] = float(rng.integers(26, 50))
    part["features"][0] |= {
        "x_mm": wide / 2,
        "y_mm": across / 2,
        "tolerance_mm": float(rng.choice([0.06, 0.1, 0.2])),
    }
    held = HELD_BY[seed // 2 % len(HELD_BY)]
    if held != "edge clamp":
        request["station"]["element"] = {"kind": held}
    request["station"]["clearance_mm"] = float(rng.choice([2, 3, 5]))
    screws = [
        {"x_mm": x, "y_mm": y, "width_mm": 18}
        for x in (20.0, width - 20)
        for y in (20.0, depth - 20)
    ]
    if seed % 3 == 0:
        screws.append({"x_mm": width / 2, "y_mm": depth / 2, "width_mm": 20})
    request["plate"] |= {"width_mm": width, "depth_mm": depth, "keepouts": screws}
    request["machine"] |= {"travel_x_mm": 1600, "travel_y_mm": 1200, "table_load_kg": 2000}
    return PlanRequest.model_validate(request)


def turned_plan(seed: int) -> PlanRequest:
    """A seeded plan's round as it is turned out of round bar, on a pull stud: nothing of it stands
    out, cutters pass all round.
    """
    request = seeded_plan(2 * seed + 1).model_dump()
    request["name"] = f"turned {seed}"
    request["parts"][0]["stock"] |= {"kind": "round bar", "along": "z"}
    request["station"]["element"] = {"kind": "pull stud"}
    return PlanRequest.model_validate(request)


def drafted_packings() -> Iterator[tuple[str, LayoutRequest]]:
    """What each setup of the strangers' parts asks of the layout, as their drafts are planned."""
    from wedgecraft.bench.drafts import drafts

    for document in drafts():
        yield from _setups_of(document)


def _setups_of(document: JobDocument) -> Iterator[tuple[str, LayoutRequest]]:
    setups = document.route.setups if document.route else []
    for number in range(1, len(setups) + 1):
        asked = setup_request(document, number)
        if asked is not None:
            yield f"{document.job.name}, setup {number}", packing_of(asked)


def packing_of(request: PlanRequest) -> LayoutRequest:
    """The packing problem of a plan."""
    return layout_request(request, [ready(view) for view in views_of(request)])


def seeded_boxes(seed: int) -> tuple[int, int, int, int]:
    """A face and a box from a seed: width, depth, long, short; six to two hundred of them fit."""
    rng = np.random.default_rng(seed)
    long = int(rng.integers(4, 30))
    short = int(rng.integers(max(2, long // 4), long))
    width = int(rng.integers(3 * long, 9 * long))
    return width, int(rng.integers(2 * long, 7 * long)), long, short


def _round(radius: float, corners: int, middle: float = 0) -> list[tuple[float, float]]:
    angles = [2 * math.pi * k / corners for k in range(corners)]
    return [(middle + radius * math.cos(a), middle + radius * math.sin(a)) for a in angles]


def curved(seed: int, corners: int, radius: float = 32.0) -> list[tuple[float, float]]:
    """A smooth outline of so many corners, in and out by a quarter of its radius, from its seed."""
    rng = np.random.default_rng(seed)
    angles = 2 * np.pi * np.arange(corners) / corners
    waves = [(k, rng.normal(0, 0.25 / k), rng.uniform(0, 2 * np.pi)) for k in range(2, 7)]
    radii = radius * (1 + sum(size * np.cos(k * angles + shift) for k, size, shift in waves))
    return [
        (float(x), float(y))
        for x, y in np.stack([radii * np.cos(angles), radii * np.sin(angles)], axis=1)
    ]


#: Corners of the seeded curved outlines: as drawings with arcs in chords have them.
CURVED = (100, 150, 200, 300, 400, 600, 800, 1000, 1500, 2000)


def real_plans() -> Iterator[Instance]:
    """As users ask: the demo's jobs, strangers' parts as they are drafted, seeded plans, large
    plates with keep-outs and a mask.
    """
    for document, _ in demo_documents():
        for name, asked in _setups_of(document):
            yield Instance(f"demo: {name}", asked)
    for name, asked in drafted_packings():
        yield Instance(f"drafted: {name}", asked)
    plans = [seeded_plan(seed) for seed in range(SEEDED_PLANS)]
    plans += [turned_plan(seed) for seed in range(TURNED_PLANS)]
    for request in plans:
        yield Instance(f"{request.name}", packing_of(request))
    face = [(0.0, 0.0), (420.0, 0.0), (420.0, 300.0), (0.0, 300.0)]
    for seed, corners in enumerate(CURVED):
        yield Instance(
            f"curved outline of {corners} corners",
            shape_request(curved(seed, corners), face, [0, 90, 180, 270]),
        )
    for width, depth in ((700, 480), (900, 600), (1400, 900)):
        yield Instance(
            f"outlines on {width} x {depth}, keep-outs, mask",
            packing_of(many_stations(width, depth)),
        )
    yield Instance(
        "outlines on 1400 x 900, 300 keep-outs, mask",
        packing_of(many_stations(1400, 900, 15, 20, 8)),
    )


def bare_shapes() -> Iterator[Instance]:
    """One shape on a bare face: published optima and best-known counts, and seeded boxes."""
    for width, depth, long, short, known in BOXES + L_APPROACH:
        yield Instance(
            f"boxes {long} x {short} in {width} x {depth}",
            box_request(width, depth, long, short),
            known,
        )
    square = [(0.0, 0.0), (100.0, 0.0), (100.0, 100.0), (0.0, 100.0)]
    for count, radius in IN_SQUARE.items():
        yield Instance(
            f"{count} circles in a square",
            shape_request(_round(100 * radius * (1 - 5e-5), 64), square, [0]),
            count,
        )
    for count, ratio in IN_CIRCLE.items():
        round_face = _round(50, 360, 50)
        yield Instance(
            f"{count} circles in a circle",
            shape_request(_round(50 / ratio * (1 - 2e-4), 64), round_face, [0]),
            count,
        )
    for seed, known in enumerate(SEEDED):
        width, depth, long, short = seeded_boxes(seed)
        yield Instance(
            f"seeded {seed}: {long} x {short} in {width} x {depth}",
            box_request(width, depth, long, short),
            known,
        )


#: In the table, in this order.
GROUPS: tuple[tuple[str, Callable[[], Iterator[Instance]]], ...] = (
    ("real plans", real_plans),
    ("bare faces", bare_shapes),
)


HEADINGS = (
    f"{'instance':<44}{'count':>6}{'bound':>7}{'known':>7}{'proven':>8}{'first s':>9}{'best s':>8}"
    f"{'all s':>8}{'by hand':>9}{'ratio':>7}"
)


def lines(thorough: bool = False) -> Iterator[str]:
    """The table, line by line, real plans first, and of each group the sums; ``thorough``: beside
    those without a known count what twenty times the effort would find.
    """
    solve.ready()
    layout(box_request(9, 7, 3, 2))
    yield HEADINGS
    for name, group in GROUPS:
        done = []
        for item in group():
            line, measured = _measured(item, thorough)
            done.append(measured)
            yield line
        yield from _in_all(name, done)
    yield f"peak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"


@dataclass(frozen=True)
class _Measured:
    name: str
    stations: str
    sets: int
    limit: int
    known: int
    by_hand: int
    proven: bool
    seconds: float


def _measured(item: Instance, thorough: bool) -> tuple[str, _Measured]:
    began = time.perf_counter()
    first: list[float] = []
    best = [0.0, 0.0]  # sets, and when there were so many first

    def told(so_far: LayoutResult) -> None:
        first.append(time.perf_counter() - began)
        if so_far.sets > best[0]:
            best[:] = so_far.sets, first[-1]

    found = layout(item.request, told)
    seconds = time.perf_counter() - began
    more = ""
    if thorough and not item.known:
        further = layout(item.request.model_copy(update={"effort": 20.0}))
        more = f"  twenty times the effort: {further.sets}"
    line = (
        f"{item.name[:43]:<44}{found.sets:>6}{found.bound:>7}{item.known or '-':>7}"
        f"{'yes' if found.proven else '-':>8}"
        f"{first[0] if first else seconds:>9.2f}"
        f"{best[1] if best[0] == found.sets else seconds:>8.2f}{seconds:>8.2f}"
        f"{found.by_hand:>9}{found.sets / max(1, found.by_hand):>7.2f}{more}"
    )
    return line, _Measured(
        item.name,
        stations_as(item.request),
        found.sets,
        found.bound,
        item.known,
        found.by_hand,
        found.proven,
        seconds,
    )


def stations_as(request: LayoutRequest) -> str:
    """What the stations are for one another on the first face: boxes, rounds, or anything else."""
    asked = whole(request)
    problem = FaceProblem(asked.faces[0], Geometry(asked.kinds))
    if not problem.variants or len(asked.kinds) > 1:
        return "others"
    if rounds.round_station(problem) is not None:
        return "rounds"
    return "boxes" if boxed.are_boxes(problem) else "others"


def _in_all(name: str, done: Sequence[_Measured]) -> Iterator[str]:
    """Of a group: counts, how near the bounds are, how many are proven or short of the known; and
    the bounds of stations that are boxes or rounds for each other, and of the demo's setups.
    """
    sets, by_hand = (sum(getattr(item, of) for item in done) for of in ("sets", "by_hand"))
    ratios = [item.sets / item.limit for item in done if item.limit]
    short = sum(item.sets < item.known for item in done)
    yield (
        f"{name}: {len(done)}, {sets} sets, {sets / max(1, by_hand):.2f} of the hand's;"
        f" count over bound {np.median(ratios) if ratios else 0:.2f} in the median;"
        f" proven {sum(item.proven for item in done)}; short of what is known {short};"
        f" {sum(item.seconds for item in done):.1f} s, the longest"
        f" {max((item.seconds for item in done), default=0):.1f} s"
    )
    parts = {
        of: [item for item in done if item.stations == of] for of in ("boxes", "rounds", "others")
    }
    parts["the demo's"] = [item for item in done if item.name.startswith("demo: ")]
    for of, items in parts.items():
        near = [item.sets / item.limit for item in items if item.limit]
        if near:
            yield (
                f"  {of}: {len(items)}, count over bound {np.median(near):.2f} in the median;"
                f" proven {sum(item.proven for item in items)}"
            )
