"""The bench: a station dragged, turned, nudged and typed to its place, judged at each step; locked
and planned round; out and in as files.
"""

from __future__ import annotations

import csv
import math
import re

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.test_journeys import Hands, hands  # noqa: F401

pytestmark = pytest.mark.browser


class Bench:
    """What a planner does on the plate."""

    def __init__(self, at: Hands):
        self.hands, self.driver = at, at.driver

    def acts(self) -> ActionChains:
        return ActionChains(self.driver)

    def station(self, number: int):
        return self.hands.one(f"[data-station='{number}']")

    def pick(self, number: int, *more: int) -> None:
        acts = self.acts().move_to_element(self.station(number)).click()
        if more:
            acts.key_down(Keys.SHIFT)
            for other in more:
                acts.click(self.station(other))
            acts.key_up(Keys.SHIFT)
        acts.perform()

    def drag(self, number: int, right: float, down: float, drop: bool = True) -> None:
        """By millimetres on the plate."""
        scale = self.driver.execute_script(
            "const s = document.querySelector('svg[data-testid=plate]'); return s.clientWidth /"
            " s.viewBox.baseVal.width"
        )
        dx, dy = round(right * scale), round(down * scale)
        acts = (
            self.acts()
            .move_to_element(self.station(number))
            .click_and_hold()
            .move_by_offset(dx // 2, dy // 2)
            .pause(0.4)
        )
        acts.move_by_offset(dx - dx // 2, dy - dy // 2).pause(0.1).perform()
        if drop:
            self.acts().release().perform()
            self.saved()

    def saved(self) -> None:
        self.hands.wait(lambda: self.hands.text("[data-testid=saved]").startswith("Saved"))

    def key(self, *keys: str) -> None:
        acts = self.acts()
        for held in keys[:-1]:
            acts.key_down(held)
        acts.send_keys(keys[-1])
        for held in keys[:-1]:
            acts.key_up(held)
        acts.perform()
        self.saved()

    def place(self) -> tuple[float, float]:
        x, y = (self.hands.value(f"station.{axis}") for axis in "xy")
        return float(x), float(y)

    def pair(
        self, placed: list[dict], may_move=lambda station: True
    ) -> tuple[int, int, list[int], tuple[float, float]]:
        """A station that may move, the next one that stands turned as it does, others round that
        one nearest first, and the way to its place in mm.
        """
        way = lambda one, other: (other["x_mm"] - one["x_mm"], other["y_mm"] - one["y_mm"])  # noqa: E731
        alike = [
            (math.hypot(*way(a, b)), a["number"], b["number"])
            for a in placed
            for b in placed
            if a is not b and a["turn"] == b["turn"]
        ]
        by_number = {item["number"]: item for item in placed}
        _, first, second = next(pair for pair in sorted(alike) if may_move(by_number[pair[1]]))
        mine, theirs = (
            next(item for item in placed if item["number"] == number) for number in (first, second)
        )
        others = sorted(placed, key=lambda item: math.hypot(*way(theirs, item)))
        return (
            first,
            second,
            [item["number"] for item in others if item["number"] not in (first, second)],
            way(mine, theirs),
        )

    def stations(self) -> int:
        return len(self.hands.all("[data-station]"))


def near(x: float, y: float):
    """Places are kept to a thousandth."""
    return pytest.approx((x, y), abs=2e-3)


@pytest.fixture
def bench(hands, shop):  # noqa: F811
    """The gland plate's bench as planning left it, whatever a test before did to it."""
    planner = shop.person("planner")
    job = next(
        job
        for job in planner.call("GET", "/api/jobs")["jobs"]
        if job["name"].startswith("Gland plate")
    )
    version = planner.call("GET", f"/api/jobs/{job['id']}")["version"]
    nothing = {
        "version": version,
        "path": "route.setups.0.arrangement",
        "value": {"own": False, "stations": []},
    }
    planner.call("PATCH", f"/api/jobs/{job['id']}/fields", nothing)
    return _bench_of(hands, "Gland plate", 15)


def _bench_of(hands, job, more_than):  # noqa: F811
    """The job's bench once its plan is done, not only the best so far."""
    hands.open(job)
    hands.wait(
        lambda: (
            hands.count() > more_than
            and not hands.all(".stale")
            and hands.text("[data-testid=plan]") == "Plan"
        )
    )
    return Bench(hands)


def test_a_station_is_taken_hold_of_judged_undone_locked_and_planned_round(bench, shop):
    hands = bench.hands  # noqa: F811
    whole = hands.count()
    planner = shop.person("planner")
    job = next(
        job
        for job in planner.call("GET", "/api/jobs")["jobs"]
        if job["name"].startswith("Gland plate")
    )
    placed = planner.call("GET", f"/api/jobs/{job['id']}")["latest"]["result"]["setups"][0][
        "result"
    ]["designs"][0]["stations"]

    def may_move(station: dict) -> bool:
        asked = f"setup=1&station={station['number'] - 1}&turn={station['turn']}&face=0&kind=0"
        return bool(planner.call("GET", f"/api/jobs/{job['id']}/layout/room?{asked}")["areas"])

    one, neighbour, round_it, (right, up) = bench.pair(placed, may_move)
    # Onto a neighbour: red at once, not counted, told which; the nearest clear place is one click
    # away, and so is undo.
    bench.pick(one)
    bench.drag(one, 0.6 * right, -0.6 * up, drop=False)
    hands.wait(lambda: hands.one("[data-testid=ghost]").get_attribute("data-stands") == "no")
    assert hands.all("[data-testid=go-region]")
    bench.acts().release().perform()
    hands.says("stations stand wrong")
    hands.wait(lambda: hands.count() < whole - 1)
    hands.says("too near station")
    assert bench.stations() == whole
    hands.press("Undo")
    hands.wait(
        lambda: hands.count() == whole and not hands.all(".wrong-line") and not hands.all(".stale")
    )
    hands.press("Redo")
    hands.says("stations stand wrong")
    hands.from_menu("More\nE", "Forget my placing")
    hands.wait(lambda: hands.count() == whole and not hands.all(".stale"))
    # Four removed leave room: one moved over to where its neighbour stood stands clear, is locked,
    # and the plan goes round it.
    gone = sorted([neighbour, *round_it[:3]], reverse=True)
    bench.pick(*gone)
    bench.key(Keys.DELETE)
    hands.wait(lambda: hands.count() == bench.stations() == whole - 4)
    one -= sum(number < one for number in gone)  # numbers close up
    bench.pick(one)
    bench.drag(one, right, -up)
    hands.wait(lambda: hands.count() == whole - 4)
    stood = bench.place()
    bench.key("l")
    hands.wait(lambda: hands.all(f"[data-station='{one}'][aria-label*='locked']"))
    hands.press("Plan around 1 locked")
    hands.wait(
        lambda: (
            hands.all("[data-testid=plan]")
            and hands.text("[data-testid=plan]") == "Plan"
            and not hands.all(".stale")
        )
    )
    (kept,) = hands.all("[data-station][aria-label*='locked']")
    kept.click()
    assert bench.place() == stood
    assert hands.count() > whole - 6
    assert hands.quiet_console() == []


def test_turning_nudging_typing_rows_and_files(bench, tmp_path):
    hands = bench.hands  # noqa: F811
    bench.pick(1)
    x, y = bench.place()
    bench.key(Keys.SHIFT, Keys.ARROW_DOWN)
    hands.wait(lambda: bench.place() == near(x, y - 1))
    bench.key(Keys.SHIFT, Keys.CONTROL, Keys.ARROW_LEFT)
    hands.wait(lambda: bench.place() == near(x - 0.1, y - 1))
    turned = int(re.search(r"(\d+)°", hands.text("[data-testid=station-line]"))[1])
    bench.key("f")
    hands.wait(lambda: f"{(turned + 180) % 360}°" in hands.text("[data-testid=station-line]"))
    bench.key("f")
    hands.wait(lambda: bench.place() == near(x - 0.1, y - 1))
    hands.enter("station.x", "2 1/2 in")
    hands.wait(lambda: bench.place()[0] == 63.5)
    hands.enter("station.x", "nowhere")
    hands.says("not a length")
    hands.from_menu("More\nE", "Forget my placing")
    # One station alone, then a row of it, a column of it, and one in the first free place.
    hands.wait(lambda: not hands.all(".stale") and bench.place()[0] == pytest.approx(x, abs=2e-3))
    bench.pick(2, *range(3, bench.stations() + 1))
    hands.press("Remove\nDel")
    hands.wait(lambda: hands.count() == 1)
    bench.pick(1)
    hands.press("Row\nR")
    hands.wait(lambda: hands.count() >= 4)
    bench.saved()
    row = hands.count()
    bench.pick(1)
    hands.from_menu("More\nE", "Column")
    hands.wait(lambda: hands.count() > row)
    bench.saved()
    several = hands.count()
    hands.press("Add\nA")
    hands.wait(lambda: hands.count() == several + 1)
    # Out as a table, changed there, and in again.
    hands.from_menu("More\nE", "Station positions as")
    file = hands.wait(lambda: next(iter(hands.driver.downloads.glob("*.csv"))))
    rows = list(csv.reader(file.read_text().splitlines()))
    assert len(rows) == 2 + several
    rows[1][rows[0].index("x [mm]")] = "1000"
    changed = tmp_path / "changed.csv"
    changed.write_text("\n".join(",".join(row) for row in rows))
    hands.one("input[name=stations]").send_keys(str(changed))
    hands.says("One station stands wrong")
    hands.wait(lambda: hands.count() == several)
    changed.write_text("x,y\n1,2,3\nhere,there\n")
    hands.one("input[name=stations]").send_keys(str(changed))
    hands.says("row 2, x")
    bench.pick(2)
    bench.key("m")
    svg = hands.one("[data-testid=plate]")
    bench.acts().move_to_element(svg).click_and_hold().move_by_offset(80, 60).release().perform()
    hands.wait(lambda: "mm" in hands.text("[data-testid=measured]"))
    wide = svg.get_dom_attribute("viewBox").split()[2]
    bench.acts().move_to_element(svg).scroll_by_amount(0, -300).perform()
    svg.send_keys("+")
    hands.wait(lambda: float(svg.get_dom_attribute("viewBox").split()[2]) < float(wide))
    svg.send_keys("0")
    hands.wait(lambda: svg.get_dom_attribute("viewBox").split()[2] == wide)
    assert "SEVERE" not in str(hands.quiet_console())
    assert hands.driver.find_element(By.TAG_NAME, "body").text


def test_faces_of_a_block_designs_side_by_side_and_in_three_dimensions(hands):  # noqa: F811
    bench = _bench_of(hands, "Manifold block, by the pallet", 20)
    whole = hands.count()
    assert bench.stations() == 2 * whole
    hands.says("complete parts per cycle")
    assert {f"B{angle}°" for angle in (0, 90, 180, 270)} <= {
        text.text for text in hands.all("svg text")
    }
    hands.says("index moves")
    assert len(hands.all("[data-testid=ribbon] .ribbon-line > li")) > 5
    # Another design beside it, to look at and to compare; taken, it is the layout.
    names = [button.text for button in hands.all(".designs button")]
    assert any("most regular" in name for name in names)
    hands.press("Compare")
    hands.says("Turns used")
    assert len(hands.all("[data-testid=compare] svg[data-testid=plate]")) == 2
    hands.press("Compare")
    # The key goes to 3-D and back.
    hands.one("[data-testid=plate]").click()
    bench.key("v")
    canvas = hands.one("canvas")
    hands.wait(lambda: canvas.size["width"] > 300)
    assert not any(
        button.is_enabled() for button in hands.all("[aria-label='Show on the stations'] button")
    )  # stations are shaded on the drawing only
    bench.key("v")
    # A station that goes to the next face stands where others are: told there, and undone.
    bench.pick(1)
    hands.reads("[data-testid=station-line]", "Station 1", "B0°")
    bench.key("n")
    hands.reads("[data-testid=station-line]", "Station 1", "B90°")
    hands.says("stand wrong")
    hands.press("Undo")
    hands.wait(lambda: hands.count() == whole)
    # Each op has its own verdict on hold.
    hands.driver.get(hands.driver.current_url.replace("/layout", "/hold"))
    first = hands.text("[data-testid=factor]")
    hands.one("[aria-labelledby][role=combobox]").click()
    hands.one("li[data-value='1']").click()
    hands.wait(lambda: hands.text("[data-testid=factor]") != first)
    assert hands.quiet_console() == []


def test_two_people_on_one_bench_see_one_another_and_neither_loses_a_change(bench, shop):
    hands = bench.hands  # noqa: F811
    address = hands.driver.current_url
    other = shop.person("admin")
    job = address.split("/jobs/")[1].split("/")[0]
    other.call("POST", f"/api/jobs/{job}/here", {"page": "c" * 32, "on": "Hold"})
    hands.wait(lambda: "Demo admin (Hold)" in hands.text("[data-testid=others]"))
    # What the other changes shows here within two seconds, and what the page takes to draw it.
    version = other.call("GET", f"/api/jobs/{job}")["version"]
    change = {"version": version, "path": "job.quantity", "value": 430}
    other.call("PATCH", f"/api/jobs/{job}/fields", change)
    hands.wait(lambda: "430" in hands.text("header.bar"), 4)
    # The other is first: what is stored here against what was read before is refused, kept, and put
    # over theirs.
    hands.unaware()
    version = other.call("GET", f"/api/jobs/{job}")["version"]
    other.call(
        "PATCH",
        f"/api/jobs/{job}/fields",
        {"version": version, "path": "job.quantity", "value": 431},
    )
    hands.enter("route.setups.0.holds.0.station.clearance_mm", "4")
    hands.says("Changed by two at once")
    hands.press("Mine over theirs")
    hands.wait(
        lambda: (
            not any(
                "Changed by two" in item.text
                for item in hands.all("[role=status], [role=alert], .notice")
            )
        )
    )
    state = hands.wait(
        lambda: (
            (s := other.call("GET", f"/api/jobs/{job}"))["document"]["route"]["setups"][0]["holds"][
                0
            ]["station"]["clearance_mm"]
            == 4
            and s
        )
    )
    assert state["document"]["job"]["quantity"] == 431


def test_a_second_op_and_more_faces_are_chosen_by_words_and_counted_in_complete_parts(hands):  # noqa: F811
    hands.open("Anchor lug", "method")
    hands.wait(lambda: not hands.all(".stale"))

    hands.choose("Hold here too", "op 20", lambda: hands.says("as many stations of each op"))
    hands.choose("Form", "tombstone")
    hands.set("route.setups.0.form.faces", "2")
    hands.says("Block without plates")
    hands.set("route.setups.0.form.body_kg", "44 lb")
    hands.wait(lambda: hands.value("route.setups.0.form.body_kg").startswith("19.9"))
    assert len(hands.all("svg[data-testid=plate] text")) >= 2
    hands.press("4\nLayout")
    hands.wait(lambda: hands.one("[data-testid=plan]").click() or True)
    hands.wait(lambda: hands.text("[data-testid=plan]") == "Plan" and not hands.all(".stale"))
    # clamps that suit op 10 may be in the way of op 20: then it says which and why
    if hands.all("[data-testid=reasons]"):
        hands.says("Nearest that works")
    else:
        hands.says("complete parts per cycle")
    # Taken back step by step.
    hands.press("3\nMethod")
    hands.wait(lambda: hands.one("[aria-label='Take out op 20']").click() or True)
    hands.choose("Form", "plate")
    hands.wait(lambda: not hands.all("input[name='route.setups.0.form.body_kg']"))


def test_a_fast_undo_takes_back_exactly_the_press_before_it_and_undo_survives_a_reload(hands, shop):  # noqa: F811
    planner, bench = shop.person("planner"), _bench_of(hands, "Float-arm hub", 25)
    address = f"/api/jobs/{bench.driver.current_url.split('/jobs/')[1].split('/')[0]}"

    def placed():
        return planner.call("GET", address)["document"]["route"]["setups"][0]["arrangement"]

    before = placed()
    bench.pick(3)
    bench.key(Keys.SHIFT, Keys.ARROW_RIGHT)
    hands.wait(lambda: placed() != before)
    bench.saved()
    stood = placed()
    for pressed in ((Keys.SHIFT, Keys.ARROW_UP), ("t",), ("l",), (Keys.DELETE,)):
        version = planner.call("GET", address)["version"]
        acts = bench.acts()
        for key in pressed[:-1]:
            acts.key_down(key)
        acts.send_keys(pressed[-1])
        for key in pressed[:-1]:
            acts.key_up(key)
        acts.key_down(Keys.CONTROL).send_keys("z").key_up(
            Keys.CONTROL
        ).perform()  # before anything was answered
        hands.wait(lambda version=version: planner.call("GET", address)["version"] == version + 2)
        bench.saved()
        assert placed() == stood, pressed
        bench.acts().send_keys(Keys.ESCAPE).perform()
        hands.wait(lambda: bench.stations() > 20)
        bench.pick(3)
    bench.driver.refresh()
    hands.wait(lambda: bench.stations() > 20 and hands.button("Undo").is_enabled())
    hands.one("h1").click()
    bench.key(Keys.CONTROL, "z")
    hands.wait(lambda: placed() == before)
    bench.key(Keys.CONTROL, "y")
    hands.wait(lambda: placed() == stood)


def test_two_stations_of_a_vise_go_together(hands, shop):  # noqa: F811
    bench, planner = _bench_of(hands, "Staff-gauge cover", 3), shop.person("planner")
    job = next(j for j in planner.call("GET", "/api/jobs")["jobs"] if "cover" in j["name"])

    def placed() -> list[tuple[float, float]]:
        setup = planner.call("GET", f"/api/jobs/{job['id']}")["document"]["route"]["setups"][0]
        return [(item["x_mm"], item["y_mm"]) for item in setup["arrangement"]["stations"]]

    # the last vise goes to the right, pulled by its second station
    stations = bench.stations()
    bench.pick(stations)
    x, y = bench.place()
    bench.key(Keys.SHIFT, Keys.ARROW_RIGHT)
    hands.wait(lambda: bench.place() == near(x + 1, y) and not hands.all(".stale"))
    hands.wait(lambda: len(placed()) == stations)
    assert not hands.all(".wrong-line")
    first, second = placed()[-2:]
    assert second == near(x + 1, y)
    assert hands.count() == stations / 2
    # one taken out takes the other with it; one more is both again
    bench.key(Keys.DELETE)
    hands.wait(lambda: bench.stations() == stations - 2 and hands.count() == stations / 2 - 1)
    bench.key("a")
    hands.wait(lambda: bench.stations() == stations and hands.count() == stations / 2)
    hands.press("Undo")
    hands.wait(lambda: bench.stations() == stations - 2)
    assert math.dist(first, second) > 60  # the jaw between them
    hands.from_menu("More\nE", "Forget my placing")
    hands.wait(lambda: bench.stations() == stations and not hands.all(".stale"))
    assert hands.quiet_console() == []


def test_two_fingers_zoom_the_plate_and_one_moves_it(hands):  # noqa: F811
    driver = hands.driver
    touch = {"enabled": True, "maxTouchPoints": 2}
    driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", touch)
    try:
        hands.open("Gland plate", "layout")
        plate = hands.one("[data-testid=plate]")
        box = plate.rect
        middle, high = box["x"] + box["width"] / 2, box["y"] + 10

        def view() -> list[float]:
            return [float(v) for v in plate.get_dom_attribute("viewBox").split()]

        def fingers(kind: str, *at: float) -> None:
            points = [{"x": x, "y": high, "id": number} for number, x in enumerate(at)]
            driver.execute_cdp_cmd(
                "Input.dispatchTouchEvent", {"type": kind, "touchPoints": points}
            )

        whole = view()
        fingers("touchStart", middle - 20)
        fingers("touchStart", middle - 20, middle + 20)
        for out in range(5, 45, 5):
            fingers("touchMove", middle - 20 - out, middle + 20 + out)
        fingers("touchEnd")
        # Three times as far apart: a third of it is seen, and what was between them still is.
        near = hands.wait(lambda: view() if view()[2] < whole[2] / 2.9 else None)
        assert near[2] == pytest.approx(whole[2] / 3, rel=0.01)
        assert near[0] + near[2] / 2 == pytest.approx(whole[0] + whole[2] / 2, abs=whole[2] / 100)
        fingers("touchStart", middle)
        for along in range(10, 60, 10):
            fingers("touchMove", middle - along)
        fingers("touchEnd")
        moved = hands.wait(lambda: view() if view()[0] > near[0] + 1e-6 else None)
        assert moved[0] - near[0] == pytest.approx(50 * near[2] / box["width"], rel=0.25)
    finally:
        driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
