"""When people are there: the hours of a week, over and over. Seconds count from Monday 0:00."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.running import Running

DAY = 86_400.0
WEEK = 7 * DAY


class Hours:
    """Stretches of a week, as (from, to) in seconds; they may run over its end.

    >>> hours = Hours([(0, 10), (20, 30)])
    >>> hours.counted(25), hours.after(5, 10), hours.open(15), hours.next_open(15)
    (15.0, 25.0, False, 20.0)
    """

    def __init__(self, stretches: Sequence[tuple[float, float]]) -> None:
        cut: list[tuple[float, float]] = []
        for start, end in stretches:
            cut.append((start, min(end, WEEK)))
            if end > WEEK:
                cut.append((0.0, end - WEEK))
        joined: list[tuple[float, float]] = []
        for start, end in sorted(cut):
            if joined and start <= joined[-1][1]:
                joined[-1] = (joined[-1][0], max(end, joined[-1][1]))
            else:
                joined.append((start, end))
        if not joined:
            raise OutOfRange("running.days_a_week", 0, "at least one day")
        self._from = [start for start, _ in joined]
        self._to = [end for _, end in joined]
        self._before = [0.0]
        for start, end in joined:
            self._before.append(self._before[-1] + end - start)
        self.week = self._before[-1]

    def _place(self, at: float) -> tuple[float, int, float]:
        weeks = at // WEEK
        within = at - weeks * WEEK
        return weeks, bisect_right(self._from, within) - 1, within

    def open(self, at: float) -> bool:
        """Whether people are there."""
        _, k, within = self._place(at)
        return k >= 0 and within < self._to[k]

    def next_open(self, at: float) -> float:
        """``at``, or when they come next."""
        weeks, k, within = self._place(at)
        if k >= 0 and within < self._to[k]:
            return at
        if k + 1 < len(self._from):
            return weeks * WEEK + self._from[k + 1]
        return (weeks + 1) * WEEK + self._from[0]

    def closes(self, at: float) -> float:
        """When they leave, from a moment at which they are there; never is infinite."""
        weeks, k, _ = self._place(at)
        if self.week >= WEEK:
            return float("inf")
        end = weeks * WEEK + self._to[k]
        if self._to[k] >= WEEK and self._from[0] == 0:  # on into the next week
            end = (weeks + 1) * WEEK + self._to[0]
        return end

    def counted(self, at: float) -> float:
        """Seconds that people were there until then."""
        weeks, k, within = self._place(at)
        done = self._before[max(k, 0)]
        if k >= 0:
            done += min(within, self._to[k]) - self._from[k]
        return weeks * self.week + done

    def between(self, start: float, end: float) -> float:
        """Seconds that people are there between two moments."""
        return self.counted(end) - self.counted(start)

    def after(self, at: float, seconds: float) -> float:
        """When work of so many seconds, begun then, is done: it rests while nobody is there."""
        if seconds <= 0:
            return at
        total = self.counted(at) + seconds
        weeks = total // self.week
        rest = total - weeks * self.week
        if rest <= 1e-9:
            weeks, rest = weeks - 1, self.week
        k = min(bisect_right(self._before, rest - 1e-9) - 1, len(self._from) - 1)
        return weeks * WEEK + self._from[k] + rest - self._before[k]


def working(running: Running, hours_a_day: float) -> tuple[Hours, Hours]:
    """When people are in, breaks counted; and when they work. A break finds no room in 24 h."""
    rest = min(running.break_minutes / 60, 24 - hours_a_day)
    there, work = [], []
    for day in range(running.days_a_week):
        start = day * DAY + running.starts * 3600
        half = hours_a_day * 1800
        there.append((start, start + (hours_a_day + rest) * 3600))
        work += [
            (start, start + half),
            (start + half + rest * 3600, start + 2 * half + rest * 3600),
        ]
    return Hours(there), Hours(work)
