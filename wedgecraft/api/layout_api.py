"""The bench: stations a person places are judged at once; where they may go; layouts out as files
and in as a table.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Literal

from apiflask import APIBlueprint
from flask import Response, current_app
from pydantic import Field

from wedgecraft.api import lanes
from wedgecraft.api.access import may
from wedgecraft.api.description import files
from wedgecraft.api.documents import JobState, OneSetup
from wedgecraft.api.jobs_api import changed_job, found_job, of_setup
from wedgecraft.api.problems import ProblemRaised, not_possible
from wedgecraft.core.ground.documents import FieldError
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.kinds import NameOf
from wedgecraft.core.plan.settled import settled
from wedgecraft.core.plan.setup_view import address_in
from wedgecraft.core.records.arranging import Room, RoomAsked, Row, RowAsked
from wedgecraft.core.records.request import Arrangement, OwnStation, PlanRequest
from wedgecraft.formats.export import EXPORTS
from wedgecraft.formats.names import file_name
from wedgecraft.store import jobs

if TYPE_CHECKING:
    from wedgecraft.core.plan.bench import Bench

blueprint = APIBlueprint("layout", __name__, url_prefix="/api/jobs", tag="Layout")


class FileAsked(OneSetup):
    """Which file, of which setup, and in which units its lengths are."""

    format: Annotated[str, NameOf(EXPORTS)]
    units: Literal["mm", "inch"] = "mm"


class RoomOf(OneSetup, RoomAsked):
    """Room for a station in a setup."""


class RowOf(OneSetup, RowAsked):
    """A row in a setup."""


class TableGiven(OneSetup):
    """Station positions of a setup as CSV, at the version of the job that was read. ``units`` of
    cells without a unit of their own.
    """

    version: int
    text: Annotated[str, Field(max_length=1_000_000)]
    units: Literal["mm", "inch"] = "mm"


@lru_cache(maxsize=16)
def _bench(document: str) -> Bench:
    """Worked out once for as long as the job stays as it is."""
    from wedgecraft.core.plan.bench import Bench

    return Bench(PlanRequest.model_validate_json(document))


def _bench_of(job_id: str, number: int) -> Bench:
    """The plate with the stations that are on screen: those a person placed, else those of the
    layout.
    """
    with current_app.extensions["database"].session() as session:
        document = jobs.document(session, found_job(session, job_id))
    request, result = of_setup(document, number)
    asked = settled(request, result)
    if not asked.arrangement.own and result is not None and result.designs:
        stations = [
            OwnStation(
                face=s.face, kind=s.kind, x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn, locked=s.locked
            )
            for s in result.designs[0].stations
        ]
        asked = asked.model_copy(update={"arrangement": Arrangement(own=True, stations=stations)})
    try:
        return _bench(asked.model_dump_json())
    except OutOfRange as error:
        field = address_in(document, number, error.field)
        raise not_possible(error, request, "Not possible yet", field) from None


@blueprint.get("/<job_id>/layout/room")
@lanes.engine
@blueprint.input(RoomOf, location="query", arg_name="asked")
@blueprint.output(Room)
def room(job_id: str, asked: RoomOf) -> Room:
    """Where a station's datum corner may be while the others stay where the person placed them."""
    try:
        return _bench_of(job_id, asked.setup).room(asked)
    except OutOfRange as error:
        raise ProblemRaised(
            422, "No such place", f"{error.field} {error.value} is not {error.allowed}."
        ) from None


@blueprint.get("/<job_id>/layout/row")
@lanes.engine
@blueprint.input(RowOf, location="query", arg_name="asked")
@blueprint.output(Row)
def row(job_id: str, asked: RowOf) -> Row:
    """Stations that would continue a row or a column from one that stands."""
    try:
        return _bench_of(job_id, asked.setup).row(asked)
    except OutOfRange as error:
        raise ProblemRaised(
            422, "No such station", f"{error.value} is not {error.allowed}."
        ) from None


@blueprint.get("/<job_id>/layout/file")
@lanes.engine
@blueprint.input(FileAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files(*(export.mime for export in EXPORTS)))
def file(job_id: str, asked: FileAsked) -> Response:
    """The layout as it stands: a drawing in layers, or a table of station positions."""
    with current_app.extensions["database"].session() as session:
        job = found_job(session, job_id)
        document = jobs.document(session, job)
        name = file_name(job.name)
    asked_of, result = of_setup(document, asked.setup)
    if result is None or not result.designs:
        raise ProblemRaised(
            409, "No layout", "There is no layout of this job as it stands; plan it first."
        )
    export = EXPORTS[asked.format]()
    body = export.made(asked_of, result.designs[0], asked.units)
    headers = {"Content-Disposition": f'attachment; filename="{name}-layout.{export.kind}"'}
    return Response(body, mimetype=export.mime, headers=headers)


@blueprint.post("/<job_id>/layout/table")
@may("plan")
@blueprint.input(TableGiven, arg_name="given")
@blueprint.output(JobState)
def table(job_id: str, given: TableGiven) -> Response:
    """Stations from a table of positions: they are the layout then. With any fault nothing is
    stored.
    """
    from wedgecraft.formats import stations

    found, faults = stations.from_csv(given.text, given.units)
    if faults:
        errors = [
            FieldError(field=f"row {fault.row}, {fault.column}", value="", message=fault.message)
            for fault in faults[:20]
        ]
        raise ProblemRaised(
            422,
            "Nothing was taken over",
            "; ".join(f"{item.field}: {item.message}" for item in errors[:4]),
            errors,
        )
    arrangement = Arrangement(own=True, stations=found)
    document = arrangement.model_dump(mode="json")
    return changed_job(
        job_id,
        given.version,
        f"route.setups.{given.setup - 1}.arrangement",
        lambda _: document,
        [f"{len(found)} stations were read"],
    )
