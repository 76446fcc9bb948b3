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
        "name",
        "quantity",
        "parts",
        "parts.0",
        "parts.0.outline",
        "parts.0.outline.outer",
        "parts.0.outline.shape",
        "parts.0.height_mm",
        "parts.0.material",
        "parts.0.stock",
        "parts.0.stock.x.variation.measured_mm",
        "parts.0.features",
        "parts.0.features.0.from_feature",
        "parts.0.ops",
        "parts.0.ops.0.cuts",
        "parts.0.ops.0.cuts.0.tool",
        "parts.0.ops.0.cuts.0.kind",
        "parts.0.ops.0.cuts.0.at",
        "parts.0.ops.0.up",
        "parts.0.solid",
        "planned",
        "planned.part",
        "plate.keepouts",
        "plate.keepouts.0.x_mm",
        "plate.margin_mm",
        "machine",
        "machine.torque_curve",
        "station.turns",
        "station.clamps",
        "station.clamp.screw",
        "rules",
        "datum.x_mm",
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
        assert again["request"] == job["request"]
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
