"""Vises on the table."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from wedgecraft.core.records.form import FORMS, Form


@FORMS.register
class Vises(Form):
    """One vise or several, with these jaws."""

    kind: Literal["vises"] = "vises"
    jaws: Annotated[Literal["hard", "stepped", "soft"], Field(title="Jaws")] = "hard"

    said: ClassVar[str] = "vises"
    listed: ClassVar[int] = 20
    reaches: ClassVar[str] = "one side up at a time; soft jaws on any outline"
