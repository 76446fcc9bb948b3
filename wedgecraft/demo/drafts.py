"""What the planner proposed for the demo's jobs, kept as it was: each job as it was first drafted,
from its typed shape or its file, and the setups that hold what a person then left to it.

Run as a module this file proposes it all anew and writes it down.
"""

from __future__ import annotations

import json
from collections.abc import Collection, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

from wedgecraft.core.draft.bare import bare
from wedgecraft.core.records.job import JobDocument, Proposal, Route
from wedgecraft.core.records.stock import Stock
from wedgecraft.demo.by_hand import by_hand

_HERE = Path(__file__).parent
_KEPT = _HERE / "drafts.json"
_SMALL_VISES = 12
#: Jobs whose parts come from files: of what, how many.
_FILES = {
    "Staff-gauge cover": ("staff_gauge_cover.step", "aluminium-6061", 260),
    "Gauge-well collar": ("gauge_well_collar.step", "aluminium-6061", 300),
}


@lru_cache(maxsize=1)
def _kept() -> dict[str, Any]:
    found: dict[str, Any] = json.loads(_KEPT.read_text())
    return found


def first_draft(name: str) -> JobDocument:
    """What was proposed for a job, before a person set anything of it. Raises KeyError."""
    return JobDocument.model_validate(_kept()["drafted"][name])


def with_the_rest(document: JobDocument) -> JobDocument:
    """A job whose first setup a person set, with the setups that were proposed for its other
    ops, and marked where it is as it was proposed.
    """
    rest = _kept()["rest"].get(document.job.name)
    if rest is None:
        return document.model_copy(update={"proposals": _left_alone(document)})
    setups = document.model_dump()["route"]["setups"]
    for place, setup in rest["setups"]:
        # the shop has more of its small vises than were taken to be there
        setups.insert(place, {**setup, "form": {**setup["form"], "most": _SMALL_VISES}})
    route = Route.model_validate({"setups": setups})
    given = document.model_dump()
    for part, place, op in rest["ops"]:
        given["job"]["parts"][part]["ops"][place] = op
    kept = [item for item in rest["proposals"] if not item["pointer"].endswith("/form/most")]
    changed = {"route": route.model_dump(), "proposals": kept}
    found = JobDocument.model_validate({**given, **changed})
    known = {item.pointer for item in found.proposals}
    more = [item for item in _left_alone(found) if item.pointer not in known]
    return found.model_copy(update={"proposals": [*found.proposals, *more]})


def _left_alone(document: JobDocument) -> list[Proposal]:
    """What of a job's first draft stands in it as it was proposed."""
    first = first_draft(document.job.name)
    before, now = first.model_dump(mode="json"), document.model_dump(mode="json")
    return [
        item
        for item in first.proposals
        if (value := _at(now, item.pointer)) is not None and value == _at(before, item.pointer)
    ]


def _at(document: Any, pointer: str) -> Any:
    """What stands at a pointer; nothing where there is no such field."""
    for key in pointer.strip("/").split("/"):
        try:
            document = document[int(key) if isinstance(document, list) else key]
        except (KeyError, IndexError, TypeError):
            return None
    return document


def cover() -> JobDocument:
    """Drafted from its file, then both ops put into one vise of two stations by hand."""
    from wedgecraft.core.draft.assumed import without_touched
    from wedgecraft.core.shop.shipped import shipped

    given = first_draft("Staff-gauge cover").model_dump(mode="json")
    vise = next(item for item in shipped() if item.data.get("stations") == 2)
    first, second = given["route"]["setups"]
    first["form"] |= {
        "vise": {"name": vise.name, **vise.data},
        "other_jaws": second["form"]["jaws"],
        "other_mm": second["form"]["depth_mm"],
        "torque_nm": 72,
    }
    first["holds"].append({"part": 0, "op": 1})
    given["route"]["setups"] = [first]
    document = JobDocument.model_validate(given)
    for path in ("route.setups.0.form", "route.setups.0.holds", "route.setups.1"):
        document = without_touched(document, path)
    return document


def collar() -> JobDocument:
    """Drafted from its file, and left as it is but for the vises there are: its body, below the
    flange, between soft jaws.
    """
    from wedgecraft.core.draft.assumed import without_touched

    document = first_draft("Gauge-well collar")
    setups = [
        setup.model_copy(update={"form": setup.form.model_copy(update={"most": _SMALL_VISES})})
        for setup in (document.route or Route(setups=[])).setups
    ]
    document = document.model_copy(update={"route": Route(setups=setups)})
    for number in range(len(setups)):
        document = without_touched(document, f"route.setups.{number}.form.most")
    return document


def propose(
    documents: Sequence[JobDocument], drafted_anew: Collection[str] | None = None
) -> dict[str, Any]:
    """All of it anew, with the shop as it ships; the first drafts of all jobs or of those named."""
    from wedgecraft.core.draft.mends import rest_held
    from wedgecraft.core.draft.proposal import drafted
    from wedgecraft.core.draft.shop import Stores
    from wedgecraft.core.ground.errors import OutOfRange
    from wedgecraft.core.records.material import MATERIALS
    from wedgecraft.core.shop.shipped import shipped
    from wedgecraft.formats.part_files import read_part
    from wedgecraft.formats.step.reader import StepReader

    stores = Stores.of(shipped())
    rest: dict[str, Any] = {}
    for document in documents:
        try:
            found = rest_held(document, stores)
        except OutOfRange:
            continue
        setups = found.route.setups if found.route is not None else []
        own = document.route.setups if document.route is not None else []
        added = [(k, item.model_dump(mode="json")) for k, item in enumerate(setups)]
        ops = [
            (p, k, op.model_dump(mode="json"))
            for p, (part, before) in enumerate(
                zip(found.job.parts, document.job.parts, strict=True)
            )
            for k, (op, was) in enumerate(zip(part.ops, before.ops, strict=True))
            if op != was
        ]
        rest[document.job.name] = {
            "ops": ops,
            "setups": [(k, item) for k, item in added if setups[k] not in own],
            "proposals": [item.model_dump(mode="json") for item in found.proposals],
        }
    reader, drafts = StepReader(), []
    try:
        for name, (file, material, quantity) in _FILES.items():
            raw = (_HERE / "parts" / file).read_bytes()
            part = read_part(raw, file, MATERIALS[material], None, reader=reader)
            called = part.model_copy(update={"name": name})
            drafts.append(drafted(name, quantity, [called], stores))
    finally:
        reader.close()
    for document in documents:
        if drafted_anew is None or document.job.name in drafted_anew:
            shapes = [
                shape.model_copy(update={"stock": Stock(), "features": []})
                for shape in bare(document).job.parts
            ]
            drafts.append(drafted(document.job.name, document.job.quantity, shapes, stores))
    return {
        "rest": rest,
        "drafted": {item.job.name: item.model_dump(mode="json") for item in drafts},
    }


if __name__ == "__main__":
    _KEPT.write_text(
        json.dumps(propose([item for item, _ in by_hand()]), separators=(",", ":")) + "\n"
    )
