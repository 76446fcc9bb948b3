"""The route: which setup holds which op, what form a setup has, ways to make a part and to clamp
it taken over.
"""

from __future__ import annotations

from typing import Annotated, Any

from apiflask import APIBlueprint
from flask import Response, current_app
from pydantic import Field

from wedgecraft.api import job_state, lanes
from wedgecraft.api.access import may
from wedgecraft.api.documents import JobState, SetupNumber, Setups
from wedgecraft.api.jobs_api import changed_job, found_job, preferred
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.kinds import NameOf
from wedgecraft.core.plan.route_edits import held_in, with_form, with_scheme, without_setup
from wedgecraft.core.plan.schemes import SetupScheme, setups
from wedgecraft.core.records.form import FORMS
from wedgecraft.core.records.job import JobDocument
from wedgecraft.store import jobs

blueprint = APIBlueprint("route", __name__, url_prefix="/api/jobs", tag="Route")

Count = Annotated[int, Field(ge=0, le=1000)]


class OpHeld(Document):
    """Hold an op in a setup, counted from 1, and in no other: one more than there are makes a new
    setup, nothing holds it nowhere.
    """

    version: int
    part: Count
    op: Count
    setup: SetupNumber | None = None


class FormAsked(Document):
    """Another form for a setup; what both have is taken along."""

    version: int
    kind: Annotated[str, NameOf(FORMS)]


class SchemeAsked(Document):
    """Make a part in the ops of the scheme of this form."""

    version: int
    form: Annotated[str, NameOf(FORMS)]


class WayAsked(Document):
    """Clamp as in one of the ways that planning tried, counted from 0."""

    version: int
    way: Count


class AtVersion(Document):
    """At the version that was read."""

    version: int


def _changed(job_id: str, version: int, path: str, change: Any) -> Response:
    """A change of the route; what it refuses is said. ``path`` of what changes: the route, or
    everything.
    """

    def value(document: JobDocument) -> Any:
        try:
            stored = jobs.as_json(change(document))
        except OutOfRange as error:
            raise ProblemRaised(
                422, "Nothing was changed", f"{error.field} {error.value}: {error.allowed}."
            ) from None
        return stored[path] if path else stored

    return changed_job(job_id, version, path, value)


@blueprint.post("/<job_id>/held")
@may("plan")
@blueprint.input(OpHeld, arg_name="given")
@blueprint.output(JobState)
def hold_op(job_id: str, given: OpHeld) -> Response:
    """Hold an op in this setup."""
    return _changed(
        job_id,
        given.version,
        "route",
        lambda document: held_in(document, given.part, given.op, given.setup),
    )


@blueprint.post("/<job_id>/setups/<int:number>/form")
@may("plan")
@blueprint.input(FormAsked, arg_name="given")
@blueprint.output(JobState)
def change_form(job_id: str, number: int, given: FormAsked) -> Response:
    """Give a setup another form."""
    plate = _plate()
    return _changed(
        job_id,
        given.version,
        "route",
        lambda document: with_form(document, number, given.kind, plate),
    )


@blueprint.post("/<job_id>/setups/<int:number>/removal")
@may("plan")
@blueprint.input(AtVersion, arg_name="given")
@blueprint.output(JobState)
def remove_setup(job_id: str, number: int, given: AtVersion) -> Response:
    """Take a setup out; its ops are held nowhere then."""
    return _changed(
        job_id, given.version, "route", lambda document: without_setup(document, number)
    )


@blueprint.post("/<job_id>/setups/<int:number>/way")
@may("plan")
@blueprint.input(WayAsked, arg_name="given")
@blueprint.output(JobState)
def take_way(job_id: str, number: int, given: WayAsked) -> Response:
    """Clamp a setup's stations in a way that was tried; a person's choice from then on."""
    from wedgecraft.core.plan.route import clamped  # the engine: not before someone asks

    with current_app.extensions["database"].session() as session:
        known = jobs.document(session, found_job(session, job_id)).result
    results = [item.result for item in known.setups if item.number == number] if known else []
    if not results or given.way >= len(results[0].ways):
        raise ProblemRaised(
            409, "No such way", "There is no such way for the job as it stands; plan it first."
        )
    way = results[0].ways[given.way]
    return _changed(
        job_id, given.version, "route", lambda document: clamped(document, number, [way])
    )


@blueprint.get("/<job_id>/parts/<int:part>/setups")
@lanes.engine
@blueprint.output(Setups)
def setup_schemes(job_id: str, part: int) -> Setups:
    """The fewest ops of this part on every form, with what they cost."""
    with current_app.extensions["database"].session() as session:
        asked = job_state.asked_of(found_job(session, job_id)).document
    return Setups(schemes=_schemes(asked, part))


def _schemes(asked: JobDocument, part: int) -> list[SetupScheme]:
    if part >= len(asked.job.parts):
        raise ProblemRaised(404, "No such part", f"This job has {len(asked.job.parts)} parts.")
    chosen, rules = asked.job.parts[part], asked.job.rules
    wanted = asked.job.quantity * chosen.per_kit
    return setups(chosen, wanted, rules.setup_minutes, rules.handling_seconds)


@blueprint.post("/<job_id>/parts/<int:part>/scheme")
@may("plan")
@blueprint.input(SchemeAsked, arg_name="given")
@blueprint.output(JobState)
def take_scheme(job_id: str, part: int, given: SchemeAsked) -> Response:
    """Make the part in the fewest ops of this form, each in a setup of its own."""
    plate = _plate()

    def change(document: JobDocument) -> JobDocument:
        scheme = next(item for item in _schemes(document, part) if item.form == given.form)
        if scheme.left_over:
            raise OutOfRange(
                "form", given.form, f"cannot cut {', '.join(scheme.left_over)} in any clamping"
            )
        return with_scheme(document, part, scheme, plate)

    return _changed(job_id, given.version, "", change)


def _plate() -> Any:
    """What a form that needs a plate starts from."""
    with current_app.extensions["database"].session() as session:
        return preferred(session, "plate")
