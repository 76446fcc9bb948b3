"""Vises on the table."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from wedgecraft.core.clamping.elements.jaws import Jaws
from wedgecraft.core.clamping.elements.soft_jaws import SoftJaws
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length, Torque
from wedgecraft.core.records.form import FORMS, Carrier, Form
from wedgecraft.core.records.locating import LOCATING
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Block
from wedgecraft.core.records.sharing import Sharing
from wedgecraft.core.records.station import StopAndEdgeClamp, Stops
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.shop.shipped import usual_vise

#: Of a jaw; from memory.
_JAW_MM = 40.0
#: No part pushes a jaw away: it is the vise's own body.
_JAW_CAPACITY_N = 1e6


@FORMS.register
class Vises(Form):
    """One vise or several alike on the table, a part in each or a ``row`` of them side by side,
    against the fixed jaw and a side stop, ``depth_mm`` of it between the jaws, on parallels;
    ``torque_nm`` on the handle. ``touching``: only the first of a row has a side stop.
    """

    kind: Literal["vises"] = "vises"
    vise: Annotated[Vise, Field(title="Vise")] = Field(default_factory=usual_vise)
    jaws: Annotated[Literal["hard", "stepped", "soft"], Field(title="Jaws")] = "hard"
    depth_mm: Annotated[Length, Field(gt=0, le=500, title="Part between the jaws, deep")] = 5
    torque_nm: Annotated[Torque, Field(gt=0, le=200, title="Handle torque")] = 60
    row: Annotated[int, Field(ge=1, le=12, title="Parts in one vise")] = 1
    touching: Annotated[bool, Field(title="Each against the one before it")] = False
    most: Annotated[int, Field(ge=1, le=24, title="Vises there are")] = 4

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
        "station.element": "vise",
        "station.stops": "vise",
    }

    def told(self) -> str:
        return f"{self.depth_mm:g} mm of it between {self.jaws} jaws, {self.vise.name}"

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

    def station(self, own: StopAndEdgeClamp) -> StopAndEdgeClamp:
        vise = self.vise
        if vise.stations != 1:
            raise OutOfRange(
                "form.vise.stations",
                vise.stations,
                "one: several stations of one vise are not planned yet; take a vise of one",
            )
        if self.jaws == "stepped":
            raise OutOfRange(
                "form.jaws",
                self.jaws,
                "hard or soft: stepped jaws are not planned yet; hard ones on parallels hold alike",
            )
        if self.jaws == "soft" and self.row > 1:
            raise OutOfRange(
                "form.row",
                self.row,
                "one: several pockets in one pair of soft jaws are not planned yet",
            )
        if self.depth_mm > vise.jaw_height_mm:
            raise OutOfRange(
                "form.depth_mm",
                self.depth_mm,
                f"at most the jaws' height, {vise.jaw_height_mm:g} mm",
            )
        soft = self.jaws == "soft"
        jaws = (SoftJaws if soft else Jaws)(
            width_mm=vise.jaw_width_mm,
            opening_mm=vise.opening_mm,
            fixed_mm=_JAW_MM,
            moving_mm=_JAW_MM,
            length_mm=vise.length_mm,
            under_mm=vise.bed_height_mm + vise.jaw_height_mm - self.depth_mm,
            rated_force_n=vise.rated_force_n,
            rated_torque_nm=vise.rated_torque_nm,
            scatter=vise.force_scatter,
            friction=vise.jaw_friction,
            vises=self.most,
        )
        changed: dict[str, Any] = {
            "element": jaws,
            "stops": Stops(
                thickness_mm=_JAW_MM,
                length_mm=vise.jaw_width_mm,
                height_mm=self.depth_mm,
                friction=vise.jaw_friction,
                capacity_n=_JAW_CAPACITY_N,
            ),
            "clamp": own.clamp.model_copy(
                update={"torque_nm": self.torque_nm, "height_mm": self.depth_mm}
            ),
            "locating": LOCATING["profile nest" if soft else "stops"](),
            "sharing": self._sharing(own.sharing),
            "clamps": 1,
            "by_planner": False,
        }
        return own.model_copy(update=changed)

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
