"""What is cut on a part: features with their tolerances, the ops that cut them, the sides a tool can come from."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.cutting.document import Cut
from wedgecraft.core.model import Document, Text
from wedgecraft.core.units import Length, Place

Direction = Literal["+X", "-X", "+Y", "-Y", "+Z", "-Z"]
DIRECTIONS: tuple[Direction, ...] = ("+Z", "-Z", "+X", "-X", "+Y", "-Y")
FeatureKind = Literal["position", "distance", "orientation", "profile"]
FormName = Literal["plain vise", "soft jaws", "fixture plate", "rotary bar", "tombstone", "five-axis block"]
OpNumber = Annotated[int, Field(ge=1, le=9999)]


class Feature(Document):
    """Something the drawing asks for.

    ``tolerance_mm``: diameter of the zone (position), plus or minus (distance), width of the zone (orientation, profile).
    ``directions``: sides a tool can cut it from. ``takes``: faces of the part that cutting it machines, so that no clamp or
    stop can be on them meanwhile. Places are measured in the part's frame from its datum corner, z up from its underside.
    """

    name: Text
    kind: FeatureKind = "position"
    x_mm: Place = 0.0
    y_mm: Place = 0.0
    z_mm: Place | None = None
    tolerance_mm: Annotated[Length, Field(gt=0, le=10)]
    measured_from: Literal["fixture datum", "feature", "face"] = "fixture datum"
    from_feature: Text | None = None
    from_face: Direction | None = None
    op: OpNumber = 10
    directions: Annotated[list[Direction], Field(min_length=1, max_length=6)] = ["+Z"]
    takes: Annotated[list[Direction], Field(max_length=6)] = []


class Op(Document):
    """One clamping of the part. ``up`` is the part's side that faces the spindle when the op starts."""

    number: OpNumber = 10
    does: Annotated[str, Field(max_length=300)] = ""
    form: FormName = "fixture plate"
    up: Direction = "+Z"
    reached: list[Direction] = ["+Z"]
    clamp_on: Annotated[list[Direction], Field(max_length=6)] = []
    locate_on: Annotated[list[Direction], Field(max_length=6)] = []
    grip_stock: bool = False
    cuts: Annotated[list[Cut], Field(max_length=60)] = []


def opposite(direction: Direction) -> Direction:
    turned: Direction = ("-" if direction[0] == "+" else "+") + direction[1]  # type: ignore[assignment]
    return turned


def circular(features: list[Feature]) -> list[str] | None:
    """Names along a chain of features measured from one another that comes back to its start."""
    above = {item.name: item.from_feature for item in features if item.measured_from == "feature"}
    for start in above:
        chain, at = [start], above[start]
        while at is not None and at in above and at not in chain:
            chain.append(at)
            at = above[at]
        if at == start:
            return [*chain, start]
    return None


def judged_in(features: list[Feature], op_number: int) -> list[int]:
    """Indices of the features that an op cuts: each has a verdict at every station."""
    return [index for index, item in enumerate(features) if item.op == op_number]


def feature_problems(features: list[Feature], ops: list[Op]) -> list[str]:
    """What does not fit together yet, in words; nothing here stops work on other things."""
    found = []
    known, numbers = {item.name: item for item in features}, {op.number for op in ops}
    for item in features:
        if item.op not in numbers:
            found.append(f"{item.name}: cut in op {item.op}, which is not among the ops")
        if item.measured_from == "feature":
            base = known.get(item.from_feature or "")
            if base is None:
                found.append(f"{item.name}: say which feature it is measured from")
            elif base.op > item.op:
                found.append(f"{item.name}: measured from {base.name}, which is cut only later, in op {base.op}")
        if item.measured_from == "face":
            cut_by = [other for other in features if item.from_face in other.takes]
            if item.from_face is None:
                found.append(f"{item.name}: say which face it is measured from")
            elif cut_by and min(other.op for other in cut_by) > item.op:
                found.append(f"{item.name}: measured from face {item.from_face}, which is cut only later")
    return found
