"""How clamps, stops and pins are fixed to what they stand on: holes, and what goes into them."""

from __future__ import annotations

from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Fixing:
    """One hole, its place in the station's frame; what stands in it is named.

    A ``thread`` takes a screw through ``clamped_mm`` of what is bolted on (a stud with a nut
    where ``stud``); a ``fit`` is a bore of ``diameter_mm`` and that class, ``depth_mm`` deep,
    nothing for through, plain without a class; ``dowel_mm``: the length of the dowel pressed into
    it; ``starts_mm``: how far down a thread begins, below a bore; ``begins_mm``: how far down all
    of it begins, on the floor of a groove. ``unknown``: what it wants there nobody but its maker
    says.
    """

    what: str
    x: float = 0.0
    y: float = 0.0
    thread: str = ""
    clamped_mm: float = 0.0
    stud: bool = False
    diameter_mm: float = 0.0
    fit: str = ""
    depth_mm: float | None = None
    dowel_mm: float = 0.0
    starts_mm: float = 0.0
    begins_mm: float = 0.0
    unknown: str = ""

    def at(self, x: float, y: float) -> Fixing:
        """The same at another place."""
        return replace(self, x=x, y=y)
