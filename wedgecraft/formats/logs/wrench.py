"""A torque wrench that says each screw as a line of JSON."""

from __future__ import annotations

import json
import uuid

from pydantic import ValidationError

from wedgecraft.core.records.log import Tightened

#: A line that goes on for longer is none.
LONGEST = 2000


def read_line(line: bytes, job_id: str, setup: int) -> Tightened | None:
    """``{"at": "2026-03-02T07:05:00Z", "station": 3, "torque_nm": 15.8}``; nothing where it says
    something else. The same line again has the same id.
    """
    if len(line) > LONGEST:
        return None
    try:
        given = json.loads(line)
        known = {key: given[key] for key in ("at", "station", "torque_nm")}
        said = f"{job_id} {setup} {json.dumps(given, sort_keys=True)}"
        ident = uuid.uuid5(uuid.NAMESPACE_OID, said).hex
        return Tightened(id=ident, setup=setup, by="wrench", **known)
    except (ValueError, TypeError, KeyError, RecursionError, ValidationError):
        return None
