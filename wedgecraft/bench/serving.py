"""The service's speed bars: a whole installation in a folder of its own, started, asked by twenty
users at once, and stopped.
"""

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
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from wedgecraft.demo.people import DEMO_PEOPLE
from wedgecraft.store.cluster import free_port

_USERS, _EVERY_SECONDS, _MEASURED_SECONDS, _JOBS = 20, 0.3, 12.0, 130
_TICK = os.sysconf("SC_CLK_TCK")
Line = tuple[str, str, str, str]


def measured() -> list[Line]:
    """(what, measured, bar, remark) of start, calls, users, first design and memory."""
    state = Path(tempfile.mkdtemp(prefix="wedgecraft-bench-"))
    state.chmod(0o755)
    try:
        return [_command_line(), *_installation(state)]
    finally:
        shutil.rmtree(state, ignore_errors=True)


def _command_line() -> Line:
    start = time.perf_counter()
    subprocess.run(
        [sys.executable, "-m", "wedgecraft.cli", "--version"], check=True, stdout=subprocess.DEVNULL
    )
    return "command line: start", f"{time.perf_counter() - start:.2f} s", "2 s", ""


def _installation(state: Path) -> list[Line]:
    port = free_port()
    first, process = start(state, port)
    try:
        planned(Caller(port))
    finally:
        stop(process)
    again, process = start(state, port)
    try:
        caller = Caller(port)
        jobs = planned(caller)
        for _ in range(_JOBS - len(jobs)):
            caller.call("POST", f"/api/jobs/{jobs[-1]}/copy", {})
        calls = [
            _cpu(
                process.pid,
                f"list of {_JOBS} jobs",
                50,
                20,
                lambda: caller.call("GET", "/api/jobs?limit=200"),
            ),
            _cpu(process.pid, "an edit of a job", 40, 20, lambda: _edit(caller, jobs[0])),
            _cpu(
                process.pid,
                "reading a job",
                5,
                60,
                lambda: caller.call("GET", f"/api/jobs/{jobs[0]}"),
            ),
        ]
        design = _first_design(caller)
        idle = _users("idle", 100, port, caller.cookie, jobs[0])
        with _two_plans(port, jobs[:2]):
            busy = _users("while two plans run", 200, port, caller.cookie, jobs[0])
        memory = _memory(process.pid)
    finally:
        stop(process)
    return [
        ("first start: cluster, tables, demo, served page", f"{first:.2f} s", "-", ""),
        ("start after set-up to a served page", f"{again:.2f} s", "3 s", ""),
        *calls,
        *idle,
        *busy,
        (
            "first design of the starting job, from the press of Plan",
            f"{design:.2f} s",
            "1 s",
            "worker warm",
        ),
        ("memory of the web processes", f"{memory:.0f} MB", "300 MB", "the largest of them"),
    ]


class Caller:
    """A signed-in planner on a connection of their own."""

    def __init__(self, port: int, cookie: str = "") -> None:
        self._connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        self.cookie, self._token = cookie, ""
        self._token = self._begun()["csrf_token"]
        if not cookie:
            person = DEMO_PEOPLE[0]
            self.call(
                "POST", "/api/session", {"sign_in": person.sign_in, "password": person.password}
            )
            self._token = self.call("GET", "/api/session")["csrf_token"]

    def _begun(self) -> Any:
        for _ in range(600):  # the demo's people come a moment after the first page
            state = self.call("GET", "/api/session")
            if state.get("demo_accounts"):
                return state
            time.sleep(0.1)
        raise RuntimeError("the installation made no accounts")

    def call(self, method: str, path: str, body: object = None) -> Any:
        """The answer's document, whatever its status."""
        headers = {
            "Cookie": self.cookie,
            "X-CSRFToken": self._token,
            "Content-Type": "application/json",
        }
        data = None if body is None else json.dumps(body)
        try:
            self._connection.request(method, path, data, headers)
            answer = self._connection.getresponse()
        except ConnectionError:  # the first process handed over: as a browser does, on a new one
            self._connection.close()
            self._connection.request(method, path, data, headers)
            answer = self._connection.getresponse()
        self.cookie = (answer.headers.get("Set-Cookie") or self.cookie).split(";")[0]
        return json.loads(answer.read() or b"null")


def planned(caller: Caller) -> list[str]:
    """The demo's jobs once they have their designs, so that whole results are read."""
    while True:
        listed = caller.call("GET", "/api/jobs").get("jobs", [])
        if listed and all(job["parts_per_cycle"] is not None for job in listed):
            return [job["id"] for job in listed]
        time.sleep(0.3)


def _cpu(supervisor: int, what: str, bar_ms: int, times: int, call: Callable[[], object]) -> Line:
    """Processor time of the web processes for a call, as they say it themselves: however busy the
    machine is.
    """
    for _ in range(3 * _WEB_PROCESSES):
        call()
    before, began = _spent(supervisor), time.perf_counter()
    for _ in range(times):
        call()
    took = 1000 * (time.perf_counter() - began) / times
    return (
        what,
        f"{1000 * (_spent(supervisor) - before) / times:.1f} ms of CPU",
        f"{bar_ms} ms",
        f"{took:.1f} ms by the clock",
    )


_WEB_PROCESSES = 2


def _edit(caller: Caller, job: str) -> None:
    state = caller.call("GET", f"/api/jobs/{job}/steps")
    version = caller.call("POST", f"/api/jobs/{job}/here", {"page": "0" * 32, "open": True})[
        "version"
    ]
    answer = caller.call(
        "PATCH",
        f"/api/jobs/{job}/fields",
        {"version": version, "path": "job.quantity", "value": 500 + version % 90},
    )
    if "version" not in answer:
        raise RuntimeError(f"{answer} after {state}")


def _first_design(caller: Caller) -> float:
    job = caller.call("POST", "/api/jobs", {"name": "First", "quantity": 100})["id"]
    began = time.perf_counter()
    run = caller.call("POST", f"/api/jobs/{job}/runs")["run"]["id"]
    while True:
        result = caller.call("GET", f"/api/runs/{run}")["result"]
        if result and any(item["result"]["designs"] for item in result["setups"]):
            return time.perf_counter() - began
        time.sleep(0.02)


@contextmanager
def _two_plans(port: int, jobs: list[str]) -> Iterator[None]:
    """Two plans under way all the time: each is asked for again, changed, when it is done."""
    over = threading.Event()

    def keep(job: str) -> None:
        caller = Caller(port)
        while not over.is_set():
            _edit(caller, job)
            run = caller.call("POST", f"/api/jobs/{job}/runs")["run"]["id"]
            while not over.is_set() and caller.call("GET", f"/api/runs/{run}")["run"]["status"] in (
                "queued",
                "running",
            ):
                time.sleep(0.5)

    with ThreadPoolExecutor(len(jobs)) as pool:
        for job in jobs:
            pool.submit(keep, job)
        time.sleep(1.5)
        try:
            yield
        finally:
            over.set()


def _users(when: str, bar_ms: int, port: int, cookie: str, job: str) -> list[Line]:
    """Twenty people who each read a job every 0.3 s, each on a connection of their own; and health
    beside them.
    """
    until = time.perf_counter() + _MEASURED_SECONDS

    def asks(path: str, every: float, wait: float) -> list[float]:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        time.sleep(wait)
        took = []
        while time.perf_counter() < until:
            start = time.perf_counter()
            try:
                connection.request("GET", path, headers={"Cookie": cookie})
                connection.getresponse().read()
            except ConnectionError:  # as above; what it takes counts
                connection.close()
                continue
            took.append(time.perf_counter() - start)
            time.sleep(max(0.0, every - took[-1]))
        return took

    with ThreadPoolExecutor(_USERS + 1) as pool:
        health = pool.submit(asks, "/api/health", 0.1, 0.0)
        waits = [_EVERY_SECONDS * number / _USERS for number in range(_USERS)]
        times = [
            seconds
            for took in pool.map(lambda wait: asks(f"/api/jobs/{job}", _EVERY_SECONDS, wait), waits)
            for seconds in took
        ]
    slow = 1000 * statistics.quantiles(times, n=20)[-1]
    remark = (
        f"95th percentile {slow:.0f} ms, {len(times)} calls; health at most"
        f" {1000 * max(health.result()):.0f} ms"
    )
    return [
        (
            f"{_USERS} users read a job every {_EVERY_SECONDS} s, {when}: median",
            f"{1000 * statistics.median(times):.0f} ms",
            f"{bar_ms} ms",
            remark,
        )
    ]


def start(state: Path, port: int) -> tuple[float, subprocess.Popen[bytes]]:
    """An installation in this folder, and the seconds until it served a page. Raises RuntimeError
    if it does not within two minutes.
    """
    began = time.perf_counter()
    process = subprocess.Popen(
        [sys.executable, "-m", "wedgecraft.cli", "up", "--port", str(port)],
        env=os.environ | {"WEDGECRAFT_STATE": str(state)},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    while time.perf_counter() - began < 120:
        try:
            connection = http.client.HTTPConnection("127.0.0.1", port, timeout=2)
            connection.request("GET", "/")
            if connection.getresponse().status < 500:
                return time.perf_counter() - began, process
        except OSError:
            time.sleep(0.02)
    stop(process)
    raise RuntimeError("the installation did not start")


def stop(process: subprocess.Popen[bytes]) -> None:
    """End an installation, within a minute."""
    process.send_signal(signal.SIGTERM)
    process.wait(60)


def _web(supervisor: int) -> Iterator[Path]:
    """The web processes of an installation."""
    for folder in Path("/proc").iterdir():
        try:
            if b"wedgecraft.cli serve" in (folder / "cmdline").read_bytes().replace(
                b"\0", b" "
            ) and _descends(folder.name, supervisor):
                yield folder
        except OSError:
            continue


def _memory(supervisor: int) -> float:
    """Resident MB of the largest web process."""
    return max(
        float((folder / "status").read_text().split("VmRSS:")[1].split()[0]) / 1024
        for folder in _web(supervisor)
    )


def _spent(supervisor: int) -> float:
    """Seconds of processor time the web processes have used so far."""
    fields = [
        (folder / "stat").read_text().rsplit(")", 1)[1].split() for folder in _web(supervisor)
    ]
    return sum(int(item[11]) + int(item[12]) for item in fields) / _TICK


def _descends(pid: str, ancestor: int) -> bool:
    while pid not in ("0", "1"):
        if int(pid) == ancestor:
            return True
        try:
            pid = (Path("/proc") / pid / "stat").read_text().rsplit(")", 1)[1].split()[1]
        except OSError:
            return False
    return False
