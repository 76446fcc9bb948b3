"""What is asked and answered about a part in a vise; nothing computed, so that pages can be served
before the engine is loaded.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import Figure
from wedgecraft.core.ground.units import Force, Length, Mass, Torque
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.request import PlanRequest


class Vise(Document):
    """A machine vise, as its maker states it. ``jaw_screw``: of the two that hold each jaw, nothing
    where nobody has said. ``carrier_deep_mm``: jaws that stay on it take blanks by a dovetail in
    the blank's foot, so high.
    """

    name: Text
    jaw_width_mm: Annotated[Length, Field(gt=0, le=2000, title="Jaw width")]
    jaw_height_mm: Annotated[Length, Field(gt=0, le=500, title="Jaw height")]
    opening_mm: Annotated[Length, Field(gt=0, le=2000, title="Opening, largest")]
    bed_height_mm: Annotated[Length, Field(ge=0, le=1000, title="Bed over the table")] = 70
    length_mm: Annotated[Length, Field(gt=0, le=5000, title="Length over all")] = 400
    fixed_jaw_mm: Annotated[Length, Field(gt=0, le=500, title="Fixed jaw, thickness")] = 40
    stations: Annotated[int, Field(ge=1, le=4, title="Stations")] = 1
    rated_force_n: Annotated[Force, Field(gt=0, le=1_000_000, title="Clamping force, rated")]
    rated_torque_nm: Annotated[Torque, Field(gt=0, le=2000, title="Handle torque for it")]
    force_scatter: Annotated[float, Field(ge=0, le=0.8, title="Force scatter, share")] = 0.15
    jaw_friction: Annotated[float, Field(ge=0.02, le=1, title="Friction at the jaws")] = 0.2
    tilt_stiffness_nm_per_mrad: Annotated[
        float, Field(ge=0, le=1e6, title="Stiffness of the moving jaw in tilt, N·m/mrad")
    ] = 0
    jaw_screw: Annotated[
        Literal["", "M6", "M8", "M10", "M12", "M16"], Field(title="Jaw screws")
    ] = ""
    jaw_screws_apart_mm: Annotated[Length, Field(ge=0, le=2000, title="Jaw screws, apart")] = 0
    jaw_screws_up_mm: Annotated[
        Length, Field(ge=0, le=500, title="Jaw screws, over the jaw's foot")
    ] = 0
    quick_jaws: Annotated[bool, Field(title="Jaws change quickly, with a side stop")] = False
    carrier_deep_mm: Annotated[
        Length, Field(ge=0, le=200, title="Carrier jaws, dovetail in the blank, high; 0 none")
    ] = 0
    mass_kg: Annotated[Mass, Field(ge=0, le=5000, title="Mass")] = 0


class GripRequest(Document):
    """A part ``width_mm`` between the jaws, ``along_mm`` along them, ``height_mm`` high, pressed
    with ``force_low_n`` to ``force_high_n``.

    ``loads`` in the part's frame: x across the jaws from the fixed one, y along them, z up from the
    parallel. ``jaw_mm``: height of the jaws over the parallel. ``yield_mpa``: of the softer of part
    and jaw. ``lowest_cut_mm``: how low over the parallel a cutter comes. ``least_mm``: less than
    this never counts. ``centre_mm``: where along the jaws the part's weight lies; nothing for their
    middle.
    """

    width_mm: Annotated[Length, Field(gt=0, le=5000)]
    along_mm: Annotated[Length, Field(gt=0, le=5000)]
    height_mm: Annotated[Length, Field(gt=0, le=5000)]
    jaw_mm: Annotated[Length, Field(gt=0, le=1000)]
    force_low_n: Annotated[Force, Field(gt=0, le=1e7)]
    force_high_n: Annotated[Force, Field(gt=0, le=1e7)]
    friction: Annotated[float, Field(gt=0, le=2)] = 0.2
    bed_friction: Annotated[float, Field(ge=0, le=2)] = 0.15
    weight_n: Annotated[Force, Field(ge=0, le=1e6)] = 0
    yield_mpa: Annotated[float, Field(gt=0, le=1e4)]
    needed: Annotated[float, Field(ge=1, le=10)] = 2.0
    loads: Annotated[list[LoadCase], Field(min_length=1, max_length=20_000)]
    lowest_cut_mm: Annotated[Length, Field(ge=0, le=5000)] | None = None
    least_mm: Annotated[Length, Field(ge=0, le=50)] = 0
    centre_mm: Annotated[Length, Field(ge=-5000, le=5000)] | None = None


class GripPoint(Document):
    """At this depth: the lowest factor, and the average pressure at the high end of the force."""

    depth_mm: float
    factor: float
    pressure_mpa: float


class GripResult(Document):
    """``least_mm``: the depth from which it holds and is not crushed; nothing when even the jaws'
    height is not enough.

    ``limited_by``: what asks for that depth. ``clears``: whether the lowest cut stays above jaws of
    that depth, where one was given.
    """

    feasible: bool
    least_mm: float | None
    limited_by: Literal[
        "hold", "pressure", "house rule", "not held at any depth", "crushed at any depth"
    ]
    sentence: str
    clears: bool | None
    curve: list[GripPoint]


class InVise(Document):
    """Input of ``compute vise``: the job, a vise, the torque on its handle, and how deep a person
    would hold the part.
    """

    request: PlanRequest
    vise: Vise
    torque_nm: Annotated[Torque, Field(gt=0, le=2000)]
    toothed: bool = False
    depth_mm: Annotated[Length, Field(ge=0, le=1000)] = 3


Verdict = Literal["held", "not held", "hold it deeper", "deeper than the jaws"]


class InViseResult(Document):
    """The least grip of a part so high, with its curve over depth, what the jaws give, and the
    figures with their sources.

    ``verdict`` on the depth asked about; ``deeper_mm``: by how much more it would be held.
    """

    grip: GripResult
    torque_nm: float
    depth_mm: float
    height_mm: float
    jaw_mm: float
    force_low_n: float
    force_high_n: float
    needed: float
    verdict: Verdict
    deeper_mm: float = 0.0
    figures: list[Figure]
    cautions: list[str]
