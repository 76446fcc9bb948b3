"""Parts in: outlines out of drawings, and solids. Nothing is stored in a job here; the person looks
first and takes what is right.
"""

from __future__ import annotations

import json
from typing import Annotated, Any

import numpy as np
import shapely
from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import Field

from wedgecraft.api import lanes, once
from wedgecraft.api.access import may, me
from wedgecraft.api.description import files
from wedgecraft.api.documents import SectionCut, UploadState
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.api.traffic import unstorable
from wedgecraft.core.ground.documents import Document, FieldError, Number
from wedgecraft.core.ground.units import parse
from wedgecraft.core.records.drawing import DrawingUnits, OutlinesFound
from wedgecraft.core.records.solid import SolidReading
from wedgecraft.core.workpiece.loops import LoopFault
from wedgecraft.core.workpiece.mesh import Mesh, section, turned_up
from wedgecraft.formats.child import Readers
from wedgecraft.formats.drawings import LIMITS, read_json
from wedgecraft.formats.errors import FileRefused, UnitsMissing
from wedgecraft.formats.outlines import JOIN_MM, MOST_BYTES
from wedgecraft.formats.step.reader import check_solid
from wedgecraft.store import uploads
from wedgecraft.store.models import ACTIVE, Upload

blueprint = APIBlueprint("drawings", __name__, url_prefix="/api", tag="Parts in")

_UNITS: dict[str, DrawingUnits] = {"mm": "mm", "inch": "inch", "px": "px"}


class WayAsked(Document):
    """Which way up, and for a section how high over the underside."""

    x: Number
    y: Number
    z: Number
    height_mm: Annotated[float, Field(ge=0, le=5000)] = 0


_readers = Readers(LIMITS, many=2)


@blueprint.post("/drawings")
@may("plan")
@lanes.files
@blueprint.output(OutlinesFound)
def read() -> Response:
    """Outlines in an uploaded DXF or SVG (field ``file``; ``units`` mm, inch or px; ``layers`` a
    JSON list; ``join`` a length).
    """
    data, name = _sent()
    units = request.form.get("units") or None
    if units is not None and units not in _UNITS:
        raise _refused(f"“{units[:40]}” is not a unit of a drawing", "say mm, inch or px")
    try:
        join = parse("length", request.form.get("join") or JOIN_MM)
    except ValueError as error:
        raise _refused(str(error), "say for example 0.05 mm") from None
    try:
        found = _readers.call(
            read_json, data, _UNITS[units] if units else None, name, _layers(), join
        )
    except UnitsMissing as error:
        problem = _refused(error.what, error.remedy)
        problem.problem = problem.problem.model_copy(update={"type": "units-missing"})
        raise problem from None
    except FileRefused as error:
        raise _refused(error.what, error.remedy) from None
    return Response(found, mimetype="application/json")


def _layers() -> list[str] | None:
    given = request.form.get("layers")
    if not given:
        return None
    try:
        names = json.loads(given)
    except (ValueError, RecursionError):
        names = None
    if not isinstance(names, list) or not all(isinstance(name, str) for name in names):
        raise _refused("the layers are not a list of names", "choose them again")
    return names


def _sent() -> tuple[bytes, str]:
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        raise _refused("no file was sent", "choose a DXF, SVG, STEP, STL, 3MF or GLB file")
    if unstorable(sent.filename):
        raise _refused("the file's name holds a NUL or half of a character", "rename the file")
    return sent.stream.read(MOST_BYTES + 1), sent.filename


def _refused(what: str, remedy: str) -> ProblemRaised:
    return ProblemRaised(
        422,
        "File not used",
        f"{what[:1].upper()}{what[1:]}; {remedy}.",
        [FieldError(field="file", value="", message=remedy)],
    )


@blueprint.post("/solids")
@may("plan")
@lanes.files
@blueprint.output(UploadState, status_code=202)
def read_solid() -> UploadState:
    """Queue the reading of an uploaded STEP, STL, 3MF or GLB file (field ``file``)."""
    data, name = _sent()
    try:
        check_solid(data)
    except FileRefused as error:
        raise _refused(error.what, error.remedy) from None
    with _session() as session:
        made = once.before(session)
        if made is not None:
            return _state(_found(session, made.subject))
        before_it = uploads.active_of(session, me().id)
        upload = uploads.add(session, name, data, me().id)
        once.note(session, upload.id)
        state = _state(upload)
    current_app.extensions["queue"].add_solid(state.id, before_it)
    return state


@blueprint.get("/solids/<upload_id>")
@blueprint.output(UploadState)
def solid(upload_id: str) -> Response:
    """How far a solid is, and what was read."""
    with _session() as session:
        upload = _found(session, upload_id)
        # What was read was validated when it was stored, and can be megabytes: given as it is.
        state = _state(upload, read=False).model_dump(mode="json") | {"result": upload.result}
    return Response(json.dumps(state), mimetype="application/json")


@blueprint.delete("/solids/<upload_id>")
@may("plan")
@blueprint.output(UploadState)
def give_up(upload_id: str) -> UploadState:
    """Stop reading a solid."""
    with _session() as session:
        upload = _found(session, upload_id)
        if upload.status in ACTIVE:
            uploads.report(session, upload_id, status="cancelled", step="cancelled", file=None)
            session.refresh(upload)
        return _state(upload)


@blueprint.get("/solids/<upload_id>/mesh")
@blueprint.doc(responses=files("application/octet-stream"))
def mesh(upload_id: str) -> Response:
    """Triangles for the 3-D view: a NumPy archive without compression is not for browsers, so plain
    float32, nine to a triangle.
    """
    found = _mesh(upload_id)
    corners = found.points[found.triangles].astype("<f4")
    return Response(
        corners.tobytes(),
        mimetype="application/octet-stream",
        headers={"Cache-Control": "private, max-age=86400"},
    )


@blueprint.get("/solids/<upload_id>/section")
@lanes.engine
@blueprint.input(WayAsked, location="query", arg_name="asked")
@blueprint.output(SectionCut)
def cut(upload_id: str, asked: WayAsked) -> SectionCut:
    """The solid, this way up, cut at a height."""
    direction = (asked.x, asked.y, asked.z)
    if np.linalg.norm(direction) < 1e-6:
        raise ProblemRaised(422, "Not possible", "The way up is a direction other than zero.")
    stood, _ = turned_up(_mesh(upload_id), direction)
    try:
        pieces = section(stood, asked.height_mm)
    except LoopFault as fault:
        raise ProblemRaised(
            422, "No section", f"{fault.what[:1].upper()}{fault.what[1:]}; {fault.remedy}."
        ) from None
    rings = [
        [(round(float(x), 4), round(float(y), 4)) for x, y in shapely.get_coordinates(ring)[:-1]]
        for piece in pieces
        for ring in (piece.exterior, *piece.interiors)
    ]
    return SectionCut(
        height_mm=asked.height_mm, area_mm2=float(sum(piece.area for piece in pieces)), rings=rings
    )


def _mesh(upload_id: str) -> Mesh:
    with _session() as session:
        found = uploads.mesh_of(session, upload_id)
    if found is None:
        raise ProblemRaised(
            404,
            "No such solid",
            "This solid was not read, or is not kept any more; load the file again.",
        )
    return found


def _session() -> Any:
    return current_app.extensions["database"].session()


def _found(session: Any, upload_id: str) -> Upload:
    upload = uploads.without_files(session, upload_id)
    if upload is None:
        raise ProblemRaised(404, "No such solid", "This solid does not exist; load the file again.")
    return upload


def _state(upload: Upload, read: bool = True) -> UploadState:
    result = (
        SolidReading.model_validate(upload.result) if read and upload.result is not None else None
    )
    return UploadState(
        id=upload.id,
        name=upload.name,
        status=upload.status,
        step=upload.step or "",
        share=upload.share or 0.0,
        error=upload.error,
        result=result,
    )
