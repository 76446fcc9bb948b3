"""Any sound request, however odd, is answered: a design that an independent test finds sound, or reasons that say what would work."""

from __future__ import annotations

import math

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.test_design import _sound
from wedgecraft.core.catalogue import starting_request
from wedgecraft.core.design import plan
from wedgecraft.core.materials import MATERIALS
from wedgecraft.core.plan import PlanRequest


@st.composite
def _requests(draw) -> PlanRequest:
    document = starting_request("anything", draw(st.integers(1, 3000))).model_dump()
    sides = draw(st.integers(3, 14))
    size = draw(st.floats(15, 90))
    radii = [size * draw(st.floats(0.45, 1.0)) for _ in range(sides)]
    angles = [2 * math.pi * (k + draw(st.floats(0, 0.6))) / sides for k in range(sides)]
    document["part"] |= {
        "outline": {"outer": [(r * math.cos(a), r * math.sin(a)) for r, a in zip(radii, angles, strict=True)]},
        "height_mm": draw(st.floats(5, 60)),
        "material": draw(st.sampled_from(sorted(MATERIALS))),
    }
    document["cut"] |= {
        "path": draw(st.sampled_from(["around", "across"])),
        "axial_depth_mm": draw(st.floats(0.3, 20)),
        "radial_width_mm": draw(st.floats(0.2, 9)),
        "interrupted": draw(st.booleans()),
    }
    document["plate"] |= {
        "width_mm": draw(st.floats(60, 420)), "depth_mm": draw(st.floats(60, 360)), "margin_mm": draw(st.floats(0, 30)),
        "keepouts": [
            {"shape": draw(st.sampled_from(["round", "box"])), "x_mm": draw(st.floats(0, 400)), "y_mm": draw(st.floats(0, 350)),
             "width_mm": draw(st.floats(3, 60)), "height_mm": draw(st.floats(0, 60))}
            for _ in range(draw(st.integers(0, 3)))
        ],
    }  # fmt: skip
    document["tolerance"] |= {"zone_mm": draw(st.floats(0.02, 0.3)), "rule": draw(st.sampled_from(["probable", "worst case"]))}
    document["datum"] = {"x_mm": draw(st.floats(-50, 450)), "y_mm": draw(st.floats(-50, 400))}
    document["station"] |= {"clamps": draw(st.integers(1, 3)), "clearance_mm": draw(st.floats(0, 15))}
    document["station"]["stops"] |= {"height_mm": draw(st.floats(3, 14)), "length_mm": draw(st.floats(5, 60))}
    document["station"]["clamp"] |= {
        "torque_nm": draw(st.floats(1, 30)), "height_mm": draw(st.floats(3, 14)), "toe_height_mm": draw(st.floats(2, 12)),
    }  # fmt: skip
    document["machine"] |= {"travel_x_mm": draw(st.floats(100, 900)), "table_load_kg": draw(st.floats(5, 400))}
    return PlanRequest.model_validate(document)


@settings(
    max_examples=60, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much]
)
@given(_requests())
def test_any_request_is_answered(request):
    result = plan(request)
    assert result.feasible == bool(result.designs) == (not result.reasons)
    for reason in result.reasons:
        assert reason.field
        assert reason.what
        assert reason.nearest
    for design in result.designs:
        assert 0 < design.count <= design.bound
        assert design.by_hand <= design.count
        _sound(request, design)
        assert result.hold.result.factor >= result.hold.needed
        assert all(item.state != "over" for item in design.limits), [item for item in design.limits if item.state == "over"]
        assert all(placed.tolerance_share <= 1 + 1e-6 for placed in design.stations)
