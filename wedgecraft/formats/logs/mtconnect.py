"""A machine's control as MTConnect says it (ANSI/MTC1.4, XML; from memory): which cycles ended.

MTConnect is an open standard. Only what a cycle needs is read: ``Execution`` and ``PartCount``.
"""

from __future__ import annotations

import re
import uuid
from dataclasses import dataclass, field
from datetime import UTC, datetime

from defusedxml import DefusedXmlException
from defusedxml import ElementTree as Xml

from wedgecraft.core.records.log import AnyEntry, CycleDone, Noted
from wedgecraft.formats.errors import FileRefused

_ACTIVE = "ACTIVE"
#: What a control says when a cycle is over.
ENDS = {"READY", "STOPPED", "PROGRAM_COMPLETED", "PROGRAM_STOPPED"}
_AWAY = "UNAVAILABLE"
#: A cycle that says it took longer is a clock that was set.
_LONGEST_S = 7 * 86_400.0


@dataclass(frozen=True)
class Observation:
    """What one data item said, in the agent's own order."""

    sequence: int
    at: datetime
    item: str
    value: str


@dataclass(frozen=True)
class Streams:
    """A document of an agent: ``instance`` changes when it is started anew; ``next`` to ask for;
    ``first`` that it still has.
    """

    instance: str
    first: int
    next: int
    seen: list[Observation]


def read_streams(data: bytes) -> Streams:
    """An MTConnectStreams document. Raises FileRefused."""
    try:
        root = Xml.fromstring(data)
    except (Xml.ParseError, DefusedXmlException, ValueError):
        raise FileRefused("this is no XML", "the agent answers /sample with it") from None
    if _name(root.tag) != "MTConnectStreams":
        raise FileRefused(f"this is {_name(root.tag)}", "MTConnectStreams is needed")
    header = next((item for item in root if _name(item.tag) == "Header"), None)
    given = dict(header.attrib) if header is not None else {}
    seen = []
    for item in root.iter():
        if "sequence" in item.attrib and "timestamp" in item.attrib:
            try:
                at = _time(item.attrib["timestamp"])
                sequence = int(item.attrib["sequence"])
            except ValueError:
                continue
            value = (item.text or "").strip()
            seen.append(Observation(sequence, at, _name(item.tag), value))
    seen.sort(key=lambda o: o.sequence)
    last = seen[-1].sequence + 1 if seen else 1
    return Streams(
        given.get("instanceId", ""),
        _number(given.get("firstSequence"), seen[0].sequence if seen else 1),
        _number(given.get("nextSequence"), last),
        seen,
    )


@dataclass
class Cycles:
    """Entries of a job's setup out of what an agent says, document by document. What comes again
    gives nothing; what was lost in between is said.
    """

    job_id: str
    setup: int
    instance: str = ""
    last: int = 0
    began: datetime | None = None
    parts: int | None = None
    counted: int = 0
    out: list[AnyEntry] = field(default_factory=list)

    def take(self, streams: Streams) -> list[AnyEntry]:
        """What ended since the document before."""
        self.out = []
        if streams.instance != self.instance:
            self.instance, self.last, self.began, self.parts = streams.instance, 0, None, None
        fresh = [o for o in streams.seen if o.sequence > self.last]
        if fresh and self.last and streams.first > self.last + 1:
            lost = streams.first - self.last - 1
            self._note(fresh[0], f"{lost} lines of the control were lost: it kept no more")
            self.began = None
        for one in fresh:
            self.last = one.sequence
            self._look(one)
        return self.out

    def _look(self, one: Observation) -> None:
        if one.item == "PartCount":
            self._count(one)
        elif one.item == "Execution":
            if one.value == _AWAY:
                self.began = None
            elif one.value == _ACTIVE and self.began is None:
                self.began, self.counted = one.at, 0
            elif one.value in ENDS and self.began is not None:
                self._end(one)

    def _count(self, one: Observation) -> None:
        if not re.fullmatch(r"\d{1,9}", one.value):
            self.parts = None
            return
        now = int(one.value)
        if self.parts is not None and now >= self.parts:
            self.counted += now - self.parts
        self.parts = now

    def _end(self, one: Observation) -> None:
        began = self.began or one.at
        seconds = (one.at - began).total_seconds()
        self.began = None
        if not 0 < seconds <= _LONGEST_S:
            self._note(one, f"the control says a cycle of {seconds:.0f} s: its clock was set")
            return
        good = min(self.counted, 5000)
        self.out.append(
            CycleDone(
                id=self._id(one),
                at=one.at,
                setup=self.setup,
                by="control",
                seconds=seconds,
                good=good,
            )
        )

    def _note(self, one: Observation, says: str) -> None:
        ident = self._id(one, "note")
        entry = Noted(id=ident, at=one.at, setup=self.setup, by="control", note=says)
        self.out.append(entry)

    def _id(self, one: Observation, what: str = "cycle") -> str:
        said = f"{self.job_id} {self.setup} {self.instance} {one.sequence} {what}"
        return uuid.uuid5(uuid.NAMESPACE_OID, said).hex


def _name(tag: str) -> str:
    return tag.rsplit("}", 1)[-1]


def _number(text: str | None, otherwise: int) -> int:
    return int(text) if text is not None and re.fullmatch(r"\d{1,18}", text) else otherwise


def _time(text: str) -> datetime:
    at = datetime.fromisoformat(text.replace("Z", "+00:00"))
    return at if at.tzinfo is not None else at.replace(tzinfo=UTC)
