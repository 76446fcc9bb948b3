"""Errors as problem details (RFC 9457), from every place they can come from."""

from __future__ import annotations

import logging
from typing import Any

from apiflask import APIFlask, HTTPError
from flask import Response, g, jsonify, request
from flask_wtf.csrf import CSRFError
from procrastinate.exceptions import ConnectorException
from psycopg.errors import DiskFull
from pydantic import ValidationError
from sqlalchemy.exc import DataError, InterfaceError, OperationalError, ProgrammingError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from werkzeug.exceptions import HTTPException

from wedgecraft.api.documents import Problem
from wedgecraft.core.ground.documents import FieldError, field_errors
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.field_words import sentence

log = logging.getLogger(__name__)


#: A full disk is called that: waiting alone does not mend it.
DISK_FULL = Problem(
    status=503,
    title="The disk is full",
    detail=(
        "There is no room left to store anything. What is saved stays; make room on the database's"
        " disk, and this goes on by itself."
    ),
)


class ProblemRaised(Exception):
    """Raise anywhere in a view to answer with a problem."""

    def __init__(
        self,
        status: int,
        title: str,
        detail: str,
        errors: list[FieldError] | None = None,
        headers: dict[str, str] | None = None,
    ) -> None:
        super().__init__(detail)
        self.problem = Problem(status=status, title=title, detail=detail, errors=errors or [])
        self.headers = headers


def answer(problem: Problem, headers: dict[str, str] | None = None) -> Response:
    response = jsonify(problem.model_dump(mode="json") | {"request_id": g.get("request_id")})
    response.status_code = problem.status
    response.content_type = "application/problem+json"
    response.headers.update(headers or {})
    return response


def invalid(error: ValidationError, prefix: str = "", given: object = None) -> ProblemRaised:
    """A document with wrong fields; ``given``: as it was read."""
    found = field_errors(error, prefix, given)
    return ProblemRaised(
        422, "Not possible", "; ".join(f"{item.field}: {item.message}" for item in found[:3]), found
    )


def not_possible(
    error: OutOfRange, document: object, title: str = "Not possible", field: str | None = None
) -> ProblemRaised:
    """What the engine refused of a document, in the trade's words. ``field``: where it stands in
    the job's own document, if that is another.
    """
    fault = FieldError(field=field or error.field, value=str(error.value), message=error.allowed)
    return ProblemRaised(422, title, sentence(error, document), [fault])


def install(app: APIFlask) -> None:
    """Answer every error with a problem; the front end's pages excepted."""

    @app.error_processor
    def _of_validation(error: HTTPError) -> Any:
        detail: Any = error.detail or {}
        found = [
            FieldError(field=field, value="", message="; ".join(messages))
            for fields in detail.values()
            if isinstance(fields, dict)
            for field, messages in fields.items()
        ]
        text = "; ".join(f"{item.field}: {item.message}" for item in found) or str(error.message)
        return answer(
            Problem(
                status=error.status_code,
                title="Not possible" if found else str(error.message),
                detail=text,
                errors=found,
            )
        )

    @app.errorhandler(ProblemRaised)
    def _raised(error: ProblemRaised) -> Response:
        return answer(error.problem, error.headers)

    @app.errorhandler(CSRFError)
    def _csrf(error: CSRFError) -> Response:
        return answer(
            Problem(
                status=400,
                title="Please try again",
                detail=(
                    f"The page's security token is missing or old ({error.description}); reload the"
                    " page."
                ),
            )
        )

    @app.errorhandler(OperationalError)
    @app.errorhandler(InterfaceError)
    @app.errorhandler(PoolTimeout)
    @app.errorhandler(ConnectorException)
    def _away(error: Exception) -> Response:
        log.error("database away: %s", str(error).splitlines()[0])
        if isinstance(getattr(error, "orig", None), DiskFull):
            return answer(DISK_FULL, {"Retry-After": "10"})
        problem = Problem(
            status=503,
            title="The database is away",
            detail=(
                "The database does not answer just now. Nothing that was saved is lost; this works"
                " again by itself once it is back."
            ),
        )
        return answer(problem, {"Retry-After": "2"})

    @app.errorhandler(DataError)
    @app.errorhandler(UnicodeEncodeError)
    def _not_storable(error: Exception) -> Response:
        log.warning(
            "%s %s: %s",
            request.method,
            request.path,
            str(getattr(error, "orig", error)).splitlines()[0],
        )
        return answer(
            Problem(
                status=422,
                title="Not possible",
                detail="A value cannot be stored as it is; check what was given.",
            )
        )

    @app.errorhandler(ProgrammingError)
    def _not_prepared(error: ProgrammingError) -> Response:
        if "UndefinedTable" not in type(error.orig).__name__:
            return _unforeseen(error)
        problem = Problem(
            status=503,
            title="Starting",
            detail="The database is being prepared; this takes a few seconds.",
        )
        return answer(problem, {"Retry-After": "2"})

    @app.errorhandler(RecursionError)
    def _too_deep(error: RecursionError) -> Response:
        return answer(
            Problem(
                status=400,
                title="Not readable",
                detail="The document is nested too deeply; no document here is.",
            )
        )

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> Response:
        detail = error.description or ""
        if error.code == 413:
            detail = (
                "More was sent than is read: documents up to 8 MB, drawings and solids up to 25 MB."
            )
        return answer(Problem(status=error.code or 500, title=error.name, detail=detail))

    @app.errorhandler(Exception)
    def _unforeseen(error: Exception) -> Response:
        log.exception("%s %s failed", request.method, request.path)
        return answer(
            Problem(
                status=500,
                title="Something went wrong here",
                detail="It was written to the log; what you entered is still on your screen.",
            )
        )
