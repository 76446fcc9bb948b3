"""Two levels or more for a five-axis table."""

from __future__ import annotations

from typing import ClassVar, Literal

from wedgecraft.core.records.form import FORMS, Form, Reach


@FORMS.register
class Tiers(Form):
    """The lower level stands out further than the upper, so that the spindle reaches both."""

    kind: Literal["tiers"] = "tiers"

    said: ClassVar[str] = "tiers"
    listed: ClassVar[int] = 50
    reach: ClassVar[Reach] = "up and four sides"
    reaches: ClassVar[str] = "everything but what the part sits on"
