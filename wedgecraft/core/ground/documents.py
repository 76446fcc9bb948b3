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


def field_errors(error: ValidationError, prefix: str = "") -> list[FieldError]:
    """Turn Pydantic's errors into ours: dotted path, value shortened, message in words."""
    found = []
    for item in error.errors():
        path = ".".join([prefix, *map(str, item["loc"])] if prefix else map(str, item["loc"]))
        given: Any = item.get("input")
        shown = "nothing" if item["type"] == "missing" else repr(given)
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


Rings = list[list[tuple[float, float]]]
