"""Fields and their values as a machinist would say them: what a refusal is about, not where it
stands in a document.
"""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from wedgecraft.core.ground.errors import OutOfRange

_UNITS = {
    "mm": "mm",
    "mm2": "mm²",
    "nm": "N·m",
    "kg": "kg",
    "n": "N",
    "deg": "°",
    "mpa": "MPa",
    "kpa": "kPa",
    "s": "s",
    "rpm": "1/min",
    "kw": "kW",
    "k": "K",
}
#: What a group of fields belongs to.
_OF = {
    "clamp": "clamp",
    "stops": "stops",
    "sharing": "jaw row",
    "locating": "locating",
    "plate": "plate",
    "block": "block",
    "machine": "machine",
    "rules": "house rules",
    "stock": "blank",
    "datum": "datum",
    "accuracy": "accuracy",
    "arrangement": "arrangement",
    "station": "station",
    "op": "op",
    "vise": "vise",
    "cut": "cut",
    "turn": "turn",
}
#: Names that say less than they should.
_NAMES = {
    "toe_height": "height it presses at",
    "axial_depth": "depth of cut",
    "radial_width": "width of cut",
    "feed_per_tooth": "feed per tooth",
    "spindle": "spindle speed",
    "opens": "opening",
    "least": "least size",
    "most": "largest size",
    "row": "parts in a row",
    "how": "way of sharing",
    "clamps": "number of clamps",
    "at": "places",
    "kind": "kind",
    "up": "side that is up",
    "low": "low end",
    "high": "high end",
    "cuts": "cuts",
    "apart": "plus or minus between the holes",
    "ways": "ways of clamping",
}


def refused(error: OutOfRange, document: object = None) -> str:
    """What is refused: "clamp: torque of 60 N·m". ``document`` is where the field stands, for the
    names of cuts, parts and kinds.
    """
    name, unit = _split(error.field.rsplit(".", 1)[-1])
    owner = _owner(error.field, document)
    if owner == error.value:  # a kind that does not go here is named once
        return owner
    value = _value(error.value, unit)
    whole = f"{owner}: {name}" if owner else name
    return f"{whole}{value}"


def worded(error: OutOfRange, document: object = None) -> tuple[str, str, str]:
    """What is not possible, why where it is said, and the nearest that works."""
    nearest, _, why = error.allowed.partition(": ")
    if not why and "; " in error.allowed:
        why, _, nearest = error.allowed.partition("; ")
    return f"{refused(error, document)} is not possible", why, nearest


def sentence(error: OutOfRange, document: object = None) -> str:
    """The same as one sentence."""
    said = f"{refused(error, document)} is not possible: {error.allowed}"
    return f"{said[:1].upper()}{said[1:]}."


def _split(field: str) -> tuple[str, str]:
    head, _, tail = field.rpartition("_")
    unit = _UNITS.get(tail, "") if head else ""
    name = head if unit else field
    return (_NAMES.get(name) or name.replace("_", " ")), unit


def _value(value: Any, unit: str) -> str:
    if isinstance(value, bool) or value is None or isinstance(value, (list, dict, tuple)):
        return ""
    if isinstance(value, (int, float)):
        return f" of {value:.6g}{'' if unit == '°' else ' '}{unit}".rstrip()
    return f" “{value!s:.80}”"


def _owner(path: str, document: object) -> str:
    """The nearest thing above the field that has a name of its own, or what kind of thing it is."""
    at, called = document, ""
    for part in path.split(".")[:-1]:
        at = _inside(at, part)
        named = getattr(at, "name", None) if isinstance(at, BaseModel) else None
        kind = (
            getattr(at, "kind", None) if part == "element" and isinstance(at, BaseModel) else None
        )
        if named and not isinstance(at, type(document)):
            called = str(named)
        elif kind:
            called = str(kind)
        elif part in _OF:
            called = _OF[part]
    return called


def _inside(at: object, part: str) -> object:
    if isinstance(at, (list, tuple)) and part.isdigit() and int(part) < len(at):
        return at[int(part)]
    return getattr(at, part, None)
