"""Generic entries that ship with the product, and the starting values of a new job. Nothing here is
a maker's product.
"""

from __future__ import annotations

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import CLOSE_SHARE
from wedgecraft.core.records.clamp import AnyElement
from wedgecraft.core.records.cut import CUT_KINDS, Cut, CutKindName, Cutter, CutterKind
from wedgecraft.core.records.element import ELEMENTS, Element, picked, picked_names
from wedgecraft.core.records.feature import TOLERANCES, Feature
from wedgecraft.core.records.form import FORMS, Form
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.locating import LOCATING
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.records.running import Running
from wedgecraft.core.records.screw import SCREWS, EdgeClamp
from wedgecraft.core.records.sharing import SHARED
from wedgecraft.core.records.station import Stops
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.shop.document import KINDS, FieldInfo, KindName, fields_of
from wedgecraft.core.shop.kinds import ClampElement, Locator
from wedgecraft.core.shop.shipped import shipped


class ScrewEntry(Document):
    """A clamp screw and the torque it is rated for."""

    size: str
    rated_torque_nm: float


class ClampPick(Document):
    """An edge clamp of the shop, as a station takes it."""

    name: Text
    clamp: EdgeClamp


class ElementPick(Document):
    """Another clamp of the shop: what presses, and the screw with it as an edge clamp's fields."""

    name: Text
    element: AnyElement
    clamp: EdgeClamp


class ElementKind(Document):
    """A kind of clamp element, as a form for it is made: what it does, what goes with it, its
    fields.

    ``toe``: the edge clamp's own toe presses, and parts can share it; ``beside``: it stands beside
    the part with the edge clamp's sizes; ``alone``: a part has one; ``locates``: how the part is
    located by it, which then needs no stops; ``driven``: a screw presses.
    """

    kind: str
    acts: str
    caution: str
    toe: bool
    beside: bool
    alone: bool
    bites: bool
    driven: bool
    locates: str
    fields: list[FieldInfo]


class StopPick(Document):
    """A stop of the shop, as a station takes it."""

    name: Text
    stops: Stops


class CutKindInfo(Document):
    """A kind of cut, the kinds of cutter that suit it, and whether it is made at places instead of
    along the outline.
    """

    kind: CutKindName
    cutters: list[CutterKind]
    hole: bool


class FormKind(Document):
    """A kind of form: as a sentence names it, what it reaches, whether it can be planned, and its
    fields besides its plates.
    """

    kind: str
    said: str
    reaches: str
    plans: bool
    plates: bool
    fields: list[FieldInfo]


class LocatingKind(Document):
    """A way of locating a part: as a list names it, and its fields."""

    kind: str
    label: str
    fields: list[FieldInfo]


class ToleranceKindInfo(Document):
    """A kind of tolerance: how a list names it, what its number is, whether it has a place of its
    own on the part.
    """

    kind: str
    label: str
    given: str
    placed: bool


class Catalogue(Document):
    """What can be picked for a job, and what a new part, cut and feature start from."""

    machines: list[Machine]
    plates: list[Plate]
    materials: list[Material]
    cutters: list[Cutter]
    edge_clamps: list[ClampPick]
    elements: list[ElementPick]
    element_kinds: list[ElementKind]
    form_kinds: list[FormKind]
    locating_kinds: list[LocatingKind]
    offered: list[str]
    close_share: float
    stops: list[StopPick]
    vises: list[Vise]
    screws: list[ScrewEntry]
    cut_kinds: list[CutKindInfo]
    tolerance_kinds: list[ToleranceKindInfo]
    part: Part
    cut: Cut
    feature: Feature
    op: Op
    running: list[FieldInfo]


def edge_clamp(element: ClampElement, shop_id: str | None = None) -> EdgeClamp:
    """An edge clamp of the shop on a station; scatter and screw friction stay at their usual
    values.
    """
    return EdgeClamp(
        screw=element.screw,
        torque_nm=element.torque_nm,
        transmission=element.transmission,
        down_angle_deg=element.down_angle_deg,
        toe_friction=element.friction,
        width_mm=element.width_mm,
        length_mm=element.length_mm,
        height_mm=element.height_mm,
        toe_height_mm=element.toe_height_mm or element.height_mm / 2,
        wrench_diameter_mm=element.wrench_diameter_mm,
        opens_mm=element.stroke_mm or 3,
        shop_id=shop_id,
    )


def element_of(item: ClampElement) -> Element:
    """A clamp of the shop as what presses on the part; sizes it does not have stay at their usual
    values.
    """
    return ELEMENTS[item.kind].of_shop(item)


def _kind(element: type[Element]) -> ElementKind:
    return ElementKind(
        kind=element().kind,
        acts=element.acts,
        caution=element.caution,
        toe=element.is_toe,
        beside=element.stands_beside,
        alone=element.alone,
        bites=element.bites,
        driven=element.driven,
        locates=element.locates,
        fields=fields_of(element, ("kind",)),
    )


def _form(form: type[Form]) -> FormKind:
    return FormKind(
        kind=form.model_fields["kind"].default,
        said=form.said,
        reaches=form.reaches,
        plans=form.carrier is not Form.carrier,
        plates="plate" in form.model_fields,
        fields=fields_of(form, ("kind", "plate", "vise")),
    )


def stop(locator: Locator, shop_id: str | None = None) -> Stops:
    """A stop of the shop on a station."""
    return Stops(
        thickness_mm=locator.thickness_mm or 8,
        length_mm=locator.length_mm or 40,
        height_mm=locator.height_mm,
        friction=locator.friction,
        capacity_n=locator.capacity_n,
        shop_id=shop_id,
    )


Things = dict[str, list[tuple[str | None, Document]]]


def catalogue(given: Things | None = None) -> Catalogue:
    """What the shop has, by kind, each with its id; of the generic entries when nothing is
    given.
    """
    if given is None:
        given = {}
        for entry in shipped():
            given.setdefault(entry.kind, []).append(
                (None, KINDS[entry.kind].model_validate(entry.data))
            )
    things = {kind: [item for _, item in items] for kind, items in given.items()}
    clamps = [
        (ident, item)
        for ident, item in given.get("clamp", [])
        if isinstance(item, ClampElement) and item.kind == "edge clamp"
    ]
    stops = [
        (ident, item)
        for ident, item in given.get("locator", [])
        if isinstance(item, Locator) and item.kind == "stop"
    ]
    start = starting_request("Part", 1).parts[0]
    return Catalogue.model_validate(
        {
            "machines": things.get("machine", []),
            "plates": things.get("plate", []),
            "materials": things.get("material", []),
            "cutters": things.get("cutter", []),
            "vises": things.get("vise", []),
            "edge_clamps": [
                ClampPick(name=item.name, clamp=edge_clamp(item, ident)) for ident, item in clamps
            ],
            "elements": [
                ElementPick(name=item.name, element=element_of(item), clamp=edge_clamp(item, ident))
                for ident, item in given.get("clamp", [])
                if isinstance(item, ClampElement)
                and item.kind not in ("edge clamp", "double wedge")
            ],
            "element_kinds": [_kind(element) for element in picked()],
            "form_kinds": [_form(form) for form in FORMS],
            "offered": [*picked_names(), *SHARED],
            "close_share": CLOSE_SHARE,
            "locating_kinds": [
                LocatingKind(
                    kind=of.model_fields["kind"].default,
                    label=of.label,
                    fields=fields_of(of, ("kind",)),
                )
                for of in LOCATING
            ],
            "stops": [StopPick(name=item.name, stops=stop(item, ident)) for ident, item in stops],
            "screws": [
                ScrewEntry(size=size, rated_torque_nm=screw.rated_torque_nm)
                for size, screw in SCREWS.items()
            ],
            "part": start,
            "cut_kinds": [
                CutKindInfo(kind=of.kind, cutters=list(of.cutters), hole=of.hole)
                for of in CUT_KINDS
            ],
            "tolerance_kinds": [
                ToleranceKindInfo(kind=of.kind, label=of.label, given=of.given, placed=of.placed)
                for of in TOLERANCES
            ],
            "cut": starting_cut(),
            "feature": start.features[0],
            "op": Op(number=20),
            "running": fields_of(Running),
        }
    )


def named(kind: KindName, name: str) -> Document:
    """A generic entry by its name."""
    return next(
        KINDS[kind].model_validate(entry.data)
        for entry in shipped()
        if entry.kind == kind and entry.name == name
    )


def starting_cut(name: str = "T1 contour") -> Cut:
    """A common finishing cut round the outline."""
    return Cut(
        name=name,
        tool=Cutter(name="End mill 10 mm, 3 teeth", diameter_mm=10, teeth=3, flute_length_mm=22),
        axial_depth_mm=8,
        radial_width_mm=1.5,
        feed_per_tooth_mm=0.05,
        spindle_rpm=9000,
    )


def starting_job(
    name: str,
    quantity: int,
    machine: Machine | None = None,
    plate: Plate | None = None,
    rules: HouseRules | None = None,
) -> JobDocument:
    """A complete job to begin from, every value a common one to be changed: one op on one plate.
    Machine, plate and rules may be the shop's own.
    """
    asked = starting_request(name or "Part", quantity, machine, plate, rules)
    return JobDocument.model_validate(asked.model_dump())


def starting_request(
    name: str,
    quantity: int,
    machine: Machine | None = None,
    plate: Plate | None = None,
    rules: HouseRules | None = None,
) -> PlanRequest:
    """A complete request to begin from, every value a common one to be changed. Machine, plate and
    rules may be the shop's own.
    """
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
                    "features": [
                        {
                            "name": "Bore",
                            "x_mm": 30,
                            "y_mm": 20,
                            "tolerance_mm": 0.1,
                            "directions": ["+Z", "-Z"],
                        }
                    ],
                    "ops": [{"number": 10, "cuts": [starting_cut().model_dump()]}],
                }
            ],
            "plate": plate or named("plate", "Plate 400 x 350 x 25"),
            "machine": machine or named("machine", "Vertical, 760 x 460 mm travel"),
            "rules": rules or HouseRules(),
            "station": {"clamp": {"torque_nm": 14}},
        }
    )
