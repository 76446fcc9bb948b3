"""Vises on the table."""

from __future__ import annotations

from typing import ClassVar, Literal

from wedgecraft.core.records.form import FORMS, Form


@FORMS.register
class Vises(Form):
    """One vise or several, with these jaws."""

    kind: Literal["vises"] = "vises"
    jaws: Literal["hard", "stepped", "soft"] = "hard"

    said: ClassVar[str] = "vises"
    listed: ClassVar[int] = 20
    reaches: ClassVar[str] = "one side up at a time; soft jaws on any outline"
