"""What the OpenAPI page says besides what each view says of itself: every status an address can
answer with, all of them problems.
"""

from __future__ import annotations

import json
from typing import Any

_WORDS = {
    "400": "The request could not be read",
    "401": "Nobody is signed in",
    "403": "This person may not",
    "404": "There is no such thing",
    "409": "Someone else changed it first, or something has to be done before",
    "413": "More was sent than is read",
    "415": "Not the kind of content this address takes",
    "422": "A field is not possible; which, and what is",
    "429": "Too many attempts",
    "503": (
        "The database is away, the disk is full, or others are being answered; Retry-After says"
        " when to come again"
    ),
}
_ALL = ("400", "401", "403", "404", "409", "422", "503")
_CHANGING = (*_ALL, "413", "415", "429")
_REFERS = "#/components/schemas/"
_PROBLEM = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}

_TOKEN = {
    "name": "X-CSRFToken",
    "in": "header",
    "required": False,
    "schema": {"type": "string"},
    "description": "The token of GET /api/session",
}


def files(*kinds: str) -> dict[int, dict[str, Any]]:
    """The answer of an address that gives a file: for ``doc(responses=…)``."""
    return {
        200: {
            "description": "The file",
            "content": {
                kind: {"schema": {} if "json" in kind else {"type": "string"}} for kind in kinds
            },
        }
    }


def defined_once(spec: dict[str, Any]) -> None:
    """In place. A document within several others is one definition under its own name, where it is
    the same in all of them.
    """
    schemas: dict[str, Any] = spec["components"]["schemas"]
    leaf = {name: name.rsplit(".", 1)[-1] for name in schemas}
    # Alike until shown otherwise: those of one name are told apart by what they refer to, and that
    # again, until nothing more differs.
    kind: dict[str, str] = dict(leaf)
    while True:
        looks = {name: f"{leaf[name]} {_referring(schemas[name], kind)}" for name in schemas}
        if len(set(looks.values())) == len(set(kind.values())):
            break
        kind = looks
    named: dict[str, str] = {}
    for name in sorted(schemas, key=lambda item: (item.count("."), item)):
        taken = set(named.values())
        named.setdefault(looks[name], leaf[name] if leaf[name] not in taken else name)
    names = {name: named[looks[name]] for name in schemas}
    renamed = json.loads(_referring({names[name]: schemas[name] for name in schemas}, names))
    spec["components"]["schemas"] = renamed
    spec["paths"] = json.loads(_referring(spec["paths"], names))


def _referring(node: Any, names: dict[str, str]) -> str:
    """As JSON, its references renamed."""

    def walked(part: Any) -> Any:
        if isinstance(part, dict):
            return {key: walked(value) for key, value in part.items()}
        if isinstance(part, list):
            return [walked(item) for item in part]
        refers = isinstance(part, str) and part.startswith(_REFERS)
        return _REFERS + names[part.removeprefix(_REFERS)] if refers else part

    return json.dumps(walked(node))


def every_status(spec: dict[str, Any]) -> None:
    """In place. Refusals that APIFlask describes by a schema of its own are described as the
    problems they are.
    """
    from wedgecraft.api.documents import Problem

    schemas = spec.setdefault("components", {}).setdefault("schemas", {})
    problem = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
    for name, schema in problem.pop("$defs", {}).items():
        schemas.setdefault(name, schema)
    schemas["Problem"] = problem
    refusals = spec["components"].setdefault("responses", {})
    spec["components"]["parameters"] = {"token": _TOKEN}
    for operations in spec["paths"].values():
        for method, operation in operations.items():
            if method == "parameters":
                continue
            answers = operation.setdefault("responses", {})
            statuses = _ALL if method == "get" else _CHANGING
            for status in sorted({*statuses, *(known for known in answers if known[0] in "45")}):
                answers[status] = {"$ref": f"#/components/responses/{status}"}
                refusals.setdefault(
                    status, {"description": _WORDS.get(status, "Refused"), "content": _PROBLEM}
                )
            if method != "get":
                parameters = operation.setdefault("parameters", [])
                parameters.append({"$ref": "#/components/parameters/token"})
