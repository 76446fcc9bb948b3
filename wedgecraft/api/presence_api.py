"""Two people on one job: each is told of the other, and of what the other changed."""

from __future__ import annotations

from typing import Annotated

from apiflask import APIBlueprint
from flask import current_app
from pydantic import Field

from wedgecraft.api.access import me
from wedgecraft.api.jobs_api import missing_job
from wedgecraft.core.ground.documents import Document
from wedgecraft.store import jobs, presence

blueprint = APIBlueprint("presence", __name__, url_prefix="/api/jobs", tag="Jobs")


class PageOpen(Document):
    """A page that has a job open, by a name it gave itself; ``on`` a step of it, or in a setup's
    words. ``open`` is false when it closes.
    """

    page: Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
    on: Annotated[str, Field(max_length=40)] = ""
    open: bool = True


class OtherPage(Document):
    """Somebody who has the job open, ``on`` which step; ``own``: another page of who asks."""

    name: str
    on: str
    own: bool


class Others(Document):
    """What other pages have the job open, and the version it is at."""

    others: list[OtherPage]
    version: int


@blueprint.post("/<job_id>/here")
@blueprint.input(PageOpen, arg_name="given")
@blueprint.output(Others)
def here(job_id: str, given: PageOpen) -> Others:
    """Say that a page is open, or closed; learn who else is there and whether the job was
    changed.
    """
    with current_app.extensions["database"].session() as session:
        version = jobs.version_of(session, job_id)
        if version is None:
            raise missing_job()
        if not given.open:
            presence.gone(session, given.page)
            return Others(others=[], version=version)
        there = presence.here(session, job_id, given.page, me().id, given.on)
        others = [OtherPage(name=name, on=on, own=own) for name, on, own in there]
        return Others(others=others, version=version)
