"""The application, put together."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from apiflask import APIFlask
from flask import Response, send_from_directory
from flask_compress import Compress
from flask_wtf import CSRFProtect

from wedgecraft import __version__
from wedgecraft.api import (
    access,
    description,
    drawings_api,
    hold_api,
    jobs_api,
    layout_api,
    locate_api,
    log_api,
    make_api,
    mends_api,
    people_api,
    presence_api,
    problems,
    program_api,
    route_api,
    run_api,
    service_api,
    session_api,
    sheet_api,
    shelf_api,
    shop_api,
    today_api,
    traffic,
    workpiece_api,
)
from wedgecraft.api.access import open_to_all
from wedgecraft.jobs.queue import Queue
from wedgecraft.store import meshes
from wedgecraft.store.database import Database


def create_app(
    database: Database,
    queue: Queue,
    secret: str,
    pages: Path | None = None,
    https: bool = False,
    state: Path | None = None,
) -> APIFlask:
    """The service over a database and a queue.

    ``pages`` is the built front end; ``https`` marks cookies as secure; ``state`` is the folder
    whose disk it fills.
    """
    meshes.serve(database)
    app = APIFlask(
        "wedgecraft",
        title="Wedgecraft",
        version=__version__,
        docs_path=None,
        spec_path=None,
        static_folder=None,
    )
    app.config.update(
        SECRET_KEY=secret,
        SESSION_COOKIE_NAME="wedgecraft",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_SECURE=https,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=https,
        MAX_CONTENT_LENGTH=traffic.MOST_REQUEST_BYTES,
        OPENAPI_VERSION="3.1.0",
        VALIDATION_ERROR_STATUS_CODE=422,
        COMPRESS_ALGORITHM=["gzip"],
        COMPRESS_LEVEL=5,
        COMPRESS_MIN_SIZE=2000,
    )
    app.extensions["database"], app.extensions["queue"] = database, queue
    app.extensions["state folder"] = state
    traffic.install(app, https)
    Compress(app)
    CSRFProtect(app)
    access.install(app)
    problems.install(app)
    parts_in, things = drawings_api.blueprint, shop_api.blueprint
    rest = (
        hold_api.blueprint,
        route_api.blueprint,
        mends_api.blueprint,
        make_api.blueprint,
        program_api.blueprint,
        run_api.blueprint,
        log_api.blueprint,
        shelf_api.blueprint,
        today_api.blueprint,
        sheet_api.blueprint,
        layout_api.blueprint,
        locate_api.blueprint,
        presence_api.blueprint,
        people_api.blueprint,
        service_api.blueprint,
        workpiece_api.blueprint,
    )
    for blueprint in (
        session_api.blueprint,
        jobs_api.blueprint,
        jobs_api.runs,
        parts_in,
        things,
        *rest,
    ):
        app.register_blueprint(blueprint)

    @app.get("/api/openapi.json")
    @app.doc(hide=True)
    def openapi() -> dict[str, object]:
        return dict(app.spec)

    @app.spec_processor
    def _as_it_answers(spec: dict[str, Any]) -> dict[str, Any]:
        _plain_quantities(spec)
        description.every_status(spec)
        description.defined_once(spec)
        return spec

    if pages is not None:
        _serve_pages(app, pages)
    return app


def _plain_quantities(node: Any) -> None:
    """Quantities may be written as text in documents; what the service answers is always the
    number. In place.
    """
    if isinstance(node, dict):
        if "quantity" in node and "anyOf" in node:
            node.update(next(kind for kind in node.pop("anyOf") if kind.get("type") == "number"))
        if node.pop("also_text", False) and "anyOf" in node:
            node.update(next(kind for kind in node.pop("anyOf") if kind.get("type") != "string"))
        for value in node.values():
            _plain_quantities(value)
    elif isinstance(node, list):
        for value in node:
            _plain_quantities(value)


def _serve_pages(app: APIFlask, pages: Path) -> None:
    @app.get("/")
    @app.get("/<path:name>")
    @app.doc(hide=True)
    @open_to_all
    def page(name: str = "index.html") -> Response:
        """A built file, or the front end's one page for every address of its own."""
        if name.startswith("api/"):
            raise problems.ProblemRaised(
                404, "No such address", f"/{name} is not an address of this service."
            )
        exists = (pages / name).is_file()
        response = send_from_directory(pages, name if exists else "index.html")
        lasting = exists and name.startswith("assets/")
        response.headers["Cache-Control"] = (
            "public, max-age=31536000, immutable" if lasting else "no-cache"
        )
        return response
