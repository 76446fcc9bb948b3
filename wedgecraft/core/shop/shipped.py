"""Generic entries that ship with the product, so that a shop can start without typing.

None is a maker's product. Sizes, loads and accuracies are of the ordinary order for such things,
chosen for this product; each entry says to put the maker's own figures in.
"""

from __future__ import annotations

from typing import Any

from wedgecraft.core.records.material import MATERIALS, TOOTHED_FRICTION
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.shop.document import KindName, ShopEntry, checked
from wedgecraft.core.shop.shipped_cutters import cutters
from wedgecraft.core.shop.shipped_stock import stock

_BUILDER = "generic, ships with Wedgecraft: put in the machine builder's figure"
_MAKER = "generic, ships with Wedgecraft: put in the maker's figure"
_HOUSE = "default, ships with Wedgecraft"
_STOCKIST = "usual sizes, from memory: put in what your stockist keeps"


def shipped() -> list[ShopEntry]:
    """All generic entries, each valid for its kind."""
    found = [
        *_machines(),
        *_vises(),
        *_plates(),
        *_blocks(),
        *_clamps(),
        *_locators(),
        *(_entry("cutter", name, **data) for name, data in cutters()),
        *_holders(),
        *_materials(),
        *(_entry("stock", name, _STOCKIST, **data) for name, data in stock()),
    ]
    return [*found, _entry("rules", "House rules", _HOUSE)]


def _entry(what: KindName, name: str, source: str = _MAKER, /, **data: Any) -> ShopEntry:
    return ShopEntry(kind=what, name=name, data=checked(what, name, data), source=source)


def _machine(
    name: str,
    travels: tuple[float, float, float],
    load: float,
    power: float,
    torque: float,
    rpm: float,
    **more: Any,
) -> ShopEntry:
    x, y, z = travels
    curve = [
        {"rpm": r, "torque_nm": round(min(torque, power * 9549 / r), 1)}
        for r in _speeds(power, torque, rpm)
    ]
    sizes = {"table_x_mm": round(1.1 * x), "table_y_mm": round(1.05 * y)}
    return _entry(
        "machine", name, _BUILDER,
        **({"travel_x_mm": x, "travel_y_mm": y, "travel_z_mm": z, "table_load_kg": load,
            "spindle_power_kw": power,
            "spindle_torque_nm": torque, "spindle_rpm": rpm, "torque_curve": curve,
            "scale_expansion_per_k": 8e-6} | sizes | more),
    )  # fmt: skip


def _speeds(power: float, torque: float, rpm: float) -> list[float]:
    """Level up to the corner speed, falling as one over the speed above it."""
    corner = power * 9549 / torque
    return [
        50,
        *(round(corner * share) for share in (1, 1.25, 1.6, 2, 3, 4.5, 7) if corner * share < rpm),
        rpm,
    ]


def _machines() -> list[ShopEntry]:
    horizontal = {
        "kind": "horizontal",
        "axes": 4,
        "pallets": 2,
        "index_s": 2.5,
        "index_arcsec": 6,
        "pallet_repeat_mm": 0.005,
    }
    five = {"kind": "five-axis", "axes": 5, "index_s": 2, "index_arcsec": 8}
    return [
        _machine("Vertical, 500 x 400 mm travel", (500, 400, 400), 250, 11, 60, 10_000, magazine=20,
               tool_change_s=4),
        _machine("Vertical, 760 x 460 mm travel", (760, 460, 500), 500, 15, 90, 12_000, magazine=24,
               tool_change_s=4.5),
        _machine("Vertical, 1000 x 600 mm travel", (1000, 600, 600), 900, 18, 120, 12_000,
               magazine=30, tool_change_s=5),
        _machine("Vertical with rotary, 760 x 460 mm", (760, 460, 500), 500, 15, 90, 12_000,
                 magazine=24, tool_change_s=4.5,
                 axes=4, swing_mm=320, index_s=1.5, index_arcsec=15),
        _machine("Horizontal, 300 mm pallet", (430, 430, 450), 250, 15, 100, 12_000, table_x_mm=300,
                 table_y_mm=300, swing_mm=480,
                 magazine=40, tool_change_s=3, pallet_change_s=9, **horizontal),
        _machine("Horizontal, 400 mm pallet", (560, 560, 640), 500, 22, 190, 14_000, table_x_mm=400,
                 table_y_mm=400, swing_mm=630,
                 magazine=60, tool_change_s=3, pallet_change_s=10, **horizontal),
        _machine("Horizontal, 500 mm pallet", (730, 730, 800), 800, 26, 300, 12_000, table_x_mm=500,
                 table_y_mm=500, swing_mm=800,
                 magazine=90, tool_change_s=3.5, pallet_change_s=12, **horizontal),
        _machine("Five-axis, 320 mm table", (500, 450, 400), 150, 15, 80, 15_000, table_x_mm=320,
                 table_y_mm=320, swing_mm=420,
                 magazine=40, tool_change_s=4, **five),
        _machine("Five-axis, 500 mm table", (650, 600, 500), 350, 22, 130, 15_000, table_x_mm=500,
                 table_y_mm=500, swing_mm=620,
                 magazine=60, tool_change_s=4, **five),
    ]  # fmt: skip


def usual_vise() -> Vise:
    """The vise that a setup starts with: the middle one of those that ship."""
    entry = _vises()[1]
    return Vise.model_validate({"name": entry.name, **entry.data})


def _vises() -> list[ShopEntry]:
    rows = [
        ("Vise, 100 mm jaws", 100, 30, 120, 15_000, 60, 12, "M8", 60, 10),
        ("Vise, 125 mm jaws", 125, 40, 200, 25_000, 80, 28, "M10", 80, 13),
        ("Vise, 160 mm jaws", 160, 50, 300, 40_000, 120, 48, "M12", 100, 16),
    ]  # fmt: skip
    found = [
        _entry("vise", name, jaw_width_mm=jaw, jaw_height_mm=height, opening_mm=opening,
               rated_force_n=force, rated_torque_nm=torque,
               mass_kg=mass, length_mm=opening + 220, jaw_screw=screw, jaw_screws_apart_mm=apart,
               jaw_screws_up_mm=up)
        for name, jaw, height, opening, force, torque, mass, screw, apart, up in rows
    ]  # fmt: skip
    found.append(
        _entry("vise", "Double-station vise, 125 mm jaws", jaw_width_mm=125, jaw_height_mm=40,
               opening_mm=110, stations=2, fixed_jaw_mm=60,
               rated_force_n=25_000, rated_torque_nm=90, mass_kg=34, length_mm=450, quick_jaws=True,
               jaw_screw="M10", jaw_screws_apart_mm=80, jaw_screws_up_mm=13)
    )  # fmt: skip
    return found


def _plates() -> list[ShopEntry]:
    metric = [
        (250, 200, 20),
        (300, 300, 25),
        (400, 350, 25),
        (400, 400, 30),
        (600, 400, 30),
        (900, 500, 40),
    ]
    inch = [(10, 8, 0.75), (12, 12, 1), (16, 14, 1), (16, 16, 1.25), (24, 16, 1.25), (36, 20, 1.5)]
    return [
        *(_plate("", 1.0, size, 20, 18, 10) for size in metric),
        *(_plate(" in", 25.4, size, 0.75, 0.75, 0.4) for size in inch),
    ]


def _plate(
    unit: str, mm: float, size: tuple[float, float, float], edge: float, head: float, high: float
) -> ShopEntry:
    """Held down by a screw in each corner, so far from the edges, its head so wide and so high."""
    width, depth, thick = size
    screws = [
        {
            "shape": "round",
            "x_mm": round(mm * x, 4),
            "y_mm": round(mm * y, 4),
            "width_mm": round(mm * head, 4),
            "height_mm": round(mm * high, 4),
        }
        for x in (edge, width - edge)
        for y in (edge, depth - edge)
    ]
    return _entry(
        "plate",
        f"Plate {width:g} x {depth:g} x {thick:g}{unit}",
        width_mm=round(mm * width, 4),
        depth_mm=round(mm * depth, 4),
        thickness_mm=round(mm * thick, 4),
        keepouts=screws,
    )


def _blocks() -> list[ShopEntry]:
    iron, aluminium = "cast-iron-250", "aluminium-6061"
    return [
        _entry("block", "Tombstone, 4 faces, 300 mm pallet", faces=4, face_width_mm=180,
               face_height_mm=400, across_mm=180, wall_mm=25,
               base_mm=30, material=iron, hole_pitch_mm=40, mass_kg=62),
        _entry("block", "Tombstone, 4 faces, 400 mm pallet", faces=4, face_width_mm=250,
               face_height_mm=500, across_mm=250, wall_mm=30,
               base_mm=40, material=iron, hole_pitch_mm=50, mass_kg=150),
        _entry("block", "Tombstone, 3 faces, 400 mm pallet", faces=3, face_width_mm=300,
               face_height_mm=500, across_mm=180, wall_mm=30,
               base_mm=40, material=iron, hole_pitch_mm=50, mass_kg=120),
        _entry("block", "Tombstone, 6 faces, 500 mm pallet", faces=6, face_width_mm=200,
               face_height_mm=600, across_mm=346, wall_mm=30,
               base_mm=40, material=iron, hole_pitch_mm=50, mass_kg=260),
        _entry("block", "Welded aluminium tombstone, 4 faces, 300 mm pallet", faces=4,
               face_width_mm=200, face_height_mm=400, across_mm=200,
               wall_mm=20, base_mm=25, material=aluminium, mass_kg=24),
        _entry("block", "Rotary bar, 4 faces, 400 mm", kind="rotary bar", faces=4, face_width_mm=90,
               face_height_mm=400, across_mm=90,
               material="steel-c45", mass_kg=25),
        _entry("block", "Five-axis block, 100 mm square", kind="five-axis block", faces=5,
               face_width_mm=100, face_height_mm=140,
               across_mm=100, material=aluminium, mass_kg=3.8),
    ]  # fmt: skip


def _clamps() -> list[ShopEntry]:
    rows: list[tuple[str, dict[str, Any]]] = [
        ("Edge clamp M6", {"screw": "M6", "torque_nm": 6, "width_mm": 16, "length_mm": 22,
                           "height_mm": 10, "toe_height_mm": 6.5,
                           "down_angle_deg": 8, "wrench_diameter_mm": 15}),
        ("Edge clamp M8", {"screw": "M8", "torque_nm": 14, "width_mm": 20, "length_mm": 28,
                           "height_mm": 12, "toe_height_mm": 8,
                           "down_angle_deg": 8}),
        ("Edge clamp M12", {"screw": "M12", "torque_nm": 50, "width_mm": 30, "length_mm": 40,
                            "height_mm": 18, "toe_height_mm": 12,
                            "down_angle_deg": 8, "wrench_diameter_mm": 26}),
        ("Strap clamp M8", {"kind": "strap", "screw": "M8", "torque_nm": 18, "transmission": 0.5,
                            "width_mm": 20, "length_mm": 60,
                            "height_mm": 25, "toe_height_mm": 20, "stroke_mm": 10}),
        ("Strap clamp M12", {"kind": "strap", "screw": "M12", "torque_nm": 60, "transmission": 0.5,
                             "width_mm": 32, "length_mm": 100,
                             "height_mm": 40, "toe_height_mm": 30, "stroke_mm": 15,
                             "wrench_diameter_mm": 26}),
        ("Double wedge M8", {"kind": "double wedge", "screw": "M8", "torque_nm": 16,
                             "transmission": 1.1, "width_mm": 25, "length_mm": 24,
                             "height_mm": 14, "toe_height_mm": 9, "stroke_mm": 1.5}),
        ("Expanding pin 16 mm", {"kind": "expanding pin", "screw": "M6", "torque_nm": 7,
                                 "transmission": 1.5, "friction": 0.15,
                                 "width_mm": 16, "length_mm": 16, "height_mm": 20,
                                 "toe_height_mm": 10, "stroke_mm": 0.3}),
        ("Dovetail, 60 mm", {"kind": "dovetail", "screw": "M10", "torque_nm": 35,
                             "transmission": 1.2, "friction": 0.2, "width_mm": 60,
                             "length_mm": 40, "height_mm": 12, "toe_height_mm": 6}),
        ("Pull stud", {"kind": "pull stud", "screw": "M8", "torque_nm": 10, "rated_force_n": 10_000,
                       "width_mm": 30, "length_mm": 30,
                       "height_mm": 20, "toe_height_mm": 10}),
        ("Vacuum, 100 x 100 mm", {"kind": "vacuum", "screw": "M5", "torque_nm": 3,
                                  "rated_force_n": 700, "friction": 0.3, "width_mm": 100,
                                  "length_mm": 100, "height_mm": 5}),
        ("Threaded rod M10, gang", {"kind": "threaded rod", "screw": "M10", "torque_nm": 30,
                                    "transmission": 1.0, "width_mm": 20,
                                    "length_mm": 20, "height_mm": 20, "toe_height_mm": 10}),
        ("Swing clamp M8", {"kind": "swing clamp", "screw": "M8", "torque_nm": 16, "friction": 0.2,
                            "width_mm": 25, "length_mm": 40, "height_mm": 60, "stroke_mm": 8,
                            "wrench_diameter_mm": 20}),
        ("Toothed insert, raw stock", {"kind": "toothed insert", "screw": "M8", "torque_nm": 16,
                                       "friction": TOOTHED_FRICTION, "width_mm": 20,
                                       "length_mm": 28, "height_mm": 12, "toe_height_mm": 3}),
    ]  # fmt: skip
    return [_entry("clamp", name, **data) for name, data in [*rows, *_inch_clamps()]]


def _inch_clamps() -> list[tuple[str, dict[str, Any]]]:
    """Sizes in inches, torques in inch-pounds."""
    rows = [
        ("Edge clamp #10-32", "edge clamp", "#10-32", 25, 0.5, 0.75, 0.3125, 0.1875, 0.5),
        ("Edge clamp 1/4-20", "edge clamp", "1/4-20", 55, 0.625, 0.875, 0.4375, 0.28125, 0.5625),
        ("Edge clamp 5/16-18", "edge clamp", "5/16-18", 110, 0.75, 1.125, 0.5, 0.3125, 0.6875),
        ("Edge clamp 3/8-16", "edge clamp", "3/8-16", 190, 1.0, 1.375, 0.625, 0.40625, 0.875),
        ("Edge clamp 1/2-13", "edge clamp", "1/2-13", 500, 1.25, 1.625, 0.75, 0.5, 1.0625),
        ("Strap clamp 3/8-16", "strap", "3/8-16", 220, 1.0, 2.5, 1.125, 0.875, 0.875),
        ("Strap clamp 1/2-13", "strap", "1/2-13", 500, 1.25, 4.0, 1.625, 1.1875, 1.0625),
        ("Strap clamp 5/8-11", "strap", "5/8-11", 950, 1.5, 5.0, 2.0, 1.5, 1.25),
        ("Double wedge 5/16-18", "double wedge", "5/16-18", 130, 1.0, 1.0, 0.5625, 0.34375, 0.6875),
    ]
    besides: dict[str, dict[str, Any]] = {
        "edge clamp": {"down_angle_deg": 8},
        "strap": {"kind": "strap", "transmission": 0.5, "stroke_mm": 10},
        "double wedge": {"kind": "double wedge", "transmission": 1.1, "stroke_mm": 1.5},
    }
    return [
        (
            name,
            {
                "screw": screw,
                "torque_nm": f"{torque} in·lb",
                "width_mm": f"{wide} in",
                "length_mm": f"{long} in",
                "height_mm": f"{high} in",
                "toe_height_mm": f"{toe} in",
                "wrench_diameter_mm": f"{wrench} in",
            }
            | besides[kind],
        )
        for name, kind, screw, torque, wide, long, high, toe, wrench in rows
    ]


def _locators() -> list[ShopEntry]:
    return [
        _entry("locator", "Stop, 40 x 12 mm", height_mm=12),
        _entry("locator", "Stop, 20 x 10 mm", length_mm=20, height_mm=10, capacity_n=10_000),
        _entry("locator", "Round pin 8 mm", kind="round pin", diameter_mm=8, fit="g6",
               thickness_mm=8, length_mm=8, height_mm=10),
        _entry("locator", "Diamond pin 8 mm", kind="diamond pin", diameter_mm=8, fit="g6",
               thickness_mm=8, length_mm=8, height_mm=10),
        _entry("locator", "Round pin 12 mm", kind="round pin", diameter_mm=12, fit="g6",
               thickness_mm=12, length_mm=12, height_mm=12),
        _entry("locator", "Diamond pin 12 mm", kind="diamond pin", diameter_mm=12, fit="g6",
               thickness_mm=12, length_mm=12, height_mm=12),
        _entry("locator", "Rest button 12 mm", kind="rest button", diameter_mm=12, height_mm=8,
               length_mm=12, thickness_mm=12),
        _entry("locator", "V block, 90°, 40 mm", kind="V", length_mm=40, height_mm=25,
               thickness_mm=30, repeat_mm=0.01),
        _entry("locator", "Mandrel 16 mm", kind="mandrel", diameter_mm=16, fit="h5", height_mm=20,
               length_mm=16, thickness_mm=16),
    ]  # fmt: skip


def _holders() -> list[ShopEntry]:
    rows = [
        ("Collet chuck, 16 mm", "collet chuck", 28, 40, 70, 16), ("Collet chuck, 20 mm, long",
               "collet chuck", 34, 46, 100, 20),
        ("Shrink holder 10 mm", "shrink holder", 24, 32, 80, 10), ("Shrink holder 16 mm",
               "shrink holder", 27, 34, 90, 16),
        ("Side-lock holder 20 mm", "side-lock holder", 48, 52, 63, 20), ("Drill chuck 13 mm",
               "drill chuck", 50, 52, 90, 13),
        ("Face mill arbor 22 mm", "face mill arbor", 45, 63, 50, 22), ("Tapping chuck M3 to M12",
               "tapping chuck", 36, 42, 85, 12),
    ]  # fmt: skip
    return [
        _entry(
            "holder",
            name,
            kind=kind,
            nose_diameter_mm=nose,
            body_diameter_mm=body,
            gauge_length_mm=gauge,
            bore_mm=bore,
        )
        for name, kind, nose, body, gauge, bore in rows
    ]


def _materials() -> list[ShopEntry]:
    return [
        ShopEntry(
            kind="material", name=item.name, data=item.model_dump(mode="json"), source=item.source
        )
        for item in MATERIALS.values()
    ]
