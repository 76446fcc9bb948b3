"""Word-address text as blocks of words (ISO 6983): what a control reads before it knows anything of
a machine. What is no such text is refused with its line and word.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache

from wedgecraft.core.ground.errors import OutOfRange

#: More lines than this are no program that a person made for one setup.
MOST_LINES = 400_000
_MOST_IN_LINE = 400
_LETTERS = "ABCDFGHIJKLMNOPQRSTXYZ"
_WORD = re.compile(rf"([{_LETTERS}])([+-]?(?:\d+\.?\d*|\.\d+))")
#: What a control with macros would work out: a stand-in that does not refuses it.
_MACRO = re.compile(r"#|\[|\]|=|\bGOTO\b|\bIF\b|\bWHILE\b")


class ProgramRefused(OutOfRange):
    """A line that is not understood: ``line`` counts from 1, ``word`` as it stands there."""

    def __init__(self, line: int, word: str, allowed: str) -> None:
        super().__init__(f"line {line}", word, allowed)
        self.line, self.word = line, word


@dataclass(frozen=True, slots=True)
class Word:
    """A letter and its number; ``text`` as it was written."""

    letter: str
    value: float
    text: str


@dataclass(frozen=True, slots=True)
class Block:
    """One line: ``line`` counts from 1; ``skip``: it begins with a slash."""

    line: int
    words: tuple[Word, ...]
    skip: bool = False
    comment: str = ""
    text: str = field(default="", compare=False)

    def get(self, letter: str) -> float | None:
        """The number of the first word with this letter; nothing where there is none."""
        for word in self.words:
            if word.letter == letter:
                return word.value
        return None


def read(data: str | bytes) -> list[Block]:
    """All blocks that say something, comments and empty lines left out of them. Raises
    ProgramRefused.

    >>> [block.words[0].text for block in read("%\\nO0100 (PLATE)\\nN10 G0 X1.5\\n%")]
    ['O0100', 'N10']
    """
    lines = _text(data).splitlines()
    if len(lines) > MOST_LINES:
        raise ProgramRefused(MOST_LINES + 1, "", f"at most {MOST_LINES} lines")
    return [block for number, line in enumerate(lines, 1) for block in _block(number, line)]


def _text(data: str | bytes) -> str:
    if isinstance(data, str):
        return data
    if b"\0" in data[:4096]:
        raise ProgramRefused(1, "", "a text file: this one is binary")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:  # comments in an older character set: no word has other letters
        return data.decode("latin-1")


def _block(number: int, line: str) -> Iterator[Block]:
    bare = line.strip()
    if not bare or bare.startswith("%"):
        return
    if len(bare) > _MOST_IN_LINE:
        raise ProgramRefused(number, bare[:20], f"at most {_MOST_IN_LINE} characters in a line")
    code, comment = _without_comments(number, bare)
    skip = code.startswith("/")
    code = "".join((code.lstrip("/0123456789") if skip else code).split()).upper()
    if not code:
        if comment:
            yield Block(number, (), skip, comment, bare)
        return
    yield Block(number, _words(number, code), skip, comment, bare)


def _without_comments(number: int, line: str) -> tuple[str, str]:
    """The words, and what stands between brackets or behind a semicolon."""
    if "(" not in line and ";" not in line and ")" not in line:
        return line, ""
    code: list[str] = []
    said: list[str] = []
    depth = 0
    for sign in line:
        if depth == 0 and sign == ";":
            break
        if sign == "(":
            depth += 1
        elif sign == ")" and depth:
            depth -= 1
        else:
            (said if depth else code).append(sign)
    if depth:
        raise ProgramRefused(number, "(", "a comment that ends in its line, with )")
    return "".join(code).strip(), "".join(said).strip()


def _words(number: int, code: str) -> tuple[Word, ...]:
    macro = None if code.isalnum() else _MACRO.search(code)
    if macro:
        raise ProgramRefused(
            number, macro.group(), "numbers: the stand-in works out no variables and no jumps"
        )
    words = tuple(_word(letter, value) for letter, value in _WORD.findall(code))
    if sum(len(word.text) for word in words) == len(code):
        return words
    at = 0  # what stands between words is none
    for word in words:
        if not code.startswith(word.text, at):
            break
        at += len(word.text)
    raise ProgramRefused(
        number, code[at : at + 8], "a letter of a word, then its number, such as X12.5"
    )


@lru_cache(maxsize=200_000)
def _word(letter: str, value: str) -> Word:
    """One for all places that say the same."""
    return Word(letter, float(value), letter + value)
