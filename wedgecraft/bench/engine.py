"""The engine's speed bars."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from wedgecraft.core.catalogue import starting_request
from wedgecraft.core.clamps import edge_clamp_preload
from wedgecraft.core.contacts import Contact, HoldRequest, LoadCase
from wedgecraft.core.design import plan
from wedgecraft.core.hold import hold
from wedgecraft.core.layout.document import LayoutRequest
from wedgecraft.core.layout.solve import layout
from wedgecraft.core.plan import PlanRequest
from wedgecraft.core.tolerance import Budget, PositionTolerance, ToleranceRequest

#: What it is, the bar it should stay under, and the work, which says its answer.
Work = tuple[str, str, Callable[[], str]]

#: Identical boxes with quarter turns, published optima (pallet loading literature).
BOXES = [(22, 16, 5, 3, 23), (30, 22, 7, 4, 23), (40, 25, 7, 3, 47), (86, 82, 15, 11, 42), (43, 26, 7, 3, 53), (49, 28, 8, 3, 57)]


def box_request(width: float, depth: float, long: float, short: float) -> LayoutRequest:
    """Boxes in a rectangle, as a layout document."""
    return LayoutRequest.model_validate(
        {
            "faces": [{"name": "rectangle", "outer": [(0, 0), (width, 0), (width, depth), (0, depth)]}],
            "kinds": [
                {
                    "name": "box", "turns": [0, 90],
                    "layers": [{"role": "body", "name": "box", "outer": [(0, 0), (long, 0), (long, short), (0, short)]}],
                }
            ],
        }
    )  # fmt: skip


def hold_request(points: int = 5) -> HoldRequest:
    """Ten contacts, 1,600 load cases: ten cuts at five points, 16 directions, lifting and pressing."""
    floor = [_locator(f"plate {x} {y}", (x, y, 0), (0, 0, 1)) for x in (0, 60) for y in (0, 40)]
    stops = [_locator(f"stop {y} {z}", (0, y, z), (1, 0, 0)) for y in (5, 35) for z in (1, 12)]
    end = [_locator("end stop", (30, 0, 10), (0, 1, 0))]
    preload = edge_clamp_preload(starting_request("bench", 1).station.clamp).low_n
    clamp = Contact(name="clamp", kind="clamp", point_mm=(60, 20, 8), normal=(-1, 0, 0), friction=0.2, preload_n=preload)
    places = [(0, 0), (60, 0), (60, 40), (0, 40), (30, 20)][:points]
    loads = [
        LoadCase(
            name=f"cut {cut} at {x},{y}, {step * 22.5:g}°, {axial} N", point_mm=(x, y, 25 - cut),
            force_n=(350 * math.cos(step * math.pi / 8), 350 * math.sin(step * math.pi / 8), axial),
        )
        for cut in range(10) for x, y in places for step in range(16) for axial in (190, -40)
    ]  # fmt: skip
    return HoldRequest(contacts=[*floor, *stops, *end, clamp], loads=loads, weight_n=(0, 0, -2), centre_of_gravity_mm=(30, 20, 12))


def _locator(name: str, point: tuple[float, float, float], normal: tuple[float, float, float]) -> Contact:
    return Contact(name=name, kind="locator", point_mm=point, normal=normal, friction=0.2)


def many_stations(width: float, depth: float) -> PlanRequest:
    """A plan on a large plate with keep-outs and a tolerance mask."""
    request = starting_request("bench", 10_000).model_dump()
    keepouts = [{"x_mm": x, "y_mm": y, "width_mm": 20} for x in (20, width / 2, width - 20) for y in (20, depth / 2, depth - 20)]
    request["plate"] |= {"width_mm": width, "depth_mm": depth, "keepouts": keepouts}
    request["machine"] |= {"travel_x_mm": 2000, "travel_y_mm": 1200, "table_load_kg": 2000}
    request["parts"][0]["features"][0]["tolerance_mm"] = 0.085 if width < 1000 else 0.2
    return PlanRequest.model_validate(request)


def _tolerance_samples() -> str:
    request = starting_request("bench", 1)
    budget = Budget(
        ToleranceRequest(
            tolerance=PositionTolerance(zone_mm=0.1), accuracy=request.accuracy, machine=request.machine, places=[(0, 0)]
        )
    )
    import numpy as np

    probable, _ = budget.used(np.random.default_rng(0).uniform(0, 500, (100_000, 2)))
    return f"largest {probable.max():.3f} mm"


def _layout_line(instance: tuple[int, int, int, int, int]) -> str:
    *sizes, optimum = instance
    found = layout(box_request(*sizes))
    return f"{found.count} of {optimum}, bound {found.bound}, by hand {found.by_hand}"


def _plan_line(request: PlanRequest) -> str:
    design = plan(request).designs[0]
    return f"{design.count} stations, {design.statement}, by hand {design.by_hand}"


def works() -> list[Work]:
    """All measurements of the engine, libraries loaded as in a running worker."""
    hold(hold_request(1))
    full = hold_request()
    found: list[Work] = [
        (f"hold: {len(full.contacts)} contacts, {len(full.loads)} load cases", "0.5 s", lambda: f"factor {hold(full).factor:.3f}"),
        ("tolerance: 100,000 places, closed form", "-", _tolerance_samples),
    ]
    found += [(f"boxes {b[2]}x{b[3]} in {b[0]}x{b[1]}", "1 s, optimum", partial(_layout_line, b)) for b in BOXES]
    return [
        *found,
        ("plan: about 100 stations, keep-outs and mask", "2 s at 60", lambda: _plan_line(many_stations(900, 600))),
        ("plan: about 200 stations", "1 GB", lambda: _plan_line(many_stations(1400, 900))),
        ("plan: starting values", "1 s", lambda: _plan_line(starting_request("bench", 500))),
    ]
