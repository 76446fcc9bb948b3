"""A published solid against the figures that another CAD system wrote into its file."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from wedgecraft.core.workpiece.mend import one_body
from wedgecraft.core.workpiece.packed import unpacked
from wedgecraft.formats.step.kernel import read_step

#: Test model of the CAx Implementor Forum, from the test files of the npm package occt-import-js.
_FILE = Path(__file__).parents[2] / (
    "web/node_modules/occt-import-js/test/testfiles/cax-if/io1-tu-203.stp"
)


def test_volume_surface_and_centre_are_those_its_own_system_says():
    data = _FILE.read_bytes()
    text = re.sub(r"\s", "", data.decode("latin-1"))
    (volume,) = {float(v) for v in re.findall(r"VOLUME_MEASURE\(([0-9.E+-]+)\)", text)}
    (surface,) = {float(v) for v in re.findall(r"AREA_MEASURE\(([0-9.E+-]+)\)", text)}
    centre = re.search(r"'centrepoint',\(([^)]*)\)", text)
    reading, *_, mesh = read_step(data, "io1.stp")
    (body,) = one_body(*unpacked(mesh), reading.mesh.chord_error_mm).bodies
    assert reading.volume_mm3 == pytest.approx(volume, rel=2e-4)
    assert body.volume_mm3 == pytest.approx(volume, abs=body.doubt_mm3)
    assert body.surface_mm2 == pytest.approx(surface, rel=2e-3)
    expected = [float(value) for value in centre[1].split(",")]
    assert body.centre_mm == pytest.approx(expected, abs=5e-3)
    # Steel of 7,850 kg/m3: what a scale would say of it.
    assert body.volume_mm3 * 7850e-9 == pytest.approx(volume * 7850e-9, rel=1e-3)
