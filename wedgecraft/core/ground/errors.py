"""The one exception the engine raises for input it cannot compute with."""

from __future__ import annotations


class OutOfRange(ValueError):
    """A value outside what is allowed.

    ``field`` is the dotted path in the document (``cut.axial_depth_mm``), ``value`` what was given
    and ``allowed`` says in words what would work.
    """

    def __init__(self, field: str, value: object, allowed: str) -> None:
        super().__init__(f"{field}: {value} is not possible; {allowed}")
        self.field = field
        self.value = value
        self.allowed = allowed
