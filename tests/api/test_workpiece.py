"""A part from blank to finished over the service; meshes that travel with a job."""

from __future__ import annotations

import base64
import io

import numpy as np
import pytest
import trimesh
from shapely.geometry import box

from tests.api.service import change_field, new_job
from wedgecraft.core.workpiece.body import prism
from wedgecraft.core.workpiece.packed import reference

_ALLOWANCE = {"allowance_mm": 1.0, "variation": {"kind": "range", "value_mm": 0}}


def _worked(planner) -> dict:
    """60 x 40 x 25, a millimetre all round, gone round to eight below the top."""
    job = new_job(planner)
    for axis in "xyz":
        change_field(planner, job, f"job.parts.0.stock.{axis}", _ALLOWANCE)
    return job


def test_states_slices_and_solids_are_those_of_the_part(planner):
    job = _worked(planner)
    status, found = planner.call("GET", f"/api/jobs/{job['id']}/parts/0/workpiece")
    assert status == 200
    assert found["blank"]["volume_mm3"] == pytest.approx(62 * 42 * 27)
    said = " / ".join(doubt["says"] for doubt in found["doubts"])
    assert "begins 1.00 mm under the top of the largest blank" in said
    assert "mm³ are left that no cut takes" in said
    at = f"/api/jobs/{job['id']}/parts/0/workpiece"
    low = planner.call("GET", f"{at}/slice?state=1&height_mm=5")[1]
    high = planner.call("GET", f"{at}/slice?state=1&height_mm=20")[1]
    done = planner.call("GET", f"{at}/slice?state=2&height_mm=5")[1]
    assert (low["area_mm2"], high["area_mm2"], done["area_mm2"]) == pytest.approx(
        (62 * 42, 60 * 40, 60 * 40), rel=1e-6
    )
    assert planner.call("GET", f"{at}/slice?state=9&height_mm=5")[0] == 404
    assert planner.call("GET", f"/api/jobs/{job['id']}/parts/7/workpiece")[0] == 404


def test_a_state_is_drawn_by_what_cut_it_for_another_reader(planner):
    """In metres, Y up: the raw foot, what op 10 cut, and what it took."""
    job = _worked(planner)
    body = planner._client.get(f"/api/jobs/{job['id']}/parts/0/workpiece.glb?state=1").data
    scene = trimesh.load_scene(io.BytesIO(body), file_type="glb")
    assert {"raw", "removed op 10"} < {name.replace("_", " ") for name in scene.geometry}
    assert scene.extents == pytest.approx((0.062, 0.027, 0.042), abs=1e-6)
    taken = scene.geometry["removed op 10"]
    # the band round the top eight millimetres, and as far above them as the blank goes
    assert taken.volume == pytest.approx((62 * 42 - 60 * 40) * 9, rel=1e-3)


def test_how_an_op_is_held_is_shown_where_it_is_clamped(planner):
    """The blank of 62 x 42 at the stops, raw; an op held nowhere and one that cannot be say so."""
    job = _worked(planner)
    at = f"/api/jobs/{job['id']}/parts/0/ops"
    status, held = planner.call("GET", f"{at}/0/held")
    assert status == 200
    (ring,) = held["before"][0]
    assert (max(x for x, _ in ring), max(y for _, y in ring)) == pytest.approx((62, 42))
    assert (max(x for x, _ in held["finished"][0][0])) == pytest.approx(61)
    touched = {item["name"]: item for item in held["touched"]}
    assert {"plate", "long stop", "end stop"} < set(touched)
    assert {item["made_in"] for item in touched.values()} == {None}
    corners = np.array(touched["long stop"]["on_part_mm"])
    assert corners[:, 0] == pytest.approx(-1)  # a millimetre outside the finished part
    body = planner._client.get(f"{at}/0/stood.glb").data
    scene = trimesh.load_scene(io.BytesIO(body), file_type="glb")
    assert scene.bounds[0] == pytest.approx((0, 0, -0.042), abs=1e-6)
    toe = "route.setups.0.holds.0.station.clamp.toe_height_mm"
    change_field(planner, job, toe, 200)
    status, refused = planner.call("GET", f"{at}/0/held")
    assert status == 422
    assert "height it presses at" in refused["detail"]
    assert planner.call("GET", f"{at}/3/held")[0] == 404


def test_a_job_travels_with_its_mesh_and_a_mesh_that_is_another_is_refused(planner):
    job = new_job(planner)
    ref, data = reference(*prism(box(0, 0, 60, 40), 0, 25).mesh, 0.0)
    document = planner.call("GET", f"/api/jobs/{job['id']}/document")[1]
    carried = ref.model_dump() | {"mesh_base64": base64.b64encode(data).decode()}
    solid = {"up": [0, 0, 1], "volume_mm3": 60_000, "mesh": carried}
    document["job"]["parts"][0]["solid"] = solid
    status, made = planner.call("POST", "/api/jobs/documents", document)
    assert status == 201
    kept = made["document"]["job"]["parts"][0]["solid"]["mesh"]
    assert kept == ref.model_dump() | {"mesh_base64": None}
    again = planner.call("GET", f"/api/jobs/{made['id']}/document")[1]
    assert again["job"]["parts"][0]["solid"]["mesh"] == carried
    assert planner.call("GET", f"/api/jobs/{made['id']}/parts/0/workpiece")[1]["finished"][
        "volume_mm3"
    ] == pytest.approx(60_000)
    _, other = reference(*prism(box(0, 0, 61, 40), 0, 25).mesh, 0.0)
    carried["mesh_base64"] = base64.b64encode(other).decode()
    status, refused = planner.call("POST", "/api/jobs/documents", document)
    assert status == 422
    assert "not the one it names" in refused["detail"]
    assert np.isfinite(refused["status"])
