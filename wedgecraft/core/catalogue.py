"""Generic entries that ship with the product, and the starting values of a new job. Nothing here is a maker's product."""

from __future__ import annotations

from wedgecraft.core.clamps import SCREWS
from wedgecraft.core.cutting.document import Cut, Cutter
from wedgecraft.core.features import Feature, Op
from wedgecraft.core.house_rules import HouseRules
from wedgecraft.core.machine import Machine, Plate
from wedgecraft.core.materials import Material
from wedgecraft.core.model import Document
from wedgecraft.core.part import Part
from wedgecraft.core.plan import PlanRequest
from wedgecraft.core.shop.document import KINDS, KindName
from wedgecraft.core.shop.shipped import shipped


class ScrewEntry(Document):
    """A clamp screw and the torque it is rated for."""

    size: str
    rated_torque_nm: float


class Catalogue(Document):
    """What can be picked for a job, and what a new part, cut and feature start from."""

    machines: list[Machine]
    plates: list[Plate]
    materials: list[Material]
    cutters: list[Cutter]
    screws: list[ScrewEntry]
    part: Part
    cut: Cut
    feature: Feature
    op: Op


def catalogue(things: dict[str, list[Document]] | None = None) -> Catalogue:
    """What the shop has, by kind; of the generic entries when nothing is given."""
    if things is None:
        things = {}
        for entry in shipped():
            things.setdefault(entry.kind, []).append(KINDS[entry.kind].model_validate(entry.data))
    start = starting_request("Part", 1).parts[0]
    return Catalogue.model_validate(
        {
            "machines": things.get("machine", []),
            "plates": things.get("plate", []),
            "materials": things.get("material", []),
            "cutters": things.get("cutter", []),
            "screws": [ScrewEntry(size=size, rated_torque_nm=screw.rated_torque_nm) for size, screw in SCREWS.items()],
            "part": start,
            "cut": starting_cut(),
            "feature": start.features[0],
            "op": Op(number=20),
        }
    )


def named(kind: KindName, name: str) -> Document:
    """A generic entry by its name."""
    return next(KINDS[kind].model_validate(entry.data) for entry in shipped() if entry.kind == kind and entry.name == name)


def starting_cut(name: str = "T1 contour") -> Cut:
    """A common finishing cut round the outline."""
    return Cut(
        name=name, tool=Cutter(name="End mill 10 mm, 3 teeth", diameter_mm=10, teeth=3, flute_length_mm=22), axial_depth_mm=8,
        radial_width_mm=1.5, feed_per_tooth_mm=0.05, spindle_rpm=9000,
    )  # fmt: skip


def starting_request(
    name: str, quantity: int, machine: Machine | None = None, plate: Plate | None = None, rules: HouseRules | None = None
) -> PlanRequest:
    """A complete request to begin from, every value a common one to be changed. Machine, plate and rules may be the shop's own."""
    return PlanRequest.model_validate(
        {
            "name": name,
            "quantity": quantity,
            "parts": [
                {
                    "name": name,
                    "outline": {"shape": {"kind": "rectangle", "width_mm": 60, "depth_mm": 40}},
                    "height_mm": 25,
                    "material": "aluminium-6061",
                    "features": [{"name": "Bore", "x_mm": 30, "y_mm": 20, "tolerance_mm": 0.1, "directions": ["+Z", "-Z"]}],
                    "ops": [{"number": 10, "cuts": [starting_cut().model_dump()]}],
                }
            ],
            "plate": plate or named("plate", "Plate 400 x 350 x 25"),
            "machine": machine or named("machine", "Vertical, 760 x 460 mm travel"),
            "rules": rules or HouseRules(),
            "station": {"clamp": {"torque_nm": 14}},
        }
    )  # fmt: skip
