"""STEP files and meshes, read in a process of their own."""

from __future__ import annotations

from wedgecraft.core.records.solid import SolidReading
from wedgecraft.formats.child import Limits, Readers
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.outlines import MOST_BYTES
from wedgecraft.formats.solid_kinds import kind_of

LIMITS = Limits(
    seconds=22,
    memory=1_450_000_000,
    libraries=("wedgecraft.formats.step.kernel", "wedgecraft.formats.step.libraries"),
)


class StepReader:
    """The CAD kernel's processes; calls beyond ``many`` at once wait."""

    def __init__(self, limits: Limits = LIMITS, many: int = 1) -> None:
        self._readers = Readers(limits, many)

    @property
    def pids(self) -> list[int]:
        """The kernel's processes there are just now."""
        return self._readers.pids

    def warm(self) -> None:
        """Start a process and load the kernel."""
        self._readers.warm()

    def read(
        self, data: bytes, name: str, unit: str = "mm"
    ) -> tuple[SolidReading, bytes, bytes, bytes, bytes]:
        """The reading, and its mesh (see ``kernel.read_step``). Raises FileRefused whatever the
        file does to the kernel.
        """
        check_solid(data)
        if kind_of(data) is not None:
            from wedgecraft.formats.meshes import read_mesh

            read, given = read_mesh, (data, name, unit)
        else:
            from wedgecraft.formats.step.kernel import read_step

            read, given = read_step, (data, name)  # type: ignore[assignment]
        found: tuple[SolidReading, bytes, bytes, bytes, bytes] = self._readers.call(read, *given)
        return found

    def close(self) -> None:
        """End the processes; the next file starts one again."""
        self._readers.close()


def check_solid(data: bytes) -> None:
    """What can be told of a STEP, STL, 3MF or GLB file without reading it. Raises FileRefused."""
    if kind_of(data) is None:
        check_step(data)
    elif len(data) > MOST_BYTES:
        raise FileRefused(
            "the file is too big",
            f"at most {MOST_BYTES / 1e6:.0f} MB are read; export one part only, or coarser",
        )


def check_step(data: bytes) -> None:
    """What can be told of a STEP file without the kernel. Raises FileRefused."""
    if not data:
        raise FileRefused("the file is empty", "export the solid again as STEP")
    if len(data) > MOST_BYTES:
        raise FileRefused(
            "the file is too big",
            f"at most {MOST_BYTES / 1e6:.0f} MB are read; export one part only",
        )
    if not data[:200].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"ISO-10303-21"):
        raise FileRefused(
            "the file does not begin as a STEP file does",
            "export the solid as STEP (AP203, AP214 or AP242), STL, 3MF or GLB",
        )
    if b"END-ISO-10303-21" not in data[-4000:]:
        raise FileRefused(
            "the STEP file is cut short: its end is missing", "copy or export it again"
        )
