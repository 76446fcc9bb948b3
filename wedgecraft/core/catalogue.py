"""Generic entries that ship with the product, and the starting values of a new job. Nothing here is a maker's product."""

from __future__ import annotations

from wedgecraft.core.clamps import SCREWS
from wedgecraft.core.machine import KeepOut, Machine, Plate
from wedgecraft.core.materials import MATERIALS, Material
from wedgecraft.core.model import Document
from wedgecraft.core.part import Outline
from wedgecraft.core.plan import PlanRequest


class ScrewEntry(Document):
    """A clamp screw and the torque it is rated for."""

    size: str
    rated_torque_nm: float


class Catalogue(Document):
    """What can be picked."""

    machines: list[Machine]
    plates: list[Plate]
    materials: list[Material]
    screws: list[ScrewEntry]


def _machine(name: str, x: float, y: float, load: float, power: float, torque: float) -> Machine:
    return Machine(name=name, travel_x_mm=x, travel_y_mm=y, table_load_kg=load, spindle_power_kw=power, spindle_torque_nm=torque)


def corner_screws(width: float, depth: float, inset: float = 20, head: float = 18, height: float = 10) -> list[KeepOut]:
    """Hold-down screws in the four corners of a plate."""
    return [
        KeepOut(shape="round", x_mm=x, y_mm=y, width_mm=head, height_mm=height)
        for x in (inset, width - inset)
        for y in (inset, depth - inset)
    ]


def _plate(name: str, width: float, depth: float, thickness: float) -> Plate:
    return Plate(name=name, width_mm=width, depth_mm=depth, thickness_mm=thickness, keepouts=corner_screws(width, depth))


def catalogue() -> Catalogue:
    """Machines and plates of ordinary sizes, invented for this product; materials and screws from the engine."""
    return Catalogue(
        machines=[
            _machine("Vertical, 500 x 400 mm travel", 500, 400, 250, 11, 60),
            _machine("Vertical, 760 x 460 mm travel", 760, 460, 500, 15, 90),
            _machine("Vertical, 1000 x 600 mm travel", 1000, 600, 900, 18, 120),
        ],
        plates=[
            _plate("Plate 250 x 200 x 20", 250, 200, 20),
            _plate("Plate 400 x 350 x 25", 400, 350, 25),
            _plate("Plate 600 x 400 x 30", 600, 400, 30),
        ],
        materials=list(MATERIALS.values()),
        screws=[ScrewEntry(size=size, rated_torque_nm=screw.rated_torque_nm) for size, screw in SCREWS.items()],
    )


def rectangle(width: float, depth: float) -> Outline:
    return Outline(outer=[(0, 0), (width, 0), (width, depth), (0, depth)])


def starting_request(name: str, quantity: int) -> PlanRequest:
    """A complete request to begin from, every value a common one to be changed."""
    entries = catalogue()
    return PlanRequest.model_validate(
        {
            "name": name,
            "quantity": quantity,
            "part": {"name": name, "outline": rectangle(60, 40).model_dump(), "height_mm": 25, "material": "aluminium-6061"},
            "cut": {
                "tool": {"diameter_mm": 10, "teeth": 3, "flute_length_mm": 22},
                "axial_depth_mm": 8, "radial_width_mm": 1.5, "feed_per_tooth_mm": 0.05, "spindle_rpm": 9000,
            },
            "tolerance": {"zone_mm": 0.1},
            "plate": entries.plates[1].model_dump(),
            "machine": entries.machines[1].model_dump(),
            "station": {"clamp": {"torque_nm": 14}},
        }
    )  # fmt: skip
