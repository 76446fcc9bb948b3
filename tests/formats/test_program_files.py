"""The table of zeros, read back: every offset and every part, where the plan has them."""

from __future__ import annotations

import csv

import pytest

from wedgecraft.core.program.zeros import as_g10
from wedgecraft.core.records.program import PartZero, Zero, ZeroTable
from wedgecraft.formats.program_files import zeros_csv


def test_every_offset_and_part_is_in_the_table_to_a_micron():
    zeros = [
        Zero(name="G54", number=1, face=0, index_deg=0, turn_deg=0, at_mm=(-280.1234, -340, -564.5),
             parts=[1, 2], says="the plate's datum, X 0, Y 0"),
        Zero(name="G54.1 P12", number=2, face=1, index_deg=90, turn_deg=90, at_mm=(-1, -2.0005, -3),
             parts=[3], says="a bore, „Bohrung“"),
    ]  # fmt: skip
    parts = [
        PartZero(number=n, station=n, member=0, kind=0, face=n // 3, zero=zero, turn_deg=turn,
                 shift_mm=(n, 0, 0), at_mm=(-280.1234 + n, -340, -564.5))
        for n, zero, turn in ((1, "G54", 0), (2, "G54", 0), (3, "G54.1 P12", 90))
    ]  # fmt: skip
    table = ZeroTable(strategy="one per face", zeros=zeros, parts=parts)
    rows = list(csv.DictReader(zeros_csv(table).splitlines()))
    assert [row["offset"] for row in rows] == ["G54", "G54.1 P12", "G54", "G54", "G54.1 P12"]
    assert [row["part"] for row in rows] == ["", "", "1", "2", "3"]
    assert (rows[1]["face"], rows[1]["index"], rows[1]["from"]) == ("2", "90", "a bore, „Bohrung“")
    for row, item in zip(rows, [*zeros, *parts], strict=True):
        there = [float(row[axis]) for axis in ("x_mm", "y_mm", "z_mm")]
        assert there == pytest.approx(item.at_mm, abs=6e-4)
        assert float(row["turn_deg"]) == item.turn_deg
    assert as_g10(table) == [
        "G90 G10 L2 P1 X-280.123 Y-340.000 Z-564.500",
        "G90 G10 L20 P12 X-1.000 Y-2.001 Z-3.000",
    ]
    # a name that G10 does not know is left to a person
    own = table.model_copy(update={"zeros": [zeros[0].model_copy(update={"name": "H2"})]})
    assert as_g10(own) == ["(H2: X-280.123 Y-340.000 Z-564.500, by hand)"]
