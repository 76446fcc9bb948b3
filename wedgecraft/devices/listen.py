"""Listens to a control, a wrench and tables that a probe or a gauge writes, and hands what they say
to the service. What could not be handed over is kept in a file, and goes the next time.
"""

from __future__ import annotations

import json
import socket
import urllib.error
import urllib.request
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path

from pydantic import TypeAdapter, ValidationError

from wedgecraft.core.records.log import AnyEntry
from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.logs.mtconnect import Cycles, read_streams
from wedgecraft.formats.logs.table import MOST_BYTES, read_log
from wedgecraft.formats.logs.wrench import LONGEST, read_line

_ENTRY: TypeAdapter[AnyEntry] = TypeAdapter(AnyEntry)
_AT_ONCE = 500
_MOST_XML = 20_000_000
#: Raises OSError where the service does not answer.
Deliver = Callable[[Sequence[AnyEntry]], None]


class Outbox:
    """Entries on their way; a line of JSON each in ``file`` until they are delivered."""

    def __init__(self, file: Path, deliver: Deliver) -> None:
        self._file, self._deliver = file, deliver

    def put(self, entries: Sequence[AnyEntry]) -> None:
        """Written down before anything is sent."""
        if entries:
            with self._file.open("a", encoding="utf-8") as out:
                out.writelines(entry.model_dump_json() + "\n" for entry in entries)

    def waiting(self) -> list[AnyEntry]:
        """What was not delivered yet; a line that was torn is left out."""
        found: list[AnyEntry] = []
        with suppress(FileNotFoundError):
            for line in self._file.read_text(encoding="utf-8").splitlines():
                with suppress(ValidationError):
                    found.append(_ENTRY.validate_json(line))
        return found

    def send(self) -> int:
        """Deliver what waits; what stays waits on. How many were delivered."""
        waits = self.waiting()
        done = 0
        for k in range(0, len(waits), _AT_ONCE):
            try:
                self._deliver(waits[k : k + _AT_ONCE])
            except OSError:
                break
            done = min(len(waits), k + _AT_ONCE)
        if done:
            left = waits[done:]
            fresh = self._file.with_suffix(".new")
            fresh.write_text("".join(e.model_dump_json() + "\n" for e in left), encoding="utf-8")
            fresh.replace(self._file)
        return done


class ControlEar:
    """Asks an agent for what came since; one that stops, floods or starts anew is met."""

    def __init__(self, url: str, cycles: Cycles) -> None:
        self._url, self._cycles = url.rstrip("/"), cycles
        self._next: int | None = None

    def hear(self) -> list[AnyEntry]:
        """What ended since; nothing while it does not answer."""
        found: list[AnyEntry] = []
        for _ in range(200):  # as much as a buffer holds, at most
            start = f"&from={self._next}" if self._next is not None else ""
            body = _get(f"{self._url}/sample?count=200{start}")
            if body is None and self._next is not None:  # it has that no more, or began anew
                self._next = None
                continue
            try:
                streams = read_streams(body or b"")
            except FileRefused:
                return found
            found += self._cycles.take(streams)
            if streams.next == self._next or not streams.seen:
                return found
            self._next = streams.next
        return found


class WrenchEar:
    """Keeps a line to a wrench open; comes back when it was cut."""

    def __init__(self, host: str, port: int, job_id: str, setup: int) -> None:
        self._where, self._job, self._setup = (host, port), job_id, setup
        self._line: socket.socket | None = None
        self._rest = b""

    def hear(self) -> list[AnyEntry]:
        """What it said since; lines that say something else are passed over."""
        try:
            if self._line is None:
                self._line = socket.create_connection(self._where, timeout=2)
                self._line.settimeout(0.05)
                self._rest = b""
            self._rest += self._read()
        except OSError:
            self._line = None
            return []
        *lines, self._rest = self._rest.split(b"\n")
        self._rest = self._rest[-LONGEST:]
        read = (read_line(line, self._job, self._setup) for line in lines)
        return [entry for entry in read if entry is not None]

    def _read(self) -> bytes:
        found = b""
        while self._line is not None and len(found) < 1_000_000:
            try:
                some = self._line.recv(65_536)
            except TimeoutError:
                break
            if not some:
                self._line.close()
                self._line = None
                break
            found += some
        return found


class TableEar:
    """A table that a probe or a gauge goes on writing; rows that were read give nothing new."""

    def __init__(self, file: Path, whose: str) -> None:
        self._file, self._whose, self._size = file, whose, -1

    def hear(self) -> list[AnyEntry]:
        """All rows that can be read, when it has grown."""
        try:
            size = self._file.stat().st_size
            if size == self._size:
                return []
            with self._file.open("rb") as file:
                data = file.read(MOST_BYTES + 1)
            self._size = size
            # a row that is still being written comes whole the next time
            return read_log(data[: data.rfind(b"\n") + 1], self._whose).entries
        except (OSError, FileRefused):
            return []


class Service:
    """Signs in and hands entries over, as any page does."""

    def __init__(self, address: str, sign_in: str, password: str, job_id: str) -> None:
        self._address, self._job = address.rstrip("/"), job_id
        self._who = {"sign_in": sign_in, "password": password}
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        self._token = ""

    def deliver(self, entries: Sequence[AnyEntry]) -> None:
        """Raises OSError where it does not answer or says no."""
        if not self._token:
            self._call("GET", "/api/session")
            self._call("POST", "/api/session", self._who)
            self._call("GET", "/api/session")
        given = {"entries": [entry.model_dump(mode="json") for entry in entries]}
        try:
            self._call("POST", f"/api/jobs/{self._job}/log", given)
        except urllib.error.HTTPError:
            self._token = ""
            raise

    def _call(self, method: str, path: str, body: object = None) -> None:
        headers = {"Content-Type": "application/json", "X-CSRFToken": self._token}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(  # noqa: S310 (the service's own address)
            self._address + path, data=data, headers=headers, method=method
        )
        with self._opener.open(request, timeout=20) as answer:
            said = json.loads(answer.read() or b"null")
        if isinstance(said, dict) and "csrf_token" in said:
            self._token = said["csrf_token"]


def _get(url: str) -> bytes | None:
    try:
        with urllib.request.urlopen(url, timeout=5) as answer:  # noqa: S310 (as a person gave it)
            body: bytes = answer.read(_MOST_XML)
            return body
    except (OSError, ValueError):
        return None
