"""The service's speed bars: a whole installation in a folder of its own, started, asked by twenty users at once, and stopped."""

from __future__ import annotations

import http.client
import json
import os
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from wedgecraft.demo.people import DEMO_PEOPLE
from wedgecraft.store.cluster import free_port

_USERS, _CALLS = 20, 30
Line = tuple[str, str, str, str]


def measured() -> list[Line]:
    """(what, measured, bar, remark) of start, reading calls and memory."""
    state = Path(tempfile.mkdtemp(prefix="wedgecraft-bench-"))
    state.chmod(0o755)
    try:
        return [_command_line(), *_installation(state)]
    finally:
        shutil.rmtree(state, ignore_errors=True)


def _command_line() -> Line:
    start = time.perf_counter()
    subprocess.run([sys.executable, "-m", "wedgecraft.cli", "--version"], check=True, stdout=subprocess.DEVNULL)
    return "command line: start", f"{time.perf_counter() - start:.2f} s", "2 s", ""


def _installation(state: Path) -> list[Line]:
    port = free_port()
    first, process = _start(state, port)
    _stop(process)
    again, process = _start(state, port)
    try:
        times = _reads(port)
        memory = _memory(process.pid)
    finally:
        _stop(process)
    slow = statistics.quantiles(times, n=20)[-1]
    return [
        ("first start: cluster, tables, demo, served page", f"{first:.2f} s", "-", ""),
        ("start after set-up to a served page", f"{again:.2f} s", "3 s", ""),
        (
            f"reading a job, {_USERS} users, 95th percentile",
            f"{slow * 1000:.0f} ms",
            "50 ms",
            f"median {statistics.median(times) * 1000:.0f} ms",
        ),
        ("memory of the web process", f"{memory:.0f} MB", "300 MB", "largest of its processes"),
    ]


def _start(state: Path, port: int) -> tuple[float, subprocess.Popen[bytes]]:
    start = time.perf_counter()
    process = subprocess.Popen(
        [sys.executable, "-m", "wedgecraft.cli", "up", "--port", str(port)], env=os.environ | {"WEDGECRAFT_STATE": str(state)},
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    while time.perf_counter() - start < 120:
        try:
            connection = http.client.HTTPConnection("127.0.0.1", port, timeout=2)
            connection.request("GET", "/")
            if connection.getresponse().status < 500:
                return time.perf_counter() - start, process
        except OSError:
            time.sleep(0.02)
    _stop(process)
    raise RuntimeError("the installation did not start")


def _stop(process: subprocess.Popen[bytes]) -> None:
    process.send_signal(signal.SIGTERM)
    process.wait(60)


def _reads(port: int) -> list[float]:
    """Seconds of each call: twenty people who look at a job about once a second, each on a connection of their own."""
    cookie, job = _sign_in(port)

    def user(number: int) -> list[float]:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=10)
        time.sleep(number / _USERS)
        found = []
        for _ in range(_CALLS):
            start = time.perf_counter()
            connection.request("GET", f"/api/jobs/{job}", headers={"Cookie": cookie})
            connection.getresponse().read()
            found.append(time.perf_counter() - start)
            time.sleep(max(0.0, 1 - found[-1]))
        return found

    with ThreadPoolExecutor(_USERS) as pool:
        return [seconds for found in pool.map(user, range(_USERS)) for seconds in found]


def _sign_in(port: int) -> tuple[str, str]:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=10)
    cookie = ""

    def call(method: str, path: str, body: dict[str, str] | None = None, token: str = "") -> dict[str, object]:
        nonlocal cookie
        headers = {"Cookie": cookie, "X-CSRFToken": token, "Content-Type": "application/json"}
        connection.request(method, path, json.dumps(body) if body else None, headers)
        answer = connection.getresponse()
        cookie = (answer.headers.get("Set-Cookie") or cookie).split(";")[0]
        document: dict[str, object] = json.loads(answer.read())
        return document

    token = str(call("GET", "/api/session")["csrf_token"])
    call("POST", "/api/session", {"sign_in": DEMO_PEOPLE[0].sign_in, "password": DEMO_PEOPLE[0].password}, token)
    for _ in range(300):  # until the demo's designs are there, so that whole results are read
        listed: Any = call("GET", "/api/jobs")
        if all(job["parts_per_cycle"] is not None for job in listed["jobs"]):
            break
        time.sleep(0.2)
    return cookie, str(listed["jobs"][0]["id"])


def _memory(supervisor: int) -> float:
    """Resident MB of the largest process of the web service."""
    sizes = [0.0]
    for folder in Path("/proc").iterdir():
        try:
            command = (folder / "cmdline").read_bytes().replace(b"\0", b" ")
            status = (folder / "status").read_text()
        except OSError:
            continue
        if b"wedgecraft.cli serve" in command and _descends(folder.name, supervisor):
            sizes.append(float(status.split("VmRSS:")[1].split()[0]) / 1024)
    return max(sizes)


def _descends(pid: str, ancestor: int) -> bool:
    while pid not in ("0", "1"):
        if int(pid) == ancestor:
            return True
        try:
            pid = (Path("/proc") / pid / "stat").read_text().rsplit(")", 1)[1].split()[1]
        except OSError:
            return False
    return False
