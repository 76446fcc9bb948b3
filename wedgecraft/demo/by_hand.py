"""The jobs of Saltmarsh Gauge Works, as far as a person set them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import shapely

from wedgecraft.core.plan.route_edits import held_in
from wedgecraft.core.records.job import JobDocument, Route
from wedgecraft.core.records.outline import Outline
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.shop.picks import named, starting_request

Points = Sequence[tuple[float, float]]


def by_hand() -> list[tuple[JobDocument, int]]:
    """What a person set; the first makes its second op in a setup of its own, the third has a pair
    of fixtures.
    """
    found = [
        (JobDocument.model_validate(request.model_dump()), days)
        for request, days in demo_requests()
    ]
    (first, days), second, (third, due), *others = found
    return [(held_in(first, 0, 1, 2), days), second, (_in_pairs(third), due), *others]


def _in_pairs(document: JobDocument) -> JobDocument:
    """Its first setup's fixture made twice: one is loaded while the other runs."""
    route = document.route or Route(setups=[])
    first, *others = route.setups
    setups = [first.model_copy(update={"copies": 2}), *others]
    return document.model_copy(update={"route": Route(setups=setups)})


def demo_requests() -> list[tuple[PlanRequest, int]]:
    """What the first setup of each job is asked, in the order of the list, with the days until it
    is due.
    """
    return [
        (_manifold(), 52),
        (_manifold_block(), 75),
        (_vane_yoke(), 31),
        (_hub(), 24),
        (_gland_plate(), 45),
        (_anchor_lug(), 18),
        (_probe_clamp(), 60),
    ]


def _manifold() -> PlanRequest:
    part = _part("Manifold block, 8-port", _rounded(52, 64, 5), 30, [_circle(26, 32, 7)])
    part["stock"] = {
        "kind": "saw-cut bar",
        "along": "y",
        "gripped": "x",
        "x": _blank(1),
        "y": _blank(1, measured=[66.1, 66.35, 65.9, 66.2, 65.75, 66.4, 66.05, 65.95]),
        "z": _blank(1),
        "bar_length_mm": 3000,
        "kerf_mm": 2.2,
    }
    part["features"] = [
        _feature("Supply bore", 26, 32, 0.05, ["+Z", "-Z"]),
        _feature("Outside, upper half", 0, 0, 0.1, ["+Z"], kind="profile"),
        _feature(
            "Port field, top",
            13,
            16,
            0.2,
            ["+Z"],
            kind="position",
            measured_from="feature",
            from_feature="Supply bore",
        ),
        _feature("Underside", 26, 32, 0.05, ["-Z"], kind="distance", takes=["-Z"], op=20),
        _feature(
            "Port field, underside",
            13,
            16,
            0.2,
            ["-Z"],
            measured_from="feature",
            from_feature="Supply bore",
            op=20,
        ),
    ]
    ports = [(13, 16), (39, 16), (13, 48), (39, 48)]
    part["recesses"] = [_hole(x, y, 5, 14, side) for side in ("+Z", "-Z") for x, y in ports]
    part["ops"] = [
        _op(
            10,
            "Face, outside, supply bore, four ports",
            [
                _cut("T1 face the top", "face", _FACE_MILL, 1.2, 40, 0.12, 6000, top=-1.2),
                _cut("T2 outside", "contour", _END_MILL_10, 8, 1.5, 0.05, 9000, passes=2),
                _cut(
                    "T3 supply bore, drill",
                    "drill",
                    _drill(13.6, 95),
                    31,
                    0,
                    0.12,
                    3600,
                    at=[(26, 32)],
                ),
                _cut(
                    "T4 supply bore, ream",
                    "ream",
                    _reamer(14, 95),
                    31,
                    0.2,
                    0.05,
                    1200,
                    at=[(26, 32)],
                ),
                _cut("T5 ports, drill", "drill", _drill(5, 50), 14, 0, 0.06, 7000, at=ports),
                _cut("T6 ports, M6", "tap", _tap(6, 1.0), 10, 0, 0, 900, at=ports),
            ],
        ),
        _op(
            20,
            "Underside, four ports",
            [
                _cut("T1 face the underside", "face", _FACE_MILL, 1, 40, 0.12, 6000, top=-1),
                _cut("T2 outside", "contour", _END_MILL_10, 7.25, 1.5, 0.05, 9000, passes=2),
                _cut("T5 ports, drill", "drill", _drill(5, 50), 14, 0, 0.06, 7000, at=ports),
                _cut("T6 ports, M6", "tap", _tap(6, 1.0), 10, 0, 0, 900, at=ports),
            ],
            up="-Z",
        ),
    ]
    return _job("Manifold block, 8-port", 520, [part], torque=16)


def _manifold_block() -> PlanRequest:
    """The same part by the pallet: op 10 and op 20 in balance round an upright block."""
    request = _manifold().model_dump(mode="json")
    keepouts = [
        {"x_mm": x, "y_mm": y, "width_mm": 16, "height_mm": 10}
        for x in (24, 256)
        for y in (14, 426)
    ]
    request |= {
        "name": "Manifold block, by the pallet",
        "quantity": 4800,
        "also": [{"part": 0, "op": 1}],
        "block": {"faces": 4, "body_kg": 105, "across_mm": 280, "wall_mm": 30},
        "machine": _with_tools("Horizontal, 400 mm pallet"),
        "plate": {
            "name": "Block face 280 x 440 x 25",
            "width_mm": 280,
            "depth_mm": 440,
            "thickness_mm": 25,
            "keepouts": keepouts,
        },
        "datum": {"x_mm": 140, "y_mm": 220},
    }
    return PlanRequest.model_validate(request)


def _with_tools(name: str) -> Document:
    """A horizontal machine, where its block's axis is, and what stands in its magazine."""
    machine: Document = named("machine", name).model_dump(mode="json")
    held = [
        (_FACE_MILL, 40, "Face mill arbor 22 mm"),
        (_END_MILL_10, 35, "Collet chuck, 16 mm"),
        (_drill(13.6, 95), 105, "Collet chuck, 20 mm, long"),
        (_reamer(14, 95), 105, "Collet chuck, 20 mm, long"),
        (_drill(5, 50), 56, "Collet chuck, 16 mm"),
        (_tap(6, 1.0), 45, "Tapping chuck M3 to M12"),
    ]
    tools = [
        {
            "number": number,
            "cutter": cutter | {"reach_mm": reach},
            "holder": named("holder", holder).model_dump(mode="json"),
        }
        for number, (cutter, reach, holder) in enumerate(held, start=1)
    ]
    middle = {"middle_x_mm": -280, "middle_y_mm": -560, "middle_z_mm": -760}
    return machine | middle | {"tools": tools}


def _vane_yoke() -> PlanRequest:
    part = _part("Vane yoke", _YOKE, 18, [_circle(58, 10, 3), _circle(58, 54, 3)])
    part["stock"] = {
        "kind": "saw-cut plate",
        "gripped": "x",
        "x": _blank(1),
        "y": _blank(1),
        "z": _blank(0),
        "bar_length_mm": None,
    }
    part["features"] = [
        _feature("Pivot holes", 58, 10, 0.08, ["+Z", "-Z"]),
        _feature(
            "Fork gap",
            50,
            32,
            0.1,
            ["+Z", "-Z"],
            kind="distance",
            measured_from="feature",
            from_feature="Pivot holes",
        ),
    ]
    part["ops"] = [
        _op(
            10,
            "Outside, fork, pivot holes",
            [
                _cut(
                    "T2 outside and fork",
                    "clear",
                    _END_MILL_10,
                    5,
                    1.5,
                    0.05,
                    9000,
                    top=-0.4,
                    passes=2,
                ),
                _cut(
                    "T7 pivot holes, drill",
                    "drill",
                    _drill(6, 60),
                    18.4,
                    0,
                    0.08,
                    6500,
                    at=[(58, 10), (58, 54)],
                    top=-0.4,
                ),
            ],
        ),
        _op(
            20,
            "Rest of outside and fork",
            [_cut("T2 outside and fork", "clear", _END_MILL_10, 4.5, 1.5, 0.05, 9000, passes=2)],
            up="-Z",
        ),
    ]
    return _job("Vane yoke", 240, [part], stop=(7, 50), clamps=2)


def _hub() -> PlanRequest:
    part = _part(
        "Float-arm hub",
        {"kind": "round", "diameter_mm": 48},
        22,
        [_circle(24, 24, 8), *(_circle(x, y, 2.25) for x, y in _BOLTS)],
    )
    part["stock"] = {
        "kind": "round bar",
        "along": "z",
        "gripped": "x",
        "x": _blank(0, within=0.012),
        "y": _blank(0, within=0.012),
        "z": _blank(1),
        "bar_length_mm": 3000,
        "kerf_mm": 2.5,
    }
    part["features"] = [
        _feature("Shaft bore", 24, 24, 0.112, ["+Z", "-Z"]),
        _feature(
            "Bolt circle", 38, 24, 0.15, ["+Z"], measured_from="feature", from_feature="Shaft bore"
        ),
    ]
    part["ops"] = [
        _op(
            10,
            "Face, shaft bore, bolt circle",
            [
                _cut("T1 face the top", "face", _FACE_MILL, 1.6, 40, 0.12, 6000, top=-1.6),
                _cut(
                    "T3 shaft bore, drill",
                    "drill",
                    _drill(15.7, 95),
                    23,
                    0,
                    0.12,
                    3200,
                    at=[(24, 24)],
                ),
                _cut(
                    "T4 shaft bore, ream",
                    "ream",
                    _reamer(16, 95),
                    23,
                    0.15,
                    0.05,
                    1100,
                    at=[(24, 24)],
                ),
                _cut(
                    "T8 bolt circle, drill", "drill", _drill(4.5, 50), 23, 0, 0.06, 7500, at=_BOLTS
                ),
            ],
        ),
        _op(
            20,
            "Face the back",
            [_cut("T1 face the back", "face", _FACE_MILL, 1, 40, 0.12, 6000, top=-1)],
            up="-Z",
        ),
    ]
    return _job(
        "Float-arm hub", 900, [part], plate="600 x 400 x 30", stop=(10, 20), hollow=24.15, torque=16
    )


def _gland_plate() -> PlanRequest:
    part = _part("Gland plate", _gland(), 12, [_circle(30, 20, 9)], "stainless-304")
    part["stock"] = {
        "kind": "flame-cut plate",
        "gripped": "x",
        "x": _blank(2),
        "y": _blank(2),
        "z": _blank(0.5),
        "bar_length_mm": None,
    }
    part["features"] = [
        _feature("Seal bore", 30, 20, 0.1, ["+Z", "-Z"]),
        _feature(
            "Seal face",
            30,
            20,
            0.05,
            ["+Z"],
            kind="orientation",
            measured_from="feature",
            from_feature="Seal bore",
            takes=["+Z"],
        ),
    ]
    part["ops"] = [
        _op(
            10,
            "Seal face, seal bore, upper half of the outside",
            [
                _cut("T1 seal face", "face", _FACE_MILL, 1.2, 40, 0.08, 1400, top=-1.2),
                _cut("T9 outside", "contour", _END_MILL_10, 3.2, 2, 0.04, 3200, passes=2),
                _cut("T9 seal bore", "pocket", _END_MILL_10, 4.2, 2, 0.04, 3200, passes=3),
            ],
        ),
        _op(
            20,
            "Back, lower half of the outside",
            [
                _cut("T1 face the back", "face", _FACE_MILL, 0.5, 40, 0.08, 1400, top=-0.5),
                _cut("T9 outside", "contour", _END_MILL_10, 3, 2, 0.04, 3200, passes=2),
            ],
            up="-Z",
        ),
    ]
    return _job("Gland plate", 1200, [part], stop=(5, 30), torque=17, opens=4)


def _anchor_lug() -> PlanRequest:
    part = _part("Anchor lug", _lug(), 16, [_circle(18, 18, 6)], "steel-c45")
    part["recesses"] = [_hole(44, 8, 5, 12, "-Y")]
    part["stock"] = {
        "kind": "forged",
        "gripped": "x",
        "x": _blank(0),
        "y": _blank(0),
        "z": _blank(1),
        "bar_length_mm": None,
    }
    part["features"] = [
        _feature("Pin hole", 18, 18, 2.5, ["+Z", "-Z"]),
        _feature(
            "Cross hole",
            44,
            0,
            0.2,
            ["-Y"],
            measured_from="feature",
            from_feature="Pin hole",
            z=8,
            op=30,
        ),
    ]
    part["ops"] = [
        _op(
            10,
            "Upper face, pin hole",
            [
                _cut(
                    "T1 face the top", "face", _FACE_MILL, 0.9, 40, 0.08, 1600, top=-2.7, passes=3
                ),
                _cut(
                    "T9 pin hole", "pocket", _END_MILL_8, 4.3, 1, 0.03, 2800, passes=4, leave=0.15
                ),
                _cut(
                    "T4 pin hole, ream",
                    "ream",
                    _reamer(12, 95),
                    17.2,
                    0.15,
                    0.06,
                    500,
                    at=[(18, 18)],
                ),
            ],
        ),
        _op(
            20,
            "Lower face",
            [_cut("T1 face the underside", "face", _FACE_MILL, 1, 40, 0.1, 1600, top=-1)],
            up="-Z",
        ),
        _op(
            30,
            "Cross hole",
            [_cut("T10 cross hole", "drill", _drill(5, 50), 12, 0, 0.05, 4000, at=[(44, 8)])],
            up="-Y",
        ),
    ]
    return _job(
        "Anchor lug",
        360,
        [part],
        plate="250 x 200 x 20",
        thick=25,
        stop=(9, 24),
        torque=20,
        opens=4,
    )


def _probe_clamp() -> PlanRequest:
    """A kit: one body and two jaws make a clamp."""
    body = _part("Probe clamp, body", _TEE, 20, [_circle(33, 12, 3.3)])
    body["features"] = [_feature("Clamp screw hole", 33, 12, 0.1, ["+Z", "-Z"])]
    body["stock"] = {
        "kind": "saw-cut plate",
        "gripped": "x",
        "x": _blank(1),
        "y": _blank(1),
        "z": _blank(0.5),
        "bar_length_mm": None,
    }
    body["ops"] = [
        _op(
            10,
            "Upper half of the outside, screw hole",
            [
                _cut("T1 face the top", "face", _FACE_MILL, 1, 40, 0.12, 6000, top=-1),
                _cut("T2 outside", "clear", _END_MILL_10, 5, 1.5, 0.05, 9000, passes=2),
                _cut(
                    "T7 screw hole, drill",
                    "drill",
                    _drill(6.6, 60),
                    21,
                    0,
                    0.08,
                    6500,
                    at=[(33, 12)],
                ),
            ],
        ),
        _op(
            20,
            "Lower half of the outside",
            [
                _cut("T1 face the underside", "face", _FACE_MILL, 0.5, 40, 0.12, 6000, top=-0.5),
                _cut("T2 outside", "clear", _END_MILL_10, 5.2, 1.5, 0.05, 9000, passes=2),
            ],
            up="-Z",
        ),
    ]
    jaw = _part("Probe clamp, jaw", [(0, 0), (16, 0), (16, 44), (0, 44)], 14, [_circle(8, 8, 2.25)])
    jaw |= {"per_kit": 2}
    jaw["features"] = [_feature("Pin hole", 8, 8, 0.3, ["+Z", "-Z"])]
    jaw["stock"] = {
        "kind": "saw-cut bar",
        "along": "y",
        "gripped": "x",
        "x": _blank(0),
        "y": _blank(0),
        "z": _blank(0),
        "kerf_mm": 2.2,
    }
    jaw["ops"] = [
        _op(
            10,
            "Pin hole",
            [
                _cut(
                    "T8 pin hole, drill",
                    "drill",
                    _drill(4.5, 50),
                    14.2,
                    0,
                    0.06,
                    7500,
                    at=[(8, 8)],
                    top=-0.2,
                )
            ],
        )
    ]
    kit = _job("Probe-clamp kit", 150, [body, jaw], stop=(9, 16)).model_dump(mode="json")
    # A light screw is enough for a drilled hole.
    own = kit["station"] | {"clamp": kit["station"]["clamp"] | {"torque_nm": 6}}
    return PlanRequest.model_validate(kit | {"also": [{"part": 1, "op": 0, "station": own}]})


#: Four holes round a hub.
_BOLTS: Points = [(38, 24), (24, 38), (10, 24), (24, 10)]

Document = dict[str, Any]

_END_MILL_10 = {
    "name": "End mill 10 mm, 3 teeth",
    "kind": "end mill",
    "diameter_mm": 10,
    "teeth": 3,
    "flute_length_mm": 22,
}
_END_MILL_8 = _END_MILL_10 | {"name": "End mill 8 mm, 3 teeth", "diameter_mm": 8}
_FACE_MILL = {
    "name": "Face mill 50 mm, 5 inserts",
    "kind": "face mill",
    "diameter_mm": 50,
    "teeth": 5,
    "helix_deg": 0,
    "entering_deg": 45,
    "flute_length_mm": 6,
}


def _drill(diameter: float, length: float) -> Document:
    return {
        "name": f"Drill {diameter:g} mm",
        "kind": "drill",
        "diameter_mm": diameter,
        "teeth": 2,
        "flute_length_mm": length,
        "helix_deg": 30,
    }


def _reamer(diameter: float, length: float) -> Document:
    return _drill(diameter, length) | {
        "name": f"Reamer {diameter:g} mm H7",
        "kind": "reamer",
        "teeth": 6,
    }


def _tap(diameter: float, pitch: float) -> Document:
    return _drill(diameter, 20) | {
        "name": f"Tap M{diameter:g}",
        "kind": "tap",
        "teeth": 3,
        "pitch_mm": pitch,
    }


def _blank(
    allowance: float, measured: list[float] | None = None, within: float | None = None
) -> Document:
    variation: Document = {"kind": "usual"}
    if measured:
        variation = {"kind": "measured", "measured_mm": measured}
    if within is not None:
        variation = {"kind": "range", "value_mm": within}
    return {"allowance_mm": allowance, "variation": variation}


def _feature(
    name: str,
    x: float,
    y: float,
    tolerance: float,
    directions: list[str],
    *,
    z: float | None = None,
    **rest: Any,
) -> Document:
    return {
        "name": name,
        "x_mm": x,
        "y_mm": y,
        "z_mm": z,
        "tolerance_mm": tolerance,
        "directions": directions,
        **rest,
    }


def _cut(
    name: str,
    kind: str,
    tool: Document,
    depth: float,
    width: float,
    feed: float,
    rpm: float,
    at: Points | None = None,
    top: float = 0,
    passes: int = 1,
    leave: float = 0,
) -> Document:
    return {
        "name": name,
        "kind": kind,
        "tool": tool,
        "axial_depth_mm": depth,
        "radial_width_mm": width,
        "feed_per_tooth_mm": feed,
        "spindle_rpm": rpm,
        "at": at or [],
        "from_top_mm": top,
        "passes": passes,
        "leave_mm": leave,
    }


def _hole(x: float, y: float, diameter: float, depth: float, side: str) -> Document:
    return {
        "kind": "hole",
        "side": side,
        "x_mm": x,
        "y_mm": y,
        "diameter_mm": diameter,
        "depth_mm": depth,
        "point_deg": 140,
    }


def _op(number: int, does: str, cuts: list[Document], up: str = "+Z") -> Document:
    return {
        "number": number,
        "does": does,
        "up": up,
        "reached": [up],
        "cuts": cuts,
        "clamp_on": ["+X", "-X"],
        "locate_on": ["-Z", "-X", "-Y"],
    }


def _part(
    name: str,
    outline: Points | Document,
    height: float,
    holes: list[Points],
    material: str = "aluminium-6061",
) -> Document:
    drawn = (
        {"outer": outline, "chord_error_mm": 0.02}
        if not isinstance(outline, dict)
        else Outline.model_validate({"shape": outline}).model_dump()
    )
    if isinstance(outline, dict) and holes:
        # a typed shape makes its own rings; this one has holes besides, drawn as these are
        drawn |= {"shape": None, "chord_error_mm": 0.02}
    drawn["holes"] = holes or drawn.get("holes", [])
    drawn["origin"] = "Saltmarsh Gauge Works, invented"
    return {"name": name, "outline": drawn, "height_mm": height, "material": material}


def _job(
    name: str,
    quantity: int,
    parts: list[Document],
    *,
    plate: str = "400 x 350 x 25",
    thick: float | None = None,
    stop: tuple[float, float] = (12, 40),
    torque: float = 14,
    clamps: int = 1,
    hollow: float = 0,
    opens: float = 3,
) -> PlanRequest:
    """A job from starting values; ``plate`` is the size of a generic one, ``thick`` where
    its own is another, ``stop`` is the stops' height and length.

    ``opens``: how far the toes draw back. ``hollow``: radius that stops and toes are hollowed to,
    for a round part.
    """
    request = starting_request(name, quantity).model_dump(mode="json")
    request["parts"] = parts
    request["plate"] = named("plate", f"Plate {plate}").model_dump()
    request["plate"] |= {} if thick is None else {"thickness_mm": thick}
    height_mm, length = stop
    request["station"]["clamps"] = clamps
    request["station"]["stops"] |= {
        "height_mm": height_mm,
        "length_mm": length,
        "hollow_mm": hollow,
    }
    request["station"]["clamp"] |= {
        "torque_nm": torque,
        "height_mm": height_mm,
        "toe_height_mm": round(height_mm * 0.65, 1),
    }
    request["station"]["clamp"] |= {"toe_hollow_mm": hollow, "opens_mm": opens}
    return PlanRequest.model_validate(request)


def _arc(x: float, y: float, radius: float, start: float, end: float) -> Points:
    steps = max(2, math.ceil(abs(end - start) / 7.5))
    angles = [math.radians(start + (end - start) * k / steps) for k in range(steps + 1)]
    return [
        (round(x + radius * math.cos(a), 6), round(y + radius * math.sin(a), 6)) for a in angles
    ]


def _circle(x: float, y: float, radius: float) -> Points:
    return _arc(x, y, radius, 0, 360)[:-1]


def _ring_of(shape: Any) -> Points:
    return [
        (round(float(x), 6), round(float(y), 6))
        for x, y in shapely.get_coordinates(shape.exterior)[:-1]
    ]


def _rounded(width: float, depth: float, radius: float) -> Points:
    return _ring_of(
        shapely.box(radius, radius, width - radius, depth - radius).buffer(radius, quad_segs=8)
    )


def _filleted(ring: Points, radius: float = 6) -> Points:
    """Its inner corners as round as a cutter leaves them."""
    grown = shapely.Polygon(ring).buffer(radius, join_style="mitre")
    return _ring_of(grown.buffer(-radius, quad_segs=16))


#: A fork: two arms on a back.
_YOKE: Points = _filleted(
    [(0, 0), (70, 0), (70, 20), (26, 20), (26, 44), (70, 44), (70, 64), (0, 64)]
)
#: A stem under a bar.
_TEE: Points = _filleted(
    [(18, 0), (48, 0), (48, 32), (66, 32), (66, 54), (0, 54), (0, 32), (18, 32)]
)


def _gland() -> Points:
    """A rounded lozenge with two ears."""
    shape = shapely.union_all(
        [
            shapely.Point(30, 20).buffer(20, quad_segs=48),
            shapely.box(0, 10, 60, 30).buffer(-4).buffer(4, quad_segs=24),
        ]
    )
    return _filleted(_ring_of(shape))


def _lug() -> Points:
    """A wedge-shaped lug round a hole."""
    return [(0, 0), (62, 0), (62, 14), *_arc(18, 18, 18, 50, 180)]
