"""Plan requests and plan documents of versions 1 and 2, brought up to the job document, version 3.

Version 2 has one plate or block with a first op, ``also`` others on it, and ops ``elsewhere``.
They become setups: the first holds what was laid out, each op elsewhere one of its own. What an op
is "held in", which version 2 stored and nothing read, becomes the form of its setup.
"""

from __future__ import annotations

from typing import Any

from wedgecraft.core.records.upgrades import upgraded, without_forms

#: What version 2 called the forms, and what they are.
FORMS_BEFORE: dict[str, dict[str, Any]] = {
    "plain vise": {"kind": "vises", "jaws": "hard"},
    "soft jaws": {"kind": "vises", "jaws": "soft"},
    "five-axis block": {"kind": "tiers"},
}


def to_version_3(given: Any) -> Any:
    """A document of an earlier version as version 3; anything else as it is. Wrong fields are left
    for the validation to name. A result of an earlier version is left behind: it is planned again.
    """
    if not isinstance(given, dict):
        return given
    kind = given.get("format")
    if kind == "wedgecraft plan" and isinstance(given.get("request"), dict):
        return to_version_3(given["request"])
    if kind == "wedgecraft job" or "job" in given:
        return given
    asked = upgraded(given)
    if not all(isinstance(asked.get(key), kind) for key, kind in _NEEDED.items()):
        return given
    job = {
        key: value
        for key, value in without_forms(asked).items()
        if key in ("name", "quantity", "parts", "rules")
    }
    shared = {key: asked[key] for key in ("machine", "accuracy") if key in asked}
    first = [asked.get("planned") or {}, *(asked.get("also") or [])]
    holds = [
        {**_held(item), "station": item.get("station") or (asked["station"] if k == 0 else None)}
        for k, item in enumerate(first)
    ]
    setups = [
        {
            **shared,
            "form": _form(asked, first[0]),
            "holds": holds,
            "zeros": asked.get("datum") or {},
            "arrangement": asked.get("arrangement") or {},
        }
    ]
    for item in asked.get("elsewhere") or []:
        if item.get("station"):
            held = {"form": _form(asked, item), "holds": [_held(item)]}
            setups.append({**shared, **held})
    return {"format": "wedgecraft job", "version": 3, "job": job, "route": {"setups": setups}}


_NEEDED = {"parts": list, "station": dict, "machine": dict, "plate": dict}


def _held(item: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in item.items() if key != "there"}


def _form(asked: dict[str, Any], item: dict[str, Any]) -> dict[str, Any]:
    """What the op is held in: as it says where that is no plate, else what carried the plates."""
    try:
        op = asked["parts"][item.get("part", 0)]["ops"][item.get("op", 0)]
        before = FORMS_BEFORE.get(op.get("form", ""))
    except (LookupError, TypeError, AttributeError):
        before = None
    if before is not None:
        return before
    block = dict(asked.get("block") or {})
    if block.get("faces", 1) == 1:
        return {"kind": "plate", "plate": asked["plate"], "base_kg": block.get("body_kg", 0)}
    axis, tail = block.pop("axis", "upright"), block.pop("tail", False)
    whole = {**block, "plate": asked["plate"]}
    if axis == "lying":
        return {"kind": "bar", "tail": tail, **whole}
    return {"kind": "tombstone", **whole}
