"""Machines, fixtures and people, event by event, on simpy.

Each machine has fixtures that go round: a person unloads and loads one while another is cut. A
single fixture is loaded where it stands. Edges wear, things go wrong, people go home.
"""

from __future__ import annotations

import random
from collections.abc import Generator, Sequence
from dataclasses import dataclass, field
from typing import Any

import simpy

from wedgecraft.core.records.run import Doing, Stage
from wedgecraft.core.records.running import Running
from wedgecraft.core.run.hours import Hours, working

#: What somebody at a standing machine is called for goes before loading the next fixture.
_AT_ONCE, _NEXT = 0, 1
#: Other machines keep a person this long at a time, s, on average; from memory.
_ELSEWHERE_S = 600.0
Events = Generator[simpy.Event, Any, None]


@dataclass
class Diary:
    """What a machine did, one thing after another; seconds from Monday 0:00. ``cycles`` that
    ended.
    """

    start: float
    did: list[tuple[float, float, Doing, str]] = field(default_factory=list)
    cycles: int = 0

    def note(self, until: float, what: Doing, why: str = "") -> None:
        """Until then, from where the last entry ended; ``why`` it stands."""
        since = self.did[-1][1] if self.did else self.start
        if until > since:
            self.did.append((since, until, what, why))


@dataclass(frozen=True)
class Floor:
    """The people and their hours. ``cut_spread``: of cutting seconds, over their mean."""

    running: Running
    hours_a_day: float
    cut_spread: float = 0.0

    @property
    def hours(self) -> tuple[Hours, Hours]:
        """When people are in, and when they work."""
        return working(self.running, self.hours_a_day)


def went(stages: Sequence[Stage], floor: Floor, days: float, seed: int) -> list[Diary]:
    """How these setups run side by side, each on a machine of its own, for so many days; the same
    for the same seed.
    """
    there, work = floor.hours
    start = there.next_open(0.0)
    env = simpy.Environment(initial_time=start)
    people = simpy.PriorityResource(env, capacity=floor.running.people)
    diaries = [Diary(start) for _ in stages]
    for stage, diary in zip(stages, diaries, strict=True):
        _Machine(env, people, stage, floor, there, work, diary, f"{seed} {stage.number}").begin()
    if floor.running.elsewhere > 0:
        for person in range(floor.running.people):
            env.process(_elsewhere(env, people, floor.running.elsewhere, work, seed + person))
    until = start + days * 86_400
    env.run(until=until)
    for diary in diaries:
        if diary.did and diary.did[-1][1] > until:
            since, _, what, why = diary.did[-1]
            diary.did[-1] = (since, until, what, why)
    return diaries


def _elsewhere(
    env: simpy.Environment, people: simpy.PriorityResource, share: float, work: Hours, seed: int
) -> Events:
    """A person is called away again and again, for this share of the time."""
    draw = random.Random(f"elsewhere {seed}")  # noqa: S311 (no secret)
    late = 0.0
    while True:
        here = draw.expovariate(1 / (_ELSEWHERE_S * (1 - share) / share))
        # who was kept at these machines goes the sooner again
        wait, late = max(0.0, here - late), max(0.0, late - here)
        yield env.timeout(work.after(env.now, wait) - env.now)
        called = env.now
        with people.request(priority=_AT_ONCE) as taken:
            yield taken
            late += work.between(called, env.now)
            away = draw.expovariate(1 / _ELSEWHERE_S)
            yield env.timeout(work.after(env.now, away) - env.now)


class _Machine:
    """One machine and the fixtures that go round on it."""

    def __init__(
        self,
        env: simpy.Environment,
        people: simpy.PriorityResource,
        stage: Stage,
        floor: Floor,
        there: Hours,
        work: Hours,
        diary: Diary,
        seed: str,
    ) -> None:
        self.env, self.people, self.stage, self.diary = env, people, stage, diary
        self.running, self.there, self.work = floor.running, there, work
        self.loaded: simpy.Store = simpy.Store(env)
        # one stream each, so that a change to one leaves the others as they were
        self.loads, self.cuts, self.stops, self.lives = (
            random.Random(f"{what} {seed}")  # noqa: S311 (no secret)
            for what in ("load", "cut", "stop", "life")
        )
        self.cut_spread = floor.cut_spread
        self.to_stop = self._until_a_stop()
        self.to_measure = 0.0
        # every edge of a tool that is not the one in use is a sister
        self.left = [self._a_life() for _ in stage.tools]
        self.sisters = [floor.running.sisters for _ in stage.tools]

    def begin(self) -> None:
        """Let it run."""
        if self.stage.fixtures == 1:
            self.env.process(self._inside())
        else:
            for fixture in range(self.stage.fixtures):
                self.env.process(self._load(fixture))
            self.env.process(self._outside())

    def _until_a_stop(self) -> float:
        return self.stops.expovariate(1 / (self.running.stop_every_hours * 3600))

    def _a_life(self) -> float:
        return self.running.edge_minutes * 60 * _spread(self.lives, self.running.edge_spread)

    def _loading_s(self) -> float:
        """Of one fixture, with what is measured of its parts."""
        seconds = self.stage.load_s * _spread(self.loads, self.running.spread)
        if self.running.inspect_every:
            self.to_measure += self.stage.pieces / self.running.inspect_every
            seconds += int(self.to_measure) * self.running.inspect_minutes * 60
            self.to_measure %= 1
        return seconds

    def _helped(self, seconds: float, what: Doing, why: str) -> Events:
        """A person does something at the machine, which stands meanwhile and before."""
        came = self.work.next_open(self.env.now)
        if came > self.env.now:
            yield self.env.timeout(came - self.env.now)
            self.diary.note(self.env.now, "stands, nobody there", why)
        with self.people.request(priority=_AT_ONCE) as taken:
            yield taken
            self.diary.note(self.env.now, "waits for a person", why)
            yield self.env.timeout(self.work.after(self.env.now, seconds) - self.env.now)
            self.diary.note(self.env.now, what, why)

    def _inside(self) -> Events:
        while True:
            yield from self._helped(self._loading_s(), "is loaded", "its parts are cut")
            yield from self._allowed()
            yield from self._cut()

    def _load(self, fixture: int) -> Events:
        """A person unloads and loads it, while the machine cuts another."""
        came = self.work.next_open(self.env.now)
        if came > self.env.now:
            yield self.env.timeout(came - self.env.now)
        with self.people.request(priority=_NEXT) as taken:
            yield taken
            seconds = self._loading_s()
            yield self.env.timeout(self.work.after(self.env.now, seconds) - self.env.now)
        yield self.loaded.put(fixture)

    def _outside(self) -> Events:
        inside: int | None = None
        while True:
            fixture = yield self.loaded.get()
            why = "all loaded fixtures are cut"
            self.diary.note(self.env.now, "waits for a loaded fixture", why)
            if self.stage.by_hand:
                yield from self._helped(
                    self.stage.change_s, "has its fixtures swapped", "nobody to swap fixtures"
                )
                yield from self._allowed()
            else:
                yield from self._allowed()
                yield self.env.timeout(self.stage.change_s)
                self.diary.note(self.env.now, "changes pallets")
            if inside is not None:
                self.env.process(self._load(inside))
            inside = fixture
            yield from self._cut()

    def _allowed(self) -> Events:
        """Wait until a cycle may be begun, by what the shop lets run alone."""
        while True:
            now = self.env.now
            if self.running.alone == "run on" and self.diary.cycles >= self.running.clean_cycles:
                return
            ends = self.stage.run_s + (0 if self.stage.by_hand else self.stage.change_s)
            late = self.running.alone == "no" and now + ends > self.there.closes(now)
            if self.there.open(now) and not late:
                return
            after = self.there.closes(now) if self.there.open(now) else now
            came = self.there.next_open(after)
            if came == after:  # a day without end, or a cycle longer than it
                came = self.there.next_open(self.there.closes(after))
            if late and ends > self.there.closes(came) - came:
                return  # longer than a day: it is begun all the same
            yield self.env.timeout(came - now)
            self.diary.note(self.env.now, "would run alone", "nothing is begun alone")

    def _cut(self) -> Events:
        """A cycle, with what interrupts it."""
        cut, whole = self.stage.cut_s, self.stage.run_s
        if self.cut_spread:
            drawn = _spread(self.cuts, self.cut_spread)
            cut, whole = cut * drawn, whole * drawn
        for at, helped, why in self._interruptions(cut):
            yield from self._runs(at * cut, at * whole)
            cut, whole = cut * (1 - at), whole * (1 - at)
            doing: Doing = "waits for a new edge" if helped == 1 else "stands, something went wrong"
            seconds = self.running.edge_seconds if helped == 1 else self.running.stop_minutes * 60
            yield from self._helped(seconds, doing, why)
        yield from self._runs(cut, whole)
        self.diary.cycles += 1

    def _runs(self, cut: float, whole: float) -> Events:
        yield self.env.timeout(whole)
        self.diary.note(self.env.now - (whole - cut), "cuts")
        self.diary.note(self.env.now, "changes tools, indexes, moves")

    def _interruptions(self, cut: float) -> list[tuple[float, int, str]]:
        """Where in what is left of the cycle it stands, each as a share of what is left then; 1 for
        an edge, 2 for something wrong.
        """
        found: list[tuple[float, int, str]] = []
        if cut <= 0:
            return found
        share = cut / self.stage.cut_s
        at = self.to_stop
        while at < cut:
            found.append((at / cut, 2, "something went wrong"))
            at += self._until_a_stop()
        self.to_stop = at - cut
        before = 0.0
        for k, tool in enumerate(self.stage.tools):
            used, life = tool.seconds * share, self.left[k]
            while life < used:
                if self.sisters[k] > 0:
                    self.sisters[k] -= 1
                else:  # the person puts new edges on all of them
                    self.sisters[k] = self.running.sisters
                    found.append(((before + life) / cut, 1, f"an edge was worn: {tool.name}"))
                life += self._a_life()
            self.left[k] = life - used
            before += used
        found.sort()
        steps, done = [], 0.0
        for at_share, what, why in found:
            at_share = min(at_share, 1.0)
            left = 1 - done
            steps.append(((at_share - done) / left if left > 1e-12 else 0.0, what, why))
            done = at_share
        return steps


def _spread(draw: random.Random, spread: float) -> float:
    """A gamma variate of mean 1 and this spread: 1 is exponential, 0 is none."""
    if spread <= 0:
        return 1.0
    shape = 1 / spread**2
    return draw.gammavariate(shape, 1 / shape)
