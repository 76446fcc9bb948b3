"""One field of a request changed: everything else stays, and a wrong value changes nothing."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from wedgecraft.api.problems import ProblemRaised, invalid
from wedgecraft.core.model import FieldError
from wedgecraft.core.plan import PlanRequest


def with_field(request: dict[str, Any], path: str, value: object) -> PlanRequest:
    """The request with ``path`` set to ``value``, all of it where the path is empty. Raises ProblemRaised naming the field."""
    # As it reads today: what was stored before a field was there has the field's starting value.
    root: dict[str, Any] = {"request": PlanRequest.model_validate(request).model_dump(mode="json")}
    copy = _set(root, ["request", *(path.split(".") if path else [])], value, path)["request"]
    try:
        return PlanRequest.model_validate(copy)
    except ValidationError as error:
        raise invalid(error) from None


def _set(node: Any, keys: list[str], value: object, path: str) -> Any:
    if not keys:
        return value
    key, rest = keys[0], keys[1:]
    if isinstance(node, dict) and key in node:
        return {**node, key: _set(node[key], rest, value, path)}
    if isinstance(node, list) and key.isdigit() and int(key) < len(node):
        index = int(key)
        return [*node[:index], _set(node[index], rest, value, path), *node[index + 1 :]]
    error = FieldError(field=path, value=key, message="there is no such field")
    raise ProblemRaised(422, "Not possible", f"{path}: there is no field “{key}”", [error])
