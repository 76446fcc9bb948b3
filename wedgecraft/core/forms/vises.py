"""Vises on the table."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field, JsonValue

from wedgecraft.core.clamping.elements.jaws import Jaws
from wedgecraft.core.clamping.elements.soft_jaws import SoftJaws
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length, Torque
from wedgecraft.core.records.form import FORMS, Carrier, Form
from wedgecraft.core.records.locating import LOCATING, LocatingScheme
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.piece import Bought, Piece
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Block
from wedgecraft.core.records.sharing import Sharing
from wedgecraft.core.records.station import StopAndEdgeClamp, Stops
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.shop.shipped import usual_vise

if TYPE_CHECKING:
    from wedgecraft.core.make.asked import Asked

#: Of a moving jaw; from memory.
_JAW_MM = 40.0
#: No part pushes a jaw away: it is the vise's own body.
_JAW_CAPACITY_N = 1e6
#: A field that says something only of a vise of two stations.
_SOFT: dict[str, JsonValue] = {"where": "jaws=soft"}
_OF_TWO: dict[str, JsonValue] = {"where": "vise.stations=2"}


@FORMS.register
class Vises(Form):
    """One vise or several alike on the table, a part in each or a ``row`` of them side by side,
    against the fixed jaw and a side stop, ``depth_mm`` of it between the jaws, on parallels;
    ``torque_nm`` on the handle. ``touching``: only the first of a row has a side stop.

    In a vise of two stations the fixed jaw is in the middle; a second op stands at the other side
    of it, ``other_mm`` deep between ``other_jaws``, or as the first where nothing is said.
    ``clearance_mm``: of soft jaws, from wall to wall less the part.
    """

    kind: Literal["vises"] = "vises"
    vise: Annotated[Vise, Field(title="Vise")] = Field(default_factory=usual_vise)
    jaws: Annotated[Literal["hard", "stepped", "soft"], Field(title="Jaws")] = "hard"
    depth_mm: Annotated[Length, Field(gt=0, le=500, title="Part between the jaws, deep")] = 5
    torque_nm: Annotated[Torque, Field(gt=0, le=200, title="Handle torque")] = 60
    row: Annotated[int, Field(ge=1, le=12, title="Parts side by side")] = 1
    touching: Annotated[bool, Field(title="Each against the one before it")] = False
    most: Annotated[int, Field(ge=1, le=24, title="Vises there are")] = 4
    ledge_mm: Annotated[Length, Field(gt=0, le=100, title="Parallels or steps, width")] = 6
    clearance_mm: Annotated[
        Length, Field(ge=0, le=1, title="Soft jaws, clearance in all", json_schema_extra=_SOFT)
    ] = 0.05
    pushed: Annotated[
        bool, Field(title="Pushed into one corner of its pocket", json_schema_extra=_SOFT)
    ] = True
    gap_mm: Annotated[
        Length, Field(gt=0, le=20, title="Gap between soft jaws when cut", json_schema_extra=_SOFT)
    ] = 3.2
    posts: Annotated[bool, Field(title="Posts in the part's openings", json_schema_extra=_SOFT)] = (
        False
    )
    other_jaws: Annotated[
        Literal["as the first", "hard", "stepped", "soft"],
        Field(title="Jaws of the other station", json_schema_extra=_OF_TWO),
    ] = "as the first"
    other_mm: Annotated[
        Length,
        Field(
            ge=0,
            le=500,
            title="Part between those, deep; 0 as the first",
            json_schema_extra=_OF_TWO,
        ),
    ] = 0

    said: ClassVar[str] = "vises"
    listed: ClassVar[int] = 20
    reaches: ClassVar[str] = "one side up at a time; soft jaws on any outline"
    fields: ClassVar[dict[str, str]] = {
        "plate": "vise",
        "station.stops.height_mm": "depth_mm",
        "station.clamp.height_mm": "depth_mm",
        "station.clamp.torque_nm": "torque_nm",
        "station.sharing.row": "row",
        "station.sharing": "row",
        "station.element.vises": "most",
        "station.element.ledge_mm": "ledge_mm",
        "station.locating.clearance_mm": "clearance_mm",
        "station.locating.pushed": "pushed",
        "station.element.gap_mm": "gap_mm",
        "station.element.posts": "posts",
        "station.element": "vise",
        "station.stops": "vise",
    }

    def told(self) -> str:
        return f"{self.depth_mm:g} mm of it between {self.jaws} jaws, {self.vise.name}"

    def own_of(self, number: int) -> bool:
        return number > 0 and (self.other_jaws != "as the first" or self.other_mm > 0)

    def fields_of(self, number: int) -> dict[str, str]:
        if number == 0 or not self.other_mm:
            return self.fields
        return {key: "other_mm" if to == "depth_mm" else to for key, to in self.fields.items()}

    def taken_for_granted(self) -> dict[str, str]:
        return {"most": f"{self.most} of “{self.vise.name}” were taken to be there"}

    def carrier(self, machine: Machine) -> Carrier:
        table = Plate(
            name=f"Table of {machine.name}"[:120],
            width_mm=machine.table_x_mm,
            depth_mm=machine.table_y_mm,
            thickness_mm=1,
            material=MATERIALS["cast-iron-250"],
            margin_mm=0,
        )
        return Carrier(table, Block(body_kg=0))

    def station(self, own: StopAndEdgeClamp, number: int = 0) -> StopAndEdgeClamp:
        vise, two = self.vise, self.vise.stations == 2
        jaws, depth, at = self.jaws, self.depth_mm, "form.depth_mm"
        if number and self.other_jaws != "as the first":
            jaws = self.other_jaws
        if number and self.other_mm:
            depth, at = self.other_mm, "form.other_mm"
        if vise.stations > 2:
            raise OutOfRange("form.vise.stations", vise.stations, "one or two")
        if self.own_of(number) and not two:
            raise OutOfRange(
                "form.vise.stations",
                vise.stations,
                "two, for ops held otherwise in one vise; or each op in a setup of its own",
            )
        if jaws == "soft" and self.row > 1 and self.touching:
            raise OutOfRange(
                "form.touching", "each against the one before it", "a pocket for each part of a row"
            )
        if depth > vise.jaw_height_mm:
            raise OutOfRange(at, depth, f"at most the jaws' height, {vise.jaw_height_mm:g} mm")
        element = (SoftJaws if jaws == "soft" else Jaws)(
            width_mm=vise.jaw_width_mm,
            opening_mm=vise.opening_mm,
            fixed_mm=vise.fixed_jaw_mm,
            moving_mm=_JAW_MM,
            length_mm=(vise.length_mm + vise.fixed_jaw_mm) / 2 if two else vise.length_mm,
            under_mm=vise.bed_height_mm + vise.jaw_height_mm - depth,
            rated_force_n=vise.rated_force_n,
            rated_torque_nm=vise.rated_torque_nm,
            scatter=vise.force_scatter,
            friction=vise.jaw_friction,
            vises=self.most,
            stations=vise.stations,
            ledge_mm=self.ledge_mm,
            stepped=jaws == "stepped",
            **({"gap_mm": self.gap_mm, "posts": self.posts} if jaws == "soft" else {}),
            tilt_nmm=1e6 * self.vise.tilt_stiffness_nm_per_mrad,
        )
        turns = {*own.turns, *((turn + 180) % 360 for turn in own.turns)} if two else own.turns
        changed: dict[str, Any] = {
            "element": element,
            "stops": Stops(
                thickness_mm=vise.fixed_jaw_mm,
                length_mm=vise.jaw_width_mm,
                height_mm=depth,
                friction=vise.jaw_friction,
                capacity_n=_JAW_CAPACITY_N,
            ),
            "clamp": own.clamp.model_copy(update={"torque_nm": self.torque_nm, "height_mm": depth}),
            "locating": self._located(jaws == "soft"),
            "sharing": self._sharing(own.sharing),
            "clamps": 1,
            "by_planner": False,
            "turns": sorted(turns),
        }
        return own.model_copy(update=changed)

    def pieces(self, asked: Asked) -> list[Piece]:
        # the engine: not before someone asks
        from wedgecraft.core.make.jaws import jaw_pieces
        from wedgecraft.core.make.plain_jaws import stepped_pieces

        return [*jaw_pieces(asked, self.vise), *stepped_pieces(asked, self.vise)]

    def bought(self, asked: Asked) -> list[Bought]:
        from wedgecraft.core.make.plain_jaws import with_hard_jaws

        return with_hard_jaws(asked, self.vise)

    def _located(self, soft: bool) -> LocatingScheme:
        if not soft:
            return LOCATING["stops"]()
        return LOCATING["profile nest"].model_validate(
            {"clearance_mm": self.clearance_mm, "pushed": self.pushed}
        )

    def _sharing(self, own: Sharing) -> Sharing:
        if self.row == 1:
            return Sharing()
        return own.model_copy(
            update={
                "how": "row between jaws",
                "row": self.row,
                "against_neighbour": self.touching,
                "tilt_stiffness_nmm": 1e6 * self.vise.tilt_stiffness_nm_per_mrad,
            }
        )
