"""Programs of the demo's ops that no one wrote by hand: each cut's axis over its path. Writes them
anew beside the others.
"""

from __future__ import annotations

from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.program.envelope import envelope_text
from wedgecraft.core.records.job import JobDocument
from wedgecraft.demo.shop import demo_documents
from wedgecraft.demo.tooling import PROGRAMS, STEMS, path_of

_BY_HAND = ("manifold", "cover")


def written(documents: list[JobDocument]) -> dict[str, str]:
    """Programs of all ops that no one wrote by hand, by file name."""
    found: dict[str, str] = {}
    for document in documents:
        if all(STEMS[part.name] in _BY_HAND for part in document.job.parts):
            continue
        planned = plan_route(document, alternatives=False)
        for number in range(1, len(planned.route.setups if planned.route else []) + 1):
            asked = planned_setup(planned, number)
            if asked is None:
                continue
            for kind, ready in zip(asked.design.kinds, asked.kinds, strict=True):
                part = planned.job.parts[kind.planned.part].name
                head = f"({part.upper()} OP {kind.op_number})\n(X0 Y0 AT THE STOPS, Z0 TOP)\n"
                text = head + envelope_text(ready, asked.request.machine) + "\n"
                found[path_of(part, kind.op_number).name] = text
    return found


if __name__ == "__main__":
    for name, text in written([document for document, _ in demo_documents()]).items():
        (PROGRAMS / name).write_text(text)
