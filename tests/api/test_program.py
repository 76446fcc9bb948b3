"""Programs over the service: loaded for an op, put together for a setup, tried, handed over."""

from __future__ import annotations

import io

import pypdfium2 as pdfium
import zxingcpp
from pypdf import PdfReader

from tests.api.service import Browser, change_field, new_job, send, solve

NC = "(első darab)\nT1 M6\nS3000 M3\nG0 X0 Y0\nG43 H1 Z20\nG1 Z1 F300\nX5\nG0 Z20\nM30\n"


def test_an_ops_program_becomes_the_setups_and_stays_with_its_op(planner, app, database):
    operator = Browser(app)
    assert operator.sign_in("operator") == 200
    job = new_job(planner)
    here = f"/api/jobs/{job['id']}/program"
    part = job["document"]["job"]["parts"][0]
    op = f"{here}/ops?part={part['name']}&op={part['ops'][0]['number']}"
    status, shown = planner.call("GET", here)
    assert (status, shown["table"], shown["program"]) == (200, None, None)
    assert planner.call("GET", f"{here}?setup=9")[0] == 404
    assert planner.call("GET", f"{here}/text")[0] == 409
    assert planner.call("GET", f"{here}/moves")[0] == 409

    result = solve(database, job)
    shown = planner.call("GET", here)[1]
    assert shown["ops"][0]["name"] is None
    assert "no program yet" in shown["reasons"][0]
    # what its cuts sweep was looked at, and is not called a program
    assert (shown["program"], shown["tried"]["accepted"]) == (None, False)
    assert len(shown["tried"]["envelopes"]) == 1
    assert all(item["line"] is None for item in shown["tried"]["findings"])
    swept = planner.call("GET", f"{here}/moves")[1]
    assert swept["whole"] is True
    assert sum(len(zero["parts"]) for zero in shown["table"]["zeros"]) == len(
        shown["table"]["parts"]
    )
    # refused with its line, and nothing changes; only who plans may load one
    status, refused = send(planner, op, b"T1 M6\nG0 X1\nG999 X2\n", "wrong.nc")
    assert (status, "Line 3" in refused["detail"]) == (422, True)
    assert send(planner, op, b"\0\1\2", "binary.nc")[0] == 422
    assert send(planner, op, None)[0] == 422
    assert send(planner, f"{here}/ops?part=nobody&op=10", NC.encode(), "a.nc")[0] == 404
    assert send(operator, op, NC.encode(), "a.nc")[0] == 403
    assert planner.call("GET", here)[1]["program"] is None

    status, loaded = send(planner, op, NC.encode("utf-8"), "first.nc")
    assert (status, loaded["tools"], loaded["name"]) == (200, [1], "first.nc")
    shown = operator.call("GET", here)[1]
    text = shown["program"]["text"]
    assert text.count("G1 Z1 F300") == len(result.designs[0].stations)
    assert not [item for item in shown["tried"]["findings"] if item["stands"] is False]
    # never said to be all right where something was not looked at
    assert any(item["stands"] is None for item in shown["tried"]["findings"])
    steps = planner.call("GET", f"/api/jobs/{job['id']}")[1]["latest"]["steps"][0]
    mark = next(item for item in steps if item["step"] == "program")
    assert mark["state"] == "not checked"
    # the mark in the strip is the trial's, and the seconds are there; both go when it changes
    latest = planner.call("GET", f"/api/jobs/{job['id']}")[1]["latest"]
    assert shown["step"] in latest["steps"][0]
    assert latest["programmed_s"] == [shown["tried"]["seconds"]]
    files = {
        kind: operator._client.get(f"{here}/text?format={kind}").get_data().decode()
        for kind in ("nc", "zeros.nc", "zeros.csv")
    }
    assert files["nc"] == text
    assert files["zeros.nc"].startswith("G90 G10 L2 P1 ")
    assert files["zeros.csv"].startswith("offset,")
    moves = planner.call("GET", f"{here}/moves")[1]
    columns = ("line", "move", "face", "x", "y", "z", "seconds", "what", "tool")
    (rows,) = {len(moves[name]) for name in columns}
    assert moves["of"] <= rows
    assert moves["seconds"] == sorted(moves["seconds"])
    assert moves["seconds"][-1] == round(shown["tried"]["seconds"], 2)
    station = result.designs[0].stations[0]
    ends = set(zip(moves["x"], moves["y"], strict=True))
    assert (round(station.x_mm, 2), round(station.y_mm, 2)) in ends
    # somebody's own for the whole setup: the same text is as good, and a mistake has its line
    status, own = send(operator, f"{here}/own", text.encode(), "own.nc")
    assert (status, own["text"]) == (200, text)
    assert own["tried"] == shown["tried"]
    assert own["played"]["seconds"] == moves["seconds"]
    deep = text.replace("G1 Z1 F300", "G1 Z-90 F300", 1)
    wrong = send(operator, f"{here}/own", deep.encode(), "own.nc")[1]["tried"]["findings"][0]
    assert wrong["stands"] is False
    assert deep.splitlines()[wrong["line"] - 1].endswith("G1 Z-90 F300")
    assert send(operator, f"{here}/own", b"G999", "own.nc")[0] == 422
    assert send(operator, f"{here}/own", None)[0] == 422
    assert planner.call("GET", here)[1]["program"]["text"] == text
    first = planner.call("GET", f"{here}?first=1")[1]
    assert "(RAISED UNTIL HERE" in first["program"]["text"]
    assert first["program"]["parts"] == [1]
    without = planner.call("GET", f"{here}?missing=1, 2")[1]
    assert without["program"]["parts"] == [k + 3 for k in range(len(shown["table"]["parts"]) - 2)]
    assert planner.call("GET", f"{here}?tools=1")[1]["program"]["tools"] == [1]
    assert "T1" in planner.call("GET", f"{here}?tools=9")[1]["reasons"][0]
    assert "no other part" in planner.call("GET", f"{here}?missing=4000")[1]["reasons"][0]
    assert planner.call("GET", f"{here}?missing=x")[0] == 422
    other = planner.call("GET", f"{here}?order=by station")[1]
    assert other["program"]["order"] == "by station"
    # a copy of the job has it too; taken off twice is once; the copy keeps its own
    copied = planner.call("POST", f"/api/jobs/{job['id']}/copy", {})[1]
    for _ in range(2):
        assert planner.call("DELETE", op)[0] == 204
    latest = planner.call("GET", f"/api/jobs/{job['id']}")[1]["latest"]
    assert latest["programmed_s"] == []
    assert "programs are tried where they are shown" in [s["why"] for s in latest["steps"][0]]
    assert planner.call("GET", here)[1]["ops"][0]["name"] is None
    assert (
        planner.call("GET", f"/api/jobs/{copied['id']}/program")[1]["ops"][0]["name"] == "first.nc"
    )


def test_a_setups_sheet_is_read_and_printed_in_either_unit_with_a_code_that_leads_to_it(
    planner, app, database
):
    job = new_job(planner)
    here = f"/api/jobs/{job['id']}/sheet"
    assert planner.call("GET", here)[0] == 409
    result = solve(database, job)
    operator = Browser(app)
    assert operator.sign_in("operator") == 200
    sheet = operator.call("GET", here)[1]
    design = result.designs[0]
    there = [s["number"] for face in sheet["faces"] for s in face["stations"]]
    assert there == [station.number for station in design.stations]
    assert (sheet["current"], sheet["accepted"]) == (True, None)
    assert planner.call("GET", f"{here}?setup=7")[0] == 404
    for paper, size, units, torque in (
        ("A4", (595, 842), "mm", "N·m"),
        ("letter", (612, 792), "inch", "in·lb"),
    ):
        got = operator._client.get(f"{here}.pdf?paper={paper}&units={units}")
        assert got.mimetype == "application/pdf"
        pages = PdfReader(io.BytesIO(got.get_data())).pages
        box = pages[0].mediabox
        assert (round(box.width), round(box.height)) == size
        text = "\n".join(page.extract_text() for page in pages)
        for said in (sheet["job"], sheet["version"], "G54", torque, "Set up by", "page 1"):
            assert said in text
        # the code at the top is read back by another library
        scale = 4
        image = pdfium.PdfDocument(got.get_data())[0].render(scale=scale).to_pil()
        (code,) = zxingcpp.read_barcodes(image)
        assert code.text.endswith(f"/jobs/{job['id']}/sheet?setup=1")
    assert change_field(planner, job, "job.quantity", 77)[0] == 200
    assert operator.call("GET", here)[1]["current"] is False
    text = PdfReader(io.BytesIO(operator._client.get(f"{here}.pdf").get_data())).pages[0]
    assert "OUT OF DATE" in text.extract_text()


def test_bad_programs_are_refused_in_a_word_and_nothing_hangs(planner, database):
    """Binary, endless, nested without end, unknown words, comments in any script, too large: a
    status, a sentence with the line where there is one, and the service goes on.
    """
    job = new_job(planner)
    solve(database, job)
    here = f"/api/jobs/{job['id']}/program"
    nested = "".join(f"O{k}\nM98 P{k + 1}\nM99\n" for k in range(1, 40))
    for data, says in (
        (b"\0\1\2\3", "no text"),
        (b"M98 P1\nM30\nO1\nM98 P1\nM99\n", "at most 10 deep"),
        (f"M98 P1\nM30\n{nested}".encode(), "at most 10 deep"),
        (b"T1 M6\nG0 X1\nM99\n", "for ever"),
        (b"N10 G0 X1\nN20 #101=5\n", "Line 2"),
        (b"N10 G0 X1\nN20 GOTO 10\n", "Line 2"),
        (b"G0 X1\nG1 X2\n", "Line 2"),  # no feed
        (b"G2 X10 Y0 I3 J0 F9\n", "Line 1"),
        (b"G0 X--1\n", "Line 1"),
        (b"(open\nG0 X1\n", "Line 1"),
        ("G0 X1\nПУСК\n".encode(), "Line 2"),
        (b"G0 X1" + b"1" * 500 + b"\n", "Line 1"),
        (b"X" * 20_000_001, "more than 20 MB"),
    ):
        status, answer = send(planner, f"{here}/own", data, "bad.nc")
        assert status == 422, data[:30]
        assert says in answer["detail"], (data[:30], answer["detail"])
    # comments in any script, an empty program, one that only ends: read, and not accepted
    for data in ("(Пуск, 開始, début)\nM30\n".encode(), b"", b"%\nM30\n%\n"):
        status, answer = send(planner, f"{here}/own", data, "odd.nc")
        assert (status, answer["tried"]["accepted"]) == (200, False)
    assert planner.call("GET", here)[0] == 200
