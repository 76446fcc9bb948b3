"""The setter's sheet on paper, read back by another reader: every figure of it in either unit."""

from __future__ import annotations

import io
import re

import pytest
from pypdf import PdfReader

from wedgecraft.core.records.program import Zero
from wedgecraft.core.records.setup_sheet import (
    Heavy,
    Measure,
    SetupSheet,
    SheetFace,
    SheetStation,
    SheetTool,
    Tightened,
)
from wedgecraft.formats.sheets.setup_pdf import setup_pdf

LINK = "http://127.0.0.1:8000/jobs/abc/sheet?setup=1"


def _sheet(**changes) -> SetupSheet:
    station = SheetStation(
        number=7,
        op=10,
        turn=90,
        at_mm=(40, 30),
        parts=[[[(20, 20), (60, 20), (60, 40), (20, 40)]]],
        corners_mm=[(20, 20)],
        stops=[[(10, 20), (20, 20), (20, 40), (10, 40)]],
        clamps=[[(60, 25), (70, 25), (70, 35), (60, 35)]],
        screws_mm=[(65, 30)],
    )
    sheet = SetupSheet(
        job="Tide gauge bracket — ő Ø",
        setup=1,
        setups=2,
        version="0a1b2c3d",
        current=True,
        machine="Vertical, 760 x 460 mm travel",
        form="fixture plate",
        parts_a_cycle=1,
        quantity=40,
        copies=1,
        faces=[SheetFace(name="", width_mm=120, depth_mm=80, stations=[station])],
        loading=["Wipe it.", "Onto the floor, then to both stops."],
        tightened=[
            Tightened(
                ops=[10, 20],
                what="edge clamp, M8",
                key="hexagon key 6",
                torque_nm=16,
                each_part=1,
                steps=["all by hand", "then each to its torque"],
            )
        ],
        zeros=[
            Zero(
                name="G54",
                number=1,
                face=None,
                index_deg=0,
                turn_deg=0,
                at_mm=(-382.25, -230.5, -610.125),
                parts=[1],
                says="",
                steps=["touch left: X0"],
            )
        ],
        zero_notes=["G55 is taken"],
        tools=[
            SheetTool(
                number=3,
                cutter="Drill 8.5 mm",
                holder="Chuck",
                length_mm=152.4,
                reach_mm=50.8,
                there=True,
            ),
            SheetTool(number=9, cutter="", holder="", length_mm=None, reach_mm=None, there=False),
        ],
        remove=["T12 Reamer 10"],
        program="O1001 (BRACKET)",
        lines=90,
        seconds=61.0,
        accepted=True,
        first_article=[
            Measure(
                op=10,
                feature="Bore",
                tolerance_mm=0.0508,
                expected_mm=0.0254,
                station=7,
                with_what="bore gauge",
            )
        ],
        heavy=[
            Heavy(
                what="the plate",
                kg=45.359237,
                limit_kg=14.4,
                multipliers={"HM": 0.62},
                by_hand=False,
            )
        ],
        checks=["Doors shut."],
        cautions=["Chips are sharp."],
    )
    return sheet.model_copy(update=changes)


def _text(data: bytes) -> str:
    pages = PdfReader(io.BytesIO(data)).pages
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in pages))


@pytest.mark.parametrize(
    ("units", "wanted"),
    [
        ("mm", ("16 N·m", "-382.250", "-610.125", "152.4", "50.8", "0.051", "0.025", "45.4 kg")),
        # 25.4 mm an inch, 8.8507 in·lb a N·m, 0.45359237 kg a pound
        (
            "inch",
            ("142 in·lb", "-15.0492", "-24.0207", "6.00", "2.00", "0.0020", "0.0010", "100.0 lb"),
        ),
    ],
)
def test_every_figure_stands_on_paper_in_the_readers_units(units, wanted):
    text = _text(setup_pdf(_sheet(), "letter", units, LINK))
    for said in wanted:
        assert said in text, said
    for said in (
        "hexagon key 6",
        "1. all by hand",
        "touch left: X0",
        "G55 is taken",
        "T3",
        "ADD",
        "measure",
        "take out T12 Reamer 10",
        "accepted by the stand-in",
        "WITH A HOIST",
        "[ ] Doors shut.",
        "Chips are sharp.",
        "station 7",
        "0a1b2c3d",
        "10, 20",
    ):
        assert said in text, said
    assert "N·m" not in text or units == "mm"
    assert re.search(r"(?<!\d)7(?!\d)", text)


def test_it_never_says_more_than_is_known_and_is_the_same_twice():
    same = [setup_pdf(_sheet(), "A4", "mm", LINK) for _ in range(2)]
    assert same[0] == same[1]
    refused = _text(setup_pdf(_sheet(accepted=False, wrong=2), "A4", "mm", LINK))
    assert "NOT ACCEPTED, 2 wrong" in refused
    unsure = _text(setup_pdf(_sheet(accepted=False), "A4", "mm", LINK))
    assert "NOT ACCEPTED YET" in unsure
    bare = _sheet(accepted=None, program="", seconds=None, tools=[], zeros=[], first_article=[])
    text = _text(setup_pdf(bare, "A4", "mm", LINK))
    assert "Program none: none yet" in text
    assert "accepted" not in text
    assert not re.search(r"\bTools\b|\bZeros\b|First article", text)
    over = _text(setup_pdf(_sheet(exceeded=["Clamping, worst case"]), "A4", "mm", LINK))
    assert "DO NOT RUN: beyond its limit: Clamping, worst case." in over
    assert "DO NOT RUN" not in refused
    old = _text(setup_pdf(_sheet(current=False), "A4", "mm", LINK))
    assert "OUT OF DATE" in old
    # letters that the standard faces have not are replaced, and many stations take more pages
    many = [_sheet().faces[0].model_copy(update={"name": f"B{90 * k}°"}) for k in range(6)]
    pages = PdfReader(io.BytesIO(setup_pdf(_sheet(faces=many), "A4", "mm", LINK))).pages
    assert len(pages) >= 2
    text = " ".join(page.extract_text() for page in pages)
    assert all(f"Face B{90 * k}°" in text for k in range(6))
    assert text.count("Set up by") == len(pages)
