"""How an op is held that is not: ops no setup holds, and what would hold one that a setup does not.

Everything offered was tried: it holds as it is given.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from wedgecraft.core.draft.assumed import without_touched
from wedgecraft.core.draft.held import Asked, Tried, asked_of, in_a_vise, on_a_plate
from wedgecraft.core.draft.shop import Stores
from wedgecraft.core.draft.turned import op_turned
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.records.job import Job, JobDocument, Proposal, Route, Setup
from wedgecraft.core.records.machine import Machine
from wedgecraft.core.records.op import Op
from wedgecraft.core.workpiece.mend import NotABody

Progress = Callable[[str, float], None]
#: So much stock under a part is tried, mm.
_STOCK_MM = (8.0, 12.0, 16.0, 20.0)
_CUT_TO_SHAPE = ("flame-cut plate", "forged")


@dataclass(frozen=True)
class Mend:
    """A change that makes an op hold: in words, with the document as it then is."""

    what: str
    document: JobDocument


def rest_held(
    document: JobDocument,
    stores: Stores,
    progress: Progress | None = None,
    asked: Machine | None = None,
) -> JobDocument:
    """The document with a setup for every op that none holds and something holds, on the machine
    asked for or that of the setup before; what was proposed is marked. Raises OutOfRange where
    nothing holds any of them.
    """
    setups = list(document.route.setups) if document.route is not None else []
    proposals, refused = list(document.proposals), ""
    there = {(held.part, held.op) for setup in setups for held in setup.holds}
    added, job = 0, document.job
    for p, part in enumerate(document.job.parts):
        for o, op in enumerate(part.ops):
            if (p, o) in there or not op.cuts:
                continue
            if progress is not None:
                progress(f"{part.name}: op {op.number}, holding", 0.1 + 0.1 * o)
            before = next((k for k, s in enumerate(setups) if _after(s, p, o)), len(setups))
            near = setups[max(0, before - 1) : before] or setups
            machine = asked or _machine(near, stores)
            tried = _best(job, setups[:before], p, o, stores, machine)
            if tried is None or not tried.holds:
                why = "the shop has no vise or plate for it" if tried is None else tried.why
                refused = refused or f"op {op.number}: {why}"
                continue
            if tried.op != op:
                job = job.with_op(p, o, tried.op)
                why = f"op {op.number} put in a quarter round: so its jaws are narrower"
                at = f"/job/parts/{p}/ops/{o}/turn_deg"
                proposals.append(Proposal(pointer=at, why=why, doubt=0.3))
            setups.insert(before, tried.setup)
            proposals = [_shifted(item, before) for item in proposals]
            proposals += _marked(before, tried, machine)
            added += 1
    if not added:
        raise OutOfRange(
            "route", "nothing to add", refused or "every op with cuts is held in a setup"
        )
    changed = {"job": job, "route": Route(setups=setups), "proposals": proposals, "result": None}
    return document.model_copy(update=changed)


def mends(document: JobDocument, number: int, stores: Stores) -> list[Mend]:
    """What would hold the ops of one setup, counted from 1, each by one change: another form or
    element, more stock to hold it by, lighter cuts, a cut in an op of its own.
    """
    route = document.route or Route(setups=[])
    setup, found = route.setups[number - 1], list[Mend]()
    for held in setup.holds:
        if not document.job.parts[held.part].ops[held.op].cuts:
            continue  # nothing pulls at it
        try:
            asked = asked_of(document.job, route.setups[: number - 1], held.part, held.op)
        except NotABody:
            continue
        if len(setup.holds) == 1:
            found += _otherwise(document, number, asked, stores)
        found += _by_more_stock(document, number, asked, stores)
        if not found:
            found += _in_an_op_of_its_own(document, number, asked, stores)
    return found


def _otherwise(document: JobDocument, number: int, asked: Asked, stores: Stores) -> Iterator[Mend]:
    """In a vise, as it is or with lighter cuts, and on a plate."""
    route = document.route or Route(setups=[])
    setup = route.setups[number - 1]
    for tried in (
        in_a_vise(asked, stores, setup.machine),
        on_a_plate(asked, stores, setup.machine),
    ):
        if tried is None or not tried.holds or tried.setup.form == setup.form:
            continue
        lighter = [
            after.name
            for before, after in zip(asked.as_it_is.cuts, tried.op.cuts, strict=True)
            if before != after
        ]
        said = tried.setup.form.told()
        with_cuts = f", {', '.join(lighter)} lighter" if lighter else ""
        yield Mend(said + with_cuts, _with(document, number, asked, tried))


def _by_more_stock(
    document: JobDocument, number: int, asked: Asked, stores: Stores
) -> Iterator[Mend]:
    """So much stock under the part that its first op is held by that."""
    part = document.job.parts[asked.part]
    stock, up = part.stock, asked.as_it_is.up
    if asked.op or stock.solid is not None or stock.kind in _CUT_TO_SHAPE:
        return
    axis = up[1].lower()
    low, high = getattr(stock, axis).sides_mm
    under = low if up[0] == "+" else high
    machine = (document.route or Route(setups=[])).setups[number - 1].machine
    for more in _STOCK_MM:
        if more <= under:
            continue
        sides = {"low_mm": more, "allowance_mm": high}
        if up[0] == "-":
            sides = {"low_mm": low, "allowance_mm": more}
        dimension = getattr(stock, axis).model_copy(update=sides)
        thicker = part.model_copy(update={"stock": stock.model_copy(update={axis: dimension})})
        parts = list(document.job.parts)
        parts[asked.part] = thicker
        job = document.job.model_copy(update={"parts": parts})
        other = asked_of(job, asked.before, asked.part, asked.op)
        tried = in_a_vise(other, stores, machine)
        if tried is not None and tried.holds and tried.op == other.as_it_is:
            what = f"{more:g} mm of stock under the part, {tried.setup.form.told()}"
            taken = _with(document.model_copy(update={"job": job}), number, other, tried)
            yield Mend(what, without_touched(taken, f"job.parts.{asked.part}.stock"))
            return


def _in_an_op_of_its_own(
    document: JobDocument, number: int, asked: Asked, stores: Stores
) -> Iterator[Mend]:
    """Without one of its cuts, which a second op from the same side makes, held otherwise."""
    route, op = document.route or Route(setups=[]), asked.as_it_is
    machine = route.setups[number - 1].machine
    for k, cut in enumerate(op.cuts if len(op.cuts) > 1 else []):
        rest = op.model_copy(update={"cuts": [*op.cuts[:k], *op.cuts[k + 1 :]]})
        own = op.model_copy(update={"number": op.number + 1, "cuts": [cut], "does": cut.name})
        part = document.job.parts[asked.part]
        if any(item.number == own.number for item in part.ops):
            return
        ops = [*part.ops[: asked.op], rest, own, *part.ops[asked.op + 1 :]]
        parts = list(document.job.parts)
        parts[asked.part] = part.model_copy(update={"ops": ops})
        job = document.job.model_copy(update={"parts": parts})
        first = _best(job, asked.before, asked.part, asked.op, stores, machine)
        if first is None or not first.holds:
            continue
        before = [*asked.before, first.setup]
        second = _best(job, before, asked.part, asked.op + 1, stores, machine)
        if second is None or not second.holds:
            continue
        setups = [*before, second.setup, *(_later(s, asked) for s in route.setups[number:])]
        shifted = [_shifted(item, number) for item in document.proposals]
        changed = {"job": job, "route": Route(setups=setups), "proposals": shifted, "result": None}
        taken = document.model_copy(update=changed)
        for path in (f"job.parts.{asked.part}.ops", f"route.setups.{number - 1}"):
            taken = without_touched(taken, path)
        yield Mend(f"{cut.name} in an op of its own", taken)
        return


def _later(setup: Setup, asked: Asked) -> Setup:
    """A setup whose ops come one place later."""
    holds = [
        held.model_copy(update={"op": held.op + 1})
        if held.part == asked.part and held.op > asked.op
        else held
        for held in setup.holds
    ]
    return setup.model_copy(update={"holds": holds})


def _with(document: JobDocument, number: int, asked: Asked, tried: Tried) -> JobDocument:
    """The document with the op and the setup that were tried."""
    setups = list((document.route or Route(setups=[])).setups)
    setups[number - 1] = tried.setup.model_copy(update={"name": setups[number - 1].name})
    job = document.job.with_op(asked.part, asked.op, tried.op)
    changed = {"job": job, "route": Route(setups=setups), "result": None}
    taken = without_touched(document.model_copy(update=changed), f"route.setups.{number - 1}.form")
    if tried.op == asked.as_it_is:
        return taken
    return without_touched(taken, f"job.parts.{asked.part}.ops.{asked.op}")


def _best(
    job: Job, before: Sequence[Setup], part: int, op: int, stores: Stores, machine: Machine
) -> Tried | None:
    """In a vise as it is, or turned a quarter round in it; else on a plate."""
    asked = asked_of(job, before, part, op)
    for way in (asked, _turned(asked)):
        tried = in_a_vise(way, stores, machine)
        if tried is not None and tried.holds and _same(tried.op, way.as_it_is):
            return tried
    return on_a_plate(asked, stores, machine)


def _turned(asked: Asked) -> Asked:
    """The op with the part put in a quarter round, its cuts where they are on the part."""
    op = asked.as_it_is
    turned = op_turned(asked.job.parts[asked.part], op, (op.turn_deg + 90) % 360)
    return asked_of(asked.with_op(turned), asked.before, asked.part, asked.op)


def _same(op: Op, other: Op) -> bool:
    return op.cuts == other.cuts


def _after(setup: Setup, part: int, op: int) -> bool:
    """Whether a setup holds a later op of the part."""
    return any(held.part == part and held.op > op for held in setup.holds)


def _machine(near: list[Setup], stores: Stores) -> Machine:
    """The machine of the setup before. Raises OutOfRange for a shop without one."""
    if near:
        return near[-1].machine
    if not stores.machines:
        raise OutOfRange("shop.machines", "none", "a machine in the shop")
    return stores.machines[0]


def _shifted(item: Proposal, at: int) -> Proposal:
    """A proposal where it stands once a setup was put in before it."""
    head, _, rest = item.pointer.removeprefix("/route/setups/").partition("/")
    if not item.pointer.startswith("/route/setups/") or int(head) < at:
        return item
    tail = f"/{rest}" if rest else ""
    return item.model_copy(update={"pointer": f"/route/setups/{int(head) + 1}{tail}"})


def _marked(number: int, tried: Tried, machine: Machine) -> list[Proposal]:
    at = f"/route/setups/{number}"
    least = "" if tried.least_nm is None else f"; holds from {tried.least_nm:g} N·m"
    said = f"op {tried.op.number}: {tried.setup.form.told()}{least}"
    found = [
        Proposal(pointer=f"{at}/machine", why=f"{machine.name}, as for the op before", doubt=0.3),
        Proposal(pointer=f"{at}/form", why=said[:300], doubt=0.3),
    ]
    for name, why in tried.setup.form.taken_for_granted().items():
        found.append(Proposal(pointer=f"{at}/form/{name}", why=why, doubt=0.4))
    return found
