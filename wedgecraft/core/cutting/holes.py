"""Hole cuts: drilling, reaming, tapping, boring, with Kienzle's specific cutting force.

Torque of a drill ``M = kc f D² / 8``, of a reamer ``M = kc f (D² - d²) / 8``, of a tap ``M = kc P²
D / 8``, boring force ``Fc = kc ap f``: the usual handbook formulas (Tabellenbuch Metall; Paucksch,
Zerspantechnik; from memory). kc = kc1.1 h^-mc at the chip thickness h of one edge. Thrust and pull
are ratios from memory, named below.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import shapely
from shapely.geometry import MultiPoint, MultiPolygon, Polygon

from wedgecraft.core.cutting.reach import filled
from wedgecraft.core.ground.arcs import disc
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.planar import spread_out
from wedgecraft.core.records.cut import (
    Cut,
    CutChart,
    CutKind,
    CutPath,
    CuttingLoad,
    Scene,
    Stories,
    Sweep,
)
from wedgecraft.core.records.material import Material

#: Thrust of a drill per (kc D f / 2) sin κ: edges about 0.5 to 0.6, the chisel edge as much again;
#: from memory, on the high side.
DRILL_THRUST = 1.0
#: A drill, reamer or tap can screw itself into the part as it breaks through: share of the thrust;
#: from memory.
BREAKTHROUGH = 0.3
#: Feed force per cutting force of a single edge (reaming, boring): 0.3 to 0.5 in handbooks, from
#: memory.
FEED_RATIO = 0.5
#: Axial pull and push of a tap per tangential force at its diameter, synchronised spindle; from
#: memory.
TAP_AXIAL = 0.2
#: Threads in the lead of a tap, common form; share of the pitch that is thread depth (ISO 68: 5/8
#: of 0.866 P).
TAP_LEAD_THREADS, THREAD_DEPTH = 4.0, 0.5413
#: A hole cut starts this far above the hole.
_APPROACH_MM = 2.0
_SOURCE = "usual handbook formulas for hole cuts with Kienzle's kc, from memory"


@dataclass(frozen=True)
class HoleForces:
    """What a hole cut's kind works out; ``area_mm2``: of what it takes, square to the axis."""

    torque_nmm: float
    chip_mm: float
    push_n: float
    pull_n: float
    in_plane_n: float
    area_mm2: float


class HoleCut(CutKind):
    """What all hole cuts have in common."""

    hole: ClassVar[bool] = True
    inside: ClassVar[bool] = True
    through: ClassVar[bool] = True
    #: It comes back out at feed, as a tap and a reamer do.
    back_at_feed: ClassVar[bool] = False
    #: It takes what is left on the radius, and needs that.
    takes_radius: ClassVar[bool] = False

    def feed_per_turn_mm(self, cut: Cut) -> float:
        return cut.feed_per_tooth_mm * cut.tool.teeth

    def forces(self, cut: Cut, work: Material) -> HoleForces:
        raise NotImplementedError

    def path(self, cut: Cut, outline: Polygon) -> CutPath:
        solid, radius = Polygon(outline.exterior), cut.tool.diameter_mm / 2
        holes = cut.at or [(solid.centroid.x, solid.centroid.y)]
        reach = solid.buffer(radius)
        off = next((point for point in holes if not reach.covers(shapely.Point(point))), None)
        if off is not None:
            raise OutOfRange(
                "cut.at",
                f"{off[0]:g}, {off[1]:g}",
                "on the part: places are measured from its datum corner",
            )
        depth = cut.passes * cut.axial_depth_mm + _APPROACH_MM
        way_back = depth if self.back_at_feed else 0.0
        return CutPath(MultiPoint(holes), len(holes) * (depth + way_back))

    def sweeps(self, cut: Cut, scene: Scene) -> list[Sweep]:
        """A cylinder at each place, down to its full depth."""
        if self.by_pitch:
            return []  # a thread takes next to nothing, and is drawn as its hole
        radius = cut.tool.diameter_mm / 2
        area = MultiPolygon([Polygon(disc(x, y, radius)) for x, y in self._places(cut, scene)])
        return [Sweep(area, scene.top_mm - cut.depth_mm, point_deg=self.point_deg(cut))]

    def point_deg(self, cut: Cut) -> float | None:
        """Full angle of the point that goes deeper than its depth; nothing for a flat end."""
        return None

    def _places(self, cut: Cut, scene: Scene) -> list[tuple[float, float]]:
        if cut.at:
            return cut.at
        middle = filled(scene.kept_above(-math.inf)).centroid
        return [(middle.x, middle.y)]

    def load(self, cut: Cut, work: Material) -> CuttingLoad:
        """Torque, thrust and, for boring, the turning radial force. Raises OutOfRange."""
        tool = cut.tool
        if cut.axial_depth_mm > tool.flute_length_mm * (1 + 1e-12):
            raise OutOfRange(
                "cut.axial_depth_mm",
                cut.axial_depth_mm,
                f"at most the cutting length, {tool.flute_length_mm:g} mm",
            )
        if not self.by_pitch and cut.feed_per_tooth_mm <= 0:
            raise OutOfRange("cut.feed_per_tooth_mm", cut.feed_per_tooth_mm, "more than nothing")
        if self.takes_radius and not 0 < cut.radial_width_mm < tool.diameter_mm / 2:
            raise OutOfRange(
                "cut.radial_width_mm",
                cut.radial_width_mm,
                "the stock left on the radius: more than nothing, less than the radius,"
                f" {tool.diameter_mm / 2:g} mm",
            )
        found = self.forces(cut, work)
        feed = self.feed_per_turn_mm(cut) * cut.spindle_rpm
        return CuttingLoad(
            in_plane_peak_n=found.in_plane_n,
            pull_peak_n=found.pull_n,
            push_peak_n=found.push_n,
            twist_nm=found.torque_nmm / 1000,
            mean_power_w=found.torque_nmm / 1000 * 2 * math.pi * cut.spindle_rpm / 60,
            peak_torque_nm=found.torque_nmm / 1000,
            removal_rate_mm3_min=found.area_mm2 * feed,
            feed_rate_mm_min=feed,
            cutting_speed_m_min=math.pi * tool.diameter_mm * cut.spindle_rpm / 1000,
            mean_chip_mm=found.chip_mm,
        )

    def chart(self, cut: Cut, work: Material) -> CutChart:
        """A hole cut pulls evenly: the same at every angle."""
        load = self.load(cut, work)
        return CutChart(
            angle_deg=[3.0 * k for k in range(120)],
            in_plane_n=[load.in_plane_peak_n] * 120,
            torque_nm=[load.peak_torque_nm] * 120,
        )

    def places(self, cut: Cut, outline: Polygon) -> dict[tuple[float, float], str]:
        holes = shapely.get_coordinates(self.path(cut, outline).axis)
        if len(holes) > 8:
            holes = holes[spread_out(holes, 8)]
        return {(float(x), float(y)): f"at X{x:g} Y{y:g}" for x, y in holes}


def hole_stories(force: str, pull: str, push: str, torque: str, **more: str) -> Stories:
    """The figures of a hole cut; what is the same for all of them said once."""
    return Stories(
        source=_SOURCE,
        force=force,
        pull=pull,
        push=push,
        power="torque x 2π x spindle speed",
        torque=torque,
        chip="thickness of the chip of one edge",
        chip_source="geometry of the edge",
        **more,
    )


def specific_mpa(cut: Cut, work: Material, chip_mm: float) -> float:
    """Kienzle's specific cutting force at this chip thickness."""
    return work.kc11_mpa * cut.wear_factor * chip_mm**-work.mc
