"""The base of every document that crosses a boundary."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Point = tuple[Number, Number]
#: A closed ring of points in mm, the last not repeated.
Ring = Annotated[list[Point], Field(min_length=3, max_length=20_000)]
Text = Annotated[str, Field(min_length=1, max_length=120)]


class Document(BaseModel):
    """Frozen, complete and strict about names: an unknown field is an error, not a surprise."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class FieldError(Document):
    """One thing wrong with a document: which field, what was given, what is allowed."""

    field: str
    value: str
    message: str


class Errors(Document):
    """What a command prints of a document that is wrong."""

    errors: list[FieldError]


def field_errors(error: ValidationError, prefix: str = "", given: Any = None) -> list[FieldError]:
    """Turn Pydantic's errors into ours: dotted path, value shortened, message in words.
    ``given``: the document that was read, so that a field of one of several kinds is named as it
    stands there.
    """
    found = []
    for item in error.errors():
        keys = _as_it_stands(item["loc"], given)
        path = ".".join([prefix, *keys] if prefix else keys)
        value: Any = item.get("input")
        shown = "nothing" if item["type"] == "missing" else repr(value)
        message = (
            str(item["ctx"]["error"])
            if item["type"] == "value_error" and "ctx" in item
            else item["msg"]
        )
        found.append(
            FieldError(
                field=path or "document",
                value=shown[:80],
                message=message.replace("Input", "the value", 1),
            )
        )
    return found


def _as_it_stands(keys: tuple[int | str, ...], node: Any) -> list[str]:
    """A place without the names of kinds that validation puts between: what is told apart by its
    ``kind`` has no such step in the document.
    """
    found: list[str] = []
    named = False
    for key in keys:
        if not named and isinstance(node, dict) and key == node.get("kind"):
            named = True  # and the next of that name is a field
            continue
        named = False
        found.append(str(key))
        try:
            node = node[key]
        except (LookupError, TypeError):
            node = None
    return found


Rings = list[list[tuple[float, float]]]
