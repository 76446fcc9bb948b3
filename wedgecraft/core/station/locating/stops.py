"""Two points at the long stop, one at the end stop; three under it (3-2-1)."""

from __future__ import annotations

from typing import ClassVar, Literal

from wedgecraft.core.records.locating import LOCATING, LocatingScheme


@LOCATING.register
class AgainstStops(LocatingScheme):
    """Two points at the long stop, one at the end stop; three under it (3-2-1)."""

    kind: Literal["stops"] = "stops"

    label: ClassVar[str] = "Against stops, 3-2-1"
    listed: ClassVar[int] = 10
    said: ClassVar[str] = "3-2-1 against stops"
    plain: ClassVar[bool] = True
