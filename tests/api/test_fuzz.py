"""Whatever is sent, the service answers in words: never a fault of its own, never a changed job."""

from __future__ import annotations

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.api.service import Browser, new_job

_JSON = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(10**18), 10**18)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(max_size=30),
    lambda inner: (
        st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=12), inner, max_size=4)
    ),
    max_leaves=12,
)
_PATHS = st.sampled_from(
    [
        "job.name",
        "job.quantity",
        "job.parts",
        "job.parts.0",
        "job.parts.0.outline",
        "job.parts.0.outline.outer",
        "job.parts.0.outline.shape",
        "job.parts.0.height_mm",
        "job.parts.0.material",
        "job.parts.0.stock",
        "job.parts.0.stock.x.variation.measured_mm",
        "job.parts.0.features",
        "job.parts.0.features.0.from_feature",
        "job.parts.0.ops",
        "job.parts.0.ops.0.cuts",
        "job.parts.0.ops.0.cuts.0.tool",
        "job.parts.0.ops.0.cuts.0.kind",
        "job.parts.0.ops.0.cuts.0.at",
        "job.parts.0.ops.0.up",
        "job.parts.0.solid",
        "route.setups.0.holds",
        "route.setups.0.holds.0.part",
        "route.setups.0.form.plate.keepouts",
        "route.setups.0.form.plate.keepouts.0.x_mm",
        "route.setups.0.form.plate.margin_mm",
        "route.setups.0.machine",
        "route.setups.0.machine.torque_curve",
        "route.setups.0.holds.0.station.turns",
        "route.setups.0.holds.0.station.clamps",
        "route.setups.0.holds.0.station.clamp.screw",
        "job.rules",
        "route.setups.0.zeros.x_mm",
        "route",
        "route.setups",
        "route.setups.0.form",
        "route.setups.0.form.kind",
        "proposals",
        "result",
        "format",
        "version",
        "",
        ".",
    ]
)
_SETTINGS = settings(
    max_examples=120, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)


@_SETTINGS
@given(path=_PATHS, value=_JSON)
def test_any_value_in_any_field_is_stored_soundly_or_refused(planner: Browser, path, value):
    job = new_job(planner)
    status, answer = planner.call(
        "PATCH", f"/api/jobs/{job['id']}/fields", {"version": 1, "path": path, "value": value}
    )
    assert status in (200, 422), answer
    again = planner.call("GET", f"/api/jobs/{job['id']}")[1]
    assert again["version"] == (2 if status == 200 else 1)
    if status == 422:
        assert again["document"] == job["document"]
        assert answer["errors"] == [] or all(
            error["field"] and error["message"] for error in answer["errors"]
        )
    planner.call("DELETE", f"/api/jobs/{job['id']}")


@_SETTINGS
@given(
    body=_JSON,
    address=st.sampled_from(
        [
            ("POST", "/api/jobs"),
            ("POST", "/api/jobs/documents"),
            ("POST", "/api/session"),
            ("PATCH", "/api/session/preferences"),
            ("PATCH", "/api/jobs/nothing/fields"),
            ("PUT", "/api/jobs/nothing/due"),
            ("POST", "/api/jobs/nothing/cuts"),
            ("POST", "/api/people"),
            ("POST", "/api/drawings"),
            ("POST", "/api/solids"),
            ("POST", "/api/shop/entries"),
            ("PATCH", "/api/shop/entries/nothing"),
            ("POST", "/api/shop/import"),
        ]
    ),
)
def test_any_body_at_any_address_is_answered_in_words(planner: Browser, body, address):
    status, answer = planner.call(*address, body)
    assert status < 500, answer
    if status >= 400:
        assert answer["title"]
        assert answer["status"] == status


@pytest.mark.parametrize(
    "raw",
    [
        b"",
        b"{",
        b"\xff\xfe",
        b"[" * 5000,
        b'{"name": "x", "name": 5',
        json.dumps("x" * 10**6).encode(),
    ],
)
def test_broken_json_is_answered_in_words(planner: Browser, raw):
    for method, path in [("POST", "/api/jobs"), ("POST", "/api/jobs/documents")]:
        headers = {"X-CSRFToken": planner._token}
        answer = planner._client.open(
            path, method=method, data=raw, headers=headers, content_type="application/json"
        )
        assert 400 <= answer.status_code < 500
        assert answer.content_type == "application/problem+json"
