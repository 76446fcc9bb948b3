"""What is cut on a part: features with their tolerances, the ops that cut them, the sides a tool
can come from.
"""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.kinds import Kinds, NameOf
from wedgecraft.core.ground.units import Length, Place

Direction = Literal["+X", "-X", "+Y", "-Y", "+Z", "-Z"]
DIRECTIONS: tuple[Direction, ...] = ("+Z", "-Z", "+X", "-X", "+Y", "-Y")
OpNumber = Annotated[int, Field(ge=1, le=9999)]


class ToleranceKind:
    """What every kind of tolerance answers; each is one file of ``core/locate/tolerances``."""

    kind: ClassVar[str]
    #: In a list of kinds, and where it stands there; what its number is.
    label: ClassVar[str]
    listed: ClassVar[int] = 50
    given: ClassVar[str]
    #: Its number is the diameter of a zone.
    zone: ClassVar[bool] = False
    #: It is looked at two ways or more, and the worse counts.
    both_ways: ClassVar[bool] = False
    #: It has a place of its own on the part.
    placed: ClassVar[bool] = True

    def checks(self, chain: Any, feature: Feature) -> list[Any]:
        """What is measured of it in an op: ``chain``, of ``core/locate/chain.py``, knows from what
        and through which ops. Raises what the chain raises where a datum is unknown.
        """
        raise NotImplementedError


TOLERANCES: Kinds[ToleranceKind] = Kinds("wedgecraft.core.locate.tolerances", "features.kind")


class Feature(Document):
    """Something the drawing asks for.

    ``tolerance_mm``: what its kind says: a diameter, plus or minus, a width. ``directions``: sides
    a tool can cut it from. ``takes``: faces of the part that cutting it machines, so that no clamp
    or stop can be on them meanwhile. Places are measured in the part's frame from its datum corner,
    z up from its underside.
    """

    name: Text
    kind: Annotated[str, NameOf(TOLERANCES)] = "position"
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

    @property
    def of(self) -> ToleranceKind:
        """Its kind of tolerance, with all that follows from it."""
        return TOLERANCES[self.kind]()


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
