"""The whole application, and a browser in front of it."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from tests.installation import Installation


@pytest.fixture(scope="module")
def shop() -> Iterator[Installation]:
    made = Installation()
    try:
        made.start()
        yield made
    finally:
        made.remove()


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
