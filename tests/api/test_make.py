"""Pieces over the service: listed, drawn, packed; nothing where nothing is planned."""

from __future__ import annotations

import io
import zipfile

from pypdf import PdfReader

from tests.api.service import change_field, new_job, solve


def _get(browser, path):
    answer = browser._client.get(path)
    return answer.status_code, answer.get_data()


def test_pieces_are_listed_drawn_and_packed_and_follow_the_layout(planner, database):
    job = new_job(planner)
    here = f"/api/jobs/{job['id']}/make"
    # nothing planned: says so, and has no files
    status, made = planner.call("GET", here)
    assert status == 200
    assert made["pieces"] == []
    assert made["reasons"] == ["nothing is planned here: its pieces follow from a layout"]
    assert planner.call("GET", f"{here}/pack")[0] == 409
    assert planner.call("GET", f"{here}/drawing")[0] == 404
    assert planner.call("GET", f"{here}?setup=7")[0] == 404

    result = solve(database, job)
    made = planner.call("GET", here)[1]
    (piece,) = made["pieces"]
    clamps = [p for row in piece["holes"] for p in row["places"] if p["what"] == "edge clamp"]
    assert len(clamps) == len(result.designs[0].stations)
    steps = planner.call("GET", f"/api/jobs/{job['id']}")[1]["latest"]["steps"][0]
    mark = next(step for step in steps if step["step"] == "make")
    assert (mark["state"] == "over") == any(doubt["wrong"] for doubt in piece["doubts"])
    # a PDF page for each sheet, an SVG of each, and of the views alone
    (count,) = made["sheets"]
    pdf = _get(planner, f"{here}/drawing?format=pdf")[1]
    assert len(PdfReader(io.BytesIO(pdf)).pages) == count
    whole, alone = (_get(planner, f"{here}/drawing{more}")[1] for more in ("", "?views_alone=true"))
    assert b"General tolerance" in whole
    assert b"General tolerance" not in alone
    assert planner.call("GET", f"{here}/drawing?sheet={count + 1}")[0] == 404
    inches = _get(planner, f"{here}/drawing?format=dxf&units=inch")[1].decode()
    assert "$INSUNITS" in inches
    status, data = _get(planner, f"{here}/solid")
    assert (status, data[:13]) == (200, b"ISO-10303-21;")
    assert planner.call("GET", f"{here}/solid?piece=2")[0] == 404
    status, data = _get(planner, f"{here}/pack")
    assert status == 200
    with zipfile.ZipFile(io.BytesIO(data)) as opened:
        assert {"manifest.json", "parts list.csv", "pieces.json"} <= set(opened.namelist())
        assert opened.read("pieces.step").startswith(b"ISO-10303-21;")
        together = opened.read("assembly.step")
        design = planner.call("GET", f"/api/jobs/{job['id']}")[1]["latest"]["result"]
        stations = design["setups"][0]["result"]["designs"][0]["stations"]
        assert together.count(b"NEXT_ASSEMBLY_USAGE_OCCURRENCE(") == 1 + 4 * len(stations)
    for kind, start in (("glb", b"glTF"), ("3mf", b"PK")):
        status, data = _get(planner, f"{here}/solid?format={kind}")
        assert (status, data[: len(start)]) == (200, start)
    # no soft jaws: no angles, and none to take
    other = f"/api/jobs/{job['id']}/angles"
    assert planner.call("GET", other) == (200, {"angles": []})
    version = planner.call("GET", f"/api/jobs/{job['id']}")[1]["version"]
    press = {"version": version, "setup": 1, "turn_deg": 90}
    assert planner.call("POST", other, press)[0] == 409
    # two fixtures alike are made in one go; a change that is not planned yet has no pieces
    change_field(planner, job, "route.setups.0.copies", 2)
    assert planner.call("GET", here)[1]["pieces"] == []
    solve(database, job)
    (piece,) = planner.call("GET", here)[1]["pieces"]
    assert (piece["alike"], piece["serials"]) == (2, ["1/2", "2/2"])
