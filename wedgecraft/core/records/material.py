"""Work, plate and clamp materials.

Specific cutting force kc1.1 and its exponent mc are Kienzle's, of the order printed in German
machining handbooks (Tabellenbuch Metall; Paucksch, Zerspantechnik); all values here are from memory
and meant as starting values. Density, modulus, yield and expansion are ordinary handbook values,
from memory.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import BeforeValidator, Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.units import Pressure

#: Of metals, near enough.
POISSON = 0.3

#: Hardened steel, from memory.
HOLDER_YOUNGS_MPA = 206_000.0
HOLDER_YIELD_MPA = 600.0
#: Of teeth that bite into raw stock or a face cut off later; from memory, the middle of what is
#: told (0.35 to 0.6).
TOOTHED_FRICTION = 0.45

FROM_MEMORY = "handbook value, from memory"


class Material(Document):
    """What a part, plate or jaw is made of. The specific cutting force is Kienzle's, at 1 mm x 1 mm
    of chip.
    """

    id: Annotated[str, Field(min_length=1, max_length=120, title="Short name")]
    name: Text
    kc11_mpa: Annotated[Pressure, Field(gt=0, le=20_000, title="Specific cutting force kc1.1")]
    mc: Annotated[float, Field(ge=0, lt=1, title="Exponent mc")]
    density_kg_m3: Annotated[float, Field(gt=0, le=25_000, title="Density, kg/m³")]
    youngs_mpa: Annotated[Pressure, Field(gt=0, le=1_000_000, title="Modulus of elasticity")]
    yield_mpa: Annotated[Pressure, Field(gt=0, le=5000, title="Yield strength")]
    expansion_per_k: Annotated[float, Field(ge=0, le=5e-4, title="Expansion, per °C")]
    chips_burn: Annotated[bool, Field(title="Chips can burn")] = False
    source: Annotated[str, Field(max_length=200)] = FROM_MEMORY


def _material(ident: str, name: str, *values: float) -> Material:
    kc11, mc, density, youngs, yield_, expansion = values
    return Material(
        id=ident,
        name=name,
        kc11_mpa=kc11,
        mc=mc,
        density_kg_m3=density,
        youngs_mpa=youngs,
        yield_mpa=yield_,
        expansion_per_k=expansion * 1e-6,
        chips_burn=ident.startswith(("titanium", "magnesium")),
    )


MATERIALS: dict[str, Material] = {
    material.id: material
    for material in (
        _material("aluminium-6061", "Aluminium 6061-T6", 780, 0.23, 2700, 69_000, 275, 23.6),
        _material("aluminium-7075", "Aluminium 7075-T6", 850, 0.23, 2810, 72_000, 500, 23.4),
        _material("steel-c45", "Steel C45", 2220, 0.14, 7850, 206_000, 370, 11.7),
        _material(
            "steel-42crmo4",
            "Steel 42CrMo4, quenched and tempered",
            2500,
            0.26,
            7850,
            206_000,
            700,
            11.9,
        ),
        _material("stainless-304", "Stainless steel 304", 2350, 0.21, 7930, 193_000, 210, 17.2),
        _material("brass-cz121", "Free-cutting brass", 780, 0.18, 8470, 97_000, 200, 20.5),
        _material(
            "cast-iron-250", "Grey cast iron, grade 250", 1160, 0.26, 7200, 110_000, 165, 10.5
        ),
        _material("titanium-6al4v", "Titanium 6Al-4V", 1370, 0.21, 4430, 114_000, 880, 8.6),
        _material("magnesium-az91", "Magnesium AZ91", 280, 0.19, 1810, 45_000, 150, 26.0),
        _material("acetal", "Acetal", 90, 0.2, 1410, 3_000, 65, 110.0),
    )
}


def material(ident: str, field: str = "material") -> Material:
    """Look a material up by id. Raises OutOfRange naming ``field``."""
    try:
        return MATERIALS[ident]
    except KeyError:
        raise OutOfRange(field, ident, "known materials are " + ", ".join(MATERIALS)) from None


def _known(given: object) -> object:
    """A material that ships with the product may be named by its id."""
    if isinstance(given, str):
        if given not in MATERIALS:
            raise ValueError(
                f"“{given[:60]}” is not a known material; known are " + ", ".join(MATERIALS)
            )
        return MATERIALS[given]
    return given


#: In documents: a material with its values, or the id of one that ships with the product.
MaterialRef = Annotated[
    Material,
    BeforeValidator(_known, json_schema_input_type=Material | str),
    Field(json_schema_extra={"also_text": True}),
]
