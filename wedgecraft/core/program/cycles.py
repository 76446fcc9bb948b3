"""Canned cycles as legs down and up one hole; common practice, from memory, as makers differ."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any, Literal

#: A leg: rapid or feed to a height, or seconds of rest there.
Leg = tuple[Literal["rapid", "feed", "dwell"], float, float]
#: A peck comes back to so much above where the last one ended, mm.
_BACK_MM = 1.0


def _down(given: Mapping[str, Any]) -> Iterator[Leg]:
    yield "feed", given["z"], 0.0


def _rest(given: Mapping[str, Any]) -> Iterator[Leg]:
    if given.get("P"):
        yield "dwell", given["z"], given["P"]


def _pecks(given: Mapping[str, Any], whole: bool) -> Iterator[Leg]:
    """Down by Q at a time; ``whole``: out to the R level each time, so that no chip stays in."""
    low, high, step = given["z"], given["r"], given.get("Q") or 0.0
    if step <= 0:
        yield from _down(given)
        return
    at = high
    while at - low > 1e-9:
        deeper = max(low, at - step)
        if at < high:
            yield "rapid", min(high, at + _BACK_MM), 0.0
        yield "feed", deeper, 0.0
        at = deeper
        if at - low > 1e-9:
            yield "rapid", high if whole else min(high, at + _BACK_MM), 0.0


def _drill(given: Mapping[str, Any], back: float) -> Iterator[Leg]:
    yield from _down(given)
    yield "rapid", back, 0.0


def _spot(given: Mapping[str, Any], back: float) -> Iterator[Leg]:
    yield from (*_down(given), *_rest(given))
    yield "rapid", back, 0.0


def _chip_break(given: Mapping[str, Any], back: float) -> Iterator[Leg]:
    yield from _pecks(given, whole=False)
    yield "rapid", back, 0.0


def _deep(given: Mapping[str, Any], back: float) -> Iterator[Leg]:
    yield from _pecks(given, whole=True)
    yield "rapid", back, 0.0


def _out_at_feed(given: Mapping[str, Any], back: float) -> Iterator[Leg]:
    """Tapping and boring: out as it went in."""
    yield from (*_down(given), *_rest(given))
    yield "feed", given["r"], 0.0
    yield "rapid", back, 0.0


#: By G code; the spindle's stops and turns in them take no time here.
CYCLES: dict[float, Callable[[Mapping[str, Any], float], Iterator[Leg]]] = {
    73: _chip_break,
    74: _out_at_feed,
    76: _spot,
    81: _drill,
    82: _spot,
    83: _deep,
    84: _out_at_feed,
    85: _out_at_feed,
    86: _spot,
    88: _spot,
    89: _out_at_feed,
}


def legs(code: int, given: Mapping[str, Any], high: float, back: float) -> Iterator[Leg]:
    """Over the hole as high as it is, down by the cycle, and up to where it returns to."""
    yield "rapid", max(high, given["r"]), 0.0
    if high > given["r"]:
        yield "rapid", given["r"], 0.0
    yield from CYCLES[code](given, back)
