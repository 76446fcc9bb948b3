"""The limits ledger, and figures that can be asked where they come from."""

from __future__ import annotations

from typing import Literal

from wedgecraft.core.ground.documents import Document, Text

State = Literal["within", "close", "over"]
#: From this share of a limit on, it is called close.
CLOSE_SHARE = 0.9


def state_of(share: float) -> State:
    """Of a share of what is allowed."""
    return "over" if share > 1 + 1e-9 else "close" if share >= CLOSE_SHARE else "within"


class FigureInput(Document):
    """One number that went into a figure, with where it comes from."""

    name: Text
    value: float
    unit: str = ""
    source: str


class Figure(Document):
    """A number on the screen with its whole story: formula, inputs, source of the method."""

    id: Text
    label: Text
    value: float
    unit: str = ""
    digits: int = 2
    formula: str
    inputs: list[FigureInput] = []
    source: str


class SetBy(Document):
    """What a person turns to move a limit: a ``field`` of what was asked, in ``unit``.

    ``shows``: it is what is ``used``, or ``allowed``, or stands ``beside`` both, under its
    ``label``. ``options``: what a field that is no number may be.
    """

    field: Text
    label: Text
    unit: str = ""
    shows: Literal["used", "allowed", "beside"]
    options: list[str] = []


class Limit(Document):
    """One line of the ledger. ``share`` is used over allowed for an upper limit, needed over
    reached for a lower one. ``set_by``: nothing where the job has no say in it.
    """

    id: Text
    label: Text
    used: float
    allowed: float
    unit: str = ""
    digits: int = 2
    sense: Literal["at most", "at least"] = "at most"
    share: float
    state: State
    source: str
    figure: Text
    binds: bool = False
    set_by: SetBy | None = None


def limit(
    figure: Figure,
    allowed: float,
    source: str,
    at_least: bool = False,
    binds: bool = False,
    set_by: SetBy | None = None,
) -> Limit:
    """Judge a figure against what is allowed, or needed. ``binds``: this is what keeps one more
    part out.
    """
    share = (
        (allowed / figure.value if figure.value > 0 else 1e6)
        if at_least
        else figure.value / allowed
    )
    state = state_of(share)
    return Limit(
        id=figure.id,
        label=figure.label,
        used=figure.value,
        allowed=allowed,
        unit=figure.unit,
        digits=figure.digits,
        sense="at least" if at_least else "at most",
        share=share,
        state=state,
        source=source,
        figure=figure.id,
        binds=binds,
        set_by=set_by,
    )


def given(name: str, value: float, unit: str = "", source: str = "this job") -> FigureInput:
    return FigureInput(name=name, value=value, unit=unit, source=source)
