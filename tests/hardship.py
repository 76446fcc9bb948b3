"""Hard times for a whole installation: people at work while processes are killed, the disk fills,
files are hostile and clients slow.

    python -m tests.hardship --minutes 60 [--seed 1]

It loses nothing: what was acknowledged stands in the end, each change once; and the service says
that it lives within a second, always, but for the moments in which the whole of it was killed or
stopped, or the machine itself stood still. The short form is in ``test_installation``. As root the
state lies on a small disk of its own, which is filled now and then; others go without that.
"""

from __future__ import annotations

import argparse
import http.client
import os
import random
import signal
import socket
import subprocess
import sys
import threading
import time
import uuid
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from urllib.error import HTTPError

import psycopg

from tests.formats import hostile
from tests.installation import Caller, Installation
from wedgecraft.service.web import THREADS

HEALTH_SECONDS = 1.0
#: A thread that only sleeps and wakes so much too late was on a machine that stood still, as
#: virtual ones do now and then.
_STILL_SECONDS = 0.5
_DISK_MB = 900
_FIELDS = [
    "job.quantity",
    "route.setups.0.form.plate.margin_mm",
    "job.parts.0.height_mm",
    "route.setups.0.zeros.x_mm",
]


class Hardship:
    """One installation under load; ``step`` disturbs it once, ``finish`` checks what is left.

    ``patience``: how many times as long as on a machine of its own it may take; a slow machine is
    not a failure.
    """

    def __init__(self, shop: Installation, seed: int, patience: float = 1.0) -> None:
        self.patience = patience
        self.shop, self.chance = shop, random.Random(seed)
        self.over = threading.Event()
        self.down = threading.Event()  # the whole of it is down, by our own hand
        self.worst_health, self.faults = 0.0, []
        self.stood_still: list[tuple[float, float]] = []
        self.stored: dict[int, object] = {}
        self.keys: set[str] = set()
        self.times_down = 0
        self.edits, self.plans, self.files, self.conflicts = 0, 0, 0, 0
        self.job = self._asked(
            lambda: shop.person("planner").call(
                "POST", "/api/jobs", {"name": "Hard times", "quantity": 50}
            )
        )["id"]
        self._threads = [
            threading.Thread(target=self._guarded, args=(work,), daemon=True)
            for work in self._work()
        ]
        for thread in self._threads:
            thread.start()

    def _work(self) -> list[Callable[[], None]]:
        writers = [lambda number=number: self._write(number) for number in range(len(_FIELDS))]
        return [
            *writers,
            self._watch_machine,
            self._watch_health,
            self._plan,
            self._send_files,
            self._be_slow,
        ]

    def _guarded(self, work: Callable[[], None]) -> None:
        try:
            work()
        except BaseException as error:
            self.faults.append(f"{type(error).__name__}: {error}")
            raise

    def _asked(self, ask: Callable[[], object]):
        """An answer, however often it has to be asked for; a refusal is one."""
        until = time.monotonic() + 120
        while True:
            try:
                return ask()
            except HTTPError as error:
                if error.code != 503 and error.code != 429:
                    raise
            except (OSError, http.client.HTTPException, ValueError):
                pass
            if time.monotonic() > until:
                raise AssertionError("no answer in two minutes")
            time.sleep(0.3)

    def _write(self, number: int) -> None:
        chance, person = random.Random(number), ("planner", "admin")[number % 2]
        caller: Caller = self._asked(lambda: self.shop.person(person))
        version = 0
        while not self.over.is_set():
            value, key = chance.randint(30, 60), uuid.uuid4().hex
            change = {"version": version, "path": _FIELDS[number], "value": value}
            try:
                answer = self._asked(
                    partial(caller.call, "PATCH", f"/api/jobs/{self.job}/fields", change, key)
                )
                self.stored[number] = value
                self.keys.add(key)
                self.edits += 1
            except HTTPError as error:
                if error.code != 409:
                    raise AssertionError(
                        f"a change was answered {error.code}: {error.read()[:300]!r}"
                    ) from None
                self.conflicts += 1
                answer = self._asked(lambda: caller.call("GET", f"/api/jobs/{self.job}"))
            version = answer["version"]
            time.sleep(chance.uniform(0.05, 0.4))

    def _watch_machine(self) -> None:
        while not self.over.is_set():
            slept = time.monotonic()
            time.sleep(0.05)
            late = time.monotonic() - slept - 0.05
            if late > _STILL_SECONDS:
                self.stood_still.append((slept, late))

    def _watch_health(self) -> None:
        while not self.over.is_set():
            if self.down.is_set():
                time.sleep(0.1)
                continue
            began = time.monotonic()
            while not self.down.is_set():
                with suppress(OSError, http.client.HTTPException):
                    connection = http.client.HTTPConnection(
                        "127.0.0.1", self.shop.port, timeout=HEALTH_SECONDS * self.patience
                    )
                    connection.request("GET", "/api/health")
                    if connection.getresponse().status == 200:
                        time.sleep(0.06)  # what stood still has said so
                        still = sum(
                            late for slept, late in self.stood_still if slept > began - late
                        )
                        self.worst_health = max(
                            self.worst_health, time.monotonic() - 0.06 - began - still
                        )
                        break
                if time.monotonic() - began > 30:
                    raise AssertionError("health was not answered for 30 s")
            time.sleep(0.1)

    def _plan(self) -> None:
        caller: Caller = self._asked(lambda: self.shop.person("planner"))
        job = self._asked(
            lambda: caller.call(
                "POST", "/api/jobs", {"name": "Planned", "quantity": 60}, uuid.uuid4().hex
            )
        )["id"]
        while not self.over.is_set():
            run = self._asked(lambda: caller.call("POST", f"/api/jobs/{job}/runs"))["run"]["id"]
            while not self.over.is_set():
                state = self._asked(lambda run=run: caller.call("GET", f"/api/runs/{run}"))["run"]
                if state["status"] not in ("queued", "running"):
                    assert state["status"] == "done", state["error"]
                    self.plans += 1
                    break
                time.sleep(0.5)

    def _send_files(self) -> None:
        caller: Caller = self._asked(lambda: self.shop.person("admin"))
        files = [("/api/drawings", *item) for item in hostile.drawings().items()]
        files += [("/api/solids", *item) for item in hostile.solids().items()]
        while not self.over.is_set():
            path, name, data = files[self.files % len(files)]
            began, times_down = time.monotonic(), self.times_down
            with suppress(OSError, http.client.HTTPException):
                status = caller.send(path, name, data)
                assert status in (200, 202, 422, 503), (name, status)
                took = time.monotonic() - began
                assert took < 30 * self.patience or times_down < self.times_down, (
                    name,
                    f"took {took:.0f} s",
                )
                self.files += 1
            time.sleep(0.2)

    def _be_slow(self) -> None:
        """Two hundred clients that say nothing, or a byte now and then."""
        held: list[socket.socket] = []
        while not self.over.is_set():
            if len(held) < 200 and not self.down.is_set():
                with suppress(OSError):
                    held.append(socket.create_connection(("127.0.0.1", self.shop.port), timeout=1))
                    if len(held) % 2:
                        held[-1].sendall(
                            b"POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Length: 9000\r\n\r\n"
                        )
                continue
            for one in list(held):
                try:
                    one.sendall(b"x")
                except OSError:
                    one.close()
                    held.remove(one)
            time.sleep(1)
        for one in held:
            one.close()

    # What is done to it.

    def _children(self, what: str) -> list[int]:
        return [pid for pid, command in self.shop.children() if f"wedgecraft.cli {what}" in command]

    def kill_web(self) -> None:
        """Never both within the seconds that one takes to come back: that is as killing all of
        it.
        """
        while len(self._serving()) < 2:
            time.sleep(0.2)
        os.kill(self.chance.choice(self._serving()), signal.SIGKILL)

    def _serving(self) -> list[int]:
        """Web processes that have come so far as to serve: their threads are there."""
        found = []
        for pid in self._children("serve"):
            with suppress(OSError):
                threads = next(
                    line
                    for line in Path(f"/proc/{pid}/status").read_text().splitlines()
                    if line.startswith("Threads:")
                )
                if int(threads.split()[1]) > THREADS:
                    found.append(pid)
        return found

    def kill_worker(self) -> None:
        os.kill(self.chance.choice(self._children("worker")), signal.SIGKILL)

    def end_backends(self) -> None:
        with (
            suppress(psycopg.Error),
            psycopg.connect(self.shop.database().url, autocommit=True) as server,
        ):
            server.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE pid <>"
                " pg_backend_pid() AND datname IS NOT NULL"
            )

    def kill_server(self) -> None:
        with suppress(OSError, ValueError, IndexError):
            os.kill(
                int((self.shop.state / "postgres/data/postmaster.pid").read_text().split()[0]),
                signal.SIGKILL,
            )

    def kill_everything(self) -> None:
        self.down.set()
        self.times_down += 1
        self.shop.process.kill()
        self.shop.process.wait()
        until = time.monotonic() + 20
        while self.shop.answers():  # what it leaves behind goes by itself
            assert time.monotonic() < until, "web processes outlived their supervisor"
            time.sleep(0.1)
        self._up_again()

    def _up_again(self) -> None:
        self.shop.start()
        self.down.clear()

    def stop_and_start(self) -> None:
        self.down.set()
        self.times_down += 1
        self.shop.stop()
        assert not self.shop.database().running, "a clean stop left the database running"
        self._up_again()

    def fill_disk(self) -> None:
        if not os.path.ismount(self.shop.state):
            return
        ballast = self.shop.state / "ballast"
        with suppress(OSError), ballast.open("wb") as out:
            while True:
                out.write(b"\0" * 1_000_000)
        try:
            until = time.monotonic() + 10 * self.patience
            while self.shop.said("/api/ready") != (503, "disk full"):
                assert time.monotonic() < until, "a full disk was not called one"
                time.sleep(0.2)
            time.sleep(3)
        finally:
            ballast.unlink()

    KINDS = (
        kill_web,
        end_backends,
        kill_worker,
        kill_server,
        fill_disk,
        kill_everything,
        stop_and_start,
    )

    def step(self, disturb: Callable[[Hardship], None]) -> None:
        """Disturb, and go on once it is ready again."""
        disturb(self)
        until = time.monotonic() + 90
        while self.shop.said("/api/ready")[0] != 200:
            assert time.monotonic() < until, f"not ready 90 s after {disturb.__name__}"
            time.sleep(0.1)
        assert self.faults == []

    def finish(self) -> str:
        """Nothing was lost and nothing made twice; what was done, in a line. Raises
        AssertionError.
        """
        self.over.set()
        for thread in self._threads:
            thread.join(130)
        assert self.faults == []
        final = self.shop.person("planner").call("GET", f"/api/jobs/{self.job}")["document"]
        for number, value in self.stored.items():
            node = final
            for key in _FIELDS[number].split("."):
                node = node[int(key)] if key.isdigit() else node[key]
            assert node == value, (_FIELDS[number], node, value)
        with psycopg.connect(self.shop.database().url) as server:
            kept = {
                row[0]
                for row in server.execute("SELECT id FROM change WHERE job_id = %s", [self.job])
            }
        assert self.keys <= kept, "acknowledged changes are not there"
        assert self.worst_health <= HEALTH_SECONDS * self.patience, (
            f"health was not answered for {self.worst_health:.2f} s"
        )
        return (
            f"{self.edits} changes acknowledged and none lost, {self.conflicts} conflicts,"
            f" {self.plans} plans done, {self.files} hostile files; health within"
            f" {self.worst_health * 1000:.0f} ms; the machine stood still {len(self.stood_still)}"
            f" times, {sum(late for _, late in self.stood_still):.1f} s"
        )


def on_a_small_disk(shop: Installation) -> bool:
    """Give an installation that has not been started a disk that can be filled; false where that is
    not allowed.
    """
    options = f"size={_DISK_MB}m,mode=755"
    return (
        os.geteuid() == 0
        and subprocess.run(
            ["mount", "-t", "tmpfs", "-o", options, "none", str(shop.state)],
            capture_output=True,
            check=False,
        ).returncode
        == 0
    )


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    asked.add_argument("--minutes", type=float, default=60)
    asked.add_argument("--seed", type=int, default=1)
    given = asked.parse_args()
    shop = Installation()
    mounted = on_a_small_disk(shop)
    try:
        shop.start()
        hard = Hardship(shop, given.seed)
        until = time.monotonic() + 60 * given.minutes
        while time.monotonic() < until:
            disturb = hard.chance.choice(Hardship.KINDS)
            hard.step(disturb)
            print(
                f"{time.strftime('%H:%M:%S')} {disturb.__name__}: ready again; {hard.edits}"
                f" changes, worst health {hard.worst_health:.2f} s",
                flush=True,
            )
            time.sleep(hard.chance.uniform(1, 12))
        print(hard.finish())
    except BaseException:
        print((shop.state / "wedgecraft.log").read_text(errors="replace")[-6000:], file=sys.stderr)
        raise
    finally:
        shop.remove()
        if mounted:
            subprocess.run(["umount", "-l", str(shop.state)], check=False)
            with suppress(OSError):
                Path(shop.state).rmdir()


if __name__ == "__main__":
    main()
