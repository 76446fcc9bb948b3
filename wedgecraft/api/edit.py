"""One field of a document changed: everything else stays, and a wrong value changes nothing."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from wedgecraft.api.problems import ProblemRaised, invalid
from wedgecraft.core.ground.documents import FieldError
from wedgecraft.core.records.job import JobDocument


def with_field(document: dict[str, Any], path: str, value: object) -> JobDocument:
    """A document as it reads today with ``path`` set to ``value``, all of it where the path is
    empty.

    Raises ProblemRaised naming the field.
    """
    copy = _set({"document": document}, _keys(path), value, path)["document"]
    try:
        return JobDocument.model_validate(copy)
    except ValidationError as error:
        raise invalid(error, given=copy) from None


def value_at(document: dict[str, Any], path: str) -> Any:
    """What stands at a path; an empty path is all of it. Raises KeyError when there is no such
    field.
    """
    node: Any = {"document": document}
    for key in _keys(path):
        if isinstance(node, list) and _is_place(key, node):
            node = node[int(key)]
        elif isinstance(node, dict):
            node = node[key]
        else:
            raise KeyError(path)
    return node


def _keys(path: str) -> list[str]:
    return ["document", *(path.split(".") if path else [])]


def _is_place(key: str, node: list[Any]) -> bool:
    return key.isascii() and key.isdigit() and len(key) < 7 and int(key) < len(node)


def _set(node: Any, keys: list[str], value: object, path: str) -> Any:
    if not keys:
        return value
    key, rest = keys[0], keys[1:]
    if isinstance(node, dict) and key in node:
        return {**node, key: _set(node[key], rest, value, path)}
    if isinstance(node, list) and _is_place(key, node):
        index = int(key)
        return [*node[:index], _set(node[index], rest, value, path), *node[index + 1 :]]
    error = FieldError(field=path, value=key, message="there is no such field")
    raise ProblemRaised(422, "Not possible", f"{path}: there is no field “{key[:80]}”", [error])
