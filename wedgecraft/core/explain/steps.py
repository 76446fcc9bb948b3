"""The state of each step of the work, from a plan's result: what was judged and how it came out.
What never was judged says so.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Literal, get_args

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.limits import State
from wedgecraft.core.records.piece import Making
from wedgecraft.core.records.plan import PlanResult, Reason
from wedgecraft.core.records.program import SetupProgram
from wedgecraft.core.records.workpiece import Doubt

StepName = Literal[
    "part", "cuts", "method", "layout", "hold", "locate", "make", "program", "run", "sheet", "log"
]
STEPS: tuple[StepName, ...] = get_args(StepName)
#: Which step a limit of the ledger belongs to, by the start of its name.
LIMITS: dict[str, StepName] = {
    "power": "cuts",
    "spindle_torque": "cuts",
    "load": "method",
    "travel": "method",
    "offsets": "method",
    "face_room": "layout",
    "vises": "method",
    "hold_factor": "hold",
    "screw": "hold",
    "pressure": "hold",
    "squeeze": "hold",
    "tolerance": "locate",
}
_WORST: tuple[State, ...] = ("over", "close", "within")
_NOTHING: dict[StepName, str] = {
    "part": "the part by itself has no limit to keep",
    "cuts": "no cut was judged",
    "method": "neither load nor travel was judged",
    "layout": "there is no layout",
    "hold": "no clamping was judged",
    "locate": "no feature with a tolerance is cut here",
    "make": "no piece was looked at",
    "program": "programs are tried where they are shown",
    "run": "it has no limit to keep: it says how many, and what they wait for",
    "log": "it says what happened, and what that tells",
    "sheet": "what is on it is judged in the steps before",
}


class StepState(Document):
    """``why``: the limit nearest to being exceeded, what stands in the way, or why nothing was
    judged; ``fields``: where that is set.
    """

    step: StepName
    state: Literal["within", "close", "over", "changed", "not checked"]
    why: str
    fields: list[str] = []


#: Where each step's fields stand in a document; the first that fits.
_PLACES: tuple[tuple[str, StepName], ...] = (
    (r"job\.parts\.\d+\.ops", "cuts"),
    (r"job\.parts\.\d+\.features", "locate"),
    (r"job\.(parts|name|quantity)", "part"),
    (r"route\.setups\.\d+\.arrangement", "layout"),
    (r"route\.setups\.\d+\.holds\.\d+\.station\.clamp\.torque", "hold"),
)


def step_of(field: str) -> StepName:
    """The step in which a field that stands in the way is set.

    >>> step_of("route.setups.0.form.plate.width_mm"), step_of("job.parts.0.ops.1.cuts")
    ('method', 'cuts')
    """
    return next((step for place, step in _PLACES if re.match(place, field)), "method")


def limit_step(ident: str) -> StepName | None:
    """The step that a line of the ledger marks; nothing for one that this version does not know."""
    return LIMITS.get(re.sub(r"_\d+$", "", ident))


def changed() -> list[StepState]:
    """All steps of a job that changed since it was planned."""
    return [
        StepState(step=step, state="changed", why="changed since it was planned") for step in STEPS
    ]


def step_states(
    result: PlanResult | None,
    of_the_route: Sequence[Reason] = (),
    doubts: Sequence[Doubt] | None = None,
    making: Making | None = None,
) -> list[StepState]:
    """All steps in order, by the result of a setup as it stands; nothing where it was never
    planned. ``of_the_route``: what the job as a whole lacks; where that is set is among the fields
    of its step. ``doubts``: where its cuts do not make the part; nothing where that was not looked
    at. ``making``: what its pieces come to; nothing likewise.
    """
    if result is None:
        return [StepState(step=step, state="not checked", why="not planned yet") for step in STEPS]
    states = [_with(_state(step, result), of_the_route) for step in STEPS]
    return [_made(_as_drawn(state, doubts), making) for state in states]


def _made(state: StepState, making: Making | None) -> StepState:
    """Pieces are within limits where each can be made and nothing of them is left open."""
    if state.step != "make" or making is None:
        return state
    if making.wrong or making.open:
        says = (making.wrong or making.open)[0]
        return state.model_copy(update={"state": "over" if making.wrong else "close", "why": says})
    if not making.pieces:
        return state.model_copy(update={"why": "nothing is made for this setup"})
    said = f"{making.pieces} made, all webs, threads and screws as they should be"
    return state.model_copy(update={"state": "within", "why": said})


def program_state(found: SetupProgram) -> StepState:
    """Of the program as it was tried: within limits only where it was accepted."""
    tried = found.tried
    if tried is None:
        says = (found.reasons or [_NOTHING["program"]])[0]
        return StepState(step="program", state="not checked", why=says)
    worst = tried.findings[0]
    if worst.stands is False:
        return StepState(step="program", state="over", why=f"{worst.check}: {worst.says}")
    if tried.accepted:
        says = f"accepted by the stand-in, {len(tried.findings)} things looked at"
        return StepState(step="program", state="within", why=says)
    says = (found.reasons or [f"{worst.check}: {worst.says}"])[0]
    return StepState(step="program", state="not checked", why=says)


def _as_drawn(state: StepState, doubts: Sequence[Doubt] | None) -> StepState:
    """Cuts within the spindle's limits are right only where they make the part."""
    if doubts is None:
        if state.step != "cuts" or state.state == "over":
            return state
        return state.model_copy(
            update={"state": "not checked", "why": "whether cuts make the part was not looked at"}
        )
    mine = [item for item in doubts if step_of(item.field) == state.step]
    wrong = [item for item in mine if item.wrong]
    if not mine or (state.state == "over" and not wrong):
        return state
    first = (wrong or mine)[0]
    if state.state == "over":  # what is over stays what is said first
        return state.model_copy(update={"fields": [*state.fields, *(i.field for i in wrong)]})
    if not wrong and state.state == "not checked":
        return state
    more = f" (and {len(wrong) - 1} more)" if len(wrong) > 1 else ""
    return state.model_copy(
        update={
            "state": "over" if wrong else "close",
            "why": f"{first.says}{more}: see Part, Blank to finished",
            "fields": [*state.fields, *(item.field for item in wrong or mine)],
        }
    )


def _with(state: StepState, reasons: Sequence[Reason]) -> StepState:
    more = [item.field for item in reasons if step_of(item.field) == state.step]
    return state.model_copy(update={"fields": [*state.fields, *more]}) if more else state


def _state(step: StepName, result: PlanResult) -> StepState:
    design = result.designs[0] if result.feasible and result.designs else None
    if design is None:
        reasons = [item for item in result.reasons if step_of(item.field) == step]
        if reasons:
            return StepState(
                step=step,
                state="over",
                why=reasons[0].what,
                fields=[item.field for item in reasons],
            )
        return StepState(step=step, state="not checked", why="there is no layout to judge")
    limits = [item for item in design.limits if limit_step(item.id) == step]
    if not limits:
        return StepState(step=step, state="not checked", why=_NOTHING[step])
    worst = min(limits, key=lambda item: (_WORST.index(item.state), -item.share))
    return StepState(
        step=step, state=worst.state, why=f"{worst.label}: {100 * worst.share:.0f} % of the limit"
    )
