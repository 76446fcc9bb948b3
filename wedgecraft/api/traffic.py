"""What every request passes: an id, limits to its size, characters no text may hold; and what is
counted of it.
"""

from __future__ import annotations

import logging
import os
import re
import time
import uuid
from typing import Any

from flask import Flask, Response, g, request
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest, multiprocess
from prometheus_client.core import REGISTRY

from wedgecraft.api.problems import ProblemRaised
from wedgecraft.logs import about

log = logging.getLogger("wedgecraft.requests")

#: Uploads beyond this never reach a view; documents are far smaller.
MOST_REQUEST_BYTES, MOST_DOCUMENT_BYTES = 40_000_000, 8_000_000
_ID = re.compile(r"[A-Za-z0-9._-]{8,64}")
#: Escapes of JSON that may stand for a NUL or for half a character. The database stores neither.
_SUSPECT = re.compile(rb"\\u(0000|[dD][89a-fA-F])")
_UNSTORABLE = re.compile("[\x00\ud800-\udfff]")
_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
_ANSWERED = Counter(
    "wedgecraft_requests_total", "Requests answered", ["endpoint", "method", "status"]
)
_SECONDS = Histogram(
    "wedgecraft_request_seconds",
    "Time to answer",
    ["endpoint"],
    buckets=(0.005, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30),
)


def install(app: Flask, https: bool) -> None:
    """Before all else that is asked before a view."""

    @app.before_request
    def _begin() -> None:
        g.began = time.perf_counter()
        given = request.headers.get("X-Request-ID", "")
        g.request_id = given if _ID.fullmatch(given) else uuid.uuid4().hex
        about.set(g.request_id)
        request.max_content_length = MOST_DOCUMENT_BYTES if request.is_json else MOST_REQUEST_BYTES
        _check_characters()

    @app.after_request
    def _finish(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        response.headers.setdefault("Referrer-Policy", "same-origin")
        response.headers["X-Request-ID"] = g.get("request_id", "-")
        if https:
            response.headers["Strict-Transport-Security"] = "max-age=31536000"
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
            took = time.perf_counter() - g.get("began", time.perf_counter())
            endpoint = request.endpoint or "none"
            _ANSWERED.labels(
                endpoint, request.method if request.endpoint else "any", str(response.status_code)
            ).inc()
            _SECONDS.labels(endpoint).observe(took)
            log.info(
                "%s %s %s %.0f ms", request.method, request.path, response.status_code, 1000 * took
            )
        return response


def _check_characters() -> None:
    """Raises ProblemRaised for a NUL, or half of a character, wherever text can come in."""
    address = [request.path, *(text for pair in request.args.items(multi=True) for text in pair)]
    if any(map(unstorable, address)):
        raise ProblemRaised(
            400,
            "Not an address",
            "An address holds a NUL or half of a character; nothing here has such a name.",
        )
    if (
        request.is_json
        and _SUSPECT.search(request.get_data())
        and _anywhere(request.get_json(silent=True))
    ):
        raise ProblemRaised(
            422,
            "Not possible",
            "A text holds a NUL or half of a character, which cannot be stored; take it out.",
        )


def unstorable(text: str) -> bool:
    """Whether a text holds what the database stores in none."""
    return _UNSTORABLE.search(text) is not None


def _anywhere(node: Any) -> bool:
    if isinstance(node, str):
        return unstorable(node)
    if isinstance(node, dict):
        return any(_anywhere(key) or _anywhere(value) for key, value in node.items())
    return isinstance(node, list) and any(map(_anywhere, node))


def counted() -> bytes:
    """All that was counted, by all processes where several share a folder, as Prometheus reads
    it.
    """

    if not os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        return bytes(generate_latest(REGISTRY))
    registry = CollectorRegistry()
    multiprocess.MultiProcessCollector(registry)
    return bytes(generate_latest(registry))
