"""Locate: the verdict on every feature at every station, measured positions of a real fixture, and
the first article's table.
"""

from __future__ import annotations

import csv
import io
from functools import lru_cache
from typing import Annotated, Literal

from apiflask import APIBlueprint
from flask import Response, current_app
from pydantic import Field

from wedgecraft.api import lanes
from wedgecraft.api.access import may
from wedgecraft.api.description import files
from wedgecraft.api.documents import JobState, OneSetup
from wedgecraft.api.jobs_api import changed_job, found_job, of_setup
from wedgecraft.api.problems import ProblemRaised, not_possible
from wedgecraft.core.ground.documents import Document, FieldError
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length, Place
from wedgecraft.core.plan.settled import settled
from wedgecraft.core.plan.setup_view import address_in, verdicts_in_document
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.plan import PlanResult
from wedgecraft.core.records.request import Arrangement, OwnStation, PlanRequest
from wedgecraft.core.records.verdicts import VerdictsRequest, VerdictsResult
from wedgecraft.core.records.view import views_of
from wedgecraft.core.shop.table import RowFault
from wedgecraft.formats.names import file_name
from wedgecraft.formats.stations import TableUnits, scale_of
from wedgecraft.store import jobs

blueprint = APIBlueprint("locate", __name__, url_prefix="/api/jobs", tag="Locate")


class VerdictsAsked(OneSetup):
    """Of one station of a setup, counted from 1, and one feature everything that adds up; nothing
    for the table alone.
    """

    station: Annotated[int, Field(ge=1)] | None = None
    feature: Annotated[str, Field(max_length=120)] | None = None


class TableAsked(OneSetup):
    """The setup and the units of a table."""

    units: TableUnits = "mm"


class MeasuredPlace(Document):
    """Where a station, counted from 1, was found."""

    station: Annotated[int, Field(ge=1, le=1000)]
    x_mm: Place
    y_mm: Place
    z_mm: Place | None = None


class MeasuredGiven(OneSetup):
    """Measured places in a setup, typed or as CSV, at the version of the job that was read.
    Neither: those known are forgotten.

    ``within_mm``: how well they were measured, plus or minus.
    """

    version: int
    text: Annotated[str, Field(max_length=1_000_000)] = ""
    places: Annotated[list[MeasuredPlace], Field(max_length=1000)] = []
    units: Literal["mm", "inch"] = "mm"
    within_mm: Annotated[Length, Field(ge=0, le=1)] = 0.003


def _standing(request: PlanRequest, result: PlanResult | None) -> PlanRequest:
    """The request with the stations that are on screen, and the datum they were planned with.

    With none, as if one of every op stood at the datum. Raises ProblemRaised while the job is not
    planned as it stands.
    """
    request = settled(request, result)
    if request.arrangement.own and request.arrangement.stations:
        return request
    if result is None:
        raise ProblemRaised(
            409, "Not planned", "This job is not planned as it stands; plan it first."
        )
    if not result.designs:
        datum, turns = request.datum, [view.station.turns[0] for view in views_of(request)]
        stations = [
            OwnStation(kind=k, x_mm=datum.x_mm, y_mm=datum.y_mm, turn=turn)
            for k, turn in enumerate(turns)
        ]
        return request.model_copy(update={"arrangement": Arrangement(own=True, stations=stations)})
    locked = {
        (item.face, item.kind, item.x_mm, item.y_mm): item.measured
        for item in request.arrangement.stations
    }
    stations = [
        OwnStation(
            face=s.face,
            kind=s.kind,
            x_mm=s.x_mm,
            y_mm=s.y_mm,
            turn=s.turn,
            locked=s.locked,
            measured=locked.get((s.face, s.kind, s.x_mm, s.y_mm)),
        )
        for s in result.designs[0].stations
    ]
    return request.model_copy(update={"arrangement": Arrangement(own=True, stations=stations)})


def _document(job_id: str) -> JobDocument:
    with current_app.extensions["database"].session() as session:
        return jobs.document(session, found_job(session, job_id))


@lru_cache(maxsize=32)
def _answered(asked: str) -> VerdictsResult:
    from wedgecraft.core.locate.report import verdicts  # loads the engine: not before someone asks

    return verdicts(VerdictsRequest.model_validate_json(asked))


def _verdicts(document: JobDocument, asked: VerdictsAsked) -> VerdictsResult:
    """Stations that are left out come behind those placed."""
    given, result = of_setup(document, asked.setup)
    request, designs = _standing(given, result), result.designs if result is not None else []
    out = [
        OwnStation(face=s.face, kind=s.kind, x_mm=s.x_mm, y_mm=s.y_mm, turn=s.turn)
        for s in (designs[0].left_out if designs and not given.arrangement.own else [])
    ]
    stations = [*request.arrangement.stations, *out]
    request = request.model_copy(update={"arrangement": Arrangement(own=True, stations=stations)})
    wanted = VerdictsRequest(
        request=request,
        left_out=len(out),
        station=None if asked.station is None else asked.station - 1,
        feature=asked.feature,
    )
    pretend = not designs and not given.arrangement.stations
    try:
        found = _answered(wanted.model_dump_json()).model_copy(update={"pretend": pretend})
    except OutOfRange as error:
        field = address_in(document, asked.setup, error.field)
        raise not_possible(error, request, field=field) from None
    return verdicts_in_document(document, asked.setup, found)


@blueprint.get("/<job_id>/locate")
@lanes.engine
@blueprint.input(VerdictsAsked, location="query", arg_name="asked")
@blueprint.output(VerdictsResult)
def located(job_id: str, asked: VerdictsAsked) -> VerdictsResult:
    """Every feature at every station of the layout that is on screen."""
    return _verdicts(_document(job_id), asked)


@blueprint.get("/<job_id>/locate/first-article")
@lanes.engine
@blueprint.input(TableAsked, location="query", arg_name="asked")
@blueprint.doc(responses=files("text/csv"))
def first_article(job_id: str, asked: TableAsked) -> Response:
    """What to measure at the first article, in order, as a table."""
    document = _document(job_id)
    scale, digits = 1 / scale_of("", asked.units), 5 if asked.units == "inch" else 4
    lines = _verdicts(document, VerdictsAsked(setup=asked.setup)).first_article
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    titles = ["nominal", "tolerance", "expect within", "act from", "found"]
    nominal, *others = [f"{title} [{asked.units}]" for title in titles]
    write.writerow(["no", "feature", "station", nominal, "measured", *others])
    for line in lines:
        feature = f"'{line.feature}" if line.feature[:1] in "=+-@" else line.feature
        numbers = [
            f"{value * scale:.{digits}f}"
            for value in (line.tolerance_mm, line.expect_mm, line.act_mm)
        ]
        sizes = " ".join(
            f"{item.axis} {item.value_mm * scale:.{digits}f}".strip() for item in line.nominal
        )
        write.writerow([line.order, feature, line.station + 1, sizes, line.said, *numbers, ""])
    base = file_name(document.job.name)
    headers = {"Content-Disposition": f'attachment; filename="{base}-first-article.csv"'}
    return Response(out.getvalue(), mimetype="text/csv", headers=headers)


@blueprint.post("/<job_id>/measured")
@may("plan")
@blueprint.input(MeasuredGiven, arg_name="given")
@blueprint.output(JobState)
def measured(job_id: str, given: MeasuredGiven) -> Response:
    """Where the stations of the real fixture are: the layout stays as it is from then on. With any
    fault nothing is stored.
    """
    from wedgecraft.formats import measured as table

    standing = _standing(*of_setup(_document(job_id), given.setup)).arrangement
    stations = [station.model_copy(update={"measured": None}) for station in standing.stations]
    faults: list[RowFault] = []
    said = "measured positions were taken off"
    if given.text.strip():
        stations, faults = table.from_csv(given.text, stations, given.units, given.within_mm)
        said = f"{len(stations)} measured stations were read"
    elif given.places:
        found = {
            item.station: item.model_dump(exclude={"station"}, exclude_none=True)
            for item in given.places
        }
        if max(found) > len(stations):
            faults = [
                RowFault(
                    row=max(found), column="station", message=f"there are {len(stations)} stations"
                )
            ]
        elif len(found) < len(given.places):
            faults = [RowFault(row=0, column="station", message="a station is there twice")]
        else:
            stations, faults = table.placed(found, standing.stations, given.within_mm)
        said = f"{len(found)} measured stations were typed"
    if faults:
        errors = [
            FieldError(field=f"row {fault.row}, {fault.column}", value="", message=fault.message)
            for fault in faults[:20]
        ]
        text = "; ".join(
            item.message if "row 0" in item.field else f"{item.field}: {item.message}"
            for item in errors[:3]
        )
        raise ProblemRaised(422, "Nothing was taken over", text, errors)
    arrangement = Arrangement(own=True, stations=stations)
    document = arrangement.model_dump(mode="json")
    path = f"route.setups.{given.setup - 1}.arrangement"
    return changed_job(job_id, given.version, path, lambda _: document, [said])
