"""Kinds of one thing, one file each: a kind registers itself when the folder it lies in is loaded.

Nothing outside such a file knows the kind's name. An unknown kind is refused, never taken for
another.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Generic, TypeVar, Union

from pydantic import Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import core_schema

from wedgecraft.core.ground.errors import OutOfRange

K = TypeVar("K")


class Kinds(Generic[K]):
    """The kinds whose files lie in ``folder``, a package; each has a ``kind``, its name, and may
    say where it is ``listed`` (50 where it does not, then as its file is called).

    >>> from wedgecraft.core.records.element import ELEMENTS
    >>> ELEMENTS["strap"]().nose_mm
    8
    """

    def __init__(self, folder: str, field: str) -> None:
        self._folder, self._field = folder, field
        self._known: dict[str, type[K]] = {}

    def register(self, kind: type[K]) -> type[K]:
        """Put above the class of a kind."""
        fields = getattr(kind, "model_fields", {})
        name = fields["kind"].default if "kind" in fields else kind.kind  # type: ignore[attr-defined]
        if not name or name in self._known:
            raise ValueError(f"“{name}” is no name of its own for a kind")
        self._known[name] = kind
        return kind

    @cached_property
    def _all(self) -> dict[str, type[K]]:
        folder = importlib.import_module(self._folder)
        for module in pkgutil.iter_modules(folder.__path__):
            importlib.import_module(f"{self._folder}.{module.name}")
        by_place = sorted(self._known.items(), key=lambda item: getattr(item[1], "listed", 50))
        return dict(by_place)

    def __iter__(self) -> Iterator[type[K]]:
        return iter(self._all.values())

    def __getitem__(self, name: str) -> type[K]:
        """Raises OutOfRange for a name that no kind has."""
        try:
            return self._all[name]
        except KeyError:
            raise OutOfRange(self._field, name, "one of " + ", ".join(self._all)) from None

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(self._all)

    @property
    def any_of_them(self) -> Any:
        """The type of a field that holds one of them, told apart by its ``kind``."""
        return Annotated[Union[tuple(self)], Field(discriminator="kind")]  # noqa: UP007


class NameOf:
    """Beside ``str`` in an annotation: the name of one of these kinds, looked up when it is read,
    so that a kind's own file may use the document that names it.
    """

    def __init__(self, kinds: Kinds[Any]) -> None:
        self._kinds = kinds

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> Any:
        return core_schema.no_info_after_validator_function(self._known, handler(source))

    def __get_pydantic_json_schema__(self, schema: Any, handler: GetJsonSchemaHandler) -> Any:
        return {**handler(schema), "enum": list(self._kinds.names)}

    def _known(self, name: str) -> str:
        if name not in self._kinds.names:
            raise ValueError(f"“{name}” is none of {', '.join(self._kinds.names)}")
        return name
