"""A job before it is drafted: what a person said, and nothing that was proposed."""

from __future__ import annotations

from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.op import Op
from wedgecraft.core.records.stock import Stock


def is_bare(document: JobDocument) -> bool:
    """Whether no op is cut or held yet."""
    return document.route is None and not any(op.cuts for p in document.job.parts for op in p.ops)


def bare(document: JobDocument) -> JobDocument:
    """What a person set of a job, to be drafted again around it: parts, materials, rules, and
    blanks and tolerances that were not proposed.
    """
    proposed = {item.pointer for item in document.proposals}
    parts = []
    for number, part in enumerate(document.job.parts):
        at = f"/job/parts/{number}"
        features = [
            item
            for k, item in enumerate(part.features)
            if f"{at}/features/{k}/tolerance_mm" not in proposed
        ]
        stock = Stock() if f"{at}/stock" in proposed else part.stock
        kept = {"features": features, "stock": stock, "ops": [Op()]}
        parts.append(part.model_copy(update=kept))
    job = document.job.model_copy(update={"parts": parts})
    return JobDocument(job=job, route=None)
