"""The speed bars, measured: seconds and peak memory of what exists so far. ``engine`` computes, ``parts`` brings
parts in, ``serving`` runs the service.
"""

from __future__ import annotations

import resource
import time

from wedgecraft.bench import engine, parts, serving


def table(what: str = "all") -> str:
    """Run everything, or what belongs to ``hold`` or ``tolerance``, once and give the table as text."""
    some = {"hold": engine.hold_works, "tolerance": engine.tolerance_works}.get(what)
    lines = [f"{'work':<52}{'measured':>11}  {'bar':<14}{'answer'}"]
    for name, bar, work in (some or engine.works)():
        start = time.perf_counter()
        said = work()
        lines.append(f"{name:<52}{time.perf_counter() - start:>9.2f} s  {bar:<14}{said}")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    lines.append(f"{'peak memory of all of the above':<52}{peak:>8.0f} MB  {'1 GB':<14}")
    if some:
        return "\n".join(lines) + "\n"
    lines += [f"{name:<52}{value:>11}  {bar:<14}{said}" for name, value, bar, said in parts.measured() + serving.measured()]
    return "\n".join(lines) + "\n"
