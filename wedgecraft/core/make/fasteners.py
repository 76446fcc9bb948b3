"""Screws, dowels and thread inserts of the standards: which holes they want, how long there are.

Tapping drills ISO 2306; clearance holes ISO 273, medium; heads ISO 4762; counterbores DIN 974-1,
row 1; drills for wire inserts DIN 8140; lengths ISO 4762 and ISO 8734: all from memory, checked
against an open library's tables where it has them.
"""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass
from fractions import Fraction

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.material import Material


@dataclass(frozen=True)
class Thread:
    """ISO metric coarse, or unified; ``sink_mm``: counterbore for the socket head; ``insert_mm``:
    drill for a wire insert; ``key_mm``: across the hexagon.
    """

    name: str
    nominal_mm: float
    pitch_mm: float
    drill_mm: float
    clear_mm: float
    head_mm: float
    sink_mm: float
    insert_mm: float
    key_mm: float

    @property
    def head_high_mm(self) -> float:
        """Socket heads are as high as the screw is thick."""
        return self.nominal_mm

    @property
    def inch(self) -> bool:
        return not self.name.startswith("M")

    @property
    def standard(self) -> str:
        """Of its socket head screw."""
        return "ASME B18.3" if self.inch else "ISO 4762"

    def screw(self, length_mm: float) -> str:
        """As it is bought.

        >>> THREADS["M8"].screw(30.0), THREADS["1/4-20"].screw(31.75)
        ('Screw ISO 4762 M8 x 30', 'Screw ASME B18.3 1/4-20 x 1 1/4 in')
        """
        long = _fraction(length_mm / _INCH) if self.inch else f"{length_mm:g}"
        return f"Screw {self.standard} {self.name} x {long}"


_INCH = 25.4


def _fraction(inches: float) -> str:
    eighths = Fraction(round(8 * inches), 8)
    whole, rest = divmod(eighths, 1)
    said = " ".join(str(part) for part in (whole, rest) if part)
    return f"{said} in"


_METRIC = {
    thread.name: thread
    for thread in (
        Thread("M3", 3, 0.5, 2.5, 3.4, 5.5, 6.5, 3.2, 2.5),
        Thread("M4", 4, 0.7, 3.3, 4.5, 7, 8, 4.2, 3),
        Thread("M5", 5, 0.8, 4.2, 5.5, 8.5, 10, 5.2, 4),
        Thread("M6", 6, 1.0, 5.0, 6.6, 10, 11, 6.3, 5),
        Thread("M8", 8, 1.25, 6.8, 9, 13, 15, 8.4, 6),
        Thread("M10", 10, 1.5, 8.5, 11, 16, 18, 10.5, 8),
        Thread("M12", 12, 1.75, 10.2, 13.5, 18, 20, 12.5, 10),
        Thread("M16", 16, 2.0, 14.0, 17.5, 24, 26, 16.5, 14),
        Thread("M20", 20, 2.5, 17.5, 22, 30, 33, 20.75, 17),
    )
}
#: Unified, for clamps that come with them: ASME B1.1, heads B18.3, clearance B18.2.8 normal,
#: counterbores and drills of the usual tables, all from memory.
_UNIFIED = {
    thread.name: thread
    for thread in (
        Thread("#10-32", 4.826, 0.79375, 4.039, 5.613, 7.925, 9.525, 5.159, 3.969),
        Thread("1/4-20", 6.35, 1.27, 5.105, 7.144, 9.525, 11.113, 6.746, 4.763),
        Thread("5/16-18", 7.9375, 1.41111, 6.528, 8.731, 11.913, 13.494, 8.334, 6.35),
        Thread("3/8-16", 9.525, 1.5875, 7.938, 10.319, 14.275, 15.875, 9.922, 7.938),
        Thread("1/2-13", 12.7, 1.95385, 10.716, 14.288, 19.05, 20.638, 13.097, 9.525),
        Thread("5/8-11", 15.875, 2.30909, 13.494, 17.463, 23.825, 25.4, 16.272, 12.7),
    )
}
THREADS = _METRIC | _UNIFIED
#: Those that are picked where nobody said which, the smallest first.
PICKED = tuple(_METRIC.values())

SCREW_LENGTHS = (
    *(5, 6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110, 120),
    *(130, 140, 150, 160, 180, 200),
)
#: Of unified screws, in mm.
INCH_LENGTHS = tuple(
    _INCH * each / 8
    for each in (
        *(2, 3, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30, 32, 36, 40, 44, 48),
        *(56, 64),
    )
)
#: Hardened dowels: diameters, and their lengths.
DOWELS = (2, 2.5, 3, 4, 5, 6, 8, 10, 12, 16, 20)
DOWEL_LENGTHS = (8, 10, 12, 14, 16, 18, 20, 24, 28, 32, 36, 40, 45, 50, 55, 60, 70, 80, 90, 100)

#: A counterbore is so much deeper than the head is high.
SUNK_MM = 0.4
#: A thread goes on so many pitches below the screw's end, and the drill so many below the thread.
THREAD_BELOW = 2
DRILL_BELOW = 4
#: At least so much of a screw's diameter is in the thread; common practice, no source.
_IN_STEEL = 1.0
_IN_SOFT = 1.5
#: Stiffer than this, a metal is steel, from memory.
_STEEL_MPA = 150_000.0


@dataclass(frozen=True)
class ScrewPick:
    """A standard screw: its length, how much of it is in the thread, and how deep thread and drill
    go.
    """

    thread: Thread
    length_mm: float
    engaged_mm: float
    thread_depth_mm: float
    drill_depth_mm: float


def engagement_mm(thread: Thread, material: Material, insert: bool) -> float:
    """The least length of thread that must carry: one diameter in steel, one and a half in anything
    softer, or in an insert.
    """
    steel = material.youngs_mpa > _STEEL_MPA and not insert
    return (_IN_STEEL if steel else _IN_SOFT) * thread.nominal_mm


def screw_for(
    thread: Thread, clamped_mm: float, material: Material, insert: bool = False
) -> ScrewPick:
    """The shortest standard screw through ``clamped_mm`` into this material. Raises OutOfRange
    where there is none so long.
    """
    least = clamped_mm + engagement_mm(thread, material, insert)
    lengths = INCH_LENGTHS if thread.inch else SCREW_LENGTHS
    place = bisect_left(lengths, least - 1e-9)
    if place == len(lengths):
        raise OutOfRange(
            "clamped_mm",
            clamped_mm,
            f"at most {lengths[-1] - least + clamped_mm:.0f} mm under the head of an"
            f" {thread.name} screw: no standard one is longer",
        )
    length = float(lengths[place])
    engaged = length - clamped_mm
    deep = engaged + THREAD_BELOW * thread.pitch_mm
    return ScrewPick(thread, length, engaged, deep, deep + DRILL_BELOW * thread.pitch_mm)


def dowel_for(engaged_mm: float, proud_mm: float) -> float:
    """The shortest standard dowel that stands at least so deep in one piece and so far out of it.
    Raises OutOfRange where there is none so long.
    """
    place = bisect_left(DOWEL_LENGTHS, engaged_mm + proud_mm - 1e-9)
    if place == len(DOWEL_LENGTHS):
        most = DOWEL_LENGTHS[-1]
        raise OutOfRange("proud_mm", proud_mm, f"dowels of at most {most} mm")
    return float(DOWEL_LENGTHS[place])


def largest_sunk(room_mm: float) -> Thread | None:
    """The largest screw whose counterbore is no wider than this."""
    fit = [thread for thread in PICKED if thread.sink_mm <= room_mm + 1e-9]
    return fit[-1] if fit else None
