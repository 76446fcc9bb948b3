"""The engine's speed bars."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from wedgecraft.bench.layouts import many_stations
from wedgecraft.bench.workpieces import workpiece_works
from wedgecraft.core.clamping.jaw_row import row
from wedgecraft.core.clamping.screw import edge_clamp_preload
from wedgecraft.core.hold.factor import hold
from wedgecraft.core.hold.grip_depth import grip
from wedgecraft.core.hold.share_out import share_out
from wedgecraft.core.locate.ready import ready
from wedgecraft.core.locate.report import verdicts
from wedgecraft.core.locate.verdicts import judged, sample
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.records.contact import Contact, LoadCase
from wedgecraft.core.records.feature import Feature
from wedgecraft.core.records.hold import HoldRequest
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.request import Arrangement, OwnStation, PlanRequest
from wedgecraft.core.records.row import RowRequest
from wedgecraft.core.records.share import ShareRequest
from wedgecraft.core.records.verdicts import VerdictsRequest
from wedgecraft.core.records.view import views_of
from wedgecraft.core.records.vise import GripRequest
from wedgecraft.core.shop.picks import starting_request

#: What it is, the bar it should stay under, and the work, which says its answer.
Work = tuple[str, str, Callable[[], str]]


def hold_request(points: int = 5) -> HoldRequest:
    """Ten contacts, 1,600 load cases: ten cuts at five points, 16 directions, lifting and
    pressing.
    """
    floor = [_locator(f"plate {x} {y}", (x, y, 0), (0, 0, 1)) for x in (0, 60) for y in (0, 40)]
    stops = [_locator(f"stop {y} {z}", (0, y, z), (1, 0, 0)) for y in (5, 35) for z in (1, 12)]
    end = [_locator("end stop", (30, 0, 10), (0, 1, 0))]
    preload = edge_clamp_preload(starting_request("bench", 1).station.clamp).low_n
    clamp = Contact(
        name="clamp",
        kind="clamp",
        point_mm=(60, 20, 8),
        normal=(-1, 0, 0),
        friction=0.2,
        preload_n=preload,
    )
    places = [(0, 0), (60, 0), (60, 40), (0, 40), (30, 20)][:points]
    loads = [
        LoadCase(
            name=f"cut {cut} at {x},{y}, {step * 22.5:g}°, {axial} N",
            point_mm=(x, y, 25 - cut),
            force_n=(350 * math.cos(step * math.pi / 8), 350 * math.sin(step * math.pi / 8), axial),
        )
        for cut in range(10)
        for x, y in places
        for step in range(16)
        for axial in (190, -40)
    ]
    return HoldRequest(
        contacts=[*floor, *stops, *end, clamp],
        loads=loads,
        weight_n=(0, 0, -2),
        centre_of_gravity_mm=(30, 20, 12),
    )


def _locator(
    name: str, point: tuple[float, float, float], normal: tuple[float, float, float]
) -> Contact:
    return Contact(name=name, kind="locator", point_mm=point, normal=normal, friction=0.2)


def tolerance_works() -> list[Work]:
    """24 stations with six features: 100,000 parts drawn at each, and the same with locators,
    reports and remedies.
    """
    request = starting_request("bench", 500)
    part = request.parts[0]
    features = [
        Feature(name=f"Bore {k + 1}", x_mm=10 + 8 * k, y_mm=8 + 4 * k, tolerance_mm=0.08 + 0.01 * k)
        for k in range(6)
    ]
    stations = [OwnStation(x_mm=10 + 62 * (k % 6), y_mm=10 + 80 * (k // 6)) for k in range(24)]
    asked = request.model_copy(
        update={
            "parts": [part.model_copy(update={"features": features})],
            "arrangement": Arrangement(own=True, stations=stations),
        }
    )
    item = ready(views_of(asked)[0])
    corners = np.array([(station.x_mm, station.y_mm) for station in stations])

    def draw() -> str:
        found = sample(judged(item.locating, corners, [0] * len(stations)))
        most = max(float(one.within_mm.max()) for one in found if one is not None)
        return f"{len(found)} features x {len(corners)} stations, 997 in 1,000 within {most:.3f} mm"

    def report() -> str:
        answer = verdicts(VerdictsRequest(request=asked, station=23, feature="Bore 6"))
        return (
            f"{len(answer.columns)} columns, {len(answer.detail.adds if answer.detail else [])}"
            " contributors"
        )

    def masks() -> str:
        regions = [
            item.locating.allowed_region(check, [0, 90, 180, 270], 3000)
            for check in item.locating.checks
        ]
        return f"{sum(region is not None for region in regions)} of {len(regions)} bind somewhere"

    return [
        ("tolerance: 100,000 samples x 24 stations x 6 features", "1 s", draw),
        ("the same with locating, table, first article, remedies", "-", report),
        ("masks of the same six features", "-", masks),
    ]


def _plan_line(request: PlanRequest) -> str:
    """Planned as a job is, but for the alternatives, which come after the first design."""
    document = JobDocument.model_validate(request.model_dump())
    planned = plan_route(document, alternatives=False).result
    assert planned is not None, "planned"  # noqa: S101
    design = planned.setups[0].result.designs[0]
    return f"{design.count} stations, {design.statement}, by hand {design.by_hand}"


def hold_works() -> list[Work]:
    """Hold, share-out, a row between jaws, grip depth."""
    hold(hold_request(1))
    full = hold_request()
    steel = {"youngs_mpa": 69_000, "yield_mpa": 275, "high": 1.8}
    shared = ShareRequest.model_validate({**full.model_dump(), **steel})
    four = RowRequest(
        places_mm=[-60, -20, 20, 60], force_n=20_000, screw_mm=0, spread_mm=0.05, clampings=10_000
    )
    deep = GripRequest(
        width_mm=60,
        along_mm=40,
        height_mm=30,
        jaw_mm=20,
        force_low_n=12_000,
        force_high_n=20_000,
        yield_mpa=275,
        loads=full.loads[:320],
    )
    return [
        (
            f"hold: {len(full.contacts)} contacts, {len(full.loads)} load cases",
            "0.5 s",
            lambda: f"factor {hold(full).factor:.3f}",
        ),
        ("share-out of the same", "-", lambda: f"gives {share_out(shared).moves_mm:.4f} mm"),
        (
            "row risk: 10,000 clampings of 4 parts",
            "0.2 s",
            lambda: f"one loose in {100 * row(four).chance_loose:.0f} of 100",
        ),
        ("grip depth: 320 load cases", "-", lambda: grip(deep).sentence),
    ]


def works() -> list[Work]:
    """All measurements of the engine, libraries loaded as in a running worker."""
    return [
        *hold_works(),
        *tolerance_works(),
        *workpiece_works(),
        (
            "plan: about 100 stations, keep-outs and mask",
            "2 s at 60",
            lambda: _plan_line(many_stations(900, 600)),
        ),
        ("plan: about 200 stations", "1 GB", lambda: _plan_line(many_stations(1400, 900))),
        ("plan: starting values", "1 s", lambda: _plan_line(starting_request("bench", 500))),
    ]
