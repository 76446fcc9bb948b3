"""Every view: nothing scrolls sideways, everything has a name, every number answers where it comes
from, and people do not lose work.
"""

from __future__ import annotations

import base64
import io
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from pypdf import PdfReader
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.test_journeys import CUT, ZONE, Hands, hands  # noqa: F401
from tests.installation import Caller
from tests.test_docs import code_of

pytestmark = pytest.mark.browser

STEPS = (
    "part",
    "part?show=stock",
    "part?show=features",
    "cuts",
    "cuts?show=setups",
    "method",
    "layout",
    "hold",
    "locate",
    "make",
    "program",
    "run",
    "sheet",
    "log",
)
PARTS = Path(__file__).parents[1] / "parts"
THEME = Path(__file__).parents[2] / "web/src/ui/theme.ts"


def _escape(hands: Hands) -> None:  # noqa: F811
    hands.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    hands.wait(lambda: not hands.all("[data-testid=where-from]"))


@pytest.mark.parametrize(
    ("step", "least"), [("cuts", 7), ("layout", 12), ("hold", 5), ("locate", 5)]
)
def test_every_figure_answers_where_it_comes_from(hands, step, least):  # noqa: F811
    hands.open("Manifold block, 8-port", step)
    hands.wait(lambda: len(hands.all("[data-figure]")) >= least)
    seen = set()
    for number in range(len(hands.all("[data-figure]"))):
        figure = hands.all("[data-figure]")[number]
        key = (figure.get_attribute("data-figure"), figure.get_attribute("aria-label"))
        if key in seen or len(seen) > 11:
            continue
        seen.add(key)
        hands.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", figure)
        figure.click()
        hands.wait(lambda: "Source: " in hands.text("[data-testid=where-from]"))
        said = hands.text("[data-testid=where-from]")
        assert len(said.splitlines()) >= 3, key
        _escape(hands)
    assert len(seen) >= min(least, 4)


#: A metric quantity in a sentence; what is said a metre has no usual counterpart, and some say
#: both: "23 kg (51 lb)".
METRIC = re.compile(r"(?<![\w.])\d[\d.]*\s(?:mm|N·m|N|kg|K|MPa|kPa|kW)(?![\w²/·]| a metre| \(\d)")


def _metric(hands: Hands, names: list[str]) -> list[str]:  # noqa: F811
    """Quantities on screen and in its hints that are not in inches and pounds; names stay as they
    were given.
    """
    hints = hands.driver.execute_script(
        "return [...document.querySelectorAll('main [title], .bench [title]')].map((e) =>"
        " e.title).join('\\n')"
    )
    seen = hands.text("body") + "\n" + hints
    for name in names:
        seen = seen.replace(name, "")
    return [line for line in seen.splitlines() if METRIC.search(line.replace("\u00a0", " "))]


def _names(node: object) -> list[str]:
    if isinstance(node, dict):
        own = [value for key, value in node.items() if key == "name" and isinstance(value, str)]
        return own + [name for value in node.values() for name in _names(value)]
    return [name for value in node for name in _names(value)] if isinstance(node, list) else []


def _tabs(hands: Hands, ready: str) -> Iterator[str]:  # noqa: F811
    """Each tab of a step in turn, once it is open."""
    hands.one(ready)
    for name in [tab.text for tab in hands.all("[role=tab]")]:

        def opened(name: str = name) -> bool:
            tab = next(item for item in hands.all("[role=tab]") if item.text == name)
            if tab.get_attribute("aria-selected") != "true":
                tab.click()
            return tab.get_attribute("aria-selected") == "true" and "Adding up" not in hands.text(
                "body"
            )

        hands.wait(opened)
        yield name


def test_sentences_too_speak_a_readers_inches(hands, shop):  # noqa: F811
    hands.open("Manifold block, 8-port", "locate")
    job = hands.driver.current_url.split("/jobs/")[1].split("/")[0]
    person = shop.person("planner")
    given = [
        person.call("GET", f"/api/jobs/{job}")["document"],
        person.call("GET", "/api/catalogue"),
    ]
    names = sorted(_names(given), key=len, reverse=True)
    assert any(METRIC.search(name) for name in names)  # one of the features is named by its height
    hands.press("mm · N·m")
    hands.says("in · in·lb")
    try:
        for tab in _tabs(hands, "[data-testid=verdict-grid]"):
            assert _metric(hands, names) == [], tab
        hands.press("5\nHold")
        for tab in _tabs(hands, "[data-testid=contacts]"):
            assert _metric(hands, names) == [], tab
        hands.press("4\nLayout")
        hands.wait(lambda: hands.count() > 0)
        assert _metric(hands, names) == []
        # A refusal: less than the machine itself is good for is said first, in thousandths; and it
        # is undone.
        hands.set("job.parts.0.features.0.tolerance_mm", "0.0002")
        hands.one("[data-testid=plan]").click()
        hands.says("within 0.0002 in is less than the machine itself is good for")
        hands.says("at least 0.0")
        assert _metric(hands, names) == []
        hands.press("6\nLocate")
        hands.says("judged as if a station stood at the datum")
        hands.press("4\nLayout")
        hands.press("Undo")
        hands.plan()
        assert hands.count() > 0
    finally:
        hands.press("in · in·lb")
        hands.says("mm · N·m")


def test_a_newcomer_with_a_file_and_no_help_has_a_printed_layout_in_inches(hands, shop):  # noqa: F811
    """From signing in to paper: a file, a material and a quantity; a limit moved on its own row;
    every step and the shop read in inches, pounds, psi and horsepower.
    """
    hands.press("mm · N·m")
    hands.says("in · in·lb")
    try:
        hands.press("New job")
        hands.one("input[name=part]").send_keys(str(PARTS / "flange_bush.step"))
        hands.wait(lambda: hands.button("flange_bush.step").is_enabled())
        hands.choose("Material", "Aluminium 6061")
        hands.enter("quantity", "120")
        hands.press("Draft it")
        hands.wait(lambda: hands.count() >= 2 and hands.text("[data-testid=plan]") == "Plan", 120)
        job = hands.driver.current_url.split("/jobs/")[1].split("/")[0]
        planner = shop.person("planner")
        state = planner.call("GET", f"/api/jobs/{job}")
        given = [state["document"], planner.call("GET", "/api/catalogue")]
        names = sorted(_names(given), key=len, reverse=True)
        # On the row of a limit: what moves it, in inches, stored in the document's unit.
        field = hands.one("[data-limit=face_room] input")
        place = field.get_attribute("name")
        hands.set(place, "0.15")
        stored = planner.call("GET", f"/api/jobs/{job}")["document"]
        for step in place.split("."):
            stored = stored[int(step) if isinstance(stored, list) else step]
        assert stored == pytest.approx(3.81)
        hands.plan()
        assert hands.count() > 0
        printed = hands.driver.execute_cdp_cmd("Page.printToPDF", {})["data"]
        pages = PdfReader(io.BytesIO(base64.b64decode(printed))).pages
        said = " ".join(" ".join(page.extract_text() for page in pages).split())
        assert [word for word in ("X (in)", "in·lb", "Of its tolerance") if word not in said] == []
        for step in ("cuts", "method", "layout", "hold", "locate", "make", "run", "sheet"):
            hands.driver.get(f"{hands.address}/jobs/{job}/{step}")
            hands.wait(lambda: not hands.all("[role=progressbar]"))
            hands.wait(lambda: hands.all("main svg, main table"))
            assert _metric(hands, names) == [], step
        # The shop's lists run to no more digits than an inch has; inch sizes are there.
        hands.driver.get(f"{hands.address}/shop?kind=plate")
        hands.says("Plate 16 x 14 x 1 in")
        cells = [cell.text for cell in hands.all(".MuiDataGrid-cell.mono")]
        assert "16" in cells
        assert [cell for cell in cells if re.search(r"\.\d{6}", cell)] == []
        assert hands.quiet_console() == []
    finally:
        hands.driver.get(f"{hands.address}/jobs")
        hands.press("in · in·lb")
        hands.says("mm · N·m")


SIZES = {
    "1280 x 800": (1280, 800, 1.0),
    "1280 x 800, zoomed by half": (853, 533, 1.5),
    "1920 x 1080": (1920, 1080, 1.0),
}


def test_no_view_scrolls_sideways(hands):  # noqa: F811
    too_wide = "return document.documentElement.scrollWidth - window.innerWidth"

    def fits(view: str) -> None:
        for size, (width, height, zoom) in SIZES.items():
            metrics = {"width": width, "height": height, "deviceScaleFactor": zoom, "mobile": False}
            hands.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
            hands.wait(
                lambda width=width: hands.driver.execute_script("return window.innerWidth") == width
            )
            try:
                hands.wait(
                    lambda: hands.driver.execute_script(too_wide) <= 0, 5
                )  # what measures itself does so a moment later
            except AssertionError:
                pytest.fail(
                    f"{view} at {size} is {hands.driver.execute_script(too_wide)} px too wide"
                )

    for step in STEPS:
        hands.open("Float-arm hub", step)
        hands.wait(lambda: hands.all("svg[role=img], svg[role=group], table, form, .form"))
        fits(step)
    for page in (
        "shop?kind=machine",
        "shop?kind=cutter",
        "shop?kind=rules",
        "jobs",
        "today",
        "shelf",
    ):
        hands.driver.get(f"{hands.address}/{page}")
        hands.wait(lambda: hands.all(".MuiDataGrid-row, .rules, table, .page p, .shelf"))
        fits(page)


AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
_WRONG = """axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa",
    "best-practice"]}).then((found) => arguments[0](found.violations.flatMap((rule) =>
    rule.nodes.slice(0, 3).map((node) => `${rule.id}: ${node.html.slice(0, 140)}`))));"""


#: Sentences that take more than two lines as they stand on screen.
_LONG = """return [...document.querySelectorAll('main p, .side p')]
    .filter((p) => p.checkVisibility())
    .filter((p) => { const range = document.createRange(); range.selectNodeContents(p);
        const drawn = [...range.getClientRects()].filter((r) => r.width);
        const tops = drawn.map((r) => r.top).sort((a, b) => a - b);
        return tops.filter((top, k) => !k || top - tops[k - 1] > 7).length > 2; })
    .map((p) => `${p.textContent.trim().slice(0, 90)}: more than two lines`);"""


@pytest.mark.parametrize("theme", ["Light", "Dark"])
def test_every_view_is_clean_by_the_open_rules_of_accessibility(hands, theme):  # noqa: F811
    """axe-core: names that hold what is read, contrast as drawn, heads of tables, roles, targets,
    what scrolls can be reached. And nothing said takes more than two lines.
    """
    if theme == "Dark":
        hands.press("Dark")
    job = hands.job("Gland plate")
    pages = ["jobs", "today", "shelf", "shop?kind=machine", "shop?kind=rules"]
    views = [f"jobs/{job}/{step}" for step in [*STEPS, "part?show=states", "tablet"]]
    wrong = {}
    try:
        for view in [*pages, *views]:
            hands.driver.get(f"{hands.address}/{view}")
            hands.wait(
                lambda: hands.all("main h1, header h1") and not hands.all("[role=progressbar]")
            )
            hands.wait(lambda: hands.all("main svg, main table, main form, main p"))
            hands.driver.execute_script(AXE.read_text())
            found = hands.driver.execute_async_script(_WRONG)
            found += hands.driver.execute_script(_LONG)
            if found:
                wrong[view] = found
    finally:
        if theme == "Dark":
            hands.driver.get(f"{hands.address}/jobs")
            hands.press("Light")
    assert wrong == {}, wrong


#: Reaches a chart as Tab does, and what it says of what one stands on then.
_REACH = """const chart = document.querySelector(arguments[0]);
    (chart.querySelector('[tabindex="0"]')).focus();"""
_SAYS = "return document.querySelector(arguments[0] + ' [id^=voiceover]')?.textContent ?? ''"
_CHARTS = [
    # Job, step, view, chart, keys to the right, what is said there.
    ("Vane yoke", "hold", "", "[data-testid=torque-window] .chart", 2, r"[\d.]+ N·m; factor \d"),
    ("Vane yoke", "hold", "", "[data-testid=polar]", 1, r"Pushing [\d.]+°; factor [\d.]+"),
    ("Vane yoke", "hold", "In a vise", "[data-testid=in-vise] .chart", 1, r"[\d.]+ mm; factor \d"),
    ("Vane yoke", "cuts", "", ".cut-detail .chart", 9, r"\d+°; \d+ N"),
    ("Vane yoke", "locate", "What adds up", "[data-testid=histogram]", 3, r"mm to .* mm: \d+ part"),
    ("Manifold block, by the pallet", "log", "", "[data-testid=pockets] .chart", 17,
     r"Station 17; 13 of 90 scrapped, stands out"),
]  # fmt: skip


def test_charts_are_walked_by_keys_and_say_each_value(hands):  # noqa: F811
    for job, step, view, chart, keys, said in _CHARTS:
        hands.open(job, step)
        if view:
            hands.press(view)
        hands.wait(lambda chart=chart: hands.all(f"{chart} [tabindex='0']"))
        hands.driver.execute_script(_REACH, chart)
        _keys(hands, *[Keys.ARROW_RIGHT] * keys)
        says = hands.wait(lambda chart=chart: hands.driver.execute_script(_SAYS, chart))
        assert re.search(said, says), (job, step, chart, says)
    # Parts of a whole: the ribbon of a cycle; its last piece is the loading.
    hands.open("Vane yoke", "layout")
    hands.wait(lambda: hands.all(".ribbon-line > li"))
    hands.driver.execute_script("document.querySelector('.ribbon-line [tabindex=\"0\"]').focus()")
    _keys(hands, Keys.END)
    assert hands.wait(lambda: hands.text("[role=tooltip]")).startswith("unload and load: ")


def test_by_keyboard_the_plate_is_near_tools_are_one_stop_and_focus_is_seen(hands):  # noqa: F811
    hands.open("Gland plate", "layout")
    hands.wait(lambda: hands.count() > 0)
    active = "return document.activeElement.getAttribute('data-testid')"
    # From the top of the page: the skip link, and from it the plate.
    hands.driver.execute_script("document.activeElement.blur(); window.scrollTo(0, 0)")
    _keys(hands, Keys.TAB)
    assert "Skip" in hands.driver.switch_to.active_element.text
    _keys(hands, Keys.ENTER)
    assert hands.driver.execute_script(active) == "plate"
    _keys(hands, Keys.ARROW_RIGHT)
    hands.reads("[data-testid=station-line]", "Station 1")
    # The row of tools before it is one stop; arrows go along it.
    _keys(hands, (Keys.SHIFT, Keys.TAB))
    first = hands.driver.switch_to.active_element
    assert hands.driver.execute_script("return arguments[0].closest('[role=toolbar]')", first)
    _keys(hands, Keys.END)
    assert hands.driver.switch_to.active_element.text.startswith("More")
    _keys(hands, Keys.ARROW_LEFT)
    assert hands.driver.switch_to.active_element.text.startswith("3-D")
    # Every tool that names a key has it in the list of keys, and is worked by it.
    named = {
        tool.get_attribute("aria-keyshortcuts")
        for tool in hands.all("[role=toolbar] [aria-keyshortcuts]")
    }
    assert len(named) >= 11
    _keys(hands, "1")
    hands.one("[data-testid=overlay-line]")
    _keys(hands, "?")
    listed = hands.text("[role=dialog]")
    assert all(re.search(rf"(^|[ ,\n]){key}([ ,\n]|$)", listed) for key in named)
    _keys(hands, Keys.ESCAPE)
    hands.wait(lambda: not hands.all("[role=dialog]"))
    # Whatever is focused is outlined, and not in the colour of its ground.
    for _ in range(6):
        _keys(hands, Keys.TAB)
        style, width, colour, ground = hands.driver.execute_script(
            """const e = document.activeElement, s = getComputedStyle(e);
               const under = (of) => getComputedStyle(of).backgroundColor;
               let g = e; while (g && under(g) === 'rgba(0, 0, 0, 0)') g = g.parentElement;
               return [s.outlineStyle, parseFloat(s.outlineWidth), s.outlineColor, under(g)];"""
        )
        assert (style, width >= 1, colour != ground) == ("solid", True, True), (
            hands.driver.switch_to.active_element.get_attribute("outerHTML")
        )


def _keys(hands: Hands, *pressed: str | tuple[str, str]) -> None:  # noqa: F811
    for key in pressed:
        acts = ActionChains(hands.driver)
        if isinstance(key, tuple):
            acts.key_down(key[0]).send_keys(key[1]).key_up(key[0])
        else:
            acts.send_keys(key)
        acts.perform()


def test_the_drawing_is_the_biggest_thing_whatever_is_said_beside_it(hands):  # noqa: F811
    """Six tenths of the height under the strip, with a design, with alternatives, with a station
    that stands wrong; and the faces fill it one way.
    """
    room = """const strip = document.querySelector(".strip").getBoundingClientRect();
      const under = innerHeight - strip.bottom;
      const plate = document.querySelector("svg[data-testid=plate]").getBoundingClientRect();
      const rects = [...document.querySelectorAll("svg[data-testid=plate] rect")];
      const boxes = rects.map((one) => one.getBoundingClientRect()).filter((one) => one.width > 99);
      const most = (side) => Math.max(...boxes.map((one) => one[side]));
      const least = (side) => Math.min(...boxes.map((one) => one[side]));
      return [plate.height / under, Math.max((most("right") - least("left")) / plate.width,
        (most("bottom") - least("top")) / plate.height)];"""
    for name in ("Manifold block, 8-port", "Manifold block, by the pallet"):
        hands.open(name, "layout")
        hands.wait(lambda: hands.count() > 0)
        share, filled = hands.driver.execute_script(room)
        assert (share >= 0.6, filled >= 0.83) == (True, True), (name, share, filled)
    hands.one("[data-testid=plate]").click()
    before = hands.driver.execute_script(room)
    _keys(hands, Keys.ARROW_RIGHT)
    hands.wait(lambda: hands.all("[data-testid=station-line]"))
    _keys(hands, "n")
    hands.says("stand wrong")
    after = hands.driver.execute_script(room)
    # No smaller; larger where the choice of designs went with the edit.
    assert after[0] >= before[0] - 0.01, (before, after)
    assert after[1] == pytest.approx(before[1], abs=0.01)
    hands.press("Undo")
    hands.wait(lambda: not hands.all(".wrong-line"))


PAPER = {"A4": (8.27, 11.69), "letter": (8.5, 11.0)}


def test_paper_holds_what_the_shop_floor_needs_and_nothing_of_the_screen(hands):  # noqa: F811
    """Each view printed as the browser prints it, on both papers, in black and white, and read back
    by another library: a table of every station, torque, tolerance used; no fields, no buttons.
    """
    job = hands.job("Manifold block, 8-port")
    holds = {
        "layout": ["Station", "Clamping factor", "Of its tolerance", "screw at", "Limits"],
        "hold": ["Contact", "needs 2", "edge clamp: 16"],
        "locate": ["What adds up", "Share", "Supply bore"],
        "run": ["complete parts a working day", "Money", "People at these machines: 1"],
    }
    for view, words in holds.items():
        hands.driver.get(f"{hands.address}/jobs/{job}/{view}")
        hands.wait(lambda: hands.all(".big") and not hands.all("[role=progressbar]"))
        hands.says("Tuning the program" if view == "run" else "Manifold block, 8-port")
        hands.wait(lambda view=view: view != "locate" or hands.all("[data-testid=stack]"))
        for paper, (width, height) in PAPER.items():
            given = {"paperWidth": width, "paperHeight": height, "printBackground": False}
            printed = hands.driver.execute_cdp_cmd("Page.printToPDF", given)["data"]
            pages = PdfReader(io.BytesIO(base64.b64decode(printed))).pages
            said = re.sub(r"\s+", " ", " ".join(page.extract_text() for page in pages))
            assert [word for word in words if word not in said] == [], (view, paper, said)
            screen = ("Undo", "Skip to", "Plan anew", "Sign out", "Pick a station", "Measure")
            assert [word for word in screen if word in said] == [], (view, paper)
            if view == "layout":
                box = pages[0].mediabox
                assert float(box.width) == pytest.approx(72 * width, abs=2)
                rows = re.findall(r"(?<![\d.])(\d+) (\d+\.\d\d) (\d+\.\d\d) \d+° ", said)
                stations = len(hands.all("[data-station]"))
                assert [int(row[0]) for row in rows] == list(range(1, stations + 1)), paper


def _contrast(first: str, second: str) -> float:
    """WCAG 2 contrast ratio of two #rrggbb colours."""

    def light(colour: str) -> float:
        parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    high, low = sorted((light(first), light(second)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("theme", ["LIGHT", "DARK"])
def test_text_has_the_contrast_wcag_aa_asks_for(theme):
    block = re.search(rf"const {theme} = {{(.*?)}};", THEME.read_text(), re.DOTALL)[1]
    colour = dict(re.findall(r"(\w+): \"(#[0-9A-F]{6})\"", block))
    for ground in ("paper", "sheet"):
        for text in ("ink", "quiet", "mark", "within", "closeText", "over"):
            assert _contrast(colour[text], colour[ground]) >= 4.5, (text, ground)
    assert _contrast(colour["mark"], colour["onMark"]) >= 4.5
    assert _contrast(colour["dark"], colour["onDark"]) >= 4.5


def test_two_planners_at_one_job_are_told_and_neither_loses_a_value(hands, shop, browser):  # noqa: F811
    hands.open("Vane yoke", "cuts")
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    size = "--window-size=1280,800"
    for flag in ("--headless=new", "--no-sandbox", "--disable-dev-shm-usage", size):
        options.add_argument(flag)
    other = webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )
    try:
        second = Hands(other, shop.address)
        second.sign_in("Demo admin")
        second.open("Vane yoke", "cuts")
        hands.unaware()
        second.set(f"{CUT}.spindle_rpm", "8000")
        hands.enter(f"{CUT}.axial_depth_mm", "3.5")
        hands.says("Demo admin changed this job")
        assert hands.value(f"{CUT}.axial_depth_mm") == "3.5"
        hands.wait(lambda: hands.value(f"{CUT}.spindle_rpm") == "8000")
        hands.enter(f"{CUT}.axial_depth_mm", "3.4")
        hands.wait(lambda: "changed this job" not in hands.text("body"))
        hands.driver.refresh()
        hands.wait(lambda: hands.value(f"{CUT}.axial_depth_mm") == "3.4")
        assert hands.value(f"{CUT}.spindle_rpm") == "8000"
    finally:
        other.quit()


def test_a_plate_of_two_hundred_stations_is_drawn_and_walked_by_keyboard(hands):  # noqa: F811
    hands.new_job("Large plate", "5000")
    hands.says("Load a DXF, SVG or STEP file")
    hands.press("3\nMethod")
    hands.set("route.setups.0.machine.travel_x_mm", "2000")
    hands.set("route.setups.0.machine.travel_y_mm", "1200")
    hands.set("route.setups.0.form.plate.width_mm", "1300")
    hands.set("route.setups.0.form.plate.depth_mm", "850")
    hands.press("6\nLocate")
    hands.set(ZONE, "0.3")
    hands.press("4\nLayout")
    hands.one("[data-testid=plan]").click()
    hands.says("Planning")
    hands.wait(lambda: hands.count() >= 200 and hands.text("[data-testid=plan]") == "Plan", 300)
    assert len(hands.all("[data-station]")) == hands.count()
    hands.one("[data-station='1']").click()

    def at() -> float:
        return float(hands.value("station.x"))

    for _ in range(5):  # each key goes to a station farther right
        before = at()
        hands.driver.switch_to.active_element.send_keys(Keys.ARROW_RIGHT)
        hands.wait(lambda before=before: at() > before)
    hands.press("Tolerance\n1")
    hands.set(ZONE, "0.06")
    hands.one("[data-testid=plan]").click()
    hands.press("Cancel")
    hands.says("Changed since it was planned")
    hands.from_menu("Job", "Delete")
    hands.says("can be brought back until then")
    hands.wait(
        lambda: (
            next(b for b in hands.all("[role=dialog] button") if b.text == "Delete").click() or True
        )
    )
    hands.says("Manifold block, 8-port")
    hands.wait(lambda: "Large plate" not in hands.text("table.jobs"))


def test_keys_plan_undo_and_are_listed(hands):  # noqa: F811
    hands.open("Anchor lug")
    hands.wait(lambda: hands.count() > 0)
    before = hands.one("input[name='route.setups.0.holds.0.station.clearance_mm']").get_attribute(
        "value"
    )
    hands.set("route.setups.0.holds.0.station.clearance_mm", "9")
    hands.driver.execute_script("document.activeElement.blur()")
    ActionChains(hands.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    hands.wait(
        lambda: (
            hands.one("input[name='route.setups.0.holds.0.station.clearance_mm']").get_attribute(
                "value"
            )
            == before
        )
    )
    ActionChains(hands.driver).key_down(Keys.CONTROL).key_down(Keys.SHIFT).send_keys("z").key_up(
        Keys.SHIFT
    ).key_up(Keys.CONTROL).perform()
    hands.wait(
        lambda: (
            hands.one("input[name='route.setups.0.holds.0.station.clearance_mm']").get_attribute(
                "value"
            )
            == "9"
        )
    )
    ActionChains(hands.driver).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(
        Keys.CONTROL
    ).perform()
    hands.wait(lambda: hands.text("[data-testid=plan]") == "Plan" and not hands.all(".stale"))
    hands.driver.execute_script("document.activeElement.blur()")
    ActionChains(hands.driver).send_keys("?").perform()
    hands.says("from station to station")
    hands.driver.switch_to.active_element.send_keys(Keys.ESCAPE)


def test_an_administrator_adds_someone_who_signs_in_and_is_locked_out_again(shop, browser):
    hands = Hands(browser, shop.address)  # noqa: F811
    hands.sign_in("Demo admin")
    hands.press("People")
    hands.says("Add someone")
    hands.enter("sign_in", "planner")
    hands.enter("name", "Second planner")
    hands.enter("password", "a long password")
    hands.press("Add")
    hands.says("this name is taken")
    hands.enter("sign_in", "second")
    hands.press("Add")
    hands.wait(lambda: "Second planner" in hands.text("table"))
    hands.press("Sign out")
    hands.says("One click signs in")
    hands.enter("sign_in", "second")
    hands.enter("password", "not the password")
    hands.one("button[type=submit]").click()
    hands.says("do not belong together")
    field = hands.one("input[name=password]")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("a long password", Keys.ENTER)
    hands.wait(lambda: hands.all("nav[aria-label=Main]"))
    assert browser.find_elements(By.LINK_TEXT, "People") == []
    hands.press("Sign out")
    hands.sign_in("Demo admin")
    hands.press("People")
    row = hands.wait(lambda: next(r for r in hands.all("tr") if "Second planner" in r.text))
    row.find_element(By.CSS_SELECTOR, "button").click()
    hands.wait(
        lambda: "Unlock" in next(r for r in hands.all("tr") if "Second planner" in r.text).text
    )
    hands.press("Sign out")
    hands.says("One click signs in")
    hands.enter("sign_in", "second")
    hands.enter("password", "a long password")
    hands.one("button[type=submit]").click()
    hands.says("do not belong together")


def test_a_deleted_job_is_one_press_from_back_and_one_changes_ones_own_password(hands, shop):  # noqa: F811
    shop.person("planner").call("POST", "/api/jobs", {"name": "Short-lived", "quantity": 3})
    hands.open("Short-lived", "part")
    hands.from_menu("Job", "Delete")
    hands.one("[role=dialog] .MuiButton-contained").click()
    hands.says("“Short-lived” was deleted")
    hands.press("Bring back")
    hands.wait(lambda: "Short-lived" in hands.text("h1"))
    hands.from_menu("Job", "Delete")
    hands.one("[role=dialog] .MuiButton-contained").click()
    hands.says("was deleted")
    hands.press(f"Deleted ({shop.person('planner').call('GET', '/api/jobs')['deleted']})")
    hands.wait(lambda: "Deleted jobs" in hands.text("h1") and "Short-lived" in hands.text("table"))
    hands.press("Password")
    for name, typed in (
        ("present", "not it, surely"),
        ("fresh", "a new long password"),
        ("again", "a new long password"),
    ):
        hands.one(f"input[name={name}]").send_keys(typed)
    hands.press("Change it")
    hands.says("not your present password")
    hands.one("input[name=present]").send_keys(Keys.CONTROL, "a")
    hands.one("input[name=present]").send_keys("salt-marsh-planner")
    hands.press("Change it")
    hands.says("signed out everywhere else")
    hands.press("Close")
    hands.press("Back to the jobs")
    hands.wait(lambda: hands.text("h1") == "Jobs")
    again = Caller(
        shop.address, "planner", "a new long password"
    )  # the demo's own for who comes next
    again.call(
        "PUT",
        "/api/session/password",
        {"present": "a new long password", "fresh": "salt-marsh-planner"},
    )


def test_what_the_page_for_scripts_says_works_over_http(shop, capsys):
    _, over_http = code_of("scripting.md")
    asked = over_http.replace("http://127.0.0.1:8420", shop.address)
    exec(compile(asked, "scripting.md", "exec"), {})  # noqa: S102
    assert re.match(r"\d+ parts a cycle", capsys.readouterr().out)


def test_pieces_are_drawn_as_they_touch_and_handed_over_in_one_pack(hands):  # noqa: F811
    hands.open("Float-arm hub", "make")
    hands.says("Plate, op 10")
    assert int(hands.all("[data-testid=bought] td.num")[0].text) > 0
    hands.driver.get(f"{hands.driver.current_url.split('?')[0]}?setup=2")
    hands.says("Soft jaws, op 20")
    drawn = (
        "const image = document.querySelector('[data-testid=drawing]');"
        " return image && image.complete && image.naturalWidth"
    )
    hands.wait(lambda: hands.driver.execute_script(drawn))
    sources = set()
    for view in ("nominal", "smallest", "Sheet 1"):
        hands.press(view)
        hands.wait(lambda: hands.driver.execute_script(drawn))
        sources.add(hands.one("[data-testid=drawing]").get_attribute("src"))
    assert len(sources) == 3
    assert len(hands.all("[data-testid=rests] tbody tr")) == 3
    # what nobody has said is no green mark, and is said: a round may stand at any angle
    hands.reads("[data-testid=make-doubts]", "Turn")
    mark = hands.one(".strip a[href*='/make'] svg").get_attribute("aria-label")
    assert "nothing of the pocket keeps the part from turning" in mark
    hands.press("Stand it otherwise?")
    hands.reads("[data-testid=angles]", "Every other angle that was tried")
    hands.press("Solid")
    hands.wait(lambda: hands.all("[data-testid=solid] canvas"), 60)
    assert hands.quiet_console() == []
    href = hands.one("[data-testid=all-files]").get_attribute("href")
    size = hands.driver.execute_async_script(
        "const done = arguments[1];"
        " fetch(arguments[0]).then((a) => a.arrayBuffer()).then((b) => done(b.byteLength))",
        href,
    )
    assert size > 20_000


def test_an_ops_program_becomes_one_for_the_whole_setup(hands, shop, tmp_path):  # noqa: F811
    """A stranger's mistake is said with its line; the right file becomes a program that was tried,
    and what was not looked at is not green.
    """
    wrong, right, deep = (tmp_path / name for name in ("wrong.nc", "collar.nc", "deep.nc"))
    right.write_text("T1 M6\nS900 M3\nG0 X5 Y5\nG43 H1 Z20\nG1 Z1 F99\nG0 Z20\nM30\n")
    wrong.write_text("T1 M6\nG0 X1 Y\n")
    # a machine whose magazine nobody has described, and no program yet
    hands.open("Gauge-well collar", "program")
    hands.press("Take it off")
    hands.says("no program yet")
    ident = hands.driver.current_url.split("/jobs/")[1].split("/")[0]
    planner = shop.person("planner")
    state = planner.call("GET", f"/api/jobs/{ident}")
    for field, value in (
        ("tools", []), ("middle_x_mm", None), ("middle_y_mm", None), ("middle_z_mm", None),
    ):  # fmt: skip
        given = {"version": state["version"], "path": f"route.setups.0.machine.{field}"}
        state = planner.call("PATCH", f"/api/jobs/{ident}/fields", given | {"value": value})
    hands.driver.get(f"{hands.address}/jobs/{ident}/layout")
    hands.plan()
    hands.open("Gauge-well collar", "program")
    hands.wait(lambda: hands.all("[data-testid=zeros] tbody tr"), 60)
    # until then what the cuts sweep is looked at, and is called that
    hands.says("What the cuts sweep, no program yet")
    hands.one("input[type=file]").send_keys(str(wrong))
    hands.says("Line 2")
    hands.one("input[type=file]").send_keys(str(right))
    hands.says("Not accepted yet")
    marks = [
        mark.get_attribute("aria-label") for mark in hands.all("[data-testid=findings] svg.state")
    ]
    assert sum(mark.startswith("within") for mark in marks) >= 4
    assert any(mark.startswith("not checked: nobody has said") for mark in marks)
    assert not any(mark.startswith("over") for mark in marks)
    mark = hands.one(".strip a[href*='/program'] svg").get_attribute("aria-label")
    assert mark.startswith("not checked")
    # into the plate: said with its line; the dry run goes there
    deep.write_text(right.read_text().replace("Z1 F99", "Z-99 F99"))
    hands.one("input[type=file]").send_keys(str(deep))
    hands.says("Not accepted, ")
    hands.wait(lambda: hands.all("[data-testid=findings] button"))
    hands.one("[data-testid=findings] button").click()
    hands.reads("[aria-label='Dry run']", "G1 Z-99 F99")
    hands.press("Line back")
    hands.reads("[aria-label='Dry run']", "Z20")
    hands.press("Run")
    hands.wait(lambda: hands.all("[data-testid=tool]"))
    mark = hands.one(".strip a[href*='/program'] svg").get_attribute("aria-label")
    assert mark.startswith("over")
    assert "M30" in hands.text('[aria-label="The program\'s lines"]')
    hands.press("By station instead")
    hands.reads("body", "by station.")
    hands.press("Take it off")
    hands.says("What the cuts sweep, no program yet")
    # the setter's sheet: every part has its number, and a program is not claimed
    hands.open("Gauge-well collar", "sheet")
    hands.says("None yet: it is put together in step 8")
    numbers = {item.text for item in hands.all(".sheet-faces .number")}
    assert numbers == {"1", "2"}
    assert hands.all("[data-testid=loading] li")
    assert hands.quiet_console() == []
