"""The command line as a person uses it: the examples run, the schemas describe them, exit codes say what happened."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest

from wedgecraft.cli import schemas

ROOT = Path(__file__).parent.parent
EXAMPLES = ROOT / "docs/examples"


def _run(*arguments: str, text: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "wedgecraft.cli", *arguments], input=text, capture_output=True, text=True, check=False, cwd=ROOT
    )


KINDS = [
    "cutting", "hold", "share", "row", "grip", "vise", "clamp", "give", "locate", "fit", "tolerance", "verdicts", "layout", "plan",
]  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_each_example_fits_its_schema_runs_and_prints_what_the_schema_says(kind):
    document = json.loads((EXAMPLES / f"{kind}.json").read_text())
    published = json.loads((ROOT / f"docs/schema/{kind}.json").read_text())
    jsonschema.validate(document, published["request"])
    command = ["plan"] if kind == "plan" else ["compute", kind]
    done = _run(*command, "-", text=json.dumps(document))
    assert done.returncode == 0, done.stderr
    jsonschema.validate(json.loads(done.stdout), published["result"])


@pytest.mark.parametrize("kind", [*KINDS, "document"])
def test_published_schemas_are_current(kind):
    assert json.loads((ROOT / f"docs/schema/{kind}.json").read_text()) == schemas(kind), (
        f"wedgecraft schema {kind} > docs/schema/{kind}.json"
    )


def test_the_published_description_of_the_service_is_current():
    assert json.loads((ROOT / "docs/openapi.json").read_text()) == schemas("openapi"), (
        "wedgecraft schema openapi > docs/openapi.json"
    )


def test_exit_codes_tell_no_design_from_a_wrong_request():
    document = json.loads((EXAMPLES / "plan.json").read_text())
    document["station"]["clamp"]["torque_nm"] = 1
    none = _run("plan", "-", text=json.dumps(document))
    assert none.returncode == 1
    assert json.loads(none.stdout)["reasons"][0]["field"] == "station.clamp.torque_nm"
    document["parts"][0]["ops"][0]["cuts"][0]["axial_depth_mm"] = "-3 mm"
    document["plate"]["colour"] = "blue"
    wrong = _run("plan", "-", text=json.dumps(document))
    assert wrong.returncode == 2
    assert {error["field"] for error in json.loads(wrong.stdout)["errors"]} == {
        "parts.0.ops.0.cuts.0.axial_depth_mm",
        "plate.colour",
    }
    for text in ("", "{", "[]", '{"cut": NaN}'):
        assert _run("compute", "cutting", "-", text=text).returncode == 2
    assert _run("plan", "no-such-file.json").returncode == 2
