"""Changing a route: which setup holds an op, what form a setup has, the ops of a scheme taken over.

What a setup held first says how it is held; where that goes, the next keeps it. Stations that a
person placed belong to what was held, and go with it.
"""

from __future__ import annotations

from typing import Any

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.plan.schemes import SetupScheme
from wedgecraft.core.records.form import FORMS, Form
from wedgecraft.core.records.job import Held, JobDocument, Route, Setup
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.request import Arrangement

Place = tuple[int, int]


def held_in(document: JobDocument, part: int, op: int, number: int | None) -> JobDocument:
    """The document with an op held in setup ``number``, counted from 1, and in no other; one more
    than there are makes a setup like the one that held it, nothing holds it nowhere. A setup left
    with nothing goes, unless it is the only one.

    Raises OutOfRange for a setup or an op that is not there, and for a setup that is full.
    """
    setups = list(_setups(document))
    if not 0 <= part < len(document.job.parts) or not 0 <= op < len(document.job.parts[part].ops):
        raise OutOfRange("op", f"{part}.{op}", "an op of this job")
    if number is not None and not 1 <= number <= len(setups) + 1:
        raise OutOfRange("setup", number, f"there are {len(setups)}, counted from 1")
    before = next((k for k, s in enumerate(setups) if (part, op) in _places(s)), None)
    if before is not None and number == before + 1:
        return document
    pattern = setups[before if before is not None else -1]
    if number is not None and number > len(setups):
        setups.append(_another(pattern, _held(pattern, part, op)))
    elif number is not None:
        setups[number - 1] = _with(setups[number - 1], part, op)
    if before is not None:
        left = without_places(setups[before], {(part, op)})
        if left is None and len(setups) == 1:
            raise OutOfRange("setup", 1, "the only setup there is; it holds one op at least")
        setups[before : before + 1] = [] if left is None else [left]
    return _routed(document, setups)


def without_setup(document: JobDocument, number: int) -> JobDocument:
    """The document without a setup; its ops are held nowhere then. Raises OutOfRange for one that
    is not there, and for the last.
    """
    setups = list(_setups(document))
    if not 1 <= number <= len(setups):
        raise OutOfRange("setup", number, f"there are {len(setups)}, counted from 1")
    if len(setups) == 1:
        raise OutOfRange("setup", number, "the only setup there is; change it instead")
    del setups[number - 1]
    return _routed(document, setups)


def with_form(document: JobDocument, number: int, kind: str, plate: Plate | None) -> JobDocument:
    """The document with a setup of another form: what both have is taken along. ``plate``: what it
    starts from where the form before had none.

    Raises OutOfRange for a form or a setup that is not there.
    """
    setups = list(_setups(document))
    if not 1 <= number <= len(setups):
        raise OutOfRange("setup", number, f"there are {len(setups)}, counted from 1")
    setup, wanted = setups[number - 1], FORMS[kind]
    form = _of_kind(wanted, setup.form, plate)
    if form.kind == setup.form.kind:
        return document
    setups[number - 1] = setup.model_copy(update={"form": form, "arrangement": Arrangement()})
    return _routed(document, setups)


def with_scheme(
    document: JobDocument, part: int, scheme: SetupScheme, plate: Plate | None
) -> JobDocument:
    """The document with a part made in the ops of a scheme, each in a setup of its own of that
    form. Its first takes the place of the setup that held the part alone.
    """
    setups = list(_setups(document))
    every = {(part, op) for op in range(len(document.job.parts[part].ops))}
    where = next((k for k, s in enumerate(setups) if every & set(_places(s))), len(setups) - 1)
    pattern = setups[where]
    station = next((h.station for h in pattern.holds if h.part == part and h.station), None)
    holds = Held(part=part, op=0, station=station or pattern.holds[0].station)
    form = _of_kind(FORMS[scheme.form], pattern.form, plate)
    first = _another(pattern.model_copy(update={"form": form}), holds)
    made = [
        first.model_copy(update={"holds": [holds.model_copy(update={"op": op})]})
        for op in range(len(scheme.picked))
    ]
    left = [without_places(setup, every) for setup in setups]
    at = where if left[where] is None else where + 1
    kept = [*left[:where], *([left[where]] if at > where else []), *made, *left[where + 1 :]]
    changed = document.job.parts[part].model_copy(
        update={"ops": scheme.picked, "features": scheme.features}
    )
    parts = [*document.job.parts[:part], changed, *document.job.parts[part + 1 :]]
    document = document.model_copy(update={"job": document.job.model_copy(update={"parts": parts})})
    return _routed(document, [setup for setup in kept if setup is not None])


def started(document: JobDocument, usual: JobDocument) -> JobDocument:
    """The document with a route to begin with where it has none: its first op as in a ``usual``
    job.
    """
    if document.route is not None:
        return document
    return _routed(document, list(_setups(usual)))


def without_places(setup: Setup, gone: set[Place]) -> Setup | None:
    """A setup without some of its ops; nothing where none is left."""
    holds = [held for held in setup.holds if (held.part, held.op) not in gone]
    if not holds:
        return None
    if len(holds) == len(setup.holds):
        return setup
    if holds[0] is not setup.holds[0]:
        before = setup.holds[0].station
        holds = [item.model_copy(update={"station": item.station or before}) for item in holds]
    return setup.model_copy(update={"holds": holds, "arrangement": Arrangement()})


def _setups(document: JobDocument) -> list[Setup]:
    return document.route.setups if document.route is not None else []


def _places(setup: Setup) -> list[Place]:
    return [(held.part, held.op) for held in setup.holds]


def _held(setup: Setup, part: int, op: int) -> Held:
    """How a setup holds an op, or would: as its first."""
    own = next((h.station for h in setup.holds if (h.part, h.op) == (part, op)), None)
    return Held(part=part, op=op, station=own or setup.holds[0].station)


def _another(pattern: Setup, held: Held) -> Setup:
    """A setup like this one that holds something else."""
    return pattern.model_copy(
        update={"name": "", "holds": [held], "arrangement": Arrangement(), "copies": 1}
    )


def _with(setup: Setup, part: int, op: int) -> Setup:
    if len(setup.holds) >= _MOST_HELD:
        raise OutOfRange("setup", len(setup.holds), f"a setup holds at most {_MOST_HELD} ops")
    return setup.model_copy(update={"holds": [*setup.holds, Held(part=part, op=op)]})


_MOST_HELD = 6


def _of_kind(wanted: type[Form], before: Form, plate: Plate | None) -> Form:
    """A form of this kind with what the one before has in common with it."""
    common: dict[str, Any] = {"plate": getattr(before, "plate", plate)}
    common |= before.model_dump(exclude={"kind", "plate"})
    return wanted.model_validate(
        {name: value for name, value in common.items() if name in wanted.model_fields}
    )


def _routed(document: JobDocument, setups: list[Setup]) -> JobDocument:
    changed = {"route": Route(setups=setups), "result": None}
    return JobDocument.model_validate(document.model_copy(update=changed).model_dump())
