"""Where programs find their parts: work offsets, and every part's own zero."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.rules import Strategy

Triple = tuple[float, float, float]


class Zero(Document):
    """A work offset: its ``name`` and running number from 1, in machine coordinates, the spindle's
    face where Z is nothing. ``face`` counts from 0, nothing for all; ``index_deg`` of that face;
    ``parts``: numbers of those that are cut from it, which stand turned by ``turn_deg``; ``says``:
    what it is picked up from; ``steps``: how, one after another.
    """

    name: Text
    number: int
    face: int | None
    index_deg: float
    turn_deg: float
    at_mm: Triple
    parts: list[int]
    says: str
    steps: list[str] = []


class PartZero(Document):
    """Of one part of a setup, counted from 1: the work offset it is cut from, how far its own zero
    is from there and turned, and where that is in machine coordinates at its index.

    Its own zero: the datum corner of its station in X and Y, the finished part's top in Z.
    ``measured_off_mm``: how far from its drawing its station was found on the real fixture, nothing
    where nobody measured it; the rest is as the program runs.
    """

    number: int
    station: int
    member: int
    kind: int
    face: int
    zero: Text
    shift_mm: Triple
    turn_deg: float
    at_mm: Triple
    measured_off_mm: Triple | None = None


class ZeroTable(Document):
    """Every work offset of a setup and every part; ``notes``: names left out and why;
    ``doubts``: what nobody has said, or does not fit.
    """

    strategy: Strategy
    zeros: list[Zero]
    parts: list[PartZero]
    notes: list[str] = []
    doubts: list[str] = []


class Restart(Document):
    """From which numbered line a tool can begin again at a part."""

    line: int
    tool: int
    part: int
    station: int


class Program(Document):
    """A program for a whole setup. ``tools`` as they are changed in; ``tool_changes_other``: what
    the other order would need; ``parts``: numbers of those that are there; ``sisters``: of a tool
    another of the machine's table that is the same.
    """

    text: str
    order: Literal["by tool", "by station"]
    tools: list[int]
    tool_changes: int
    tool_changes_other: int
    index_moves: int
    parts: list[int]
    restarts: list[Restart]
    sisters: list[tuple[int, int]] = []


class Finding(Document):
    """One thing that the stand-in looked at. ``stands``: it is as it should be; nothing where it
    was not looked at. ``line`` of the program's text, counted from 1; ``part`` concerned;
    ``at_mm``: where the tool's tip is, in machine coordinates; ``move`` of the run, from 0.
    """

    check: Text
    stands: bool | None
    says: str
    line: int | None = None
    part: int | None = None
    at_mm: Triple | None = None
    move: int | None = None


class Tried(Document):
    """A program as the stand-in ran it: seconds, and what was found, worst first. ``accepted``:
    all was looked at and is as it should be; ``envelopes``: ops whose cuts' sweeps were played, as
    they have no program: then nothing is accepted.
    """

    accepted: bool = False
    envelopes: list[str] = []
    seconds: float
    tool_changes: int
    lines: int
    findings: list[Finding]


class ToolSeen(Document):
    """A tool as it is drawn: ``rings`` from its tip up, radius and from what height."""

    number: int
    length_mm: float
    rings: list[tuple[float, float]]


class Played(Document):
    """A program as it goes. Columns, a row for each place that a tool's tip comes to: ``line`` of
    the text, ``move`` of the run, the ``face`` that looks at the spindle (-1 for none), x, y, z on
    its plate, mm; ``seconds`` since the beginning; ``what``: 0 rapid, 1 feed, 2 at rest. ``of`` so
    many moves; ``whole``: all of them are here.
    """

    tools: list[ToolSeen]
    of: int
    whole: bool = True
    line: list[int] = []
    move: list[int] = []
    face: list[int] = []
    x: list[float] = []
    y: list[float] = []
    z: list[float] = []
    seconds: list[float] = []
    what: list[int] = []
    tool: list[int] = []


class OpText(Document):
    """The program of one op: ``part`` by its name or its number from 1, ``op`` by its number."""

    part: Annotated[str, Field(max_length=120)] | int = 1
    op: int
    text: Annotated[str, Field(max_length=40_000_000)]


class ProgramRequest(Document):
    """A job, planned or not, and the programs of its ops. ``order``: the house rule where nothing
    is said; ``only``: numbers of the parts of a setup that are there, all where nothing is said.
    ``missing``: of those that are not. ``raised_mm``: a first article, gone through so high over
    the work before it is cut at size;
    ``tools``: only what these do, to parts that were cut before and go in again. ``instead``:
    sister tools in the place of some.
    """

    document: JobDocument
    ops: Annotated[list[OpText], Field(max_length=60)] = []
    order: Literal["by tool", "by station"] | None = None
    only: list[int] | None = None
    missing: list[int] = []
    raised_mm: Annotated[Length, Field(ge=1, le=500)] | None = None
    tools: list[int] | None = None
    instead: dict[int, int] = {}


class SetupProgram(Document):
    """One setup's zeros, and its program if every op it holds has one; ``reasons``: why there is
    none. ``g10``: the zeros as a control reads them; ``planned_s``: the cycle as it was planned.
    """

    number: int
    table: ZeroTable | None = None
    g10: list[str] = []
    planned_s: float | None = None
    program: Program | None = None
    tried: Tried | None = None
    reasons: list[str] = []

    @property
    def programmed_s(self) -> float | None:
        """Seconds of its program; nothing where none was run: what cuts sweep is no program."""
        if self.program is None or self.tried is None or self.tried.envelopes:
            return None
        return self.tried.seconds

    @property
    def feasible(self) -> bool:
        """Whether it was tried, as a program and no mere sweep, and nothing of it is wrong."""
        tried = self.tried
        if tried is None or tried.envelopes:
            return False
        return all(item.stands is not False for item in tried.findings)


class OwnTried(Document):
    """Somebody's own program for a whole setup, as the stand-in ran it: its ``text``, what was
    found, how it goes.
    """

    text: str
    tried: Tried
    played: Played


class JobPrograms(Document):
    """Of every setup of a job."""

    setups: list[SetupProgram]

    @property
    def feasible(self) -> bool:
        return bool(self.setups) and all(setup.feasible for setup in self.setups)


class TrialRequest(Document):
    """Anyone's ``text`` to be run for one setup of a job, counted from 1; with the programs of its
    ops it is also looked at whether every part gets its own.
    """

    document: JobDocument
    setup: Annotated[int, Field(ge=1, le=20)] = 1
    text: Annotated[str, Field(max_length=40_000_000)]
    ops: Annotated[list[OpText], Field(max_length=60)] = []
