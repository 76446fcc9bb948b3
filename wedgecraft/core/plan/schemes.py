"""Setups: the fewest ops a part needs on each form, which way up it sits in each, and what is left
to clamp and to locate on.

A form reaches certain sides at once. An op cuts every feature it can reach whose faces are not
clamped, sat on, or waiting for a datum that is cut later. Doing a feature earlier never stands in
the way of another, so each op does all it can, and a breadth-first search over what is done finds
the fewest ops exactly.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.records.feature import DIRECTIONS, Direction, Feature, opposite
from wedgecraft.core.records.form import FORMS, Form, Reach
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.part import Part

#: Stock left under the finished part that a jaw can bite into.
GRIP_STOCK_MM = 1.5
#: No sensible part takes more clampings; the search stops there.
_MOST_OPS = 8


class SetupOp(Document):
    """One clamping. ``clamp_on``: opposite sides, or empty when the stock below is gripped;
    ``sits_on``: the side that is down.
    """

    number: int
    up: Direction
    reached: list[Direction]
    sits_on: Direction
    clamp_on: list[Direction]
    grip_stock: bool
    locate_on: list[Direction]
    features: list[str]
    sentence: str


class SetupScheme(Document):
    """The fewest ops of one form, or why there is none; ``minutes`` for the batch: setting up and
    handling, not cutting.
    """

    form: str
    reach: str
    ops: list[SetupOp]
    left_over: list[str]
    minutes: float | None
    setting_minutes: float
    handling_minutes: float
    picked: list[Op]
    features: list[Feature]


@dataclass(frozen=True)
class _Clamping:
    """A way to hold the part: which side up, what is reached, what is clamped."""

    up: Direction
    reached: tuple[Direction, ...]
    clamp: tuple[Direction, ...]

    @property
    def grip_stock(self) -> bool:
        return not self.clamp

    @property
    def down(self) -> Direction:
        return opposite(self.up)


def setups(
    part: Part, wanted: int, setup_minutes: float, handling_seconds: float
) -> list[SetupScheme]:
    """A scheme for every form, those with the least total time first; forms that cannot make the
    part last.
    """
    found = [_scheme(part, form, wanted, setup_minutes, handling_seconds) for form in FORMS]
    return sorted(found, key=lambda scheme: (bool(scheme.left_over), scheme.minutes or 0.0))


def _scheme(
    part: Part, form: type[Form], wanted: int, setup_minutes: float, handling_seconds: float
) -> SetupScheme:
    chain, left = fewest(part.features, _clampings(form.reach), _grip_stock(part))
    ops, done = [], 0
    for index, (clamping, after) in enumerate(chain):
        names = [
            item.name
            for k, item in enumerate(part.features)
            if after >> k & 1 and not done >> k & 1
        ]
        cut_before = _faces_cut(part.features, done)
        ops.append(_described(10 * (index + 1), clamping, names, cut_before))
        done = after
    setting, handling = len(ops) * setup_minutes, len(ops) * wanted * handling_seconds / 60
    return SetupScheme(
        form=form.model_fields["kind"].default,
        reach=form.reaches,
        ops=ops,
        left_over=left,
        minutes=None if left else setting + handling,
        setting_minutes=setting,
        handling_minutes=handling,
        picked=_picked(part, ops),
        features=_assigned(part.features, ops),
    )


def _clampings(reach: Reach) -> list[_Clamping]:
    """Every way up, every pair of sides an index reaches, every pair that may be clamped, and
    gripping the stock below.
    """
    found = []
    for up in DIRECTIONS:
        sides = [side for side in DIRECTIONS if side[1] != up[1]]
        pairs: list[tuple[Direction, ...]] = [(a, b) for a, b in pairwise(sides) if a[1] == b[1]]
        ways: list[tuple[Direction, ...]] = (
            [()] if reach == "up" else pairs if reach == "up and two sides" else [tuple(sides)]
        )
        for extra in ways:
            for clamp in (*pairs, ()):
                found.append(
                    _Clamping(up, (up, *(side for side in extra if side not in clamp)), clamp)
                )
    return found


def _grip_stock(part: Part) -> set[Direction]:
    """Sides with enough stock on them to be held by it."""
    found: set[Direction] = set()
    for axis in ("x", "y", "z"):
        for sign, allowance in zip("-+", getattr(part.stock, axis).sides_mm, strict=True):
            if allowance >= GRIP_STOCK_MM:
                found.add(f"{sign}{axis.upper()}")  # type: ignore[arg-type]
    return found


def fewest(
    features: list[Feature], clampings: list[_Clamping], stock_on: set[Direction]
) -> tuple[list[tuple[_Clamping, int]], list[str]]:
    """The shortest chain of clampings with what is done after each (a bit a feature), and the names
    of what no clamping can cut.
    """
    everything = (1 << len(features)) - 1
    seen: dict[int, tuple[int, _Clamping] | None] = {0: None}
    edge, best = [0], 0
    for _ in range(_MOST_OPS):
        if best == everything or not edge:
            break
        following: list[int] = []
        for done in edge:
            for clamping in clampings:
                after = _after(features, done, clamping, stock_on)
                if after != done and after not in seen:
                    seen[after] = (done, clamping)
                    following.append(after)
                    if after.bit_count() > best.bit_count():
                        best = after
        edge = following
    chain, at = [], best
    while (step := seen[at]) is not None:
        chain.append((step[1], at))
        at = step[0]
    return chain[::-1], [item.name for k, item in enumerate(features) if not best >> k & 1]


def _after(
    features: list[Feature], done: int, clamping: _Clamping, stock_on: set[Direction]
) -> int:
    """What is done after a clamping that cuts all it can."""
    if clamping.grip_stock and (
        clamping.down not in stock_on or clamping.down in _faces_cut(features, done)
    ):
        return done
    held = {*clamping.clamp, clamping.down}
    while True:
        faces = _faces_cut(features, done)
        names = {item.name for k, item in enumerate(features) if done >> k & 1}
        more = done
        for k, item in enumerate(features):
            if (
                done >> k & 1
                or held & set(item.takes)
                or not set(item.directions) & set(clamping.reached)
            ):
                continue
            if (
                item.measured_from == "feature"
                and item.from_feature not in names
                and _among(features, item.from_feature)
            ):
                continue
            if (
                item.measured_from == "face"
                and item.from_face in _taken(features)
                and item.from_face not in faces
            ):
                continue
            more |= 1 << k
        if more == done:
            return done
        done = more


def _among(features: list[Feature], name: str | None) -> bool:
    return any(item.name == name for item in features)


def _taken(features: list[Feature]) -> set[Direction]:
    return {face for item in features for face in item.takes}


def _faces_cut(features: list[Feature], done: int) -> set[Direction]:
    return {face for k, item in enumerate(features) if done >> k & 1 for face in item.takes}


def _described(
    number: int, clamping: _Clamping, names: list[str], cut_before: set[Direction]
) -> SetupOp:
    """Sits on one side, pushed against the clamp pair's better side and one more: a cut face is
    better than a raw one.
    """
    down = clamping.down
    pushed = [side for side in DIRECTIONS if side[0] == "-" and side[1] != down[1]]
    locate = [
        down,
        *(
            opposite(side) if opposite(side) in cut_before and side not in cut_before else side
            for side in pushed
        ),
    ]
    held = (
        "the stock left below"
        if clamping.grip_stock
        else f"{clamping.clamp[0]} and {clamping.clamp[1]}"
    )
    raw = "" if down in cut_before or number == 10 else " (a raw face)"
    sentence = f"{clamping.up} up, sits on {down}{raw}, clamped on {held}"
    return SetupOp(
        number=number,
        up=clamping.up,
        reached=list(clamping.reached),
        sits_on=down,
        clamp_on=list(clamping.clamp),
        grip_stock=clamping.grip_stock,
        locate_on=locate,
        features=names,
        sentence=sentence,
    )


def _picked(part: Part, ops: list[SetupOp]) -> list[Op]:
    """The ops to store when this scheme is picked; cuts of an op that keeps its number and side
    stay.
    """
    known = {(op.number, op.up): op for op in part.ops}
    found = []
    for op in ops:
        before = known.get((op.number, op.up))
        found.append(
            Op(
                number=op.number,
                does=before.does if before else ", ".join(op.features)[:300],
                up=op.up,
                reached=op.reached,
                clamp_on=op.clamp_on,
                locate_on=op.locate_on,
                grip_stock=op.grip_stock,
                cuts=before.cuts if before else [],
            )
        )
    return found or list(part.ops)


def _assigned(features: list[Feature], ops: list[SetupOp]) -> list[Feature]:
    where = {name: op.number for op in ops for name in op.features}
    return [item.model_copy(update={"op": where.get(item.name, item.op)}) for item in features]
