"""The run against the slow and obvious way: a clock that goes minute by minute, and everybody looks
up what they do now. Whole minutes everywhere, nothing left to chance: equal, not nearly.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wedgecraft.core.records.run import Stage
from wedgecraft.core.records.running import Running
from wedgecraft.core.run.hours import working
from wedgecraft.core.run.model import Floor, went

MINUTE = 60.0


@dataclass
class Fixture:
    """``left``: minutes of loading it still takes; nothing once it is loaded or inside."""

    left: int | None
    inside: bool = False


@dataclass
class Clock:
    """One machine, its fixtures, one person."""

    running: Running
    hours: float
    load: int
    cut: int
    change: int
    fixtures: list[Fixture] = field(default_factory=list)
    doing: str = "idle"
    left: int = 0
    coming: Fixture | None = None
    cycles: int = 0
    cutting: int = 0

    def may_begin(self, t: float) -> bool:
        """By what the shop lets run alone."""
        there, _ = working(self.running, self.hours)
        if self.running.alone == "run on" and self.cycles >= self.running.clean_cycles:
            return True
        if not there.open(t):
            return False
        ends = (self.cut + self.change) * MINUTE
        return self.running.alone != "no" or t + ends <= there.closes(t)

    def machine(self, t: float) -> None:
        """What it turns to at this minute."""
        if self.doing == "cuts" and self.left == 0:
            self.cycles += 1
            self.doing = "idle"
        if self.doing == "idle" and self.coming is None:
            ready = [f for f in self.fixtures if f.left is None and not f.inside]
            if ready:
                self.coming = ready[0]
        if self.doing == "idle" and self.coming is not None and self.may_begin(t):
            self.doing, self.left = "changes", self.change
        if self.doing == "changes" and self.left == 0:
            for one in self.fixtures:
                if one.inside:
                    one.inside, one.left = False, self.load
            self.coming.inside = True
            self.coming = None
            self.doing, self.left = "cuts", self.cut

    def person(self, t: float) -> None:
        """Loads the one that was begun, else the next that is empty."""
        _, work = working(self.running, self.hours)
        waiting = [f for f in self.fixtures if f.left]
        if work.open(t) and waiting:
            begun = min(waiting, key=lambda f: f.left)
            begun.left -= 1

    def run(self, start: float, days: int) -> None:
        """Minute after minute."""
        for minute in range(days * 24 * 60):
            t = start + minute * MINUTE
            for one in self.fixtures:
                if one.left == 0:
                    one.left = None
            self.machine(t)
            self.person(t)
            if self.doing in ("cuts", "changes"):
                self.left -= 1
                self.cutting += self.doing == "cuts"


def both(running, hours, load, cut, change, fixtures, days=9):
    """Cycles and minutes of cutting, by the clock and by the model."""
    clock = Clock(running, hours, load, cut, change, [Fixture(load) for _ in range(fixtures)])
    there, _ = working(running, hours)
    clock.run(there.next_open(0.0), days)
    stage = Stage(
        number=1, name="op 10", machine="M", cut_s=cut * MINUTE, move_s=0, change_s=change * MINUTE,
        by_hand=False, load_s=load * MINUTE, fixtures=fixtures, sets=1, pieces=1, setup_s=0,
        tools=[],
    )  # fmt: skip
    (diary,) = went([stage], Floor(running, hours), days, 1)
    cutting = sum(b - a for a, b, what, _ in diary.did if what == "cuts") / MINUTE
    return (clock.cycles, clock.cutting), (diary.cycles, cutting)


def calm(**given):
    return Running(
        spread=0, stop_every_hours=1e5, inspect_every=0, edge_minutes=1e5, clean_cycles=2, **given
    )


@settings(max_examples=25, deadline=None)
@given(
    st.sampled_from(["no", "finish the cycle", "run on"]),
    st.integers(4, 20),
    st.sampled_from([0, 30, 45]),
    st.integers(1, 7),
    st.integers(3, 90),
    st.integers(3, 120),
    st.integers(0, 4),
    st.integers(2, 6),
)
def test_pallets_people_and_nights_are_as_the_clock_has_them(
    alone, hours, rest, days, load, cut, change, fixtures
):
    running = calm(alone=alone, break_minutes=rest, days_a_week=days, starts=6)
    (cycles, cutting), (model_cycles, model_cutting) = both(
        running, float(hours), load, cut, change, fixtures
    )
    # the last cycle of all may end at the very moment the run does
    assert abs(cycles - model_cycles) <= 1
    assert model_cutting == pytest.approx(cutting, abs=cut + 1)


@pytest.mark.parametrize(("alone", "least"), [("no", 0), ("finish the cycle", 0), ("run on", 40)])
def test_who_may_run_alone_makes_the_difference_the_clock_says(alone, least):
    """Six pallets of 40 minutes: at night four or five more, where the shop lets them."""
    running = calm(alone=alone, break_minutes=30, days_a_week=5, starts=7)
    (cycles, _), (model, _) = both(running, 8.0, 12, 40, 1, 6, days=14)
    assert abs(cycles - model) <= 1
    (day, _), _ = both(calm(alone="no", days_a_week=5, starts=7), 8.0, 12, 40, 1, 6, days=14)
    assert cycles - day >= least
