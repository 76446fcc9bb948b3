"""The command line as a person uses it: the examples run, the schemas describe them, exit codes say
what happened.
"""

from __future__ import annotations

import io
import json
import subprocess
import sys
from pathlib import Path
from types import SimpleNamespace

import jsonschema
import pytest

from wedgecraft.cli import main, schemas
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.shop.shipped import shipped
from wedgecraft.formats.tables import to_json

ROOT = Path(__file__).parent.parent
EXAMPLES = ROOT / "docs/examples"


@pytest.fixture
def run(monkeypatch, capfd):
    """The command in this process: what it prints and how it ends are those of a process of its
    own, which is tried once.
    """

    def ran(*arguments: str, text: str = "") -> SimpleNamespace:
        monkeypatch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(text.encode())))
        capfd.readouterr()
        with pytest.raises(SystemExit) as ended:
            main(arguments)
        said = capfd.readouterr()
        return SimpleNamespace(returncode=ended.value.code, stdout=said.out, stderr=said.err)

    return ran


def _schema(published: dict, which: str) -> dict:
    return published[which] | {"$defs": published["$defs"]}


def test_a_process_of_its_own_prints_the_document_and_nothing_else():
    command = [sys.executable, "-m", "wedgecraft.cli", "compute", "fit", "-"]
    example = (EXAMPLES / "fit.json").read_text()
    done = subprocess.run(
        command, input=example, capture_output=True, text=True, check=True, cwd=ROOT
    )
    published = json.loads((ROOT / "docs/schema/fit.json").read_text())
    jsonschema.validate(json.loads(done.stdout), _schema(published, "result"))


KINDS = [
    "cutting",
    "hold",
    "share",
    "row",
    "grip",
    "vise",
    "clamp",
    "give",
    "locate",
    "fit",
    "tolerance",
    "verdicts",
    "layout",
    "plan",
]


@pytest.mark.parametrize("kind", KINDS)
def test_each_example_fits_its_schema_runs_and_prints_what_the_schema_says(kind, run):
    document = json.loads((EXAMPLES / f"{kind}.json").read_text())
    published = json.loads((ROOT / f"docs/schema/{kind}.json").read_text())
    jsonschema.validate(document, _schema(published, "request"))
    command = ["plan"] if kind == "plan" else ["compute", kind]
    done = run(*command, "-", text=json.dumps(document))
    assert done.returncode == 0, done.stderr
    jsonschema.validate(json.loads(done.stdout), _schema(published, "result"))


@pytest.mark.parametrize(
    "kind",
    [
        *KINDS,
        "make",
        "program",
        "run-program",
        "sheet",
        "run",
        "log",
        "learn",
        "workpiece",
        "errors",
    ],
)
def test_published_schemas_are_current(kind):
    assert json.loads((ROOT / f"docs/schema/{kind}.json").read_text()) == schemas(kind), (
        f"wedgecraft schema {kind} > docs/schema/{kind}.json"
    )


def test_the_published_description_of_the_service_is_current():
    assert json.loads((ROOT / "docs/openapi.json").read_text()) == schemas("openapi"), (
        "wedgecraft schema openapi > docs/openapi.json"
    )


def test_things_of_the_shop_are_called_by_name_of_its_own_export_or_of_what_ships(run, tmp_path):
    document = json.loads((EXAMPLES / "plan.json").read_text())
    (setup,) = document["route"]["setups"]

    def planned(machine: str, *more: str):
        setup["machine"] = machine
        return run("plan", *more, "-", text=json.dumps(document))

    shipped_one = planned("Vertical, 500 x 400 mm travel")
    assert json.loads(shipped_one.stdout)["route"]["setups"][0]["machine"]["travel_x_mm"] == 500
    (own,) = [item for item in shipped() if item.name == "Vertical, 500 x 400 mm travel"]
    shop = tmp_path / "shop.json"
    data = own.data | {"name": "Own mill", "table_load_kg": 5}
    shop.write_text(to_json([own.model_copy(update={"name": "Own mill", "data": data})]))
    assert planned("Own mill").returncode == 2
    small = planned("own mill", "--shop", str(shop))
    assert small.returncode == 1
    assert (
        "weighs" in json.loads(small.stdout)["result"]["setups"][0]["result"]["reasons"][0]["what"]
    )


def test_exit_codes_tell_no_design_from_a_wrong_request(run):
    document = json.loads((EXAMPLES / "plan.json").read_text())
    (setup,) = document["route"]["setups"]
    setup["holds"][0]["station"]["clamp"]["torque_nm"] = 1
    none = run("plan", "-", text=json.dumps(document))
    assert none.returncode == 1
    (planned,) = json.loads(none.stdout)["result"]["setups"]
    torque = "route.setups.0.holds.0.station.clamp.torque_nm"
    assert planned["result"]["reasons"][0]["field"] == torque
    document["job"]["parts"][0]["ops"][0]["cuts"][0]["axial_depth_mm"] = "-3 mm"
    setup["form"]["plate"]["colour"] = "blue"
    wrong = run("plan", "-", text=json.dumps(document))
    assert wrong.returncode == 2
    jsonschema.validate(json.loads(wrong.stdout), schemas("errors"))
    assert {error["field"] for error in json.loads(wrong.stdout)["errors"]} == {
        "job.parts.0.ops.0.cuts.0.axial_depth_mm",
        "route.setups.0.form.plate.colour",
    }
    for text in ("", "{", "[]", '{"cut": NaN}'):
        assert run("compute", "cutting", "-", text=text).returncode == 2
    assert run("plan", "no-such-file.json").returncode == 2


def test_pieces_are_printed_and_their_files_written(run, tmp_path):
    document = (EXAMPLES / "plan.json").read_text()
    done = run("make", "-", "--out", str(tmp_path / "out"), "--unit", "in", text=document)
    assert done.returncode == 0, done.stderr
    published = json.loads((ROOT / "docs/schema/make.json").read_text())
    answer = json.loads(done.stdout)
    jsonschema.validate(answer, _schema(published, "result"))
    for setup in answer["setups"]:
        folder = tmp_path / "out" / f"setup {setup['number']}"
        manifest = json.loads((folder / "manifest.json").read_text())
        files = {item["file"] for item in manifest["files"]}
        assert files | {"manifest.json"} == {file.name for file in folder.iterdir()}
        assert manifest["units"] == "inch"
        assert {"pieces.step", "assembly.step"} <= files
        assert sum(name.endswith(".pdf") for name in files) == len(setup["pieces"]) > 0
    bare = json.loads(document)
    bare["route"] = None
    assert run("make", "-", text=json.dumps(bare)).returncode == 1


def test_programs_are_put_together_tried_and_refused_with_their_line(run, tmp_path):
    op, out = tmp_path / "first.nc", tmp_path / "out"
    op.write_text(
        "(één stuk)\nT1 M6\nS3000 M3\nG0 X0 Y0\nG43 H1 Z20\nG1 Z1 F300\nX5\nG0 Z20\nM30\n",
        encoding="latin-1",
    )
    job = tmp_path / "job.json"
    planned = run("plan", str(EXAMPLES / "plan.json"))
    job.write_text(planned.stdout)
    given = JobDocument.model_validate_json(planned.stdout)
    name, number = given.job.parts[0].name, given.job.parts[0].ops[0].number
    made = run("program", str(job), "--op", f"{name}:{number}={op}", "--out", str(out))
    assert made.returncode == 0, made.stderr
    published = json.loads((ROOT / "docs/schema/program.json").read_text())
    jsonschema.validate(json.loads(made.stdout), _schema(published, "result"))
    (setup,) = json.loads(made.stdout)["setups"]
    assert (out / "setup 1.nc").read_text() == setup["program"]["text"]
    stations = len(given.result.setups[0].result.designs[0].stations)
    assert setup["program"]["text"].count("G1 Z1 F300") == stations
    assert len((out / "setup 1 zeros.csv").read_text().splitlines()) > stations
    again = ("--plan", str(job), "--op", f"1:{number}={op}")
    ran = run("run-program", str(out / "setup 1.nc"), *again)
    assert ran.returncode == 0, ran.stderr
    assert json.loads(ran.stdout)["tried"] == setup["tried"]
    paper = tmp_path / "sheet.pdf"
    sheet = run("sheet", str(job), "--op", f"{name}:{number}={op}", "--out", str(paper))
    assert sheet.returncode == 0, sheet.stderr
    published = json.loads((ROOT / "docs/schema/sheet.json").read_text())
    jsonschema.validate(json.loads(sheet.stdout), _schema(published, "result"))
    assert len(json.loads(sheet.stdout)["faces"][0]["stations"]) == stations
    assert paper.read_bytes().startswith(b"%PDF")
    went = run("run", str(job), "--repeats", "4")
    assert went.returncode == 0, went.stderr
    published = json.loads((ROOT / "docs/schema/run.json").read_text())
    jsonschema.validate(json.loads(went.stdout), _schema(published, "result"))
    assert json.loads(went.stdout)["repeats"] == 4
    log = tmp_path / "log.csv"
    rows = [f"2026-03-0{1 + k}T08:00:00Z,load,{900 + k},{stations}" for k in range(8)]
    log.write_text("\n".join(["at,kind,seconds,parts", *rows, "2026-03-09T08:00:00Z,load,9"]))
    for what in ("log", "learn"):
        told = run(what, str(job), str(log))
        assert told.returncode == 0, told.stderr
        assert "row 9: the row has 3 cells of 4: it is torn off" in told.stderr
        published = json.loads((ROOT / f"docs/schema/{what}.json").read_text())
        jsonschema.validate(json.loads(told.stdout), _schema(published, "result"))
        assert json.loads(told.stdout)["learned"][0]["cases"] == 8
    # one station's shift mistyped: exit 1, and the line is said; what is not understood: exit 2
    lines = setup["program"]["text"].splitlines()
    at = next(k for k, line in enumerate(lines) if "G52 X" in line and "X0 " not in line)
    lines[at] = lines[at].replace("G52 X", "G52 X1")
    (out / "wrong.nc").write_text("\n".join(lines))
    wrong = run("run-program", str(out / "wrong.nc"), *again)
    assert wrong.returncode == 1
    bad = [f for f in json.loads(wrong.stdout)["tried"]["findings"] if f["stands"] is False]
    assert at < bad[0]["line"] <= at + 12
    (out / "wrong.nc").write_text("G0 X1\nG7777 X2\n")
    refused = run("run-program", str(out / "wrong.nc"), *again)
    assert (refused.returncode, "line 2" in refused.stderr) == (2, True)
    assert run("program", str(job), "--op", f"nobody:10={op}").returncode == 2
    assert run("program", str(job), "--op", "first.nc").returncode == 2
    missing = run("program", str(job))
    assert missing.returncode == 1
    assert "no program yet" in json.loads(missing.stdout)["setups"][0]["reasons"][0]


def test_a_file_is_drafted_and_with_plan_told_in_one_line(run):
    parts = ROOT / "tests" / "parts"
    asked = ["draft", str(parts / "hex_standoff.step"), "--quantity", "800"]
    done = run(*asked, "--material", "stainless-304", "--plan")
    assert done.returncode == 0
    (line,) = done.stdout.strip().splitlines()
    answer = json.loads(line)
    assert answer["feasible"]
    assert [item["ops"] for item in answer["setups"]] == [[10], [20], [30]]
    assert (answer["left_over_mm3"], answer["reasons"]) == (0, [])
    wrong = run(*asked, "--material", "unobtainium")
    assert wrong.returncode == 2
    assert json.loads(wrong.stdout)["errors"][0]["field"] == "material"
    wrong = run(*asked, "--material", "stainless-304", "--machine", "the big one")
    assert json.loads(wrong.stdout)["errors"][0]["field"] == "machine"


def test_a_drawing_needs_a_thickness_and_where_it_names_none_a_unit(run, tmp_path):
    drawing = tmp_path / "plate.svg"
    box = '<rect width="3" height="2"/>'
    drawing.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 3 2">{box}</svg>')
    asked = ["draft", str(drawing), "--material", "acetal", "--quantity", "5"]
    assert "does not say its units" in run(*asked, "--thickness", "12").stderr
    assert "thickness" in run(*asked, "--unit", "in").stderr
    done = run(*asked, "--unit", "in", "--thickness", "12.7")
    assert done.returncode == 0
    document = JobDocument.model_validate_json(done.stdout)
    assert document.job.parts[0].height_mm == 12.7
    facts = document.job.parts[0].outline
    assert max(x for x, _ in facts.outer) == pytest.approx(76.2)
    assert document.proposals
    # an inch job takes inch stock
    stock = document.job.parts[0].stock
    assert (12.7 + sum(stock.z.sides_mm)) / 25.4 * 8 == pytest.approx(
        round((12.7 + sum(stock.z.sides_mm)) / 25.4 * 8)
    )
