"""The jaws of a vise: the fixed one is the datum, the moving one squeezes the part against it."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from pydantic import Field
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.clamping.screw import scattered
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.limits import FigureInput, given
from wedgecraft.core.ground.units import Force, Length, Torque
from wedgecraft.core.records.element import (
    ELEMENTS,
    Body,
    Element,
    Friction,
    Grip,
    Press,
    Size,
    Stood,
    lifts,
    one_of,
)
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.screw import EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks

#: A part needs so much besides what blanks differ by to be put between the jaws; common practice,
#: from memory.
_PLAY_MM = 0.5
#: Room to put the handle on and turn it, beyond the vise's end; from memory.
_HANDLE_MM = 60.0


@ELEMENTS.register
class Jaws(Element):
    """Both jaws of a vise as wide as ``width_mm``, ``opening_mm`` apart at most, the fixed one
    ``fixed_mm`` thick; its body ``length_mm`` long, ``under_mm`` of it below what the part stands
    on: two parallels ``ledge_mm`` wide, put where no cut comes out below, or, ``stepped``, a ledge
    of each jaw. With two ``stations`` the fixed jaw is in the middle, and one screw draws both
    moving ones. The torque is on its handle. ``tilt_nmm``: 0 for a moving jaw that does not tilt.

    Its force: in proportion to the torque, as its maker states both (common practice, no source).
    """

    kind: Literal["vise jaws"] = "vise jaws"
    width_mm: Annotated[Size, Field(title="Jaw width")] = 125
    opening_mm: Annotated[Length, Field(gt=0, le=2000, title="Opening, largest")] = 200
    fixed_mm: Annotated[Size, Field(title="Fixed jaw, thickness")] = 60
    moving_mm: Annotated[Size, Field(title="Moving jaw, thickness")] = 60
    length_mm: Annotated[Length, Field(gt=0, le=5000, title="Length over all")] = 420
    under_mm: Annotated[Length, Field(ge=0, le=1000, title="Below what the part stands on")] = 70
    rated_force_n: Annotated[Force, Field(gt=0, le=1e6, title="Clamping force, rated")] = 25_000
    rated_torque_nm: Annotated[Torque, Field(gt=0, le=200, title="Handle torque for it")] = 80
    scatter: Annotated[float, Field(ge=0, le=0.8, title="Force scatter, share")] = 0.15
    friction: Annotated[Friction, Field(title="Friction at the jaws")] = 0.2
    side_stop_mm: Annotated[Size, Field(title="Side stop, width")] = 12
    vises: Annotated[int, Field(ge=1, le=100, title="Vises there are")] = 1
    stations: Annotated[int, Field(ge=1, le=2, title="Stations of a vise")] = 1
    ledge_mm: Annotated[Size, Field(title="Parallels or steps, width")] = 6
    stepped: bool = False
    tilt_nmm: Annotated[
        float, Field(ge=0, le=1e12, title="Stiffness of the moving jaw in tilt, N·mm/rad")
    ] = 0

    acts: ClassVar[str] = "squeezes from both sides"
    formula: ClassVar[str] = "jaw force = rated force x torque / rated torque"
    said: ClassVar[str] = "vise"
    listed: ClassVar[int] = 40
    alone: ClassVar[bool] = True
    by_form: ClassVar[bool] = True
    drive: ClassVar[str] = "handle"
    stops_said: ClassVar[tuple[str, str]] = ("fixed jaw", "side stop")
    setup_said: ClassVar[str] = "vises on the table, hard jaws"
    caution: ClassVar[str] = (
        "Tap the part down on its parallels; none of them may move. Within the vise's rating."
    )

    @property
    def flat_mm(self) -> float:
        return self.width_mm

    @property
    def side_mm(self) -> float | None:
        return self.side_stop_mm

    @property
    def there_are(self) -> int | None:
        return self.vises

    @property
    def back_mm(self) -> float | None:
        return self.fixed_mm if self.stations == 2 else None

    @property
    def up_mm(self) -> float:
        return self.under_mm

    def stands_on(self, floor: Polygon, through: BaseGeometry) -> BaseGeometry:
        """Parallels by both jaws, moved inwards as far as cuts ask; steps stay where they are."""
        x0, y0, x1, y1 = floor.bounds
        ledge = self.ledge_mm
        if x1 - x0 < 2 * ledge and not self.stepped:
            return box(x0, y0, x1, y1)  # so narrow a foot stands on one
        inwards = 0 if self.stepped else math.floor((x1 - x0) / 2 - ledge)
        near = [box(x0 + k, y0 - 1, x0 + k + ledge, y1 + 1) for k in range(inwards + 1)]
        far = [box(x1 - k - ledge, y0 - 1, x1 - k, y1 + 1) for k in range(inwards + 1)]
        low, high = (
            next((rail for rail in side if not rail.intersects(through)), None)
            for side in (near, far)
        )
        if low is None or high is None:
            raise OutOfRange(
                "station.element.ledge_mm",
                ledge,
                "less, or that cut in another op: it comes out below over the"
                + (" step of a jaw" if self.stepped else " parallels wherever they stand"),
            )
        return low.union(high)

    def rated_nm(self, clamp: EdgeClamp) -> float:
        return self.rated_torque_nm

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        if clamp.torque_nm > self.rated_torque_nm:
            raise OutOfRange(
                "station.clamp.torque_nm",
                clamp.torque_nm,
                f"at most the vise's rating, {self.rated_torque_nm:g} N·m",
            )
        force = self.rated_force_n * clamp.torque_nm / self.rated_torque_nm
        low, high = scattered(force, self.scatter)
        return Preload(low, high, 0.0)

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        """The vise has its own."""
        return ()

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        one_of(count, "vise")
        reach = clamp.height_mm
        held = stood.between(0.0, reach)
        x0, low, width, high = held.bounds
        if width > self.opening_mm:
            raise OutOfRange(
                "station.element.opening_mm",
                self.opening_mm,
                f"at least the part's {width:.6g} mm across the jaws; turn the part, or take a"
                " larger vise",
            )
        middle, half = (low + high) / 2, self.width_mm / 2
        near, far = middle - half, middle + half
        back = width + self.moving_mm
        end = max(self.length_mm - self.fixed_mm, back)
        bodies = [Body(box(width, near, back, far), 0.0, reach)]
        if self.under_mm:
            bodies.append(Body(box(-self.fixed_mm, near, end, far), -self.under_mm, 0.0))
        handle = Body(
            box(end, middle - _HANDLE_MM / 2, end + _HANDLE_MM, middle + _HANDLE_MM / 2),
            -self.under_mm,
            reach,
        )
        return Grip((Press(width, middle, 1.0),), tuple(bodies), (handle,), ((end, middle),), reach)

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        width = float(stood.between(0.0, clamp.height_mm).bounds[2])
        needed = 2 * blanks.spread_mm + _PLAY_MM
        if self.opening_mm < width + needed:
            raise OutOfRange(
                "station.element.opening_mm",
                self.opening_mm,
                f"at least {width + needed:.2f} mm: the part is {width:.6g} mm wide, blanks differ"
                f" by {2 * blanks.spread_mm:.2f} mm ({blanks.source or 'as entered'}), and"
                f" {_PLAY_MM:g} mm let it in",
            )
        return [
            f"The jaws open to {self.opening_mm:g} mm; {width + needed:.2f} mm are needed for the"
            " largest blank.",
            lifts(stood.height_mm),
        ]

    def sizes(self, clamp: EdgeClamp) -> list[FigureInput]:
        maker = "vise maker's figure, as entered"
        return [
            given("rated force", self.rated_force_n, "N", maker),
            given("rated torque", self.rated_torque_nm, "N·m", maker),
            given("scatter", self.scatter, "", "vise of the shop"),
        ]
