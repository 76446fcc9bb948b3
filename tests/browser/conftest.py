"""The whole application, and a browser in front of it."""

from __future__ import annotations

import atexit
import fcntl
import shutil
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from tests.installation import Installation


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> Path:
    """The state folder of a demo shop that stands still, with every job planned: made once, copied
    for each file of tests.

    Tests that run side by side share it: the first to need it makes it, the others wait; it goes
    with the last of them.
    """
    shared = tmp_path_factory.getbasetemp()
    note = (shared if worker_id == "master" else shared.parent) / "demo-shop"
    with note.open("a+") as written:
        fcntl.flock(written, fcntl.LOCK_EX)
        written.seek(0)
        known = written.read()
        if known:
            return Path(known)
        made = Installation()
        if worker_id == "master":
            atexit.register(shutil.rmtree, made.state, ignore_errors=True)
        try:
            made.start()
            asked = made.person("planner")
            while not all(job["parts_per_cycle"] for job in asked.call("GET", "/api/jobs")["jobs"]):
                time.sleep(1)
            made.stop()
            made.database().stop()
        except BaseException:
            made.remove()
            raise
        written.write(str(made.state))
        return made.state


@pytest.fixture(scope="module")
def shop(demo: Path) -> Iterator[Installation]:
    made = Installation("--plans-at-once", "1", like=demo)  # half the libraries to load
    try:
        made.start()
        yield made
    finally:
        made.remove()


@pytest.fixture(scope="session")
def chrome() -> Iterator[webdriver.Chrome]:
    """One for all tests of a process: starting it costs as much as a test."""
    profile = tempfile.mkdtemp(prefix="wedgecraft-browser-")
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (
        "--headless=new",
        "--no-sandbox",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-dev-shm-usage",
        "--disable-component-update",
        "--disable-sync",
        "--window-size=1280,800",
        f"--user-data-dir={profile}",
    ):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )
    driver.downloads = Path(profile) / "downloads"
    yield driver
    driver.quit()
    shutil.rmtree(profile, ignore_errors=True)


@pytest.fixture
def browser(chrome: webdriver.Chrome) -> webdriver.Chrome:
    """As if it were new: one empty tab of 1280 x 800, nothing kept, no downloads."""
    chrome.switch_to.new_window("tab")
    ours = chrome.current_window_handle
    for other in chrome.window_handles:
        if other != ours:
            chrome.switch_to.window(other)
            chrome.close()
    chrome.switch_to.window(ours)
    chrome.execute_cdp_cmd("Network.clearBrowserCookies", {})
    chrome.execute_cdp_cmd("Network.clearBrowserCache", {})
    shutil.rmtree(chrome.downloads, ignore_errors=True)
    chrome.downloads.mkdir()
    chrome.execute_cdp_cmd(
        "Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(chrome.downloads)}
    )
    size = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    chrome.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    chrome.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})
    chrome.get_log("browser")
    return chrome
