"""One op's program, read by what a control makes of it and taken apart at its tool changes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace

from wedgecraft.core.program.control import Control
from wedgecraft.core.program.given import Given
from wedgecraft.core.program.motion import Move
from wedgecraft.core.program.state import PLAIN, Setting, State
from wedgecraft.core.program.words import Block, ProgramRefused, Word, read

#: What a program for one part at its own zero leaves to the frame round it.
_FRAMES_G = frozenset({*PLAIN, 43, 49, 54.1})
_FRAMES_M = frozenset({2, 5, 6, 9, 30, 98, 99})
#: Blocks that go somewhere of the machine, not of the part.
_AWAY = frozenset({28, 30, 53})
#: Above everything: an op's program may begin anywhere over its part, mm.
_CALLED = re.compile(r"[\s%]*(?:O|M98\s*P)(\d{1,8})[\s%]*", re.IGNORECASE)
_HOME = (0.0, 0.0, 1000.0)


@dataclass(frozen=True)
class OpPiece:
    """What one tool does: its blocks without what belongs to the frame, as they run (subprograms
    written out), the state they begin in, and the moves they make, from the part's own zero.
    """

    tool: int
    start: State
    lines: tuple[str, ...]
    moves: tuple[Move, ...]

    @property
    def cutting(self) -> list[Move]:
        return [move for move in self.moves if move.cuts]

    @property
    def begins_at(self) -> tuple[float, float] | None:
        """Over where its first move ends; nothing for a tool that does nothing."""
        for move in self.moves:
            if move.goes:
                return move.end[0], move.end[1]
        return None


@dataclass(frozen=True)
class OpProgram:
    """What each tool does, in their order."""

    pieces: tuple[OpPiece, ...]

    def instead(self, other: Mapping[int, int]) -> OpProgram:
        """With sister tools in the place of some."""
        pieces = (replace(piece, tool=other.get(piece.tool, piece.tool)) for piece in self.pieces)
        return OpProgram(tuple(pieces))

    @property
    def tools(self) -> tuple[int, ...]:
        return tuple(piece.tool for piece in self.pieces)


def called_number(text: str) -> int | None:
    """Of an op of which only a program's number in the control is known, as O0110 or M98 P110.

    >>> called_number("O0110"), called_number("M98 P7\\n"), called_number("G0 X1")
    (110, 7, None)
    """
    found = _CALLED.fullmatch(text)
    return int(found[1]) if found else None


def read_op(data: str | bytes) -> OpProgram:
    """Raises ProgramRefused: for what the stand-in does not know, for several zeros, for no tool.

    >>> text = "T1 M6\\nG54 S900 M3\\nG43 H1 Z5\\nG1 Z-1 F99\\nT2 M6\\nG0 X9\\nM30"
    >>> [piece.tool for piece in read_op(text).pieces]
    [1, 2]
    """
    listener = _Listener()
    listener.go(read(data))
    pieces = [piece for piece in listener.pieces() if piece.cutting or piece.moves]
    if not pieces:
        raise ProgramRefused(1, "", "a tool, called and changed in, such as T1 M6")
    return OpProgram(tuple(pieces))


class _Listener(Control):
    """A run that remembers which blocks ran under which tool."""

    def __init__(self) -> None:
        names = (*PLAIN.values(), *(f"G54.1 P{k}" for k in range(1, 301)))
        super().__init__(Setting(dict.fromkeys(names, (0.0, 0.0, 0.0)), home=_HOME))
        self.begun: list[tuple[int, State, int]] = []
        self.ran: list[Block] = []
        self.at: list[int] = []
        self.zero = ""

    def _block(self, block: Block) -> str | tuple[int, int] | None:
        changes = any(word.letter == "M" and word.value == 6 for word in block.words)
        called = super()._block(block)
        if changes:
            self.begun.append((self.state.tool, self.state.copy(), len(self.ran)))
            # what stands beside the change is kept with the tool that is taken out
        self.ran.append(block)
        self.at.append(len(self.moves))
        return called

    def _take_zero(self, name: str, given: Given) -> None:
        if self.zero and name != self.zero:
            raise ProgramRefused(
                given.line, name, f"one zero for one part: it began from {self.zero}"
            )
        self.zero = name
        super()._take_zero(name, given)

    def _write_zero(self, given: Given) -> None:
        raise ProgramRefused(
            given.line, "G10", "offsets that the frame writes, not an op's program"
        )

    def pieces(self) -> list[OpPiece]:
        found: list[OpPiece] = []
        ends = [*(first for _, _, first in self.begun[1:]), len(self.ran)][: len(self.begun)]
        for (tool, state, first), end in zip(self.begun, ends, strict=True):
            before = self.at[first] if first < len(self.at) else 0
            last = self.at[end - 1] if end else 0
            lines = [line for block in self.ran[first:end] if (line := _own(block))]
            moves = [m for m in self.moves[before:last] if m.what not in ("tool", "pallet")]
            found.append(OpPiece(tool, state, tuple(lines), tuple(moves)))
        return found


def _own(block: Block) -> str:
    """A block without what the frame says instead, and what goes with that."""
    codes = {word.value for word in block.words if word.letter == "G"}
    if codes & _AWAY:
        return ""
    calls = any(word.letter == "M" and word.value == 98 for word in block.words)
    gone = "NOTH" + ("P" if 54.1 in codes else "") + ("PLK" if calls else "")
    return " ".join(word.text for word in block.words if _stays(word, gone))


def _stays(word: Word, gone: str) -> bool:
    if word.letter in gone:
        return False
    if word.letter == "G":
        return word.value not in _FRAMES_G
    return not (word.letter == "M" and word.value in _FRAMES_M)
