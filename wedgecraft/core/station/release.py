"""Whether a part can be taken out: what opens, how far, and whether that is enough."""

from __future__ import annotations

import math

from wedgecraft.core.clamping.places import fitting_hole
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.element import Dovetail, ExpandingPin, PullStud, Rod, Strap, Vacuum
from wedgecraft.core.records.request import PlanRequest
from wedgecraft.core.station.build import Station
from wedgecraft.core.station.preload import blanks_of
from wedgecraft.core.workpiece.sitting import Sitting

#: What a part needs beside its own variation to be lifted out by hand without catching; common
#: practice, from memory.
PLAY_MM = 0.2
#: An expanding sleeve must be this much smaller than the hole when it is let go.
_SLEEVE_MM = 0.05


def release(request: PlanRequest, sitting: Sitting, station: Station) -> list[str]:
    """What lets go, in the trade's words. Raises OutOfRange where it does not open far enough."""
    kind = request.station
    element, clamp = kind.element, kind.clamp
    lifts = (
        f"The part lifts out upwards, {sitting.height_mm:g} mm and more above the plate must be"
        " free over it."
    )
    if isinstance(element, Strap):
        return [
            (
                f"The strap slides back {element.nose_mm + 1:g} mm and clears the part; that room"
                " is kept free behind it."
            ),
            lifts,
        ]
    if isinstance(element, ExpandingPin):
        hole = fitting_hole(station.part, element.least_mm, element.most_mm)
        play = hole.diameter_mm - element.least_mm if hole else 0.0
        if play < _SLEEVE_MM:
            raise OutOfRange(
                "station.element.least_mm",
                element.least_mm,
                f"a sleeve at least {_SLEEVE_MM:g} mm smaller than the hole when let go, or the"
                " part cannot be drawn off",
            )
        return [f"The sleeve relaxes {play:.2f} mm below the hole's diameter.", lifts]
    if isinstance(element, PullStud):
        return ["The studs are let go; the part lifts off with them in it. " + lifts]
    if isinstance(element, Rod):
        return ["Nut and washer come off the rod; the part lifts over its whole length.", lifts]
    if isinstance(element, Vacuum):
        return ["Air must be let in under the part: never pry at a part that still holds.", lifts]
    blanks = blanks_of(request, sitting)
    needed = 2 * blanks.spread_mm + PLAY_MM
    if isinstance(element, Dovetail):
        undercut = element.depth_mm / math.tan(math.radians(element.flank_deg))
        if clamp.opens_mm < undercut + PLAY_MM:
            return [
                f"The flank opens {clamp.opens_mm:g} mm, less than the {undercut + PLAY_MM:.1f} mm"
                " to lift the part out: it slides out along the flanks, away from the end stop;"
                " keep that way free."
            ]
        return [f"The flank opens {clamp.opens_mm:g} mm, {undercut:.1f} mm are undercut.", lifts]
    if clamp.opens_mm < needed:
        raise OutOfRange(
            "station.clamp.opens_mm",
            clamp.opens_mm,
            f"at least {needed:.2f} mm: blanks differ by {2 * blanks.spread_mm:.2f} mm over the"
            f" clamp ({blanks.source or 'as entered'}) and need {PLAY_MM:g} mm to come out; a clamp"
            " with more stroke, or blanks cut closer",
        )
    return [
        f"The clamp opens {clamp.opens_mm:g} mm; {needed:.2f} mm are needed for the largest blank.",
        lifts,
    ]
