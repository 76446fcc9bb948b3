"""What a screen needs of each setup beside the document itself: what its stations stand on, what it
holds and by what name, and where that is set.
"""

from __future__ import annotations

import contextlib

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.job import Held, JobDocument, Setup
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Block
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.station.faces import BlockBody, FacePose, Faces, faces_of


class HeldShown(Document):
    """One op in its setup. ``station``: how it is held, and ``at`` where in the document that
    stands; ``own``: not as the first op of the setup is. ``torque_at``: where in the document the
    torque is set, on a screw or a handle, ``rated_nm`` what that is rated for.
    """

    part: int
    op: int
    name: str
    at: str
    station: StopAndEdgeClamp
    own: bool
    torque_at: str
    rated_nm: float
    drive: str


class SetupShown(Document):
    """``number`` counts from 1. ``plate`` and ``block``: what stations stand on, ``faces`` where
    those are, ``body`` what they stand round; nothing where its form cannot be planned yet.
    ``at``: where the setup stands in the document.
    """

    number: int
    name: str
    at: str
    form: str
    plate: Plate | None
    block: Block | None
    faces: list[FacePose]
    body: BlockBody | None
    held: list[HeldShown]


def setups_shown(document: JobDocument) -> list[SetupShown]:
    """All setups of a document, in their order."""
    setups = document.route.setups if document.route is not None else []
    return [_setup(document, setup, number) for number, setup in enumerate(setups, 1)]


def _setup(document: JobDocument, setup: Setup, number: int) -> SetupShown:
    carrier = setup.form.carrier(setup.machine)
    faces = faces_of(carrier.plate, carrier.block) if carrier else Faces([], None)
    at = f"route.setups.{number - 1}"
    return SetupShown(
        number=number,
        name=setup.name or f"Setup {number}",
        at=at,
        form=setup.form.said,
        plate=carrier.plate if carrier else None,
        block=carrier.block if carrier else None,
        faces=faces.faces,
        body=faces.body,
        held=[_held(document, setup, k, f"{at}.holds") for k in range(len(setup.holds))],
    )


def _held(document: JobDocument, setup: Setup, k: int, at: str) -> HeldShown:
    held = setup.holds[k]
    first = setup.holds[0].station
    station = held.station or first
    assert station is not None, "the first op of a setup has its station"  # noqa: S101
    with contextlib.suppress(OutOfRange):  # planning it says so
        station = setup.form.station(station, k)
    place = f"{at}.{k if held.station else 0}.station"
    own = setup.form.fields.get("station.clamp.torque_nm")
    torque = (
        f"{place}.clamp.torque_nm" if own is None else f"{at.removesuffix('.holds')}.form.{own}"
    )
    return HeldShown(
        part=held.part,
        op=held.op,
        name=op_name(document, held),
        at=place,
        station=station,
        own=held.station is not None,
        torque_at=torque,
        rated_nm=station.element.rated_nm(station.clamp),
        drive=station.element.drive,
    )


def op_name(document: JobDocument, held: Held) -> str:
    """As a person calls it: the part too where there are several."""
    part = document.job.parts[held.part]
    op = f"op {part.ops[held.op].number}"
    return f"{part.name}, {op}" if len(document.job.parts) > 1 else op
