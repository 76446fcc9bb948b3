"""Health, readiness, and what can be picked."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import Response, current_app
from prometheus_client import CONTENT_TYPE_LATEST
from psycopg.errors import DiskFull
from sqlalchemy import func, select
from sqlalchemy.exc import SQLAlchemyError

from wedgecraft import __version__
from wedgecraft.api.access import may, open_to_all
from wedgecraft.api.description import files
from wedgecraft.api.documents import Health
from wedgecraft.api.traffic import counted
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.shop.picks import Catalogue, Things, catalogue
from wedgecraft.formats.export import EXPORTS
from wedgecraft.store import shop
from wedgecraft.store.files import free_bytes
from wedgecraft.store.models import ACTIVE, Run, SignedIn

blueprint = APIBlueprint("service", __name__, url_prefix="/api", tag="Service")


@blueprint.get("/health")
@blueprint.output(Health)
@open_to_all
def health() -> Health:
    """The process is up."""
    return Health(state="ok", version=__version__)


@blueprint.get("/ready")
@blueprint.output(Health)
@open_to_all
def ready() -> Health | tuple[Health, int]:
    """The process can work: its database answers, and there is room to store."""
    try:
        current_app.extensions["database"].answers()
    except SQLAlchemyError as error:
        full = isinstance(getattr(error, "orig", None), DiskFull) or _disk_is_full()
        return Health(state="disk full" if full else "database away", version=__version__), 503
    if _disk_is_full():
        return Health(state="disk full", version=__version__), 503
    return Health(state="ok", version=__version__)


#: With less than this left the database cannot write for long.
_LEAST_FREE_BYTES = 100_000_000


def _disk_is_full() -> bool:
    folder = current_app.extensions["state folder"]
    return folder is not None and free_bytes(folder) < _LEAST_FREE_BYTES


@blueprint.get("/metrics")
@may("administer")
@blueprint.doc(responses=files("text/plain"))
def metrics() -> Response:
    """What was counted, for Prometheus: requests by address and status, how long they took, what
    waits.
    """
    with current_app.extensions["database"].session() as session:
        waiting = session.execute(
            select(Run.status, func.count()).where(Run.status.in_(ACTIVE)).group_by(Run.status)
        ).all()
        people = session.scalar(select(func.count()).select_from(SignedIn)) or 0
    lines = [f'wedgecraft_runs{{status="{status}"}} {count}' for status, count in waiting]
    gauges = "\n".join(
        [
            "# TYPE wedgecraft_runs gauge",
            *lines,
            "# TYPE wedgecraft_signed_in gauge",
            f"wedgecraft_signed_in {people}",
            "",
        ]
    )
    return Response(counted() + gauges.encode(), content_type=CONTENT_TYPE_LATEST)


class LayoutFile(Document):
    """A kind of file a layout can be taken out as, and how the menu names it."""

    format: str
    label: str


class Picks(Catalogue):
    """The catalogue, and the files a layout can be taken out as."""

    layout_files: list[LayoutFile]


@blueprint.get("/catalogue")
@blueprint.output(Picks)
def picks() -> Picks:
    """What the shop has that is not retired, to pick from, and what new parts, cuts and features
    start from.
    """
    things: Things = {}
    with current_app.extensions["database"].session() as session:
        for thing in shop.entries(session, retired=False):
            things.setdefault(thing.kind, []).append((thing.id, shop.document(thing)))
    exports = [LayoutFile(format=export.kind, label=export.label) for export in EXPORTS]
    return Picks.model_construct(**dict(catalogue(things)), layout_files=exports)
