"""Drawings and solids made to harm: floods, bombs, cycles, mislabelled files. Small ones; big ones
are the same, longer.
"""

from __future__ import annotations

import random

_HEAD = "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n9\n$ACADVER\n1\nAC1015\n0\nENDSEC\n"


def _dxf(entities: str, blocks: str = "") -> bytes:
    sections = (
        f"0\nSECTION\n2\nBLOCKS\n{blocks}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n{entities}0\nENDSEC\n"
    )
    return f"{_HEAD}{sections}0\nEOF\n".encode()


def _insert(name: str, x: float = 0, more: str = "") -> str:
    return f"0\nINSERT\n8\n0\n2\n{name}\n10\n{x}\n20\n0\n30\n0\n{more}"


def _block(name: str, inside: str) -> str:
    return f"0\nBLOCK\n8\n0\n2\n{name}\n70\n0\n10\n0\n20\n0\n30\n0\n{inside}0\nENDBLK\n8\n0\n"


def _line(*ends: float) -> str:
    return "0\nLINE\n8\n0\n10\n{}\n20\n{}\n11\n{}\n21\n{}\n".format(*ends)


def _square(x: float, y: float, reach: float) -> str:
    corners = [
        (x - reach, y - reach),
        (x + reach, y - reach),
        (x + reach, y + reach),
        (x - reach, y + reach),
    ]
    return "".join(_line(*corners[k], *corners[(k + 1) % 4]) for k in range(4))


def _svg(inside: str) -> bytes:
    head = (
        'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
        ' width="100mm" height="100mm" viewBox="0 0 100 100"'
    )
    return f"<svg {head}>{inside}</svg>".encode()


_STEP = (
    "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('x','2020-01-01',(''),(''),'','','');\n"
    "FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n"
)


def drawings() -> dict[str, bytes]:
    """By name; none of them is a part."""
    chance = random.Random(1)
    bomb = _block("B0", "") + "".join(
        _block(f"B{k}", "".join(_insert(f"B{k - 1}", step) for step in range(10)))
        for k in range(1, 11)
    )
    rectangle = _square(50, 30, 25)
    crowd = "".join(
        _square(chance.uniform(0, 500), chance.uniform(0, 500), chance.uniform(50, 250))
        for _ in range(6000)
    )
    paths, use = 1000 * "<path d='M0 0h1v1z'/>", 1000 * "<use xlink:href='#a'/>"
    return {
        "empty blocks in blocks.dxf": _dxf(rectangle + _insert("B10"), bomb),
        "an array of nothing.dxf": _dxf(
            rectangle + _insert("B0", 0, "70\n32767\n71\n32767\n44\n1\n45\n1\n"), _block("B0", "")
        ),
        "a block in itself.dxf": _dxf(_insert("S"), _block("S", _insert("S"))),
        "twelve thousand squares in one another.dxf": _dxf(
            "".join(_square(0, 0, 1 + 0.02 * k) for k in range(12_000))
        ),
        "squares over one another.dxf": _dxf(crowd),
        "a flood of uses.svg": _svg(f"<defs><g id='a'>{paths}</g></defs>{use}"),
        "two megabytes of curves.svg": _svg(f'<path d="M0 0{"c1 9 2 -9 3 3" * 150_000}z"/>'),
        "circles of a kilometre.svg": _svg('<circle r="900000"/>' * 5000),
        "entities.svg": (
            b'<?xml version="1.0"?><!DOCTYPE s [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg'
            b' xmlns="http://www.w3.org/2000/svg"/>'
        ),
        "a zip.dxf": b"PK\x03\x04" + b"\0" * 1000,
    }


def solids() -> dict[str, bytes]:
    """STEP files, by name."""
    cyclic = (
        "#1=MANIFOLD_SOLID_BREP('',#2);\n#2=CLOSED_SHELL('',(#3));\n"
        "#3=ADVANCED_FACE('',(#3),#3,.T.);\n#10=SHAPE_REPRESENTATION('',(#1),#10);\n"
    )
    return {
        "cyclic.step": f"{_STEP}{cyclic}ENDSEC;\nEND-ISO-10303-21;\n".encode(),
        "nested.step": (
            f"{_STEP}#1=CARTESIAN_POINT('',{'(' * 200_000}{')' * 200_000});\n"
            "ENDSEC;\nEND-ISO-10303-21;\n"
        ).encode(),
    }
