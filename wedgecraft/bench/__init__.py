"""The speed bars, measured: seconds and peak memory of what exists so far. ``engine`` computes,
``parts`` brings parts in, ``serving`` runs the service.
"""

from __future__ import annotations

import resource
import time

from wedgecraft.bench import engine, frames, parts, serving, workpieces


def table(what: str = "all") -> str:
    """Run everything, or what belongs to ``hold``, ``tolerance``, ``workpiece``, ``serving`` or
    ``frames``, and give the table as text.
    """
    if what in ("serving", "frames"):
        return _table((serving if what == "serving" else frames).measured())
    some = {
        "hold": engine.hold_works,
        "tolerance": engine.tolerance_works,
        "workpiece": workpieces.workpiece_works,
    }.get(what)
    lines = [f"{'work':<52}{'measured':>11}  {'bar':<14}{'answer'}"]
    for name, bar, work in (some or engine.works)():
        start = time.perf_counter()
        said = work()
        lines.append(f"{name:<52}{time.perf_counter() - start:>9.2f} s  {bar:<14}{said}")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    lines.append(f"{'peak memory of all of the above':<52}{peak:>8.0f} MB  {'1 GB':<14}")
    if some:
        return "\n".join(lines) + "\n"
    return "\n".join(lines) + "\n" + _table(parts.measured() + serving.measured())


def _table(lines: list[serving.Line]) -> str:
    return "".join(f"{name:<60}{value:>15}  {bar:<14}{said}\n" for name, value, bar, said in lines)
