"""Work, plate and clamp materials.

Specific cutting force kc1.1 and its exponent mc are Kienzle's, of the order printed in German machining handbooks
(Tabellenbuch Metall; Paucksch, Zerspantechnik); all values here are from memory and meant as starting values. Density,
modulus, yield and expansion are ordinary handbook values, from memory.
"""

from __future__ import annotations

from wedgecraft.core.errors import OutOfRange
from wedgecraft.core.model import Document, Text


class Material(Document):
    """``kc11_mpa`` is the specific cutting force at 1 mm x 1 mm of chip, ``expansion_per_k`` linear and per kelvin."""

    id: Text
    name: Text
    kc11_mpa: float
    mc: float
    density_kg_m3: float
    youngs_mpa: float
    yield_mpa: float
    expansion_per_k: float
    source: str = "handbook value, from memory"


def _material(ident: str, name: str, *values: float) -> Material:
    kc11, mc, density, youngs, yield_, expansion = values
    return Material(
        id=ident, name=name, kc11_mpa=kc11, mc=mc, density_kg_m3=density, youngs_mpa=youngs, yield_mpa=yield_,
        expansion_per_k=expansion * 1e-6,
    )  # fmt: skip


MATERIALS: dict[str, Material] = {
    material.id: material
    for material in (
        _material("aluminium-6061", "Aluminium 6061-T6", 780, 0.23, 2700, 69_000, 275, 23.6),
        _material("aluminium-7075", "Aluminium 7075-T6", 850, 0.23, 2810, 72_000, 500, 23.4),
        _material("steel-c45", "Steel C45", 2220, 0.14, 7850, 206_000, 370, 11.7),
        _material("steel-42crmo4", "Steel 42CrMo4, quenched and tempered", 2500, 0.26, 7850, 206_000, 700, 11.9),
        _material("stainless-304", "Stainless steel 304", 2350, 0.21, 7930, 193_000, 210, 17.2),
        _material("brass-cz121", "Free-cutting brass", 780, 0.18, 8470, 97_000, 200, 20.5),
        _material("cast-iron-250", "Grey cast iron, grade 250", 1160, 0.26, 7200, 110_000, 165, 10.5),
        _material("titanium-6al4v", "Titanium 6Al-4V", 1370, 0.21, 4430, 114_000, 880, 8.6),
        _material("acetal", "Acetal", 90, 0.2, 1410, 3_000, 65, 110.0),
    )
}


def material(ident: str, field: str = "material") -> Material:
    """Look a material up by id. Raises OutOfRange naming ``field``."""
    try:
        return MATERIALS[ident]
    except KeyError:
        raise OutOfRange(field, ident, "known materials are " + ", ".join(MATERIALS)) from None
