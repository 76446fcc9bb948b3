"""The finished part as a body, in its own frame: the solid it was read from, or its outline with
height, and what the outline does not say.
"""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon, box

from wedgecraft.core.ground.arcs import CHORD_ERROR_MM, sides_of
from wedgecraft.core.records.outline import outline_polygon, polygon_of
from wedgecraft.core.records.part import Part, Solid
from wedgecraft.core.records.recess import Hole, Pocket, Recess
from wedgecraft.core.workpiece.body import Body, bevelled, cylinder, less, prism, united
from wedgecraft.core.workpiece.mesh import turn_up
from wedgecraft.core.workpiece.packed import body_of
from wedgecraft.core.workpiece.pose import Pose, pose_of

#: A recess begins this far outside the part, so that nothing is left on its face.
_OVER_MM = 1.0


def finished_body(part: Part) -> Body:
    """What the part is when it is done. Raises NotABody for a solid that cannot be read.

    A part whose solid is not at hand is what its outline says. Kept for as long as the same is
    asked: an edit of a cut does not change it.
    """
    key = (
        part.outline.model_dump_json(),
        str(part.height_mm),
        *(recess.model_dump_json() for recess in part.recesses),
        "" if solid_of(part) is None else str(part.solid),
    )
    if key not in _KEPT:
        while len(_KEPT) >= _MOST_KEPT:
            del _KEPT[next(iter(_KEPT))]
        _KEPT[key] = _made(part)
    return _KEPT[key]


#: Bodies asked for before, the oldest first.
_KEPT: dict[tuple[str, ...], Body] = {}
_MOST_KEPT = 32


def _made(part: Part) -> Body:
    stood = None if part.solid is None else _solid(part, part.solid)
    return _drawn(part) if stood is None else stood


def solid_of(part: Part) -> Body | None:
    """The solid a part was read from, in its file's axes; nothing where it has none, or it is not
    at hand. Raises NotABody.
    """
    mesh = part.solid.mesh if part.solid is not None else None
    return None if mesh is None else body_of(mesh)


def _solid(part: Part, solid: Solid) -> Body | None:
    body, pose = solid_of(part), file_pose(part)
    return None if body is None or pose is None else pose.put(body)


def file_pose(part: Part) -> Pose | None:
    """From the axes of the file a part was read from into the part's frame; nothing where it was
    read from none, or its solid is not at hand. Raises NotABody.
    """
    body = solid_of(part)
    if body is None or part.solid is None:
        return None
    turn = turn_up(part.solid.up)
    x0, y0, z0, x1, y1, _ = body.turned(turn).box
    # Its chords lie within the curves that the outline keeps outside: both have one middle.
    left, low, right, high = outline_polygon(part.outline).bounds
    return Pose(turn, np.array([(left + right - x0 - x1) / 2, (low + high - y0 - y1) / 2, -z0]))


def _drawn(part: Part) -> Body:
    outline = outline_polygon(part.outline)
    error = part.outline.chord_error_mm
    whole = prism(outline, 0.0, part.height_mm, error)
    if part.outline.islands:
        corner = polygon_of(part.outline.outer, part.outline.holes).bounds
        rings = [
            shapely.transform(Polygon(ring), lambda xy: xy - [corner[0], corner[1]])
            for ring in part.outline.islands
        ]
        whole = united([whole, *(prism(ring, 0.0, part.height_mm, error) for ring in rings)])
    if not part.recesses:
        return whole
    stood = {side: pose_of(whole, side) for side in {recess.side for recess in part.recesses}}
    bodies = {side: pose.put(whole) for side, pose in stood.items()}
    return less(
        whole,
        [stood[recess.side].back(_taken(recess, bodies[recess.side])) for recess in part.recesses],
    )


def _taken(recess: Recess, stood: Body) -> Body:
    """What a recess takes, the part standing with that side up."""
    top, wide = stood.box[5], max(stood.box[3], stood.box[4])
    if isinstance(recess, Hole):
        deep = top + _OVER_MM if recess.depth_mm is None else recess.depth_mm
        foot = (recess.x_mm, recess.y_mm, top - deep)
        point = None if recess.depth_mm is None else recess.point_deg
        return cylinder(foot, deep + _OVER_MM, recess.diameter_mm / 2, point)
    if isinstance(recess, Pocket):
        return prism(pocket_area(recess), top - recess.depth_mm, top + _OVER_MM, CHORD_ERROR_MM)
    low = top - recess.width_mm
    areas = [Polygon(part.exterior) for part in stood.slice(low).geoms]
    kept = [bevelled(area, low, top, -recess.width_mm) for area in areas]
    around = prism(box(-wide, -wide, 2 * wide, 2 * wide), low, top + _OVER_MM)
    return less(around, kept)


def pocket_area(pocket: Pocket) -> Polygon:
    """Its outline, corners rounded. Raises ValueError for one that has no area."""
    if len(pocket.at) == 2:
        (x0, y0), (x1, y1) = pocket.at
        area = box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
    else:
        area = Polygon(pocket.at)
    if area.is_empty or not area.is_valid or area.area < 1e-6:
        raise ValueError("a pocket needs two opposite corners, or three points and more round it")
    radius = pocket.corner_radius_mm
    if radius > 0:
        round_ = area.buffer(-radius).buffer(radius, quad_segs=sides_of(radius) // 4)
        area = area if round_.is_empty else shapely.get_parts(round_)[0]
    return area
