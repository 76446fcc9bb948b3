"""The jobs of Saltmarsh Gauge Works, loaded once and never over a person's own."""

from __future__ import annotations

import math
from datetime import UTC, date, datetime, timedelta
from typing import Any

import shapely
from sqlalchemy.orm import Session

from wedgecraft.core.catalogue import catalogue, starting_request
from wedgecraft.core.plan import PlanRequest
from wedgecraft.demo.people import DEMO_PEOPLE
from wedgecraft.store import jobs, people
from wedgecraft.store.models import Setting, now

Points = list[tuple[float, float]]


def load(session: Session) -> list[str]:
    """Load accounts and jobs unless this database has any accounts or was loaded before.

    Gives the runs to queue, one a job, so that every job has its design a few seconds later.
    """
    if session.get(Setting, "demo") is not None or people.anyone(session):
        return []
    for entry in DEMO_PEOPLE:
        people.add_person(session, entry.sign_in, entry.name, entry.role, entry.password, demo=True)
    started = now()
    loaded = []
    for place, (request, days) in enumerate(demo_requests()):
        job = jobs.add_job(session, request, None, due=_due(days), demo=True)
        job.updated_at = started - timedelta(minutes=place)
        loaded.append(jobs.start_run(session, job)[0].id)
    session.add(Setting(key="demo", value={"loaded": started.isoformat()}))
    return loaded


def _due(days: int) -> date:
    return (datetime.now(UTC) + timedelta(days=days)).date()


def demo_requests() -> list[tuple[PlanRequest, int]]:
    """The jobs, in the order of the list, each with the days until it is due."""
    entries = catalogue()
    small, middle, large = entries.plates
    vertical = entries.machines[1]
    return [
        (
            _job(
                "Manifold block, 8-port",
                520,
                _rounded(52, 64, 5),
                30,
                [_round_hole(26, 32, 7)],
                plate=middle,
                machine=vertical,
                zone=0.05,
            ),
            52,
        ),
        (_job("Vane yoke", 240, _yoke(), 18, [], plate=middle, machine=vertical, zone=0.08, depth=4, stop=(10, 50), clamps=2), 31),
        (
            _job(
                "Float-arm hub",
                900,
                _circle(24, 24, 24),
                22,
                [_round_hole(24, 24, 8)],
                plate=large,
                machine=vertical,
                zone=0.1,
                stop=(10, 20),
            ),
            24,
        ),
        (
            _job(
                "Gland plate",
                1200,
                _gland(),
                12,
                [_round_hole(30, 20, 9)],
                plate=middle,
                machine=vertical,
                zone=0.1,
                depth=2,
                stop=(7, 30),
                material="stainless-304",
                torque=18,
            ),
            45,
        ),
        (
            _job(
                "Anchor lug",
                360,
                _lug(),
                16,
                [_round_hole(18, 18, 6)],
                plate=small,
                machine=vertical,
                zone=0.12,
                depth=3,
                stop=(9, 24),
                material="steel-c45",
                torque=20,
            ),
            18,
        ),
    ]


def _job(
    name: str,
    quantity: int,
    outer: Points,
    height: float,
    holes: list[Points],
    *,
    plate: Any,
    machine: Any,
    zone: float,
    depth: float = 8,
    stop: tuple[float, float] = (12, 40),
    material: str = "aluminium-6061",
    torque: float = 14,
    clamps: int = 1,
) -> PlanRequest:
    """A job from starting values; ``stop`` is the stops' height and length."""
    request = starting_request(name, quantity).model_dump(mode="json")
    hard = material != "aluminium-6061"
    request["part"] = {
        "name": name,
        "height_mm": height,
        "material": material,
        "outline": {"outer": outer, "holes": holes, "chord_error_mm": 0.02, "origin": "Saltmarsh Gauge Works, invented"},
    }
    request["cut"] |= {"name": "T3 contour", "axial_depth_mm": depth, "radial_width_mm": 0.8 if hard else 1.5}
    request["cut"] |= {"spindle_rpm": 3200, "feed_per_tooth_mm": 0.04} if hard else {}
    request["tolerance"] |= {"zone_mm": zone, "feature": "Bore to plate datum"}
    request["plate"], request["machine"] = plate.model_dump(), machine.model_dump()
    height_mm, length = stop
    request["station"]["clamps"] = clamps
    request["station"]["stops"] |= {"height_mm": height_mm, "length_mm": length}
    request["station"]["clamp"] |= {"torque_nm": torque, "height_mm": height_mm, "toe_height_mm": round(height_mm * 0.65, 1)}
    return PlanRequest.model_validate(request)


def _arc(x: float, y: float, radius: float, start: float, end: float) -> Points:
    steps = max(2, math.ceil(abs(end - start) / 7.5))
    angles = [math.radians(start + (end - start) * k / steps) for k in range(steps + 1)]
    return [(round(x + radius * math.cos(a), 6), round(y + radius * math.sin(a), 6)) for a in angles]


def _circle(x: float, y: float, radius: float) -> Points:
    return _arc(x, y, radius, 0, 360)[:-1]


def _round_hole(x: float, y: float, radius: float) -> Points:
    return _circle(x, y, radius)


def _ring_of(shape: Any) -> Points:
    return [(round(float(x), 6), round(float(y), 6)) for x, y in shapely.get_coordinates(shape.exterior)[:-1]]


def _rounded(width: float, depth: float, radius: float) -> Points:
    return _ring_of(shapely.box(radius, radius, width - radius, depth - radius).buffer(radius, quad_segs=8))


def _yoke() -> Points:
    """A fork: two arms on a back."""
    return [(0, 0), (70, 0), (70, 20), (26, 20), (26, 44), (70, 44), (70, 64), (0, 64)]


def _gland() -> Points:
    """A rounded lozenge with two ears."""
    shape = shapely.union_all(
        [shapely.Point(30, 20).buffer(20, quad_segs=16), shapely.box(0, 10, 60, 30).buffer(-4).buffer(4, quad_segs=6)]
    )
    return _ring_of(shape)


def _lug() -> Points:
    """A wedge-shaped lug round a hole."""
    return [(0, 0), (62, 0), (62, 14), *_arc(18, 18, 18, 50, 180)]
