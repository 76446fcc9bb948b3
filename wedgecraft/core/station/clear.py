"""Whether what holds a part keeps clear of the rest of it, and touches what this op leaves."""

from __future__ import annotations

from shapely.geometry import Polygon

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.station.clamped import Clamped
from wedgecraft.core.workpiece.body import prism
from wedgecraft.core.workpiece.sitting import Sitting

#: A body may be this much inside the workpiece, seen from above: chords, rounding.
_RUBS_MM2 = 0.05
#: What lies on the part, or under it, is not in it.
_MARGIN_MM = 0.02
#: What touches is looked at this deep under the surface.
_DEEP_MM = 0.2
#: Less of it gone than this is nothing, mm3.
_GONE_MM3 = 0.05


def keeps_clear(
    sitting: Sitting, kind: StopAndEdgeClamp, long_stop: Polygon, end_stop: Polygon, held: Clamped
) -> None:
    """Raises OutOfRange where a clamp would stand in the part, or where stops and toes touch what a
    cut of this op takes away.
    """
    first = held.members[0]
    toe = kind.element.stands_beside
    for body in held.bodies:
        if body.high_mm - body.low_mm <= 2 * _MARGIN_MM or body.high_mm <= 0:
            continue
        low, high = body.low_mm + _MARGIN_MM, body.high_mm - _MARGIN_MM
        inside = sitting.band(low, high).intersection(body.polygon)
        if inside.area > _RUBS_MM2:
            x0, _, x1, _ = inside.bounds
            raise OutOfRange(
                "station.clamp.toe_height_mm" if toe else "station.element.kind",
                kind.clamp.toe_height_mm if toe else kind.element.kind,
                f"where the part stands out no farther than at the toe: it stands {x1 - x0:.2f} mm"
                " into the clamp at another height; a toe at that height, a lower clamp, or"
                " another side up"
                if toe
                else f"room beside the part: it stands into the {kind.element.kind}",
            )
    if sitting.before.volume_mm3 - sitting.after.volume_mm3 <= _GONE_MM3:
        return
    if kind.stopped:
        high = kind.stops.height_mm
        for name, stop in zip(kind.element.stops_said, (long_stop, end_stop), strict=True):
            if not stop.is_empty:
                _stays(sitting, name, stop.buffer(_DEEP_MM), 0.0, high, "station.stops.height_mm")
    flat = kind.element.flat_mm
    if kind.element.is_toe or flat is not None:
        low, high = kind.clamp.toe_mm if flat is None else (0.0, kind.stops.height_mm)
        for press in first.presses:
            reach = (flat or kind.clamp.width_mm) / 2
            area = Polygon(
                [
                    (press.x - _DEEP_MM, press.y - reach),
                    (press.x + _DEEP_MM, press.y - reach),
                    (press.x + _DEEP_MM, press.y + reach),
                    (press.x - _DEEP_MM, press.y + reach),
                ]
            )
            field = "station.clamp.toe_height_mm" if flat is None else "station.stops.height_mm"
            _stays(sitting, "clamp" if flat is None else "jaw", area, low, high, field)


def _stays(sitting: Sitting, name: str, area: Polygon, low: float, high: float, field: str) -> None:
    """What touches there must still be there when the op is done."""
    there = prism(area, max(0.0, low), min(high, sitting.height_mm))
    touched, left = sitting.before & there, sitting.after & there
    gone_mm3 = touched.volume_mm3 - left.volume_mm3
    if gone_mm3 <= _GONE_MM3 or gone_mm3 < 0.02 * touched.volume_mm3:
        return
    stays = (touched - left).box[2]
    raise OutOfRange(
        field,
        high if field.endswith("stops.height_mm") else (low + high) / 2,
        f"lower than {stays:.2f} mm, or another side: a cut of this op takes away what the {name}"
        " touches above that"
        if stays > 0.5
        else f"another side, or that cut in another op: a cut of this op takes away what the {name}"
        " touches",
    )
