"""The one document of a job: what is wanted, the route it takes, and what was worked out.

Version 3. A draft fills job and route, planning fills the result; every command reads and prints
it. Documents of versions 1 and 2 (a plan request, or a request with its result) are read.
"""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, model_validator

from wedgecraft.core.ground.documents import Document, Text
from wedgecraft.core.ground.limits import Figure
from wedgecraft.core.ground.units import Place
from wedgecraft.core.records.form import FORMS, Form
from wedgecraft.core.records.locating import Accuracy
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part
from wedgecraft.core.records.piece import Making
from wedgecraft.core.records.plan import PlanResult, Reason
from wedgecraft.core.records.plate import PickUp
from wedgecraft.core.records.request import Arrangement
from wedgecraft.core.records.rules import HouseRules, Strategy
from wedgecraft.core.records.running import Running
from wedgecraft.core.records.station import StopAndEdgeClamp
from wedgecraft.core.records.to_version_3 import to_version_3
from wedgecraft.core.records.workpiece import Doubt

if TYPE_CHECKING:
    AnyForm = Form
else:
    AnyForm = FORMS.any_of_them


class Job(Document):
    """What is wanted. ``quantity`` counts kits; a job of one part has a kit of one.

    ``orders_a_year`` and ``repeat_chance``: how often it is ordered, and how likely again; nothing
    where that is not known.
    """

    name: Text
    quantity: Annotated[int, Field(ge=1, le=10_000_000)]
    orders_a_year: Annotated[float, Field(gt=0, le=1000)] | None = None
    repeat_chance: Annotated[float, Field(ge=0, le=1)] | None = None
    parts: Annotated[list[Part], Field(min_length=1, max_length=20)]
    rules: HouseRules = HouseRules()

    def with_op(self, part: int, place: int, op: Op) -> Job:
        """The same with another op in place of one."""
        parts = list(self.parts)
        ops = [*parts[part].ops[:place], op, *parts[part].ops[place + 1 :]]
        parts[part] = parts[part].model_copy(update={"ops": ops})
        return self.model_copy(update={"parts": parts})


class Held(Document):
    """One op of one part, held in a setup; both count from 0. ``station``: how; nothing for as the
    first of the setup is.
    """

    part: Annotated[int, Field(ge=0)] = 0
    op: Annotated[int, Field(ge=0)] = 0
    station: StopAndEdgeClamp | None = None


class Zeros(Document):
    """Where the zero is picked up, on the plate, and from what; ``strategy``: for how much one zero
    is, the house rule where nothing is said.
    """

    x_mm: Place = 0.0
    y_mm: Place = 0.0
    picked_up: PickUp = "as it lies"
    strategy: Strategy | Literal["cheapest in tolerance"] | None = None


class Setup(Document):
    """A machine, a form, and the ops held on it, all ops equal.

    ``copies``: identical fixtures. ``arrangement``: what a person placed.
    """

    name: Annotated[str, Field(max_length=120)] = ""
    machine: Machine
    form: AnyForm
    copies: Annotated[int, Field(ge=1, le=50)] = 1
    holds: Annotated[list[Held], Field(min_length=1, max_length=6)]
    zeros: Zeros = Zeros()
    accuracy: Accuracy = Accuracy()
    arrangement: Arrangement = Arrangement()

    @model_validator(mode="after")
    def _first_is_held(self) -> Setup:
        if self.holds[0].station is None:
            raise ValueError("the first op of a setup says how it is held: holds.0.station")
        return self


class Route(Document):
    """Setups in the order in which a part goes through them; they count from 1."""

    setups: Annotated[list[Setup], Field(min_length=1, max_length=20)]


class Proposal(Document):
    """What the planner proposed: where in this document (a JSON pointer), why in half a sentence,
    and how doubtful it is, 0 to 1. What is not listed a person set.
    """

    pointer: Annotated[str, Field(pattern=r"^(/[^/]*)*$", max_length=300)]
    why: Annotated[str, Field(max_length=300)]
    doubt: Annotated[float, Field(ge=0, le=1)] = 0


class SetupResult(Document):
    """The designs of one setup, or why there is none. ``number`` counts from 1; ``making``: what
    its pieces come to, nothing where that was not looked at.
    """

    number: int
    result: PlanResult
    making: Making | None = None


class JobResult(Document):
    """What was worked out for the route.

    ``complete_a_cycle``: complete parts, or kits, when every setup ran once; ``limits``: the setup
    that has the fewest; ``a_day``: complete parts in the hours of a day; ``unattended_hours``: the
    longest that a machine cuts by itself. Nothing where a setup has no design, or an op is held in
    none. ``between``: what is done from one setup to the next. ``reasons``: what the route lacks.
    ``doubts``: where the cuts make something else than the part; nothing where not looked at.
    """

    feasible: bool
    setups: list[SetupResult]
    complete_a_cycle: int | None
    counted: Literal["parts", "complete parts", "kits"]
    limits: int | None
    a_day: float | None
    unattended_hours: float | None
    between: list[str]
    reasons: list[Reason]
    figures: list[Figure]
    doubts: list[Doubt] | None = None


class JobDocument(Document):
    """``running``: who is there when it runs; a plan does not depend on it. ``proposals`` mark
    what the planner proposed.
    """

    format: Literal["wedgecraft job"] = "wedgecraft job"
    version: Literal[3] = 3
    job: Job
    route: Route | None = None
    running: Running = Running()
    result: JobResult | None = None
    proposals: Annotated[list[Proposal], Field(max_length=5000)] = []

    @model_validator(mode="before")
    @classmethod
    def _up_to_date(cls, given: Any) -> Any:
        return to_version_3(given)

    def machine_of(self, part: int, op: int) -> Machine | None:
        """The machine on which an op is held; nothing where no setup holds it."""
        for setup in self.route.setups if self.route is not None else []:
            if any((held.part, held.op) == (part, op) for held in setup.holds):
                return setup.machine
        return None

    @model_validator(mode="after")
    def _held_is_there(self) -> JobDocument:
        seen: Counter[tuple[int, int]] = Counter()
        for number, setup in enumerate(self.route.setups if self.route else []):
            for k, held in enumerate(setup.holds):
                at = f"route.setups.{number}.holds.{k}"
                if held.part >= len(self.job.parts):
                    there = len(self.job.parts)
                    raise ValueError(f"{at}.part is {held.part}; there are {there}, from 0")
                ops = self.job.parts[held.part].ops
                if held.op >= len(ops):
                    raise ValueError(f"{at}.op is {held.op}; the part has {len(ops)}, from 0")
                seen[held.part, held.op] += 1
                if seen[held.part, held.op] > 1:
                    op = ops[held.op].number
                    raise ValueError(f"{at}: op {op} is held twice; each op is held in one setup")
        return self
