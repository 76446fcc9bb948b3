"""The one exception the engine raises for input it cannot compute with."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager


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


@contextmanager
def under(address: str, instead_of: str) -> Iterator[None]:
    """What is raised within stands at ``address``: who calls a computation knows where its fields
    are, the computation does not.

    >>> try:
    ...     with under("parts.0.ops.0.cuts.2.", instead_of="cut."):
    ...         raise OutOfRange("cut.passes", 0, "at least 1")
    ... except OutOfRange as error:
    ...     print(error.field)
    parts.0.ops.0.cuts.2.passes
    """
    try:
        yield
    except OutOfRange as error:
        if not error.field.startswith(instead_of):
            raise
        field = address + error.field.removeprefix(instead_of)
        raise OutOfRange(field, error.value, error.allowed) from None
