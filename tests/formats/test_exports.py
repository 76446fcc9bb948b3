"""Files a layout can be taken out as: all that lie in their folder, none besides."""

from __future__ import annotations

import pytest

from tests.core.plan.test_job import answer, base  # noqa: F401  (fixtures)
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.formats.export import EXPORTS


@pytest.mark.parametrize("units", ["mm", "inch"])
def test_every_kind_of_file_holds_every_station(base, answer, units):  # noqa: F811
    design = answer.designs[0]
    assert {"dxf", "svg", "csv"} <= set(EXPORTS.names)
    for export in EXPORTS:
        body = export().made(base, design, units)
        text = body.decode() if isinstance(body, bytes) else body
        # Each is drawn or listed by its number.
        assert all(str(station.number) in text for station in design.stations), export.kind
        assert len(text) > 40 * len(design.stations)
        assert export.mime
        assert export.label


def test_a_kind_that_is_not_there_is_refused_with_those_that_are():
    with pytest.raises(OutOfRange, match="one of dxf, svg, csv"):
        EXPORTS["xlsx"]
