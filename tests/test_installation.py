"""A shop of one's own: its first password, starting twice, and what a killed supervisor leaves
behind.
"""

from __future__ import annotations

import http.cookiejar
import json
import subprocess
import sys
import time
import urllib.request
from urllib.error import HTTPError

from tests.hardship import Hardship, on_a_small_disk
from tests.installation import Installation


def _sign_in(shop: Installation, name: str, password: str) -> tuple[int, dict]:
    opener = urllib.request.build_opener(
        urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar())
    )
    state = json.load(opener.open(f"{shop.address}/api/session"))
    headers = {"Content-Type": "application/json", "X-CSRFToken": state["csrf_token"]}
    body = json.dumps({"sign_in": name, "password": password}).encode()
    try:
        opener.open(urllib.request.Request(f"{shop.address}/api/session", body, headers))
    except HTTPError as error:
        return error.code, state
    return 200, json.load(opener.open(f"{shop.address}/api/jobs")) | state


def test_a_real_shop_asks_for_the_first_password_once_and_ships_none():
    shop = Installation("--real", typed="a password typed once\n")
    try:
        shop.start()
        status, state = _sign_in(shop, "admin", "a password typed once")
        assert status == 200
        assert (state["jobs"], state["demo_accounts"], state["needs_admin"]) == ([], [], False)
        assert _sign_in(shop, "admin", "salt-marsh-admin")[0] == 401
        second = shop.launch()
        assert second.wait(30) == 1
        assert "already serves" in second.stderr.read()
        shop.stop()
        assert not shop.answers()
        shop.start()  # nothing is asked again: what is typed now changes nothing
        assert _sign_in(shop, "admin", "a password typed once")[0] == 200
        shop.process.kill()
        shop.process = None
        for _ in range(150):
            if not shop.answers():
                break
            time.sleep(0.1)
        assert not shop.answers(), "the web process outlived its supervisor"
    finally:
        shop.remove()


def test_hard_times_lose_nothing_and_it_always_says_that_it_lives():
    """Each kind of them once; ``tests.hardship`` goes on for an hour."""
    shop = Installation()
    mounted = on_a_small_disk(shop)
    try:
        shop.start()
        hard = Hardship(shop, seed=1, patience=8)
        for disturb in Hardship.KINDS:
            hard.step(disturb)
            time.sleep(1)
        said = hard.finish()
        assert hard.edits >= 5, said
        assert hard.files >= 1, said
    finally:
        shop.remove()
        if mounted:
            subprocess.run(["umount", "-l", str(shop.state)], check=False)


def test_pages_are_served_before_the_engine_is_loaded():
    """Loading it takes a second or more; a process that did so while it serves would keep everyone
    waiting.
    """
    code = (
        "import sys, wedgecraft.api.app; print(*sorted({'numba', 'scipy', 'highspy', 'ezdxf',"
        " 'svgelements'} & set(sys.modules)))"
    )
    assert (
        subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        ).stdout.split()
        == []
    )


def test_no_real_shop_with_a_short_password_beside_the_demo_or_on_the_open_network():
    shop = Installation("--real", typed="short\n")
    wide = Installation("--host", "0.0.0.0")
    demo = Installation()
    try:
        demo.start()
        demo.stop()
        demo._options = ("--real",)
        process = demo.launch()
        assert process.wait(60) == 1
        assert "whose passwords everybody knows" in process.stderr.read()
        assert not demo.database().running
        process = shop.launch()
        assert process.wait(60) == 1
        assert "at least 10 characters" in process.stderr.read()
        process = wide.launch()
        assert process.wait(30) == 2
        assert "TLS" in process.stderr.read()
    finally:
        for installation in (shop, wide, demo):
            installation.remove()
