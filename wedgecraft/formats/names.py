"""Names of files."""

from __future__ import annotations

import re


def file_name(name: str) -> str:
    """What a file of something called so is called, without its ending: letters, digits, dashes."""
    return re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower() or "job"
