"""To the machine and back: a stranger's file goes all the way, a tablet loses nothing, and what two
weeks showed is seen and taken over.
"""

from __future__ import annotations

import io
import os
import signal
import subprocess
import sys
import threading
import time
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from pypdf import PdfReader
from selenium.webdriver.common.keys import Keys

from tests.browser.test_journeys import Hands, hands  # noqa: F401
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.program.envelope import envelope_text, tool_numbers
from wedgecraft.core.records.job import JobDocument
from wedgecraft.core.records.tool import Holder, Tool
from wedgecraft.devices.control import Agent, run_cycle, serve
from wedgecraft.devices.wrench import Wrench

pytestmark = pytest.mark.browser
PARTS = Path(__file__).parents[1] / "parts"


def _fetched(hands: Hands, href: str) -> bytes:  # noqa: F811
    numbers = hands.driver.execute_async_script(
        "const done = arguments[1]; fetch(arguments[0]).then((a) => a.arrayBuffer())"
        ".then((b) => done(Array.from(new Uint8Array(b))))",
        href,
    )
    return bytes(numbers)


def _tools_of(document: JobDocument) -> list[dict]:
    """The first setup's cutters, as a shop has them in its machine: with holder and reach."""
    asked = planned_setup(document, 1)
    machine = document.route.setups[0].machine
    holder = Holder(
        name="Collet chuck", nose_diameter_mm=32, body_diameter_mm=50, gauge_length_mm=70
    )
    found = {}
    for kind in asked.kinds:
        numbers = tool_numbers(kind.sitting.cuts, machine)
        for cut, number in zip(kind.sitting.cuts, numbers, strict=True):
            reach = max(cut.tool.reach_mm, cut.tool.flute_length_mm + 20)
            cutter = cut.tool.model_copy(update={"reach_mm": reach})
            found[number] = Tool(number=number, cutter=cutter, holder=holder)
    return [tool.model_dump(mode="json") for tool in found.values()]


def test_a_planner_takes_a_strangers_file_to_the_machine_and_back(hands, shop, tmp_path):  # noqa: F811
    """From a STEP file and one op's NC to drawings, an accepted program, a sheet, a run, a log, and
    a value that is taken over.
    """
    hands.press("New job")
    hands.one("input[name=part]").send_keys(str(PARTS / "flange_bush.step"))
    hands.wait(lambda: hands.button("flange_bush.step").is_enabled())
    hands.choose("Material", "Aluminium 6061")
    hands.enter("quantity", "300")
    hands.wait(lambda: hands.button("Draft it").is_enabled())
    hands.press("Draft it")
    hands.wait(lambda: hands.count() >= 2 and hands.text("[data-testid=plan]") == "Plan", 120)
    here = hands.driver.current_url.split("/layout")[0]
    ident = here.rsplit("/", 1)[1]
    # the shop's machine has its tools described; the op's program is written
    planner = shop.person("planner")
    state = planner.call("GET", f"/api/jobs/{ident}")
    document = JobDocument.model_validate(
        {**state["document"], "result": state["latest"]["result"]}
    )
    for field, value in (
        ("tools", _tools_of(document)), ("middle_x_mm", -380), ("middle_y_mm", -230),
        ("middle_z_mm", -600), ("rate_an_hour", 60),
    ):  # fmt: skip
        given = {"version": state["version"], "path": f"route.setups.0.machine.{field}"}
        state = planner.call("PATCH", f"/api/jobs/{ident}/fields", given | {"value": value})
    hands.driver.get(f"{here}/layout")
    hands.plan()
    state = planner.call("GET", f"/api/jobs/{ident}")
    document = JobDocument.model_validate(
        {**state["document"], "result": state["latest"]["result"]}
    )
    asked = planned_setup(document, 1)
    nc = tmp_path / "op10.nc"
    nc.write_text(envelope_text(asked.kinds[0], document.route.setups[0].machine))
    # drawings of what has to be made
    made = next(n for n, item in enumerate(document.result.setups, 1) if item.making.pieces)
    hands.driver.get(f"{here}/make?setup={made}")
    pack = zipfile.ZipFile(
        io.BytesIO(_fetched(hands, hands.one("[data-testid=all-files]").get_attribute("href")))
    )
    assert {name.rsplit(".", 1)[-1] for name in pack.namelist()} >= {"pdf", "dxf", "step", "json"}
    # one program for the whole setup, tried and accepted
    hands.driver.get(f"{here}/program")
    hands.one("input[type=file]").send_keys(str(nc))
    hands.wait(lambda: hands.all("[data-testid=findings] svg.state"))
    hands.reads("body", "Accepted")
    # the sheet to hand to a setter
    hands.driver.get(f"{here}/sheet")
    hands.says("accepted by the stand-in")
    link = next(a for a in hands.all(".sheet-page a") if a.text.startswith("Print"))
    pages = PdfReader(io.BytesIO(_fetched(hands, link.get_attribute("href")))).pages
    assert "flange bush, setup 1" in pages[0].extract_text()
    # how it runs: the program's own seconds
    hands.driver.get(f"{here}/run")
    before = int(hands.text("[data-testid=run-head] .big"))
    assert before > 0
    hands.reads("[data-testid=days]", "by program", "cuts")
    hands.wait(lambda: hands.all("[data-testid=worth] tbody tr"))
    # at the tablet, one cycle, with one part that is no good
    hands.driver.get(f"{here}/tablet?setup=1")
    hands.press("All loaded, it runs")
    hands.driver.refresh()  # it goes on where it was
    hands.press("The cycle ended")
    hands.press("1")
    hands.press("1 scrapped, next")
    hands.reads("[data-testid=kept]", "Everything is written down")
    # and a week of loading, from a table
    parts = sum(len(asked.design.kinds[s.kind].drawing.places) for s in asked.design.stations)
    load_s = asked.design.cycle.loading_seconds
    table = tmp_path / "week.csv"
    rows = [
        f"2026-03-0{2 + k // 4}T{7 + k % 4:02d}:00:00Z,load,1,{load_s * f:.0f},{parts}"
        for k, f in enumerate([1.5, 1.52, 1.54, 1.5] * 5)
    ]
    table.write_text("\n".join(["at,kind,setup,seconds,parts", *rows]))
    hands.driver.get(f"{here}/log")
    hands.one("input[name=log]").send_keys(str(table))
    hands.reads("[data-testid=file-read]", "20 new, 0 known already")
    hands.reads("[data-testid=learned]", "Handling a part", "contradicted")
    hands.press("What it changes")
    hands.reads("[data-testid=effect]", "flange bush", "a day becomes")
    hands.press("Adopt")
    hands.reads("[data-testid=adopted]", "took over", "measured, n = ")
    value = planner.call("GET", f"/api/jobs/{ident}")["document"]["job"]["rules"]
    assert 58 < value["handling_seconds"] < 64
    hands.press("Take back")
    hands.reads("[data-testid=adopted]", "taken back")
    assert hands.quiet_console() == []


def test_a_setters_tablet_without_a_network_keeps_everything_and_hands_it_over_once(hands, shop):  # noqa: F811
    planner = shop.person("planner")
    jobs = {job["name"]: job["id"] for job in planner.call("GET", "/api/jobs")["jobs"]}
    ident = jobs["Gauge-well collar"]
    before = {entry["id"] for entry in planner.call("GET", f"/api/jobs/{ident}/log")["entries"]}
    hands.driver.get(f"{hands.address}/jobs/{ident}/tablet?setup=1")
    hands.wait(lambda: hands.button("All loaded, it runs"))
    away = {"offline": True, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
    hands.driver.execute_cdp_cmd("Network.enable", {})
    hands.driver.execute_cdp_cmd("Network.emulateNetworkConditions", away)
    hands.press("All loaded, it runs")
    hands.press("Something’s off")
    hands.press("It goes on: chips in the way")
    hands.press("The cycle ended")
    hands.press("All good, next")
    hands.reads("h1", "Load")
    hands.reads("[data-testid=kept]", "3 entries wait for the network and are kept here")
    sizes = hands.driver.execute_script(
        "return [...document.querySelectorAll('.tablet button')].map((b) => b.offsetHeight)"
    )
    assert min(sizes) >= 44
    hands.driver.execute_cdp_cmd("Network.emulateNetworkConditions", away | {"offline": False})
    hands.driver.refresh()  # a page that was closed: the browser kept them
    hands.wait(lambda: hands.text("[data-testid=kept]") == "Everything is written down")
    page = planner.call("GET", f"/api/jobs/{ident}/log")
    new = [entry["kind"] for entry in page["entries"] if entry["id"] not in before]
    assert sorted(new) == ["cycle", "load", "stop"]


def test_two_weeks_show_the_bad_pocket_and_the_fixture_is_found_by_its_number(hands):  # noqa: F811
    hands.open("Manifold block, by the pallet", "log")
    hands.reads("[data-testid=log-head]", "complete of 4800 wanted")
    hands.says("Station 17 of setup 1 stands out")
    hands.reads("[data-testid=pockets] .chart", "17")  # of fifty, only the one that stands out
    rows = {
        row.text.split("\n")[0]: row.text for row in hands.all("[data-testid=learned] tbody tr")
    }
    assert "left out: " in next(text for text in rows.values() if text.startswith("Handling"))
    assert hands.all("[data-testid=against] tbody tr")
    hands.one("input[name='log.seconds']").send_keys("3200")
    hands.one("input[name='log.good']").send_keys("50")
    hands.press("Write it down")
    hands.reads("[data-testid=entries]", "Cycle 53:20, 50 good")
    hands.one(".strip a[href*='/sheet']").click()
    hands.press("Made: put it on the shelf")
    hands.says("is on the shelf")
    hands.driver.get(f"{hands.address}/shelf")
    find = hands.one("input[name=find]")
    find.send_keys(f"{hands.address}/shelf/F-001", Keys.ENTER)  # as a scanner types it
    hands.says("Picked up")
    hands.enter("place", "rack 3")
    hands.press("Write it down")
    hands.says("lies at rack 3")
    hands.driver.get(f"{hands.address}/today")
    hands.says("Station 17 of setup 1 stands out")
    time.sleep(0.2)
    assert hands.quiet_console() == []


def test_a_control_a_wrench_and_a_gauge_are_heard_and_handed_over(shop, tmp_path):
    """By the command, as it runs beside a machine; the service away in between."""
    planner = shop.person("planner")
    jobs = {job["name"]: job["id"] for job in planner.call("GET", "/api/jobs")["jobs"]}
    ident = jobs["Anchor lug"]
    start = datetime(2026, 3, 2, 7, tzinfo=UTC)
    agent, wrench = Agent(), Wrench()
    server = serve(agent)
    agent.put("parts", "0", start)
    made = run_cycle(agent, 7, start, start + timedelta(minutes=20), 0)
    gauge = tmp_path / "gauge.csv"
    gauge.write_text(
        "at,kind,station,feature,off_mm,by\n2026-03-02T07:30:00Z,measure,2,Pin hole,0.004,gauge\n"
    )

    def listen(address, *more):
        given = [
            "--server", address, "--sign-in", "planner", "--password", "salt-marsh-planner",
            "--control", f"http://127.0.0.1:{server.server_address[1]}",
            "--table", str(gauge), "--outbox", str(tmp_path / "out.jsonl"), "--once", *more,
        ]  # fmt: skip
        command = [sys.executable, "-m", "wedgecraft.cli", "listen", ident, *given]
        return subprocess.run(command, capture_output=True, text=True, timeout=120)

    gone = listen("http://127.0.0.1:9")
    assert (gone.returncode, "2 wait in" in gone.stderr) == (1, True)
    here = listen(shop.address)
    assert (here.returncode, here.stderr) == (0, "")
    run_cycle(agent, 7, start + timedelta(hours=1), start + timedelta(hours=2), made)
    assert listen(shop.address, "--wrench", f"127.0.0.1:{wrench.port}").returncode == 0
    server.shutdown()
    wrench.close()
    page = planner.call("GET", f"/api/jobs/{ident}/log?most=10000")
    own = [e for e in page["entries"] if e["at"].startswith("2026-03-02")]
    heard = sorted((e["kind"], e["by"], e.get("seconds"), e.get("good")) for e in own)
    assert heard == [
        ("cycle", "control", 1200, 7),
        ("cycle", "control", 3600, 7),
        ("measure", "gauge", None, None),
    ]
    wrong = listen(shop.address, "--wrench", "nowhere")
    assert (wrong.returncode, "a host and a port" in wrong.stderr) == (2, True)


def test_an_owner_changes_what_a_run_is_reckoned_with_and_takes_it_back(hands):  # noqa: F811
    """Half the people's time elsewhere: fewer a day, the same design; a rate: the money; undone."""
    hands.open("Float-arm hub", "run")
    head = "[data-testid=run-head]"
    hands.reads(head, "complete parts a working day")
    before, money = hands.text(head), hands.text("[data-testid=money]")
    hands.set("running.elsewhere", "0.8")
    hands.wait(lambda: hands.text(head) not in ("", before))
    assert int(hands.text(head).split()[0]) < int(before.split()[0])
    assert not hands.all(".stale")  # the design still stands
    hands.press("Undo")
    hands.wait(lambda: hands.text(head) == before)
    assert hands.value("running.elsewhere") == "0"
    hands.set("running.blank_price", "3.5")
    hands.wait(lambda: "Blanks" in hands.text("[data-testid=money]"))
    assert "Blanks" not in money
    hands.press("Undo")
    hands.wait(lambda: "Blanks" not in hands.text("[data-testid=money]"))
    assert hands.quiet_console() == []


def test_a_view_that_fails_is_said_in_its_place_and_the_others_live(hands):  # noqa: F811
    """An answer that is nothing like one; an address that leads nowhere; titles of pages."""
    hands.driver.get(f"{hands.address}/nothing/here")
    hands.says("There is nothing at /nothing/here")
    hands.open("Anchor lug", "layout")
    hands.wait(lambda: hands.driver.title == "Layout: Anchor lug · Wedgecraft")
    hands.driver.execute_script(
        "const fetched = window.fetch; window.fetch = (url, ...more) =>"
        " String(url.url ?? url).includes('/running')"
        " ? Promise.resolve(new Response('{\"stages\": 7}', {status: 200,"
        " headers: {'Content-Type': 'application/json'}})) : fetched(url, ...more);"
    )
    hands.one(".strip a[href*='/run']").click()
    hands.says("This view failed")
    assert hands.driver.title == "Run: Anchor lug · Wedgecraft"
    hands.one(".strip a[href*='/hold']").click()
    hands.wait(lambda: "This view failed" not in hands.text("body"))
    hands.says("Hold")


def test_a_table_that_a_killed_service_was_taking_comes_in_once(shop):
    """Both web processes are killed while rows go in; sent again, every row counts, and once."""
    planner = shop.person("planner")
    jobs = {job["name"]: job["id"] for job in planner.call("GET", "/api/jobs")["jobs"]}
    here = f"/api/jobs/{jobs['Vane yoke']}/log"
    before = planner.call("GET", f"{here}?most=1")["total"]
    start = datetime(2025, 6, 2, 7, tzinfo=UTC)
    rows = ["at,kind,seconds,parts"] + [
        f"{(start + timedelta(minutes=k)).isoformat()},load,{600 + k % 7},13" for k in range(8000)
    ]
    table = "\n".join(rows).encode()
    answers = []

    def send():
        try:
            answers.append(planner.send(f"{here}/file", "log.csv", table))
        except OSError as error:
            answers.append(error)

    sending = threading.Thread(target=send)
    sending.start()
    time.sleep(0.6)
    with shop.unwatched():
        for pid, command in shop.children():
            if "wedgecraft.cli serve" in command:
                os.kill(pid, signal.SIGKILL)
    sending.join(90)
    assert answers
    assert answers[0] != 200
    for _ in range(60):
        try:
            if planner.send(f"{here}/file", "log.csv", table) == 200:
                break
        except OSError:
            pass
        time.sleep(1)
    assert planner.call("GET", f"{here}?most=1")["total"] == before + 8000
    assert planner.send(f"{here}/file", "log.csv", table) == 200
    assert planner.call("GET", f"{here}?most=1")["total"] == before + 8000
