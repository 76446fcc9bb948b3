"""Things of the shop called by their names in a document: what they are is put in their place."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.shop.document import KindName, ShopEntry

#: Which fields may hold a name, and of what.
NAMED: dict[str, KindName] = {
    "machine": "machine",
    "plate": "plate",
    "tool": "cutter",
    "cutter": "cutter",
    "holder": "holder",
    "material": "material",
    "vise": "vise",
}


def with_entries(document: Any, entries: Iterable[ShopEntry]) -> Any:
    """The document with every machine, plate, cutter, holder, vise and material that is given by
    the name of an entry replaced by it; a material that is no entry may still be one that ships,
    by its id.

    Raises OutOfRange for a name that no entry has.

    >>> from wedgecraft.core.shop.shipped import shipped
    >>> with_entries({"tool": "Drill 5 mm"}, shipped())["tool"]["diameter_mm"]
    5.0
    """
    known: dict[tuple[str, str], dict[str, Any]] = {}
    for entry in entries:
        named = {"name": entry.name} if "name" not in entry.data else {}
        known[entry.kind, entry.name.lower()] = {**entry.data, **named}
    return _filled(document, known, "")


def _filled(node: Any, known: dict[tuple[str, str], dict[str, Any]], path: str) -> Any:
    if isinstance(node, list):
        return [_filled(item, known, f"{path}.{k}") for k, item in enumerate(node)]
    if not isinstance(node, dict):
        return node
    found = {}
    for key, value in node.items():
        at = f"{path}.{key}".removeprefix(".")
        kind = NAMED.get(key)
        if kind is None or not isinstance(value, str):
            found[key] = _filled(value, known, at)
        elif (kind, value.lower()) in known:
            found[key] = known[kind, value.lower()]
        elif kind == "material":
            found[key] = value
        else:
            names = sorted(data["name"] for (of, _), data in known.items() if of == kind)
            said = ", ".join(f"“{name}”" for name in names[:4]) or "none is there"
            raise OutOfRange(at, value, f"a {kind} of the shop: {said}")
    return found
