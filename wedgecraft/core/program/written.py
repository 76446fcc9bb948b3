"""A piece of an op's program with its coordinates worked out, for controls that have no local shift
or cannot turn coordinates.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.program.control import Control
from wedgecraft.core.program.given import INCH_MM
from wedgecraft.core.program.ops import OpPiece
from wedgecraft.core.program.state import Setting
from wedgecraft.core.program.words import Block, read
from wedgecraft.core.records.program import Triple

_HOME = (0.0, 0.0, 1000.0)


def written_out(piece: OpPiece, shift_mm: Triple, turn_deg: float) -> tuple[str, ...]:
    """Its lines, every place turned and then shifted. Raises OutOfRange for what cannot be: lines
    in G91, and arcs of other planes turned.
    """
    if not (any(shift_mm) or turn_deg):
        return piece.lines
    writer = _Writer(piece, shift_mm, turn_deg)
    writer.go(read("\n".join(piece.lines)))
    return tuple(writer.lines)


class _Writer(Control):
    """Runs the piece from where it begins, and says each block anew."""

    def __init__(self, piece: OpPiece, shift_mm: Triple, turn_deg: float) -> None:
        start = piece.start.copy()
        setting = Setting({start.zero: (0.0, 0.0, 0.0)}, home=_HOME)
        super().__init__(setting, start)
        self.lines: list[str] = []
        self._shift, self._by = shift_mm, math.radians(turn_deg)

    def _block(self, block: Block) -> str | tuple[int, int] | None:
        called = super()._block(block)
        letters = {word.letter for word in block.words}
        if letters & set("XYZIJ") or (self.state.cycle is not None and "R" in letters):
            self._check(block, letters)
            self.lines.append(self._said(block, letters))
        else:
            self.lines.append(" ".join(word.text for word in block.words))
        return called

    def _check(self, block: Block, letters: set[str]) -> None:
        state = self.state
        dwells = any(word.letter == "G" and word.value == 4 for word in block.words)
        if not state.absolute and letters & set("XYZR") and not dwells:
            raise OutOfRange(
                "setup.machine.local_shift",
                f"line “{block.text[:30]}”",
                "a control with G52 and G68, or op programs in G90: coordinates of this line cannot"
                " be worked out",
            )
        if self._by and state.plane != 17 and state.motion in (2, 3):
            raise OutOfRange(
                "setup.machine.turned_coordinates",
                f"G{state.plane}",
                "a control with G68, or arcs in G17: this plane turns with the part",
            )

    def _said(self, block: Block, letters: set[str]) -> str:
        state = self.state
        unit = INCH_MM if state.inch else 1.0
        c, s = math.cos(self._by), math.sin(self._by)
        found = [word.text for word in block.words if word.letter not in "XYZIJ"]
        if state.cycle is not None:
            found = [
                f"R{figure(word.value + self._shift[2] / unit)}" if word.letter == "R" else text
                for word, text in zip(
                    [w for w in block.words if w.letter not in "XYZIJ"], found, strict=True
                )
            ]
        if letters & set("XY"):
            x, y, _ = self._frame().program(state.at)
            found.append(f"X{figure((c * x - s * y + self._shift[0]) / unit)}")
            found.append(f"Y{figure((s * x + c * y + self._shift[1]) / unit)}")
        if "Z" in letters:
            value = block.get("Z") or 0.0
            found.append(f"Z{figure(value + self._shift[2] / unit)}")
        if letters & set("IJ"):
            i, j = block.get("I") or 0.0, block.get("J") or 0.0
            found += [f"I{figure(c * i - s * j)}", f"J{figure(s * i + c * j)}"]
        return " ".join(found)


def figure(value: float) -> str:
    """With a decimal point, whatever a control makes of numbers without one."""
    text = f"{value:.4f}".rstrip("0")
    return "0." if text in ("-0.", "0.") else text


def joined(pieces: Sequence[tuple[str, ...]], first: int) -> dict[tuple[str, ...], int]:
    """Numbers of subprograms for those that are said more than once."""
    seen: dict[tuple[str, ...], int] = {}
    for lines in pieces:
        seen[lines] = seen.get(lines, 0) + 1
    often = [lines for lines, times in seen.items() if times > 1 and len(lines) > 1]
    return {lines: first + k for k, lines in enumerate(often)}
