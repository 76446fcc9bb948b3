"""The shelf: fixtures that exist, made from a design, found by their label."""

from __future__ import annotations

from typing import Annotated, Any

from apiflask import APIBlueprint
from flask import Response, current_app, request
from pydantic import Field

from wedgecraft.api import lanes, once
from wedgecraft.api.access import may, me
from wedgecraft.api.description import files
from wedgecraft.api.documents import JobState, SetupNumber
from wedgecraft.api.job_state import Kept
from wedgecraft.api.jobs_api import changed_job
from wedgecraft.api.planned import planned_document
from wedgecraft.api.problems import ProblemRaised
from wedgecraft.api.sheet_api import sheet_of_job
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.request import Arrangement
from wedgecraft.core.records.shelf import FixtureMade, FixtureShown, FixtureState
from wedgecraft.formats.names import file_name
from wedgecraft.store import jobs, shelf
from wedgecraft.store.models import Fixture, Run

blueprint = APIBlueprint("shelf", __name__, url_prefix="/api/shelf", tag="Shelf")
_marks: Kept[tuple[str, int], str | None] = Kept(500)


class NewFixture(Document):
    """Of which job and setup, counted from 1."""

    job_id: Annotated[str, Field(max_length=32)]
    setup: SetupNumber = 1


class FixtureChange(Document):
    """What is said of it anew; nothing stays as it is. ``note`` goes into its history."""

    place: Annotated[str, Field(max_length=120)] | None = None
    state: FixtureState | None = None
    note: Annotated[str, Field(max_length=300)] = ""


class Shelf(Document):
    """All fixtures, by their numbers."""

    fixtures: list[FixtureShown]


class PlacesUsed(Document):
    """The version of the job that was read."""

    version: int


@blueprint.get("")
@lanes.engine
@blueprint.output(Shelf)
def shown() -> Shelf:
    """What exists."""
    with current_app.extensions["database"].session() as session:
        return Shelf(fixtures=[_shown(session, row) for row in shelf.every(session)])


@blueprint.post("")
@may("log")
@lanes.engine
@blueprint.input(NewFixture, arg_name="given")
@blueprint.output(FixtureShown, status_code=201)
def make(given: NewFixture) -> FixtureShown:
    """One more fixture, made from a setup's design as it is planned."""
    sheet = sheet_of_job(given.job_id, given.setup)
    if sheet.exceeded or not sheet.current:
        why = (
            "a limit is exceeded: " + ", ".join(sheet.exceeded)
            if sheet.exceeded
            else ("the job was changed since it was planned")
        )
        raise ProblemRaised(409, "Not put on the shelf", f"{why[:1].upper()}{why[1:]}.")
    torque = next((t.torque_nm for t in sheet.tightened if t.torque_nm is not None), None)
    with current_app.extensions["database"].session() as session:
        known = once.before(session)
        if known is not None:
            return _shown(session, _found(session, known.subject))
        made = FixtureMade(
            version=sheet.version,
            machine=sheet.machine,
            form=sheet.form,
            faces=sheet.faces,
            torque_nm=torque,
            zeros=[zero.name for zero in sheet.zeros],
            pick_up=[step for zero in sheet.zeros for step in zero.steps],
            parts_a_cycle=sheet.parts_a_cycle,
            measured=_measured(session, given.job_id, given.setup),
        )
        row = shelf.make(
            session,
            job_id=given.job_id,
            setup=given.setup,
            name=f"{sheet.job}, setup {given.setup}"[:200],
            data=made.model_dump(mode="json"),
            person=me().name,
            what=f"put on the shelf, design {sheet.version}",
        )
        once.note(session, row.id)
        return _shown(session, row)


@blueprint.get("/<ident>")
@blueprint.output(FixtureShown)
def one(ident: str) -> FixtureShown:
    """One, by its id or by the number on its label."""
    with current_app.extensions["database"].session() as session:
        return _shown(session, _found(session, ident))


@blueprint.patch("/<ident>")
@may("log")
@blueprint.input(FixtureChange, arg_name="given")
@blueprint.output(FixtureShown)
def change(ident: str, given: FixtureChange) -> FixtureShown:
    """Where it lies, what state it is in, and what happened."""
    with current_app.extensions["database"].session() as session:
        row = _found(session, ident)
        if once.before(session) is not None:
            return _shown(session, row)
        said = []
        if given.place is not None and given.place != row.place:
            said.append(f"lies at {given.place}" if given.place else "lies nowhere")
            row.place = given.place
        if given.state is not None and given.state != row.state:
            said.append(given.state)
            row.state = given.state
        if given.note:
            said.append(given.note)
        if said:
            shelf.happened(row, me().name, "; ".join(said)[:300])
        once.note(session, row.id)
        return _shown(session, row)


@blueprint.post("/<ident>/places")
@may("plan")
@blueprint.output(FixtureShown)
def keep_places(ident: str) -> FixtureShown:
    """Keep the measured places of its job with it: they are this fixture's from then on."""
    with current_app.extensions["database"].session() as session:
        row = _found(session, ident)
        places = _measured(session, row.job_id, row.setup) if row.job_id else None
        if places is None:
            raise ProblemRaised(
                409,
                "Nothing was measured",
                "Measured places of its stations are entered in Locate.",
            )
        row.data = {**row.data, "measured": places.model_dump(mode="json")}
        count = sum(item.measured is not None for item in places.stations)
        shelf.happened(row, me().name, f"{count} measured stations kept")
        return _shown(session, row)


@blueprint.post("/<ident>/use")
@may("plan")
@blueprint.input(PlacesUsed, arg_name="given")
@blueprint.output(JobState)
def use_places(ident: str, given: PlacesUsed) -> Response:
    """Plan its job with the places that were measured on this one."""
    with current_app.extensions["database"].session() as session:
        row = _found(session, ident)
        job_id, setup = row.job_id, row.setup
        places = FixtureMade.model_validate(row.data).measured
    if job_id is None or places is None:
        raise ProblemRaised(409, "Nothing was measured", "No places were kept with this fixture.")
    path = f"route.setups.{setup - 1}.arrangement"
    document = places.model_dump(mode="json")
    return changed_job(job_id, given.version, path, lambda _: document)


@blueprint.get("/<ident>/label.pdf")
@blueprint.doc(responses=files("application/pdf"))
def label(ident: str) -> Response:
    """A label with its number and a code that leads here."""
    from wedgecraft.formats.sheets.label_pdf import label_pdf

    with current_app.extensions["database"].session() as session:
        found = _shown(session, _found(session, ident))
    body = label_pdf(found, f"{request.host_url}shelf/{found.number}")
    name = file_name(f"{found.number} label")
    headers = {"Content-Disposition": f'attachment; filename="{name}.pdf"'}
    return Response(body, mimetype="application/pdf", headers=headers)


def _found(session: Any, ident: str) -> Fixture:
    row = shelf.found(session, ident)
    if row is None:
        raise ProblemRaised(404, "No such fixture", "Its number is not on the shelf.")
    return row


def _measured(session: Any, job_id: str, setup: int) -> Arrangement | None:
    document, _ = planned_document(session, job_id)
    setups = document.route.setups if document.route is not None else []
    if setup > len(setups):
        return None
    arrangement = setups[setup - 1].arrangement
    some = any(item.measured is not None for item in arrangement.stations)
    return arrangement if some else None


def _shown(session: Any, row: Fixture) -> FixtureShown:
    made = FixtureMade.model_validate(row.data)
    parts = row.parts
    changed = False
    if row.job_id is not None:
        parts += shelf.parts_over(session, row.job_id, row.setup, row.created_at)
        now = _version(session, row.job_id, row.setup)
        changed = now is not None and now != made.version
    return FixtureShown(
        id=row.id,
        number=row.number,
        name=row.name,
        job_id=row.job_id,
        setup=row.setup,
        place=row.place,
        state=row.state,
        parts=parts,
        changed=changed,
        made=made,
        history=row.history,
        created_at=row.created_at,
    )


def _version(session: Any, job_id: str, setup: int) -> str | None:
    """The mark of the design its job has now; nothing where it has none."""
    run = jobs.newest_done_mark(session, job_id)
    if run is None:
        return None

    def look() -> str | None:
        result = jobs.result_of(session.get_one(Run, run.id))
        designs = result.setups[setup - 1].result.designs if result is not None else []
        return designs[0].mark if designs else None

    return _marks.get((run.id, setup), look)
