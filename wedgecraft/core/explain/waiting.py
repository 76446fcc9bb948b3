"""A planned job in a list: its steps as they stand in the worst of its setups, what it waits
for.
"""

from __future__ import annotations

from collections.abc import Sequence

from wedgecraft.core.explain.steps import STEPS, StepName, StepState
from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.picture import Picture

_WORST = ("over", "close", "changed", "not checked", "within")


class Card(Document):
    """Of a planned job; ``states``: the worst of all ``setups``, step by step."""

    picture: Picture | None
    states: list[StepState]
    setups: int


def worst_of(setups: Sequence[Sequence[StepState]]) -> list[StepState]:
    """Each step as it stands in the setup where it is worst."""
    return [
        min((steps[index] for steps in setups), key=lambda state: _WORST.index(state.state))
        for index in range(len(STEPS))
    ]


def waits_for(states: Sequence[StepState], count: int | None) -> str:
    """The first thing that stands between a job as planned and the machine; empty for none.

    >>> waits_for([], None)
    'its first plan'
    """
    if count is None:
        return "its first plan"
    if any(state.state == "changed" for state in states):
        return "a new plan: it changed"
    over = next((state for state in states if state.state == "over"), None)
    if over is not None:
        return f"{over.step}: {over.why}"
    program: StepName = "program"
    if any(state.step == program and state.state != "within" for state in states):
        return "its program to be tried"
    return ""
