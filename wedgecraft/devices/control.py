"""A machine's control that runs cycle after cycle, and an MTConnect agent that tells of it.

MTConnect 1.4, XML over HTTP: ``/probe``, ``/current``, ``/sample?from=&count=``; from memory.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlparse
from xml.etree import ElementTree as Xml

_DEVICES = "urn:mtconnect.org:MTConnectDevices:1.4"
_STREAMS = "urn:mtconnect.org:MTConnectStreams:1.4"
_BUFFER = 4096
_UUID = "stand-in-control"
#: Data items: id, name of the observation, type in the probe.
ITEMS = {
    "avail": ("Availability", "AVAILABILITY"),
    "exec": ("Execution", "EXECUTION"),
    "program": ("Program", "PROGRAM"),
    "parts": ("PartCount", "PART_COUNT"),
}


@dataclass(frozen=True)
class _Said:
    sequence: int
    at: datetime
    item: str
    value: str


class Agent:
    """Keeps the last few thousand observations. ``now``: its clock."""

    def __init__(self, now: Callable[[], datetime] | None = None, buffer: int = _BUFFER) -> None:
        self._now = now or (lambda: datetime.now(UTC))
        self._said: deque[_Said] = deque(maxlen=buffer)
        self._latest: dict[str, _Said] = {}
        self._lock = threading.Lock()
        self._next = 1
        self.instance = str(int(datetime.now(UTC).timestamp()))
        for item in ITEMS:
            self.put(item, "UNAVAILABLE")

    def put(self, item: str, value: str, at: datetime | None = None) -> None:
        """One data item says something."""
        with self._lock:
            said = _Said(self._next, at or self._now(), item, value)
            self._next += 1
            self._said.append(said)
            self._latest[item] = said

    def probe(self) -> bytes:
        """What there is to be told."""
        root = Xml.Element("MTConnectDevices", xmlns=_DEVICES)
        self._header(root)
        devices = Xml.SubElement(root, "Devices")
        device = Xml.SubElement(devices, "Device", id="dev", name="Machine", uuid=_UUID)
        items = Xml.SubElement(device, "DataItems")
        _item(items, "avail")
        components = Xml.SubElement(device, "Components")
        controller = Xml.SubElement(components, "Controller", id="cont", name="controller")
        parts = Xml.SubElement(controller, "Components")
        path = Xml.SubElement(parts, "Path", id="path", name="path")
        items = Xml.SubElement(path, "DataItems")
        for name in ("exec", "program", "parts"):
            _item(items, name)
        return _text(root)

    def current(self) -> bytes:
        """The latest of each."""
        with self._lock:
            said = sorted(self._latest.values(), key=lambda s: s.sequence)
        return self._streams(said, self._next)

    def sample(self, start: int | None = None, count: int = 100) -> bytes | None:
        """So many from one on; nothing where the buffer has it no more."""
        with self._lock:
            said = list(self._said)
        first = said[0].sequence
        start = first if start is None else start
        if not first <= start <= self._next or count < 1:
            return None
        found = [s for s in said if s.sequence >= start][:count]
        after = found[-1].sequence + 1 if found else start
        return self._streams(found, after)

    def _streams(self, said: list[_Said], after: int) -> bytes:
        root = Xml.Element("MTConnectStreams", xmlns=_STREAMS)
        self._header(root, after)
        streams = Xml.SubElement(root, "Streams")
        device = Xml.SubElement(streams, "DeviceStream", name="Machine", uuid=_UUID)
        path = Xml.SubElement(
            device, "ComponentStream", component="Path", name="path", componentId="path"
        )
        events = Xml.SubElement(path, "Events")
        for one in said:
            event = Xml.SubElement(
                events,
                ITEMS[one.item][0],
                dataItemId=one.item,
                sequence=str(one.sequence),
                timestamp=_stamp(one.at),
            )
            event.text = one.value
        return _text(root)

    def _header(self, root: Xml.Element, after: int | None = None) -> None:
        given = {
            "creationTime": _stamp(self._now()),
            "sender": "stand-in",
            "instanceId": self.instance,
            "version": "1.4.0.0",
            "bufferSize": str(self._said.maxlen),
        }
        if after is not None:
            first = self._said[0].sequence if self._said else 1
            given |= {
                "firstSequence": str(first),
                "lastSequence": str(self._next - 1),
                "nextSequence": str(after),
            }
        else:
            given |= {"assetBufferSize": "0", "assetCount": "0"}
        Xml.SubElement(root, "Header", given)


def run_cycle(agent: Agent, parts: int, began: datetime, ended: datetime, made: int) -> int:
    """A cycle from one moment to another; parts made after it."""
    agent.put("avail", "AVAILABLE", began)
    agent.put("exec", "ACTIVE", began)
    agent.put("parts", str(made + parts), ended)
    agent.put("exec", "READY", ended)
    return made + parts


def serve(agent: Agent, port: int = 0) -> ThreadingHTTPServer:
    """On loopback; its thread ends with ``shutdown``."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            asked = urlparse(self.path)
            given = parse_qs(asked.query)
            body: bytes | None = None
            if asked.path in ("/probe", "/"):
                body = agent.probe()
            elif asked.path == "/current":
                body = agent.current()
            elif asked.path == "/sample":
                start, count = given.get("from", [""])[0], given.get("count", ["100"])[0]
                if count.isdigit() and (start == "" or start.isdigit()):
                    body = agent.sample(int(start) if start else None, int(count))
            self.send_response(200 if body is not None else 404)
            self.send_header("Content-Type", "text/xml")
            self.end_headers()
            self.wfile.write(body or b"<MTConnectError/>")

        def log_message(self, *args: object) -> None:
            """Quiet."""

    server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server


def _item(items: Xml.Element, name: str) -> None:
    Xml.SubElement(items, "DataItem", id=name, category="EVENT", type=ITEMS[name][1])


def _stamp(at: datetime) -> str:
    return at.astimezone(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")


def _text(root: Xml.Element) -> bytes:
    return Xml.tostring(root, encoding="utf-8", xml_declaration=True)
