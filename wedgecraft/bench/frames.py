"""How steadily the bench is drawn: some fifty and two hundred stations in a headless browser, one
dragged, nudged, locked, and a row filled, by mouse and keys as a planner does.

Asks for what the browser tests need: Chromium, its driver and Selenium.
"""

from __future__ import annotations

import math
import shutil
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wedgecraft.bench.serving import Caller, Line, planned, start, stop
from wedgecraft.demo.people import DEMO_PEOPLE
from wedgecraft.store.cluster import free_port

if TYPE_CHECKING:
    from selenium.webdriver import ActionChains, Chrome

_MOST_MS = 20.0
_PLATES = ((620.0, 420.0), (1200.0, 800.0))
#: From the first touch to a second after the last: what was shown meanwhile.
_RECORD = """
window.__at = []; window.__touched = []; window.__on = true; performance.clearResourceTimings();
if (!window.__listens) for (const kind of ['pointerdown', 'pointermove', 'pointerup', 'keydown'])
  addEventListener(kind, event => __touched.push(event.timeStamp), true);
window.__listens = true;
requestAnimationFrame(function frame(at) { __at.push(at); if (__on) requestAnimationFrame(frame) })
"""
_RECORDED = """
window.__on = false;
const from = __touched[0], to = __touched.at(-1) + 1000;
return [__at.filter(at => from <= at && at <= to),
  performance.getEntriesByType('resource').filter(e => e.name.endsWith('/fields'))
  .map(e => e.responseEnd - e.startTime)]
"""
#: The station nearest the middle of the plate, and those to the right of it in its row.
_LOOK = """
const middle = box => [box.x + box.width / 2, box.y + box.height / 2];
const stations = [...document.querySelectorAll('[data-station]')]
  .map(one => [one.dataset.station, ...middle(one.getBoundingClientRect())]);
const [x, y] = middle(document.querySelector('[data-testid=plate]').getBoundingClientRect());
const nearest = stations.reduce((a, b) =>
  Math.hypot(a[1] - x, a[2] - y) < Math.hypot(b[1] - x, b[2] - y) ? a : b);
const beside = stations.filter(one => one[1] > nearest[1] + 5 && Math.abs(one[2] - nearest[2]) < 5);
return [stations.length, nearest[0], beside.map(one => one[0])];
"""


def measured() -> list[Line]:
    """(what, measured, bar, remark): the share of frames that came within 20 ms, and how long the
    new count took.
    """
    state = Path(tempfile.mkdtemp(prefix="wedgecraft-frames-"))
    state.chmod(0o755)
    port = free_port()
    try:
        _, process = start(state, port)
        try:
            planned(caller := Caller(port))  # the demo's: nothing runs beside
            jobs = [planned_job(caller, *plate) for plate in _PLATES]
            bench = _Bench(f"http://127.0.0.1:{port}")
            try:
                bench.sign_in()
                return [line for job in jobs for line in bench.measured(job)]
            finally:
                bench.driver.quit()
        finally:
            stop(process)
    finally:
        shutil.rmtree(state, ignore_errors=True)


def planned_job(caller: Caller, width: float, depth: float) -> str:
    """A job on a plate of this size without keep-outs, planned."""
    name = f"Plate {width:.0f} x {depth:.0f}"
    job = str(caller.call("POST", "/api/jobs", {"name": name, "quantity": 10_000})["id"])
    changes: dict[str, Any] = {
        "machine.travel_x_mm": 2000,
        "machine.travel_y_mm": 1200,
        "machine.table_load_kg": 2000,
        "form.plate.width_mm": width,
        "form.plate.depth_mm": depth,
        "form.plate.keepouts": [],
    }
    for path, value in changes.items():
        version = caller.call("GET", f"/api/jobs/{job}")["version"]
        change = {"version": version, "path": f"route.setups.0.{path}", "value": value}
        caller.call("PATCH", f"/api/jobs/{job}/fields", change)
    run = caller.call("POST", f"/api/jobs/{job}/runs")["run"]["id"]
    while caller.call("GET", f"/api/runs/{run}")["run"]["status"] in ("queued", "running"):
        time.sleep(0.5)
    return job


class _Bench:
    """A planner before the plate."""

    def __init__(self, address: str) -> None:
        self.address, self.driver = address, _chrome()

    def sign_in(self) -> None:
        self.driver.get(self.address)
        self._wait("document.querySelectorAll('button').length > 3")
        self._do(
            "[...document.querySelectorAll('button')].find(b =>"
            f" b.innerText.includes({DEMO_PEOPLE[0].name!r})).click()"
        )
        self._wait("document.querySelector('nav[aria-label=Main]')")

    def measured(self, job: str) -> Iterator[Line]:
        self.driver.get(f"{self.address}/jobs/{job}/layout")
        self._wait("document.querySelectorAll('[data-station]').length > 20")
        time.sleep(3)
        count, middle, beside = self._do(_LOOK)
        said = f"{count} stations"
        self._remove(beside)  # a row is filled before others are moved: they would stand in its way
        _, middle, _ = self._do(_LOOK)
        back = ("Control", "z")
        yield self._frames(f"{said}, a row filled", lambda: self._keys(middle, "r"), 5, back)
        yield self._frames(f"{said}, one dragged", lambda: self._drag(middle), 4)
        yield self._frames(f"{said}, one nudged", lambda: self._keys(middle, "Shift", "Right"), 8)
        yield self._frames(f"{said}, one locked", lambda: self._keys(middle, "l"), 8)

    def _frames(
        self, what: str, act: Callable[[], None], times: int, back: tuple[str, ...] = ()
    ) -> Line:
        spans: list[float] = []
        answers: list[float] = []
        for _ in range(times):
            self._do(_RECORD)
            act()
            self._saved()
            time.sleep(1.2)
            at, took = self._do(_RECORDED)
            spans += [after - before for before, after in pairwise(at)]
            answers += took
            if back:
                self._press(*back)
                self._saved()
        if len(answers) < times:  # smooth frames of nothing would be praised
            raise RuntimeError(f"{what}: stored {len(answers)} times of {times}")
        steady = sum(span < _MOST_MS for span in spans) / len(spans)
        slow = statistics.quantiles(spans, n=100)[-1]
        answered = statistics.median(answers)
        remark = (
            f"{len(spans)} frames, one in a hundred over {slow:.0f} ms; answered in"
            f" {answered:.0f} ms"
        )
        return (f"frames within 20 ms: {what}", f"{100 * steady:.0f} %", "95 %", remark)

    def _drag(self, number: str) -> None:
        acts = self._acts().move_to_element(self._station(number)).click_and_hold()
        for step in range(45):  # not all round: it comes to stand elsewhere
            turn = 2 * math.pi * step / 60
            acts.move_by_offset(round(4 * math.cos(turn)), round(4 * math.sin(turn)))
        acts.release().perform()

    def _keys(self, number: str, *keys: str) -> None:
        self._acts().click(self._station(number)).perform()
        self._press(*keys)

    def _press(self, *keys: str) -> None:
        from selenium.webdriver.common.keys import Keys

        held = {"Shift": Keys.SHIFT, "Control": Keys.CONTROL, "Right": Keys.ARROW_RIGHT}
        *down, last = (held.get(key, key) for key in keys)
        acts = self._acts()
        for key in down:
            acts.key_down(key)
        acts.send_keys(last)
        for key in down:
            acts.key_up(key)
        acts.perform()

    def _remove(self, numbers: list[str]) -> None:
        from selenium.webdriver.common.keys import Keys

        acts = self._acts().click(self._station(numbers[0])).key_down(Keys.SHIFT)
        for number in numbers[1:]:
            acts.click(self._station(number))
        acts.key_up(Keys.SHIFT).send_keys(Keys.DELETE).perform()
        self._saved()

    def _acts(self) -> ActionChains:
        from selenium.webdriver.common.action_chains import ActionChains

        return ActionChains(self.driver, duration=16)

    def _station(self, number: str) -> Any:
        return self.driver.find_element("css selector", f"[data-station='{number}']")

    def _saved(self) -> None:
        self._wait("document.querySelector('[data-testid=saved]').textContent.startsWith('Saved')")

    def _do(self, script: str) -> Any:
        return self.driver.execute_script(script)

    def _wait(self, condition: str) -> None:
        for _ in range(600):
            if self._do(f"return Boolean({condition})"):
                return
            time.sleep(0.1)
        raise RuntimeError(f"the page never came to {condition}")


def _chrome() -> Chrome:
    from selenium import webdriver

    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in ("--headless=new", "--no-sandbox", "--window-size=1280,800"):
        options.add_argument(flag)
    return webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )
