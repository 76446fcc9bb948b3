"""Solids over the service: how far one is, its triangles, its sections against closed forms, giving
up, and what is not there.
"""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.api.service import send
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.solid import SolidReading, WayUp
from wedgecraft.core.workpiece.loops import rings_of
from wedgecraft.core.workpiece.mesh import Mesh, silhouette
from wedgecraft.store import uploads

SIDES = 720


def _cone(radius: float, height: float) -> Mesh:
    """A cone standing on XY, its tip up: by hand, no kernel."""
    angles = 2 * math.pi * np.arange(SIDES) / SIDES
    ring = np.stack(
        [radius * np.cos(angles) + radius, radius * np.sin(angles) + radius, 0 * angles], axis=1
    )
    points = np.vstack([ring, [[radius, radius, height], [radius, radius, 0]]])
    turn, tip, foot = np.roll(np.arange(SIDES), -1), SIDES, SIDES + 1
    sides = np.stack([np.arange(SIDES), turn, np.full(SIDES, tip)], axis=1)
    floor = np.stack([turn, np.arange(SIDES), np.full(SIDES, foot)], axis=1)
    return Mesh(points, np.vstack([sides, floor]), np.repeat([1, 2], SIDES))


def _read(database, mesh: Mesh, file: bytes = b"ISO-10303-21;") -> str:
    size = mesh.points.max(axis=0)
    way = WayUp(
        up=(0, 0, 1),
        name="+Z",
        area_mm2=0,
        width_mm=size[0],
        depth_mm=size[1],
        height_mm=size[2],
        outline=Outline(outer=rings_of([silhouette(mesh)])[0], origin="STEP cone, +Z up"),
    )
    reading = SolidReading(
        name="cone",
        solids=1,
        volume_mm3=1,
        surface_mm2=1,
        size_mm=tuple(size),
        faces=[],
        ways=[way],
        triangles=len(mesh.triangles),
    )
    with database.session() as session:
        ident = uploads.add(session, "cone.step", file, None).id
        done = {
            "points": mesh.points.tobytes(),
            "triangles": mesh.triangles.astype(np.int64).tobytes(),
            "faces": mesh.faces.tobytes(),
        }
        uploads.report(
            session,
            ident,
            status="done",
            share=1.0,
            step="done",
            file=None,
            result=reading.model_dump(mode="json"),
            **done,
        )
    return ident


def test_triangles_and_sections_of_a_cone(planner, database):
    mesh = _cone(30.0, 50.0)
    ident = _read(database, mesh)
    state = planner.call("GET", f"/api/solids/{ident}")[1]
    assert (state["status"], state["result"]["ways"][0]["height_mm"]) == ("done", 50)
    sent = np.frombuffer(planner._client.get(f"/api/solids/{ident}/mesh").data, "<f4").reshape(
        -1, 3, 3
    )
    assert np.allclose(sent, mesh.points[mesh.triangles], atol=1e-4)
    at = f"/api/solids/{ident}/section"
    for height in (5.0, 20.0, 45.0):
        cut = planner.call("GET", f"{at}?x=0&y=0&z=1&height_mm={height}")[1]
        assert cut["area_mm2"] == pytest.approx(math.pi * (30 * (1 - height / 50)) ** 2, rel=2e-3)
        below = planner.call("GET", f"{at}?x=0&y=0&z=-3&height_mm={50 - height}")[1]
        assert below["area_mm2"] == pytest.approx(cut["area_mm2"], rel=1e-6)
    # Lying down and cut through its axis: a triangle; off the axis a hyperbola, by its integral.
    middle = planner.call("GET", f"{at}?x=0&y=1&z=0&height_mm=30")[1]
    assert middle["area_mm2"] == pytest.approx(0.5 * 60 * 50, rel=1e-3)
    off, x = 12.0, np.linspace(-math.sqrt(30**2 - 12**2), math.sqrt(30**2 - 12**2), 20001)
    hyperbola = np.trapezoid(50 * (1 - np.sqrt(x**2 + off**2) / 30), x)
    assert planner.call("GET", f"{at}?x=0&y=1&z=0&height_mm={30 + off}")[1][
        "area_mm2"
    ] == pytest.approx(hyperbola, rel=2e-3)
    assert planner.call("GET", f"{at}?x=0&y=0&z=1&height_mm=60")[1]["rings"] == []


def test_what_cannot_be_asked_of_a_solid_is_said(planner, database):
    ident = _read(database, _cone(30.0, 50.0))
    for query, status, said in [
        ("x=0&y=0&z=0", 422, "other than zero"),
        ("x=0&y=0&z=1&height_mm=-2", 422, "height_mm"),
        ("x=0&y=0&z=1&height_mm=nan", 422, "height_mm"),
        ("x=a&y=0&z=1", 422, "x"),
    ]:
        answered, problem = planner.call("GET", f"/api/solids/{ident}/section?{query}")
        assert answered == status
        assert said in problem["detail"] + str(problem["errors"])
    for path in ("", "/mesh", "/section?x=0&y=0&z=1"):
        assert planner.call("GET", f"/api/solids/nowhere{path}")[0] == 404
    torn = _read(
        database,
        Mesh(
            _cone(30.0, 50.0).points,
            _cone(30.0, 50.0).triangles[: SIDES - 200],
            np.zeros(SIDES - 200, dtype=np.int64),
        ),
    )
    status, problem = planner.call("GET", f"/api/solids/{torn}/section?x=0&y=0&z=1&height_mm=10")
    assert (status, "open at this height" in problem["detail"]) == (422, True)


def test_a_solid_waits_is_given_up_and_stays_given_up(planner, database):
    for data, said in [
        (None, "No file"),
        (b"", "empty"),
        (b"solid cube", "does not begin"),
        (b"ISO-10303-21;\nDATA;", "cut short"),
    ]:
        status, problem = send(planner, "/api/solids", data, "x.step")
        assert (status, said in problem["detail"]) == (422, True)
    status, waiting = send(planner, "/api/solids", b"ISO-10303-21;\nEND-ISO-10303-21;", "x.step")
    assert (status, waiting["status"]) == (202, "queued")
    path = f"/api/solids/{waiting['id']}"
    assert planner.call("DELETE", path)[1]["status"] == "cancelled"
    with database.session() as session:
        assert not uploads.report(session, waiting["id"], status="done")
        assert uploads.waiting(session) == []
    assert planner.call("GET", path)[1]["status"] == "cancelled"
    done = _read(database, _cone(10.0, 10.0))
    assert (
        planner.call("DELETE", f"/api/solids/{done}")[1]["status"] == "done"
    )  # nothing to give up any more
