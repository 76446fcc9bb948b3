"""What of a shop a draft picks from."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.cut import Cutter
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.material import Material
from wedgecraft.core.records.plate import Plate
from wedgecraft.core.records.stock import StockSizes
from wedgecraft.core.records.vise import Vise
from wedgecraft.core.shop.document import KINDS, ShopEntry

#: A diameter is metric where it is this near to a tenth of a millimetre.
_TENTH_MM = 1e-6


@dataclass(frozen=True)
class Stores:
    """Machines, vises, plates, cutters, materials and stock tables of a shop."""

    machines: Sequence[Machine]
    vises: Sequence[Vise]
    plates: Sequence[Plate]
    cutters: Sequence[Cutter]
    materials: Sequence[Material] = ()
    stock: Sequence[StockSizes] = ()

    @classmethod
    def of(cls, entries: Sequence[ShopEntry]) -> Stores:
        """Of the entries of a shop."""
        named = [
            {**entry.data, "name": entry.name}
            if "name" in KINDS[entry.kind].model_fields
            else entry.data
            for entry in entries
        ]
        kinds = [KINDS[entry.kind] for entry in entries]
        return cls.holding([k.model_validate(data) for k, data in zip(kinds, named, strict=True)])

    @classmethod
    def holding(cls, things: Iterable[object]) -> Stores:
        """Of a shop's things."""
        every = list(things)
        return cls(
            machines=[item for item in every if isinstance(item, Machine)],
            vises=[item for item in every if isinstance(item, Vise)],
            plates=[item for item in every if isinstance(item, Plate)],
            cutters=[item for item in every if isinstance(item, Cutter)],
            materials=[item for item in every if isinstance(item, Material)],
            stock=[item for item in every if isinstance(item, StockSizes)],
        )

    def material(self, asked: str) -> Material:
        """By its id or its name. Raises OutOfRange."""
        known = {item.id.lower(): item for item in self.materials}
        known |= {item.name.lower(): item for item in self.materials}
        if asked.lower() not in known:
            said = ", ".join(sorted(item.id for item in self.materials)) or "none is there"
            raise OutOfRange("material", asked, f"a material of the shop: {said}")
        return known[asked.lower()]

    def machine(self, asked: str) -> Machine:
        """By its name. Raises OutOfRange."""
        found = next((item for item in self.machines if item.name.lower() == asked.lower()), None)
        if found is None:
            said = ", ".join(f"“{item.name}”" for item in self.machines) or "none is there"
            raise OutOfRange("machine", asked, f"a machine of the shop: {said}")
        return found

    def with_plates_in(self, unit: str) -> Stores:
        """The same with plates of a unit's sizes only, where there are any."""
        own = [item for item in self.plates if _is_in_inches(item.width_mm) == (unit == "in")]
        return replace(self, plates=own or self.plates)

    def cutters_in(self, unit: str) -> tuple[list[Cutter], list[Cutter]]:
        """Those of a unit's sizes, with all of a kind that the shop has none of in it; and the
        others.
        """
        own = [item for item in self.cutters if _is_metric(item) == (unit == "mm")]
        kinds = {item.kind for item in own}
        own += [item for item in self.cutters if item.kind not in kinds]
        return own, [item for item in self.cutters if item not in own]


def _is_metric(cutter: Cutter) -> bool:
    return abs(cutter.diameter_mm * 10 - round(cutter.diameter_mm * 10)) < _TENTH_MM


def _is_in_inches(size_mm: float) -> bool:
    """Whole quarters of an inch, which no metric plate of a round size is."""
    quarters = size_mm * 4 / 25.4
    return abs(quarters - round(quarters)) < _TENTH_MM
