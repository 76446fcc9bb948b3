"""What people do, done in a real browser against the whole application."""

from __future__ import annotations

import json
import re
import time
from pathlib import Path

import ezdxf
import pytest
from selenium.common.exceptions import TimeoutException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

pytestmark = pytest.mark.browser


CUT = "job.parts.0.ops.0.cuts.0"
ZONE = "job.parts.0.features.0.tolerance_mm"


#: One look at the whole page instead of one at each of its parts.
_NAMED = """const plain = (text) => text.replace(/\\s/g, "");
const shown = (one) => plain(one.innerText ?? one.textContent);  // what is drawn has no innerText
const all = [...document.querySelectorAll("button, a, [role=button]")];
return all.filter((one) => shown(one) === plain(arguments[0]));"""
_SAYS = """return document.body.innerText.replace(/\\u00a0/g, " ").includes(arguments[0]);"""


class Hands:
    """Finding and doing by what a person sees."""

    def __init__(self, driver, address):
        self.driver, self.address = driver, address

    def wait(self, what, seconds=240):
        try:
            return WebDriverWait(self.driver, seconds, 0.15, ignored_exceptions=(Exception,)).until(
                lambda _: what()
            )
        except TimeoutException:
            seen = self.driver.execute_script(
                "return location.href + '\\n' + document.body.innerText"
            )
        raise AssertionError(f"Not within {seconds} s. The page was {seen[:3000]}")

    def all(self, css):
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def one(self, css):
        return self.wait(lambda: self.driver.find_element(By.CSS_SELECTOR, css))

    def text(self, css):
        """Its words, once there are some: what opens is there before it can be read."""
        return self.wait(lambda: self.driver.find_element(By.CSS_SELECTOR, css).text)

    def reads(self, css, *words):
        """Wait until all these words stand there: a story comes after its frame."""
        self.wait(lambda: all(said in self.text(css) for said in words))

    def button(self, words):
        def found():
            named = self.driver.execute_script(_NAMED, words)
            return next(
                b for b in named if b.text.strip() == words and b.is_displayed() and b.is_enabled()
            )

        return self.wait(found)

    def press(self, words):
        self.wait(lambda: self.button(words).click() or True)

    def from_menu(self, menu, words):
        """Open a menu and take what begins with these words."""
        self.press(menu)

        def taken():
            found = self.all("[role=menuitem]")
            next(item for item in found if item.text.startswith(words)).click()
            return True

        self.wait(taken)
        self.wait(lambda: not self.all("[role=menu]"))

    def new_job(self, name, quantity):
        """A job without a file: a block, its shape typed."""
        self.press("New job")
        self.press("Without a file")
        self.enter("name", name)
        self.enter("quantity", quantity)
        self.press("Make job")

    def says(self, words, seconds=240):
        return self.wait(lambda: self.driver.execute_script(_SAYS, words), seconds)

    def enter(self, name, value):
        field = self.one(f"input[name='{name}']")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(value, Keys.TAB)

    def value(self, name):
        """What stands in a field."""
        return self.one(f"input[name='{name}']").get_attribute("value")

    def set(self, name, value):
        """Change a stored field and wait until it is stored."""
        self.enter(name, value)
        self.wait(lambda: self.text("[data-testid=saved]").startswith("Saved"))

    def choose(self, box, wanted, done=None):
        """Take a line of a list, which is known by its label or by what it shows now, and wait
        until it is stored.
        """

        def shown():
            return next(
                item
                for item in self.all("[role=combobox]")
                if box in item.text or box in (item.accessible_name or "")
            )

        field = self.wait(shown)
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)

        def taken():
            # A list still grows while it opens, so that a press can fall on the line beside: what
            # stands there after it counts.
            if not self.all("[role=option]"):
                field.click()
            next(item for item in self.all("[role=option]") if wanted in item.text).click()
            self.wait(
                lambda: (
                    not self.all("[role=option]")
                    and all(
                        item.text.startswith("Saved") for item in self.all("[data-testid=saved]")
                    )
                )
            )
            return self.wait(done or (lambda: wanted in field.text), 10)

        self.wait(taken)

    def bring(self, file, take="Take this outline"):
        """Load a drawing and take what was found."""
        self.one("input[name=drawing]").send_keys(str(file))
        self.press(take)
        self.wait(
            lambda: (
                not self.all("[role=dialog]")
                and self.text("[data-testid=saved]").startswith("Saved")
            )
        )

    def plan(self):
        self.one("[data-testid=plan]").click()
        self.wait(lambda: self.text("[data-testid=plan]") == "Plan" and not self.all(".stale"))

    def count(self):
        return int(self.text("[data-testid=count]"))

    def sign_in(self, who="Demo planner"):
        self.driver.get(self.address)
        self.press(who)
        self.wait(lambda: self.all("nav[aria-label=Main]"))

    def open(self, job, step="layout"):
        self.driver.get(f"{self.address}/jobs/{self.job(job)}/{step}")
        self.one(".strip a.active")

    def job(self, name):
        """What a job is called in addresses, as the list of jobs has it."""
        self.driver.get(f"{self.address}/jobs")
        link = self.wait(lambda: self.driver.find_element(By.LINK_TEXT, name))
        return re.search(r"/jobs/(\w+)/", link.get_attribute("href"))[1]

    def unaware(self):
        """From now on this page does not learn what others do, as if both were quick."""
        never = "new Promise(() => {})"
        script = (
            f"window.fetch = (f => (u, o) => String(u).includes('/here') ? {never} : f(u,"
            " o))(window.fetch)"
        )
        self.driver.execute_script(script)

    def quiet_console(self):
        return [
            entry
            for entry in self.driver.get_log("browser")
            if entry["level"] == "SEVERE"
            and " 4" not in entry["message"]
            and " 5" not in entry["message"]
            and "/here"
            not in entry["message"]  # asked every few seconds, also while a server is away
        ]


@pytest.fixture
def hands(shop, browser):
    made = Hands(browser, shop.address)
    made.sign_in()
    return made


def _dxf(folder: Path, units: int = 4) -> str:
    document = ezdxf.new()
    document.header["$INSUNITS"] = units
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (50, 0), (50, 14), (20, 14), (20, 46), (0, 46)], close=True)
    space.add_circle((10, 36), 4)
    file = folder / f"bracket-{units}.dxf"
    document.saveas(file)
    return str(file)


def test_a_planner_goes_from_a_drawing_to_a_design_that_outlives_everything(hands, shop, tmp_path):
    hands.new_job("Probe bracket", "150")
    hands.says("Load a DXF, SVG or STEP file")
    hands.bring(_dxf(tmp_path))
    hands.says("From: DXF bracket-4.dxf. 6 points, 1 hole")
    hands.set("job.parts.0.height_mm", '1"')
    assert hands.value("job.parts.0.height_mm") == "25.4"

    # another file keeps neither features nor cuts of the part before
    hands.press("Features and tolerances")
    hands.wait(
        lambda: (
            next(b for b in hands.all("button") if b.text.startswith("Add hole")).click() or True
        )
    )
    hands.wait(lambda: hands.value(ZONE) == "0.1")
    hands.press("2\nCuts")
    hands.press("Add a cut")
    hands.set(f"{CUT}.axial_depth_mm", "9")
    hands.press("3\nMethod")
    hands.set("route.setups.0.form.plate.width_mm", "260")  # planned eight times
    hands.press("Add keep-out")
    hands.wait(
        lambda: (
            len(hands.all("input[name^='route.setups.0.form.plate.keepouts'][name$='x_mm']")) == 5
        )
    )
    hands.press("4\nLayout")
    hands.plan()
    first = hands.count()
    assert first > 10
    assert len(hands.all("[data-station]")) == first
    assert re.fullmatch(r"At most \d+|Proven largest", hands.text("[data-testid=statement]"))
    assert "boxes spaced by hand" in hands.text(".verdict")
    limits = {limit.get_attribute("data-limit") for limit in hands.all("[data-limit]")}
    assert {"face_room", "hold_factor", "tolerance", "load", "travel"} <= limits

    # Clearance, tolerance and torque each change the answer, in sight.
    hands.set("route.setups.0.holds.0.station.clearance_mm", "20")
    assert hands.all(".stale")
    hands.plan()
    assert hands.count() < first
    hands.press("Undo")
    hands.wait(
        lambda: (
            hands.one("input[name='route.setups.0.holds.0.station.clearance_mm']").get_attribute(
                "value"
            )
            == "3"
        )
    )
    hands.set(ZONE, "0.043")
    hands.plan()
    assert 0 < hands.count() < first
    hands.press("Undo")
    hands.wait(lambda: hands.value(f"{ZONE}") == "0.1")
    hands.set("route.setups.0.holds.0.station.clamp.torque_nm", "10 in-lb")
    hands.one("[data-testid=plan]").click()
    hands.says("No design: the part is not held")
    least = re.search(r"it holds from ([\d.]+) N·m", hands.text("[data-testid=reasons]"))[1]
    hands.set("route.setups.0.holds.0.station.clamp.torque_nm", least)
    hands.plan()
    hands.wait(lambda: hands.count() == first)  # the first layout stands while more is looked for

    # Every figure can be asked where it comes from.
    hands.one("[data-limit=hold_factor] .ask").click()
    hands.reads("[data-testid=where-from]", "preload at the toe", "Source:")
    hands.driver.switch_to.active_element.send_keys(Keys.ESCAPE)

    # A restart of everything, and it is all there; exported and read again it is the same.
    address = hands.driver.current_url
    shop.stop()
    shop.start()
    hands.driver.get(address)
    hands.wait(lambda: hands.count() == first)
    hands.from_menu("Job", "Export")
    exported = hands.wait(lambda: next(iter(hands.driver.downloads.glob("probe-bracket*.json"))))
    document = json.loads(exported.read_text())
    assert document["result"]["complete_a_cycle"] == first
    hands.driver.get(f"{hands.address}/jobs")
    hands.one("input[name=document]").send_keys(str(exported))
    hands.wait(lambda: "/layout" in hands.driver.current_url)
    hands.plan()
    hands.wait(lambda: hands.count() == first)
    assert hands.quiet_console() == []


def test_bad_input_is_named_beside_its_field_and_loses_nothing(hands, tmp_path):
    hands.open("Anchor lug", "part")
    before = hands.text(".picture")
    hands.enter("job.parts.0.height_mm", "-3")
    hands.says("greater than 0")
    assert hands.value("job.parts.0.height_mm") == "-3"
    hands.enter("job.quantity", "many")
    hands.says("valid integer")
    broken = tmp_path / "broken.dxf"
    broken.write_bytes(b"not a drawing")
    hands.one("input[name=drawing]").send_keys(str(broken))
    hands.says("File not used")
    hands.one("input[name=drawing]").send_keys(_dxf(tmp_path, units=0))
    hands.says("Which units?")
    assert hands.text(".picture") == before
    hands.press("It is inch")
    hands.says("1270.00 mm")
    assert "1270" not in hands.text(".picture")  # looked at, not taken
    hands.press("Take this outline")
    hands.wait(lambda: "1270.00 mm" in hands.text(".picture"))
    # Far too big for the plate: says by how much, and the way back is one undo-able upload away.
    hands.press("2\nCuts")
    hands.press("Add a cut")
    hands.set(f"{CUT}.axial_depth_mm", "2")
    hands.press("4\nLayout")
    hands.wait(lambda: hands.all(".stale"))
    hands.one("[data-testid=plan]").click()
    hands.says("mm too wide")
    hands.press("1\nPart")
    assert hands.value("job.quantity") == "360"


def test_a_double_click_on_plan_and_a_closed_tab_make_one_run_that_finishes(hands):
    hands.open("Gland plate")
    hands.wait(lambda: hands.count() > 0)
    hands.set("route.setups.0.holds.0.station.clearance_mm", "6")
    ActionChains(hands.driver).double_click(hands.one("[data-testid=plan]")).perform()
    time.sleep(0.4)
    hands.driver.get("about:blank")
    time.sleep(1)
    hands.open("Gland plate")
    hands.wait(lambda: hands.text("[data-testid=plan]") == "Plan" and not hands.all(".stale"))
    assert hands.count() > 0


def test_a_database_that_goes_away_is_said_and_the_change_is_stored_when_it_is_back(hands, shop):
    hands.open("Vane yoke", "cuts")
    with shop.unwatched():  # left to itself it has its database back within half a second
        shop.database().kill()
        hands.enter(f"{CUT}.wear_factor", "1.4")
        hands.says("Not saved yet")
        assert hands.value(f"{CUT}.wear_factor") == "1.4"
    hands.wait(lambda: hands.text("[data-testid=saved]").startswith("Saved"))
    hands.driver.refresh()
    hands.wait(lambda: hands.value(f"{CUT}.wear_factor") == "1.4")
    hands.press("4\nLayout")
    hands.plan()
    assert hands.count() > 0


def test_units_theme_and_keyboard_are_a_persons_own(hands):
    hands.open("Manifold block, 8-port")
    hands.press("mm · N·m")
    hands.wait(
        lambda: hands.value("route.setups.0.holds.0.station.clearance_mm").startswith("0.11811")
    )
    hands.press("Dark")
    hands.wait(lambda: hands.one("html").get_attribute("data-theme") == "dark")
    hands.driver.refresh()
    hands.wait(lambda: hands.one("html").get_attribute("data-theme") == "dark")
    hands.says("in·lb")
    hands.one("[data-station='1']").click()
    hands.reads("[data-testid=station-line]", "Station 1\n", "X, Y (in)")
    hands.driver.switch_to.active_element.send_keys(Keys.ARROW_RIGHT)
    hands.wait(lambda: "Station 1\n" not in hands.text("[data-testid=station-line]"))
    wide = hands.driver.execute_script("return document.documentElement.scrollWidth")
    assert wide <= 1280
    hands.press("Light")
    hands.press("in · in·lb")
    hands.says("mm · N·m")


def test_readers_see_everything_and_are_offered_no_change(shop, browser):
    hands = Hands(browser, shop.address)
    hands.sign_in("Demo setter")
    # who works at the machine is told first what is to be loaded
    hands.wait(lambda: hands.driver.current_url.endswith("/today"))
    assert hands.driver.title == "Today · Wedgecraft"
    hands.driver.get(f"{hands.address}/jobs")
    hands.says("Manifold block, 8-port")
    assert not [b for b in hands.all("button") if b.text == "New job"]
    hands.open("Manifold block, 8-port")
    hands.wait(lambda: hands.count() > 0)
    assert not hands.all("[data-testid=plan]")
    hands.press("3\nMethod")
    assert not hands.one("input[name='route.setups.0.form.plate.width_mm']").is_enabled()
