"""Health, readiness, and what can be picked."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import current_app
from sqlalchemy.exc import SQLAlchemyError

from wedgecraft import __version__
from wedgecraft.api.access import open_to_all
from wedgecraft.api.documents import Health
from wedgecraft.core.catalogue import Catalogue, Things, catalogue
from wedgecraft.store import shop

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
    """The process can work: its database answers."""
    try:
        current_app.extensions["database"].answers()
    except SQLAlchemyError:
        return Health(state="database away", version=__version__), 503
    return Health(state="ok", version=__version__)


@blueprint.get("/catalogue")
@blueprint.output(Catalogue)
def picks() -> Catalogue:
    """What the shop has that is not retired, to pick from, and what new parts, cuts and features start from."""
    things: Things = {}
    with current_app.extensions["database"].session() as session:
        for thing in shop.entries(session, retired=False):
            things.setdefault(thing.kind, []).append((thing.id, shop.document(thing)))
    return catalogue(things)
