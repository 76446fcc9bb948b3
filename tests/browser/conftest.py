"""The whole application in its own state folder, and a browser in front of it."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from wedgecraft.store.cluster import Cluster


class Installation:
    """``wedgecraft up`` on a free port; can be stopped and started again, as a shop would."""

    def __init__(self) -> None:
        self.state = Path(tempfile.mkdtemp(prefix="wedgecraft-shop-"))
        self.state.chmod(0o755)
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.address = f"http://127.0.0.1:{self.port}"
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "wedgecraft.cli", "up", "--port", str(self.port)],
            env=os.environ | {"WEDGECRAFT_STATE": str(self.state)}, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        for _ in range(600):
            try:
                with urllib.request.urlopen(f"{self.address}/api/ready", timeout=2):
                    return
            except OSError:
                time.sleep(0.1)
        raise AssertionError((self.state / "wedgecraft.log").read_text()[-3000:])

    def stop(self) -> None:
        if self._process is not None:
            self._process.send_signal(signal.SIGTERM)
            assert self._process.wait(40) == 0
            self._process = None

    def database(self) -> Cluster:
        return Cluster(self.state / "postgres")


@pytest.fixture(scope="module")
def shop() -> Iterator[Installation]:
    made = Installation()
    try:
        made.start()
        yield made
    finally:
        made.stop()
        shutil.rmtree(made.state, ignore_errors=True)


@pytest.fixture
def browser() -> Iterator[webdriver.Chrome]:
    profile = tempfile.mkdtemp(prefix="wedgecraft-browser-")
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (
        "--headless=new", "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-dev-shm-usage",
        "--disable-component-update", "--disable-sync", "--window-size=1280,800", f"--user-data-dir={profile}",
    ):  # fmt: skip
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    options.add_experimental_option("prefs", {"download.default_directory": profile})
    driver = webdriver.Chrome(options=options, service=webdriver.ChromeService("/usr/bin/chromedriver"))
    driver.downloads = Path(profile)
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    )
    yield driver
    driver.quit()
    shutil.rmtree(profile, ignore_errors=True)
