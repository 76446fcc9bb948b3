"""Hold, asked beside the plan: how deep the part would have to sit in a vise of the shop."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated

from apiflask import APIBlueprint
from flask import current_app
from pydantic import Field

from wedgecraft.api import lanes
from wedgecraft.api.documents import OneSetup
from wedgecraft.api.jobs_api import found_job, of_setup
from wedgecraft.api.problems import not_possible
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Length, Torque
from wedgecraft.core.plan.setup_view import address_in
from wedgecraft.core.records.vise import InVise, InViseResult, Vise
from wedgecraft.store import jobs

blueprint = APIBlueprint("hold", __name__, url_prefix="/api/jobs", tag="Hold")


class ViseAsked(OneSetup):
    """The setup whose first op is asked about, the vise, the torque on its handle, whether toothed
    inserts are in its jaws, and how deep a person would hold the part.
    """

    vise: Vise
    torque_nm: Annotated[Torque, Field(gt=0, le=2000)]
    toothed: bool = False
    depth_mm: Annotated[Length, Field(ge=0, le=1000)] = 3


@lru_cache(maxsize=32)
def _answered(asked: str) -> InViseResult:
    from wedgecraft.core.hold.in_vise import in_vise  # loads the engine: not before someone asks

    return in_vise(InVise.model_validate_json(asked))


@blueprint.post("/<job_id>/vise")
@lanes.engine
@blueprint.input(ViseAsked, arg_name="given")
@blueprint.output(InViseResult)
def grip_depth(job_id: str, given: ViseAsked) -> InViseResult:
    """The least grip of the planned part in a vise, over its depth. Nothing is stored."""
    with current_app.extensions["database"].session() as session:
        document = jobs.document_of(found_job(session, job_id))
    request, _ = of_setup(document, given.setup)
    asked = InVise(
        request=request,
        vise=given.vise,
        torque_nm=given.torque_nm,
        toothed=given.toothed,
        depth_mm=given.depth_mm,
    )
    try:
        return _answered(asked.model_dump_json())
    except OutOfRange as error:
        field = address_in(document, given.setup, error.field)
        raise not_possible(error, request, field=field) from None
