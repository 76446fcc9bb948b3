"""What the OpenAPI page says besides what each view says of itself: every status an address can
answer with, all of them problems.
"""

from __future__ import annotations

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
_PROBLEM = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}


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
    for operations in spec["paths"].values():
        for method, operation in operations.items():
            if method == "parameters":
                continue
            answers = operation.setdefault("responses", {})
            statuses = _ALL if method == "get" else _CHANGING
            for status in sorted({*statuses, *(known for known in answers if known[0] in "45")}):
                answers[status] = {
                    "description": _WORDS.get(status, "Refused"),
                    "content": _PROBLEM,
                }
            if method != "get":
                operation.setdefault("parameters", []).append(
                    {
                        "name": "X-CSRFToken",
                        "in": "header",
                        "required": False,
                        "schema": {"type": "string"},
                        "description": "The token of GET /api/session",
                    }
                )
