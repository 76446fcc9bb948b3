"""The whole application, run as a shop runs it: ``wedgecraft up`` with a state folder and a port of
its own.
"""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
import uuid
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any
from urllib.error import HTTPError

from wedgecraft.store.cluster import Cluster, free_port


class Caller:
    """A signed-in person without a browser."""

    def __init__(self, address: str, sign_in: str, password: str) -> None:
        self._address = address
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        self._token = self.call("GET", "/api/session")["csrf_token"]
        self.call("POST", "/api/session", {"sign_in": sign_in, "password": password})
        self._token = self.call("GET", "/api/session")["csrf_token"]

    def send(self, path: str, name: str, data: bytes) -> int:
        """The status with which a file was answered."""
        edge = uuid.uuid4().hex
        head = (
            f'--{edge}\r\nContent-Disposition: form-data; name="file";'
            f' filename="{name}"\r\nContent-Type: application/octet-stream\r\n\r\n'
        )
        body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        headers = {
            "Content-Type": f"multipart/form-data; boundary={edge}",
            "X-CSRFToken": self._token,
        }
        try:
            with self._opener.open(
                urllib.request.Request(self._address + path, data=body, headers=headers), timeout=60
            ) as answer:
                return answer.status
        except HTTPError as error:
            return error.code

    def call(self, method: str, path: str, body: object = None, key: str | None = None) -> Any:
        """The answer; ``key`` makes a change that is sent again the same one."""
        headers = {"Content-Type": "application/json", "X-CSRFToken": getattr(self, "_token", "")}
        if key is not None:
            headers["Idempotency-Key"] = key
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(
            self._address + path, data=data, headers=headers, method=method
        )
        for left in reversed(range(60)):
            try:
                with self._opener.open(request, timeout=20) as answer:
                    return json.loads(answer.read() or b"null")
            except HTTPError as error:  # busy just now: as the pages do, it comes again
                if error.code != 503 or not left or key is not None:
                    raise
            time.sleep(0.5)
        raise AssertionError("busy for half a minute")


class Installation:
    """Can be stopped and started again; ``options`` go to ``wedgecraft up``, ``typed`` to its
    standard input.

    ``like``: the state folder of another, stopped; this one starts as its copy.
    """

    def __init__(self, *options: str, typed: str = "", like: Path | None = None) -> None:
        self.state = Path(tempfile.mkdtemp(prefix="wedgecraft-shop-"))
        if like is not None:  # owners too: as root the cluster belongs to PostgreSQL's own user
            subprocess.run(["cp", "-a", f"{like}/.", str(self.state)], check=True)
            self.database().move()  # two copies started at once would meet on the port of the first
        self.state.chmod(0o755)
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self._options, self._typed = options, typed
        self.process: subprocess.Popen[str] | None = None

    def launch(self) -> subprocess.Popen[str]:
        command = [
            sys.executable,
            "-m",
            "wedgecraft.cli",
            "up",
            "--port",
            str(self.port),
            *self._options,
        ]
        process = subprocess.Popen(
            command,
            env=os.environ | {"WEDGECRAFT_STATE": str(self.state)},
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
        )
        process.stdin.write(self._typed)
        process.stdin.close()
        return process

    def start(self) -> None:
        self.process = self.launch()
        for _ in range(600):
            if self.process.poll() is None and self.answers("/api/ready"):
                return
            time.sleep(0.1)
        raise AssertionError(
            self.process.stderr.read()
            if self.process.poll() is not None
            else "not ready in a minute"
        )

    def answers(self, path: str = "/api/health") -> bool:
        try:
            with urllib.request.urlopen(self.address + path, timeout=2):
                return True
        except OSError:
            return False

    def said(self, path: str) -> tuple[int, str]:
        """Status and state of an address that says how it is; 0 where nobody answers."""
        try:
            with urllib.request.urlopen(self.address + path, timeout=3) as answer:
                return answer.status, json.loads(answer.read())["state"]
        except HTTPError as error:
            return error.code, json.loads(error.read()).get("state", "")
        except (OSError, ValueError):
            return 0, ""

    def children(self) -> list[tuple[int, str]]:
        """Processes of this installation, with their commands."""
        found = []
        for folder in Path("/proc").glob("[0-9]*"):
            with suppress(OSError, IndexError):
                if (
                    int((folder / "stat").read_text().rsplit(")", 1)[1].split()[1])
                    == self.process.pid
                ):
                    found.append(
                        (
                            int(folder.name),
                            (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode(),
                        )
                    )
        return found

    def stop(self) -> None:
        if self.process is not None:
            self.process.send_signal(signal.SIGTERM)
            assert self.process.wait(40) == 0
            self.process = None

    def person(self, sign_in: str) -> Caller:
        """One of the demo's people, calling the service from another machine; on a first start they
        come a moment after it is ready.
        """
        for _ in range(240):
            with urllib.request.urlopen(self.address + "/api/session", timeout=5) as answer:
                if json.loads(answer.read())["demo_accounts"]:
                    break
            time.sleep(0.25)
        return Caller(self.address, sign_in, f"salt-marsh-{sign_in}")

    @contextmanager
    def unwatched(self) -> Iterator[None]:
        """Nobody looks after what ended meanwhile."""
        self.process.send_signal(signal.SIGSTOP)
        try:
            yield
        finally:
            self.process.send_signal(signal.SIGCONT)

    def database(self) -> Cluster:
        return Cluster(self.state / "postgres")

    def remove(self) -> None:
        self.stop()
        self.database().stop()
        shutil.rmtree(self.state, ignore_errors=True)
