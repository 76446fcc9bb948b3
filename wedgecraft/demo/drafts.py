"""What the planner proposed for the demo's jobs, kept as it was: the setups that hold what was not
set by hand, and a job drafted from its file.

Run as a module this file proposes it all anew and writes it down.
"""

from __future__ import annotations

import json
from functools import lru_cache
from pathlib import Path
from typing import Any

from wedgecraft.core.records.job import JobDocument, Route
from wedgecraft.demo.by_hand import by_hand

_HERE = Path(__file__).parent
_KEPT = _HERE / "drafts.json"
_SMALL_VISES = 12
_COVER = _HERE / "parts" / "staff_gauge_cover.step"


@lru_cache(maxsize=1)
def _kept() -> dict[str, Any]:
    found: dict[str, Any] = json.loads(_KEPT.read_text())
    return found


def with_the_rest(document: JobDocument) -> JobDocument:
    """A job whose first setup a person set, with the setups that were proposed for its other
    ops.
    """
    rest = _kept()["rest"].get(document.job.name)
    if rest is None:
        return document
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
    return JobDocument.model_validate({**given, **changed})


def cover() -> JobDocument:
    """Drafted from its file, then both ops put into one vise of two stations by hand."""
    from wedgecraft.core.draft.assumed import without_touched
    from wedgecraft.core.shop.shipped import shipped

    given = json.loads(json.dumps(_kept()["cover"]))
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


def propose(documents: list[JobDocument]) -> dict[str, Any]:
    """All of it anew, with the shop as it ships."""
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
    reader = StepReader()
    try:
        part = read_part(
            _COVER.read_bytes(), _COVER.name, MATERIALS["aluminium-6061"], None, reader=reader
        ).model_copy(update={"name": "Staff-gauge cover"})
    finally:
        reader.close()
    whole = drafted("Staff-gauge cover", 260, [part], stores)
    return {"rest": rest, "cover": whole.model_dump(mode="json")}


if __name__ == "__main__":
    _KEPT.write_text(json.dumps(propose([item for item, _ in by_hand()]), indent=1) + "\n")
