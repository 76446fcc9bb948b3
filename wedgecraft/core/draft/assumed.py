"""What a draft assumed, the most doubtful first, and what came of it, in one line."""

from __future__ import annotations

import re

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.job import JobDocument, Proposal
from wedgecraft.core.workpiece.mend import NotABody
from wedgecraft.core.workpiece.states import workpiece

#: No more than a person reads.
MOST = 10
#: On which step of the work a field stands, by the beginning of where it stands in a document.
_STEPS = (
    (re.compile(r"job\.parts\.\d+\.ops\.\d+\.cuts"), "cuts"),
    (re.compile(r"job\.parts\.\d+\.ops"), "hold"),
    (re.compile(r"job\.parts"), "part"),
    (re.compile(r"route\.setups"), "method"),
)


class Assumed(Document):
    """Something a draft took for granted: in which field, on which step, why, how doubtful."""

    field: str
    step: str
    why: str
    doubt: float


class SetupDrafted(Document):
    """One setup of a planned draft; ``ops``: their numbers."""

    machine: str
    form: str
    ops: list[int]
    count: int
    bound: int
    proven: bool


class DraftAnswer(Document):
    """A planned draft in one line; feasible where every op holds and the cuts make the part.
    ``left_over_mm3``: what no cut takes, without what a round
    cutter must leave in sharp inner corners, which is ``corners_mm3``.
    """

    feasible: bool
    parts_a_cycle: int | None
    minutes_a_part: float | None
    setups: list[SetupDrafted]
    assumed: list[Proposal]
    left_over_mm3: float
    corners_mm3: float
    reasons: list[str]


def assumed(document: JobDocument) -> list[Proposal]:
    """Ten proposals or fewer, the most doubtful first; of several that say the same, one."""
    by_why: dict[str, Proposal] = {}
    for item in document.proposals:
        known = by_why.get(item.why)
        if item.doubt > 0 and (known is None or item.doubt > known.doubt):
            by_why[item.why] = item
    return sorted(by_why.values(), key=lambda item: -item.doubt)[:MOST]


def assumed_shown(document: JobDocument) -> list[Assumed]:
    """The same with the steps they stand on."""
    found = []
    for item in assumed(document):
        field = item.pointer.strip("/").replace("/", ".")
        step = next((step for like, step in _STEPS if like.match(field)), "layout")
        found.append(Assumed(field=field, step=step, why=item.why, doubt=item.doubt))
    return found


def without_touched(document: JobDocument, path: str) -> JobDocument:
    """Without the proposals of what a person changed: the field at ``path``, what it holds, and
    what holds it. An empty path is all of it.
    """
    touched = "/" + path.replace(".", "/") if path else ""

    def stays(pointer: str) -> bool:
        inside = (pointer + "/").startswith(touched + "/")
        return not inside and not (touched + "/").startswith(pointer + "/")

    kept = [item for item in document.proposals if stays(item.pointer)]
    return document.model_copy(update={"proposals": kept})


def answered(document: JobDocument) -> DraftAnswer:
    """What a planned draft came to."""
    setups: list[SetupDrafted] = []
    minutes: float | None = 0.0
    reasons = [] if document.result is None else [r.why for r in document.result.reasons]
    found = document.result.setups if document.result is not None else []
    for setup, item in zip(document.route.setups if document.route else [], found, strict=False):
        design = item.result.designs[0] if item.result.designs else None
        reasons += [f"setup {item.number}: {r.what}: {r.why}" for r in item.result.reasons]
        setups.append(
            SetupDrafted(
                machine=setup.machine.name,
                form=setup.form.kind,
                ops=[document.job.parts[h.part].ops[h.op].number for h in setup.holds],
                count=design.count if design else 0,
                bound=design.bound if design else 0,
                proven=bool(design and design.count >= design.bound),
            )
        )
        if design is None or minutes is None:
            minutes = None
        else:
            minutes += design.cycle.seconds / design.count / 60
    left, corners = _left(document)
    found_wrong = document.result.doubts or [] if document.result is not None else []
    reasons += [doubt.says for doubt in found_wrong if doubt.wrong]
    return DraftAnswer(
        feasible=bool(document.result and document.result.feasible) and not reasons,
        parts_a_cycle=document.result.complete_a_cycle if document.result else None,
        minutes_a_part=None if minutes is None else round(minutes, 3),
        setups=setups,
        assumed=assumed(document),
        left_over_mm3=round(left, 2),
        corners_mm3=round(corners, 2),
        reasons=reasons,
    )


def _left(document: JobDocument) -> tuple[float, float]:
    """Left over, and in corners, of all parts. A part that cannot be read leaves nothing known."""
    left = corners = 0.0
    for part in document.job.parts:
        try:
            found = workpiece(part).left_over
        except NotABody:
            continue
        left += sum(item.volume_mm3 for item in found if item.corner_mm is None)
        corners += sum(item.volume_mm3 for item in found if item.corner_mm is not None)
    return left, corners
