"""A clamp element: what turns the force of a screw, a handle or a pump into force on the part.

Each kind is one file of ``core/clamping/elements``, and says all about itself there: its fields,
its force, where it takes hold of a part and stands, how it lets go, what it asks of people. Here is
what every kind answers. On a station the screw, its torque and its scatter are the edge clamp's
fields, the same for every kind.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar, NamedTuple, Protocol, Self

import shapely
from pydantic import Field
from shapely.affinity import translate
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.kinds import Kinds
from wedgecraft.core.ground.limits import FigureInput, given
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.contact import Contact, Vector
from wedgecraft.core.records.fixing import Fixing
from wedgecraft.core.records.screw import SCREWS, EdgeClamp, Preload
from wedgecraft.core.records.sharing import Blanks

Size = Annotated[Length, Field(gt=0, le=500)]
Friction = Annotated[float, Field(ge=0.02, le=1)]


class Press(NamedTuple):
    """Where something presses on a part, in its own frame, with the share of a part's preload that
    lands there.

    ``z`` and ``friction``: nothing for a toe, which has its own. ``area_mm2``: nothing where it is
    found from what touches.
    """

    x: float
    y: float
    share: float
    z: float | None = None
    normal: Vector = (-1.0, 0.0, 0.0)
    name: str = ""
    friction: float | None = None
    area_mm2: float | None = None


@dataclass(frozen=True)
class Body:
    """A piece of a clamp between two heights over the plate."""

    polygon: Polygon
    low_mm: float
    high_mm: float


@dataclass(frozen=True)
class Grip:
    """``bodies`` of the clamps; ``opened``: where they go to let the part out; ``screws`` with the
    height they are turned at.

    ``seats``: what locates the part besides plate and stops.
    """

    presses: tuple[Press, ...]
    bodies: tuple[Body, ...]
    opened: tuple[Body, ...]
    screws: tuple[tuple[float, float], ...]
    screw_height_mm: float
    seats: tuple[Contact, ...] = ()


class Milled(NamedTuple):
    """A pocket in what it stands on: its area, how deep, the radius of its inner corners."""

    what: str
    area: Polygon
    deep_mm: float
    corner_mm: float


class Leaning(NamedTuple):
    """A long stop that leans over the part: the way it pushes, and between which heights."""

    normal: Vector
    low_mm: float
    high_mm: float


class Bored(Protocol):
    """A round hole of a part."""

    @property
    def diameter_mm(self) -> float: ...


class Stood(Protocol):
    """A part as it stands in a station while it is clamped: its corner at X0 Y0, on Z0."""

    @property
    def outline(self) -> Polygon:
        """All it covers, seen from above."""

    @property
    def floor(self) -> Polygon:
        """What stands on the floor."""

    @property
    def height_mm(self) -> float: ...

    def at(self, height_mm: float) -> Polygon:
        """The slice at a height, nothing where there is none."""

    def between(self, low_mm: float, high_mm: float) -> Polygon:
        """What it covers between two heights, nothing where there is none."""

    def top_under(self, area: Polygon) -> tuple[float, Polygon]:
        """How high it stands under an area, and what of the area lies on it there."""


@dataclass(frozen=True)
class Upright:
    """A part of one outline through its height."""

    outline: Polygon
    height_mm: float

    @property
    def floor(self) -> Polygon:
        return self.outline

    def at(self, height_mm: float) -> Polygon:
        return self.outline if 0 <= height_mm < self.height_mm else Polygon()

    def between(self, low_mm: float, high_mm: float) -> Polygon:
        return self.outline if low_mm < self.height_mm and high_mm > 0 else Polygon()

    def top_under(self, area: Polygon) -> tuple[float, Polygon]:
        lies: Polygon = self.outline.intersection(area)
        return self.height_mm, lies


class InShop(Protocol):
    """The sizes of a clamp of the shop that an element may take."""

    @property
    def width_mm(self) -> float: ...
    @property
    def length_mm(self) -> float: ...
    @property
    def friction(self) -> float: ...
    @property
    def stroke_mm(self) -> float: ...
    @property
    def toe_height_mm(self) -> float: ...
    @property
    def rated_force_n(self) -> float: ...


@dataclass(frozen=True)
class Nest:
    """A pocket in two jaws ``width_mm`` wide, each with its half, ``gap_mm`` between them.
    ``wall_mm`` stay outside it, and between two of them; common practice, from memory. ``posts``:
    what fills the part's openings is left standing.
    """

    width_mm: float
    gap_mm: float
    wall_mm: float = 6.0
    posts: bool = False

    def split_mm(self, held: Polygon) -> float:
        """Where the jaws part, across: amid the profile they hold."""
        return float(held.bounds[0] + held.bounds[2]) / 2

    def pocket(self, held: Polygon) -> Polygon:
        """What is cut out of both jaws."""
        return Polygon(held.buffer(FREE_MM).exterior)

    def pockets(self, held: Polygon, along: Sequence[float]) -> BaseGeometry:
        """Several side by side, each so far along the jaws from the first."""
        one = self.pocket(held)
        return shapely.union_all([translate(one, 0.0, y) for y in along])


#: A pocket is so much larger all round that nothing rubs while it is looked at, mm.
FREE_MM = 0.05


class Element(Document):
    """What every kind answers; a kind overrides what is particular to it."""

    kind: str = ""

    #: What it does to the part, and how its force follows from the screw's.
    acts: ClassVar[str]
    formula: ClassVar[str]
    #: As one of several is called: "2 straps a part"; as it is called where a part has just one.
    said: ClassVar[str]
    #: How many on a part the planner tries; with ``alone`` a part has one and no more.
    most: ClassVar[int] = 1
    #: Where it stands in a list of kinds.
    listed: ClassVar[int] = 50
    alone: ClassVar[bool] = False
    #: What it asks of people, besides what every screw does.
    caution: ClassVar[str] = ""
    #: How the part is located by it, where it needs no stops.
    locates: ClassVar[str] = ""
    #: The edge clamp's own toe presses, in its own body: parts can share it.
    is_toe: ClassVar[bool] = False
    #: It stands beside the part as the edge clamp does, with its width, length and height.
    stands_beside: ClassVar[bool] = False
    #: It leaves marks wherever it presses.
    bites: ClassVar[bool] = False
    #: A screw presses, so that there is a torque to choose.
    driven: ClassVar[bool] = True
    #: What is turned to press: the torque is on that.
    drive: ClassVar[str] = "screw"
    #: What the two stops beside it are called.
    stops_said: ClassVar[tuple[str, str]] = ("long stop", "end stop")
    #: How a whole setup of it is called; nothing where it stands on a plate or block.
    setup_said: ClassVar[str] = ""
    #: It comes with a form, and is not picked for a station by itself.
    by_form: ClassVar[bool] = False

    @property
    def flat_mm(self) -> float | None:
        """How wide a flat it presses with, and the long stop across from it; nothing for a toe."""
        return None

    @property
    def nest(self) -> Nest | None:
        """The pocket cut into its jaws, where they follow the part's outline."""
        return None

    @property
    def side_mm(self) -> float | None:
        """How wide the end stop beside it is; nothing for the station's own."""
        return None

    @property
    def there_are(self) -> int | None:
        """How many of it the shop has; nothing where that is no matter."""
        return None

    @property
    def back_mm(self) -> float | None:
        """How far behind its datum plane the other station of the same body has its own, half
        turned; nothing where a body has one station.
        """
        return None

    @property
    def up_mm(self) -> float:
        """How high over what it is bolted on the part stands in it."""
        return 0.0

    def stands_on(self, floor: Polygon, through: BaseGeometry) -> BaseGeometry | None:
        """What stands under a part's floor; nothing for all of it. ``through``: where cuts come out
        below. Raises OutOfRange where nothing can.
        """
        return None

    def turned(self, clamp: EdgeClamp) -> str | None:
        """The screw that a person turns; nothing where it is none."""
        return clamp.screw if self.driven and self.drive == "screw" else None

    def rated_nm(self, clamp: EdgeClamp) -> float:
        """The torque that what drives it is rated for."""
        return SCREWS[clamp.screw].rated_torque_nm

    @classmethod
    def fitted(cls, hole: Bored | None, height_mm: float) -> Self:
        """As it would be tried on a part with this hole nearest its middle."""
        return cls()

    @classmethod
    def of_shop(cls, item: InShop) -> Self:
        """Of a clamp of the shop; sizes it does not have stay at their usual values."""
        return cls()

    def preload(self, clamp: EdgeClamp, sealed_mm2: float = 0.0) -> Preload:
        """What each of its presses gets, normal to the part, low and high. Raises OutOfRange.

        Low: least torque, highest friction. High: most torque, lowest friction. ``sealed_mm2``:
        area inside a vacuum's seal.
        """
        raise NotImplementedError

    def fixings(self, clamp: EdgeClamp, over_mm: float) -> tuple[Fixing, ...]:
        """What each of its screws wants in what it stands on, at the screw's place; ``over_mm``:
        how high it stands.
        """
        return (Fixing(self.said, thread=clamp.screw, clamped_mm=over_mm),)

    def let_in(self, bodies: Sequence[Body]) -> tuple[Milled, ...]:
        """Pockets that the bodies of its clamps stand in."""
        return ()

    def under(self, floor: Polygon) -> tuple[tuple[Milled, ...], tuple[Fixing, ...]]:
        """Pockets and holes under each part, in its frame; ``floor``: what of it lies there."""
        return (), ()

    def along_side_mm(self, clamp: EdgeClamp) -> float | None:
        """Its width where it presses along the side across from the long stop; else nothing."""
        return clamp.width_mm if self.stands_beside else None

    def grip(self, stood: Stood, clamp: EdgeClamp, count: int, places: tuple[float, ...]) -> Grip:
        """Where ``count`` of it take hold of one part, at ``places`` along its side where they
        press there. Raises OutOfRange.
        """
        raise NotImplementedError

    def sealed_mm2(self, stood: Stood) -> float:
        """Area inside a seal. Raises OutOfRange."""
        return 0.0

    def rubs(self, clamp: EdgeClamp) -> float:
        """Friction where it presses on the part."""
        return float(getattr(self, "friction", clamp.toe_friction))

    def leaning(self) -> Leaning | None:
        """The long stop beside it, where that leans over the part."""
        return None

    def seated(self, seats: tuple[Contact, ...], preload_n: float) -> list[Contact]:
        """The seats of its grip as they carry under a part's preload."""
        return list(seats)

    def lets_go(self, stood: Stood, clamp: EdgeClamp, blanks: Blanks) -> list[str]:
        """How the part comes out, in the trade's words. Raises OutOfRange where it does not."""
        raise NotImplementedError

    def sizes(self, clamp: EdgeClamp) -> list[FigureInput]:
        """What its force follows from, besides the screw."""
        own = [
            given(
                name.removesuffix("_mm").replace("_", " "),
                value,
                "mm" if name.endswith("_mm") else "",
            )
            for name, value in self.model_dump(exclude={"kind"}).items()
        ]
        if self.stands_beside:
            own.append(
                given("transmission", clamp.transmission, "", "clamp maker's figure, as entered")
            )
        return own


ELEMENTS: Kinds[Element] = Kinds("wedgecraft.core.clamping.elements", "station.element.kind")


def picked() -> tuple[type[Element], ...]:
    """The kinds that are picked for a station by themselves."""
    return tuple(kind for kind in ELEMENTS if not kind.by_form)


def picked_names() -> tuple[str, ...]:
    """What they are called."""
    return tuple(kind.model_fields["kind"].default for kind in picked())


def one_of(count: int, kind: str) -> None:
    """Raises OutOfRange for more than one of what a part has one of."""
    if count != 1:
        raise OutOfRange("station.clamps", count, f"one: a part has one {kind}")


def lifts(height_mm: float) -> str:
    """What most elements say once they have let go."""
    return (
        f"The part lifts out upwards, {height_mm:g} mm and more above the plate must be free over"
        " it."
    )
