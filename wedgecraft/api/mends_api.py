"""What would hold an op that is not held, each one press; and ops that no setup holds."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any

from apiflask import APIBlueprint
from flask import Response, current_app
from pydantic import Field

from wedgecraft.api import job_state, lanes
from wedgecraft.api.access import may
from wedgecraft.api.documents import JobState, OneSetup
from wedgecraft.api.jobs_api import changed_job, found_job
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.api.route_api import AtVersion
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.piece import AngleTried
from wedgecraft.store import jobs, shop

if TYPE_CHECKING:
    from wedgecraft.core.draft.angles import Turned
    from wedgecraft.core.draft.mends import Mend
    from wedgecraft.core.draft.shop import Stores

blueprint = APIBlueprint("mends", __name__, url_prefix="/api/jobs", tag="Route")


class Mends(Document):
    """Changes that were tried and hold, each in words."""

    mends: list[str]


class MendTaken(AtVersion):
    """Take the change of a setup that was offered in these words."""

    setup: Annotated[int, Field(ge=1, le=20)]
    what: Annotated[str, Field(max_length=400)]


def _stores(session: Any) -> Stores:
    from wedgecraft.core.draft.shop import Stores  # loads the engine: not before someone asks

    return Stores.holding([shop.document(thing) for thing in shop.entries(session, retired=False)])


def _asked(job_id: str) -> tuple[JobDocument, str]:
    """The job as it stands, and what the shop has, as a key."""
    with current_app.extensions["database"].session() as session:
        document = job_state.asked_of(found_job(session, job_id)).document
        key = " ".join(f"{t.id}.{t.version}" for t in shop.entries(session, retired=False))
    return document, key


@lru_cache(maxsize=16)
def _found(document: str, number: int, _shop: str) -> list[Mend]:
    from wedgecraft.core.draft.mends import mends

    with current_app.extensions["database"].session() as session:
        stores = _stores(session)
    return mends(JobDocument.model_validate_json(document), number, stores)


def _offers(job_id: str, number: int) -> list[Mend]:
    """What would hold a setup of the job as it stands. Raises ProblemRaised."""
    document, key = _asked(job_id)
    setups = document.route.setups if document.route is not None else []
    if number > len(setups):
        raise ProblemRaised(404, "No such setup", f"This job has {len(setups)} setups.")
    return _found(document.model_dump_json(exclude={"result"}), number, key)


@blueprint.get("/<job_id>/mends")
@lanes.engine
@blueprint.input(OneSetup, location="query", arg_name="asked")
@blueprint.output(Mends)
def offered(job_id: str, asked: OneSetup) -> Mends:
    """What would hold a setup's ops: each was tried and holds. Takes seconds; nothing is stored."""
    return Mends(mends=[item.what for item in _offers(job_id, asked.setup)])


@blueprint.post("/<job_id>/mends")
@may("plan")
@lanes.engine
@blueprint.input(MendTaken, arg_name="given")
@blueprint.output(JobState)
def take(job_id: str, given: MendTaken) -> Response:
    """Take one of them."""
    known = _offers(job_id, given.setup)
    taken = next((item for item in known if item.what == given.what), None)
    if taken is None:
        raise ProblemRaised(409, "Nothing was changed", "The job is another now; look again.")
    return _put(job_id, given.version, taken.document)


class Angles(Document):
    """How a setup's part stands between its soft jaws, then the best others that were tried."""

    angles: list[AngleTried]


class AngleTaken(AtVersion):
    """Put the part of a setup in at an angle that was offered."""

    setup: Annotated[int, Field(ge=1, le=20)]
    turn_deg: Annotated[float, Field(ge=-360, le=360)]


@lru_cache(maxsize=16)
def _angles(document: str, number: int) -> list[Turned]:
    from wedgecraft.core.draft.angles import angles

    return angles(JobDocument.model_validate_json(document), number)


def _turned(job_id: str, number: int) -> list[Turned]:
    document, _ = _asked(job_id)
    try:
        return _angles(document.model_dump_json(exclude={"result"}), number)
    except OutOfRange as error:
        said = f"{error.allowed[:1].upper()}{error.allowed[1:]}."
        raise ProblemRaised(422, "It cannot be judged as it stands", said) from None


@blueprint.get("/<job_id>/angles")
@lanes.engine
@blueprint.input(OneSetup, location="query", arg_name="asked")
@blueprint.output(Angles)
def angles_offered(job_id: str, asked: OneSetup) -> Angles:
    """At which angles a part between soft jaws is held best; none where it is round, or has no such
    jaws. Takes seconds; nothing is stored.
    """
    return Angles(angles=[item.tried for item in _turned(job_id, asked.setup)])


@blueprint.post("/<job_id>/angles")
@may("plan")
@lanes.engine
@blueprint.input(AngleTaken, arg_name="given")
@blueprint.output(JobState)
def take_angle(job_id: str, given: AngleTaken) -> Response:
    """Take one of them."""
    known = _turned(job_id, given.setup)[1:]
    taken = next((item for item in known if item.tried.turn_deg == given.turn_deg), None)
    if taken is None:
        raise ProblemRaised(409, "Nothing was changed", "The job is another now; look again.")
    return _put(job_id, given.version, taken.document)


@blueprint.post("/<job_id>/rest")
@may("plan")
@lanes.engine
@blueprint.input(AtVersion, arg_name="given")
@blueprint.output(JobState)
def rest(job_id: str, given: AtVersion) -> Response:
    """Propose setups for the ops that none holds."""
    from wedgecraft.core.draft.mends import rest_held

    document, _ = _asked(job_id)
    with current_app.extensions["database"].session() as session:
        stores = _stores(session)
    try:
        found = rest_held(document, stores)
    except OutOfRange as error:
        said = f"{error.allowed[:1].upper()}{error.allowed[1:]}."
        raise ProblemRaised(422, "Nothing of the shop holds it as it is", said) from None
    return _put(job_id, given.version, found)


def _put(job_id: str, version: int, document: JobDocument) -> Response:
    return changed_job(job_id, version, "", lambda _: jobs.as_json(document))
