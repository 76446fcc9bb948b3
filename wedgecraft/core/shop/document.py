"""One entry of the shop: what kind of thing it is, its dimensions, and where each value comes
from.
"""

from __future__ import annotations

import types
from collections.abc import Collection
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.records.cut import Cutter
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.rules import HouseRules
from wedgecraft.core.records.stock import StockSizes
from wedgecraft.core.records.tool import Holder
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.shop.kinds import Block, ClampElement, Locator

KindName = Literal[
    "machine",
    "vise",
    "plate",
    "block",
    "clamp",
    "locator",
    "cutter",
    "holder",
    "material",
    "stock",
    "rules",
]

#: The document of each kind, in the order of the Shop.
KINDS: dict[KindName, type[Document]] = {
    "machine": Machine,
    "vise": Vise,
    "plate": Plate,
    "block": Block,
    "clamp": ClampElement,
    "locator": Locator,
    "cutter": Cutter,
    "holder": Holder,
    "material": Material,
    "stock": StockSizes,
    "rules": HouseRules,
}
#: Fields that are bookkeeping, not dimensions: not shown, not in files.
_HIDDEN = {"shop_id", "name", "source"}
#: Fields that nothing computes with yet: kept, in files too, but not shown, as a person would rely
#: on them. A test keeps this list true.
UNREAD: dict[str, set[str]] = {
    "machine": {"kind", "axes", "swing_mm", "shortest_tool_mm"},
    "rules": {"objective", "tuning", "tooling"},
}


class FieldInfo(Document):
    """One field of a kind, for forms, grids and files. ``unit`` is the document's own; ``reason``
    is a house rule's; ``where``: it says something only where another field has a value, as
    ``vise.stations=2``.
    """

    name: str
    title: str
    type: Literal[
        "quantity",
        "number",
        "whole number",
        "yes or no",
        "choice",
        "text",
        "list of texts",
        "keep-outs",
        "curve",
        "tools",
        "material",
    ]
    quantity: str | None = None
    unit: str = ""
    where: str = ""
    choices: list[str] = []
    reason: str = ""
    needed: bool = False
    default: Any = None


class KindInfo(Document):
    """A kind of thing with its fields."""

    kind: KindName
    plural: str
    about: str
    fields: list[FieldInfo]


_PLURALS: dict[KindName, tuple[str, str]] = {
    "machine": (
        "Machines",
        "Travels, loads, spindle and accuracy, as the machine builder states them.",
    ),
    "vise": ("Vises", "Jaws, opening and rated force, as the maker states them."),
    "plate": ("Plates", "Blanks for fixture plates, with the screws that hold them down."),
    "block": ("Tombstones and bars", "Blocks with faces to put stations on."),
    "clamp": ("Clamps", "Clamp elements: the force on the part, and the room they take."),
    "locator": ("Locators", "Stops, pins, rests: what a part is pushed against."),
    "cutter": ("Cutters", "End mills, face mills, drills, taps, saws."),
    "holder": ("Holders", "What holds a cutter, and the room it takes."),
    "material": ("Materials", "Cutting force, density, stiffness, strength, expansion."),
    "stock": ("Stock", "Bars and plates that are kept: the sizes a draft picks blanks from."),
    "rules": ("House rules", "What this shop asks for beyond the physics, and why."),
}


class ShopEntry(Document):
    """``sources``: for each field where its value comes from; fields not named share ``source``."""

    kind: KindName
    name: Text
    data: dict[str, Any]
    source: Annotated[str, Field(max_length=200)] = ""
    sources: dict[str, Annotated[str, Field(max_length=200)]] = {}


def kind_shown(kind: KindName) -> KindInfo:
    """A kind with the fields that something computes with."""
    every = kind_info(kind)
    return every.model_copy(
        update={
            "fields": [field for field in every.fields if field.name not in UNREAD.get(kind, ())]
        }
    )


def kind_info(kind: KindName) -> KindInfo:
    """All fields of a kind, from its document."""
    plural, about = _PLURALS[kind]
    return KindInfo(kind=kind, plural=plural, about=about, fields=fields_of(KINDS[kind], _HIDDEN))


def fields_of(model: type[Document], without: Collection[str] = ()) -> list[FieldInfo]:
    """The fields of a document, for a form that is made from them."""
    return [_field(name, info) for name, info in model.model_fields.items() if name not in without]


def _field(name: str, info: Any) -> FieldInfo:
    # of what may be left out, the quantity stands inside
    own = [item for item in get_args(info.annotation) if get_origin(item) is Annotated]
    extra = next(
        (
            item.json_schema_extra
            for item in (*info.metadata, *(get_args(own[0]) if own else ()))
            if getattr(item, "json_schema_extra", None)
        ),
        None,
    )
    extra = {**(extra or {}), **(info.json_schema_extra or {})}
    kind, choices = _type(info.annotation, extra)
    default = None if info.is_required() else info.get_default(call_default_factory=True)
    if isinstance(default, Document):
        default = default.model_dump(mode="json")
    return FieldInfo(
        name=name,
        title=info.title or name.removesuffix("_mm").replace("_", " ").capitalize(),
        type=kind,
        quantity=extra.get("quantity"),
        unit=extra.get("unit", ""),
        where=extra.get("where", ""),
        choices=choices,
        reason=info.description or "",
        needed=info.is_required(),
        default=default,
    )


def _type(annotation: Any, extra: dict[str, Any]) -> tuple[str, list[str]]:
    if extra.get("quantity"):
        return "quantity", []
    if extra.get("usual"):
        return "choice", list(extra["usual"])
    if get_origin(annotation) in (Union, types.UnionType):
        annotation = next(item for item in get_args(annotation) if item is not type(None))
    if get_origin(annotation) is Annotated:
        annotation = get_args(annotation)[0]
    if get_origin(annotation) is Literal:
        return "choice", [str(item) for item in get_args(annotation)]
    if annotation is bool:
        return "yes or no", []
    if annotation is int:
        return "whole number", []
    if annotation is float:
        return "number", []
    if annotation is str:
        return "text", []
    if annotation is Material:
        return "material", []
    inner = get_args(annotation)[0] if get_origin(annotation) is list else None
    if get_origin(inner) is Annotated:
        inner = get_args(inner)[0]
    return (
        "list of texts"
        if inner is str
        else "curve"
        if "SpindlePoint" in str(inner)
        else "tools"
        if "Tool" in str(inner)
        else "keep-outs"
    ), []


def checked(kind: KindName, name: str, data: dict[str, Any]) -> dict[str, Any]:
    """The data of an entry, validated by its kind and complete. Raises pydantic.ValidationError."""
    model = KINDS[kind]
    given = {key: value for key, value in data.items() if key != "shop_id"}
    if "name" in model.model_fields:
        given["name"] = name
    if kind == "material" and not given.get("id"):
        given["id"] = (
            "-".join("".join(c if c.isalnum() else " " for c in name.lower()).split())[:120]
            or "material"
        )
    return model.model_validate(given).model_dump(mode="json", exclude={"shop_id"})
