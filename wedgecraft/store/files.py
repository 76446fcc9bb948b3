"""Small files that must be whole or not there."""

from __future__ import annotations

import os
from pathlib import Path


def write_whole(file: Path, text: str, mode: int = 0o600) -> None:
    """Write beside it, sync, and put it in place at once: after a power cut there is the old text
    or the new one, never half of either.
    """
    beside = file.with_name(f".{file.name}.{os.getpid()}")
    with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode), "w") as out:
        out.write(text)
        out.flush()
        os.fsync(out.fileno())
    os.replace(beside, file)
    folder = os.open(file.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def free_bytes(folder: Path) -> int:
    """What the disk under a folder (or the nearest there is above it) has left for an ordinary
    user.
    """
    while not folder.exists():
        folder = folder.parent
    found = os.statvfs(folder)
    return found.f_bavail * found.f_frsize
