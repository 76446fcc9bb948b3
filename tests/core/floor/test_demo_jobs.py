"""Every job of the demo goes all the way: programs, sheet, run, days of log that fit its plan."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from tests.core.make.planned import planned
from wedgecraft.core.plan.logged import log_of
from wedgecraft.core.plan.programs import programs_of
from wedgecraft.core.plan.running import stages_of
from wedgecraft.core.plan.sheets import setup_sheet
from wedgecraft.core.records.log import LogRequest
from wedgecraft.core.records.program import OpText, ProgramRequest
from wedgecraft.demo.days import DAYS, logged
from wedgecraft.demo.shop import demo_documents
from wedgecraft.demo.tooling import op_programs

JOBS = [document.job.name for document, _ in demo_documents()]
END = datetime(2026, 3, 18, 12, tzinfo=UTC)


@pytest.mark.parametrize("name", JOBS)
def test_a_demo_job_goes_to_the_machine_and_back(name):
    document = planned(name)
    ops = [OpText(part=p, op=o, text=t) for p, o, _, t in op_programs(document)]
    entries = logged(name, END)
    assert len({entry.id for entry in entries}) == len(entries)
    setups = programs_of(ProgramRequest(document=document, ops=ops)).setups
    stages = stages_of(document, [setup.tried.seconds for setup in setups])
    for setup, stage in zip(setups, stages, strict=True):
        _fits(setup, stage, document, ops, entries)
    said = log_of(LogRequest(document=document, entries=entries))
    assert said.against
    assert all(item.cases for item in said.against)
    bad = {(item.setup, item.station) for item in said.stations if item.stands_out}
    assert bad == {(d.setup, d.bad[0]) for d in DAYS if d.job == name and d.bad}


def _set_where_it_says(document, number):
    """What moves a limit stands in the job where the limit says, with the value it is read with."""
    asked = document.model_dump(mode="json")
    design = document.result.setups[number - 1].result.designs[0]
    lines = [line for line in design.limits if line.set_by]
    assert lines
    for line in lines:
        said = asked
        for step in line.set_by.field.split("."):
            said = said[int(step) if isinstance(said, list) else step]
        shown = {"used": line.used, "allowed": line.allowed}.get(line.set_by.shows)
        assert shown is None or said == pytest.approx(shown), line.id


def _fits(setup, stage, document, ops, entries):
    assert setup.tried.accepted, [f for f in setup.tried.findings if f.stands is not True]
    (days,) = (d for d in DAYS if (d.job, d.setup) == (document.job.name, setup.number))
    sheet = setup_sheet(ProgramRequest(document=document, ops=ops), setup.number)
    assert sheet.accepted
    assert not sheet.exceeded
    assert days.stations == sum(len(face.stations) for face in sheet.faces)
    assert stage.pieces == days.pieces
    assert days.cycle_s == pytest.approx(setup.tried.seconds, rel=0.02)
    assert days.load_s == pytest.approx(stage.load_s, rel=0.02)
    _set_where_it_says(document, setup.number)
    asked = {item.torque_nm for item in sheet.tightened}
    assert asked == {days.torque_nm} or not days.torque_nm
    own = [e for e in entries if e.setup == setup.number]
    assert {e.kind for e in own} >= {"load", "cycle"}
    stations = {e.station for e in own if getattr(e, "station", None)}
    assert stations <= set(range(1, days.stations + 1))
