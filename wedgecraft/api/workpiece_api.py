"""A part from blank to finished: what every op leaves, and pictures of it."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any

import shapely
from apiflask import APIBlueprint
from flask import Response, current_app
from pydantic import Field

from wedgecraft.api import lanes
from wedgecraft.api.description import files
from wedgecraft.api.documents import SectionCut
from wedgecraft.api.jobs_api import found_job
from wedgecraft.api.problems import ProblemRaised, not_possible
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.held import HeldSection
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.workpiece import WorkpieceRequest, WorkpieceResult
from wedgecraft.store import jobs

blueprint = APIBlueprint("workpiece", __name__, url_prefix="/api/jobs", tag="Workpiece")


class StateAsked(Document):
    """Which state: 0 the blank, then after each op, one more the finished part. ``version``: of the
    job as the page has it, so that a picture is fetched again when that changed.
    """

    state: Annotated[int, Field(ge=0, le=30)] = 0
    version: int = 0


class SliceAsked(Document):
    """A state cut at a height over the part's underside."""

    state: Annotated[int, Field(ge=0, le=30)] = 0
    height_mm: Annotated[float, Field(ge=-1000, le=2000)] = 0


@blueprint.get("/<job_id>/parts/<int:part>/workpiece")
@lanes.engine
@blueprint.output(WorkpieceResult)
def states(job_id: str, part: int) -> WorkpieceResult:
    """What every op and cut takes and leaves, what it gouges, what is left over."""
    return _answered(_part(job_id, part).model_dump_json())


@blueprint.get("/<job_id>/parts/<int:part>/workpiece.glb")
@lanes.engine
@blueprint.input(StateAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files("model/gltf-binary"))
def solid(job_id: str, part: int, asked: StateAsked) -> Response:
    """A state for a 3-D view (glTF): a node for each op that cut a surface, and one for what the op
    took.
    """
    from wedgecraft.formats.glb import state_glb

    piece = _piece(_part(job_id, part))
    try:
        body = state_glb(piece, asked.state)
    except IndexError:
        raise _no_state() from None
    return Response(body, mimetype="model/gltf-binary")


@blueprint.get("/<job_id>/parts/<int:part>/workpiece/slice")
@lanes.engine
@blueprint.input(SliceAsked, location="query", arg_name="asked")
@blueprint.output(SectionCut)
def slice_(job_id: str, part: int, asked: SliceAsked) -> SectionCut:
    """A state cut level at a height, in the part's frame."""
    piece = _piece(_part(job_id, part))
    if asked.state > len(piece.ops) + 1:
        raise _no_state()
    if asked.state == 0:
        body = piece.blank
    elif asked.state > len(piece.ops):
        body = piece.finished
    else:
        state = piece.ops[asked.state - 1]
        body = state.pose.back(state.after)
    areas = body.slice(asked.height_mm)
    rings = [
        [(round(float(x), 4), round(float(y), 4)) for x, y in shapely.get_coordinates(ring)[:-1]]
        for area in areas.geoms
        for ring in (area.exterior, *area.interiors)
    ]
    return SectionCut(height_mm=asked.height_mm, area_mm2=float(areas.area), rings=rings)


@blueprint.get("/<job_id>/parts/<int:part>/ops/<int:op>/held")
@lanes.engine
@blueprint.output(HeldSection)
def held(job_id: str, part: int, op: int) -> HeldSection:
    """The workpiece cut where its clamps press in an op, as its setup holds it, and what touches it
    there: raw, or cut in an op before.
    """
    from wedgecraft.core.station.held import held_section

    request, view = _view(job_id, part, op)
    try:
        return held_section(view)
    except OutOfRange as error:
        raise not_possible(error, request, "Not held like that") from None


@blueprint.get("/<job_id>/parts/<int:part>/ops/<int:op>/stood.glb")
@lanes.engine
@blueprint.doc(responses=files("model/gltf-binary"))
def stood_solid(job_id: str, part: int, op: int) -> Response:
    """The workpiece as it is put in, in its station's frame, for a 3-D view (glTF)."""
    from wedgecraft.core.station.stood import stood
    from wedgecraft.formats.glb import stood_glb

    request, view = _view(job_id, part, op)
    try:
        body = stood_glb(stood(view))
    except OutOfRange as error:
        raise not_possible(error, request, "No solid") from None
    return Response(body, mimetype="model/gltf-binary")


def _view(job_id: str, part: int, op: int) -> tuple[Any, Any]:
    """What the setup that holds an op asks of the engine, and the op in it."""
    from wedgecraft.core.plan.setup_view import setup_request
    from wedgecraft.core.records.view import views_of

    with current_app.extensions["database"].session() as session:
        document = jobs.document(session, found_job(session, job_id))
    for number, setup in enumerate(document.route.setups if document.route else [], 1):
        for index, item in enumerate(setup.holds):
            if (item.part, item.op) == (part, op):
                request = setup_request(document, number)
                if request is not None:
                    return request, views_of(request)[index]
    raise ProblemRaised(404, "Held nowhere", "No setup that can be planned holds this op yet.")


def _no_state() -> ProblemRaised:
    return ProblemRaised(404, "No such state", "The part has fewer ops than that.")


def _part(job_id: str, number: int) -> Part:
    with current_app.extensions["database"].session() as session:
        document = jobs.document(session, found_job(session, job_id))
    if number >= len(document.job.parts):
        raise ProblemRaised(404, "No such part", "The job has fewer parts than that.")
    return document.job.parts[number]


def _piece(part: Part) -> Any:
    from wedgecraft.core.workpiece.mend import NotABody
    from wedgecraft.core.workpiece.states import workpiece

    try:
        return workpiece(part)
    except NotABody as error:
        raise ProblemRaised(422, "No solid", f"{error.what}; {error.remedy}.") from None


@lru_cache(maxsize=32)
def _answered(part: str) -> WorkpieceResult:
    from wedgecraft.core.workpiece.report import workpiece_report  # loads the engine

    asked = WorkpieceRequest(part=Part.model_validate_json(part))
    try:
        return workpiece_report(asked)
    except OutOfRange as error:
        raise not_possible(error, asked, field=error.field) from None
