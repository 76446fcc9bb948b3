"""Plan requests of version 1 (one part, one cut, one tolerance), brought up to version 2; and what
version 2 stored of an op and nothing read, taken out.
"""

from __future__ import annotations

from typing import Any

_CUT_KINDS = {"around": "contour", "across": "face"}


def upgraded(given: Any) -> Any:
    """A version 1 document as version 2; anything else as it is. Wrong fields are left for the
    validation to name.
    """
    if not isinstance(given, dict) or given.get("version", 1) != 1 or "parts" in given:
        return given
    if not all(isinstance(given.get(key), dict) for key in ("part", "cut", "tolerance", "station")):
        return given
    rest = {
        key: value
        for key, value in given.items()
        if key not in ("part", "cut", "tolerance", "version")
    }
    tolerance, station = dict(given["tolerance"]), dict(given["station"])
    x, y = station.pop("feature_x_mm", None), station.pop("feature_y_mm", None)
    middle = _middle(given["part"])
    feature = {
        "name": tolerance.get("feature", "Bore to plate datum"),
        "tolerance_mm": tolerance.get("zone_mm"),
        "x_mm": middle[0] if x is None else x,
        "y_mm": middle[1] if y is None else y,
    }
    cut = dict(given["cut"])
    cut["kind"] = _CUT_KINDS.get(cut.pop("path", "around"), "contour")
    rules = dict(given.get("rules") or {})
    if "rule" in tolerance:
        rules["tolerance_rule"] = tolerance["rule"]
    part = {**given["part"], "features": [feature], "ops": [{"number": 10, "cuts": [cut]}]}
    return {**rest, "version": 2, "parts": [part], "station": station, "rules": rules}


def without_forms(given: Any) -> Any:
    """A request without what its ops are "held in": that stands in the job's route."""
    if not isinstance(given, dict) or not isinstance(given.get("parts"), list):
        return given
    return {**given, "parts": [_without_forms(part) for part in given["parts"]]}


def _without_forms(part: Any) -> Any:
    if not isinstance(part, dict) or not isinstance(part.get("ops"), list):
        return part
    ops = [
        {key: value for key, value in op.items() if key != "form"} if isinstance(op, dict) else op
        for op in part["ops"]
    ]
    return {**part, "ops": ops}


def _middle(part: dict[str, Any]) -> tuple[float, float]:
    """Centroid of the outline from its datum corner, as version 1 placed its feature."""
    from pydantic import ValidationError

    from wedgecraft.core.records.outline import Outline, outline_polygon

    try:
        centre = outline_polygon(Outline.model_validate(part.get("outline"))).centroid
    except (ValidationError, ValueError, TypeError):
        return 0.0, 0.0
    return float(centre.x), float(centre.y)
