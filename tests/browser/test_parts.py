"""A person with files of their own and a page of notes: parts in, stock, features, cuts, setups,
and the shop.
"""

from __future__ import annotations

from pathlib import Path

import ezdxf
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.test_journeys import CUT, Hands, hands  # noqa: F401
from tests.formats.fuzz import step_seed

pytestmark = pytest.mark.browser
PARTS = Path(__file__).parent.parent / "parts"

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="3in" height="2in" viewBox="0 0 300 200">
<rect x="0" y="0" width="300" height="200" rx="20"/><circle cx="80" cy="100" r="30"/></svg>"""
TITLES = "name\tkind\tdia\tteeth\tdepth\twidth\tfz\trpm\tat\n"
TABLE = (
    TITLES
    + "T1 rough\tcontour\t12\t3\t6\t2\t0.06\t7000\t\nT2 hole\tdrill\t6\t\t14\t\t0.08\t6000\t12, 12"
)


def _drawing(folder):
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    for ends in [((0, 0), (90, 0)), ((90, 0), (90, 40)), ((90, 40), (0, 40)), ((0, 40), (0, 0.03))]:
        space.add_line(*ends, dxfattribs={"layer": "part"})
    space.add_circle((60, 20), 7, dxfattribs={"layer": "part"})
    space.add_lwpolyline(
        [(120, 0), (160, 0), (160, 90), (120, 90)], close=True, dxfattribs={"layer": "border"}
    )
    path = folder / "lever.dxf"
    document.saveas(path)
    return path


def test_a_job_entered_from_files_and_notes_alone(hands, tmp_path):  # noqa: F811
    hands.new_job("Level lever", "240")
    # The drawing: a gap is named, joined over as far as one says; the layer that is no part is left
    # out.
    hands.one("input[name=drawing]").send_keys(str(_drawing(tmp_path)))
    hands.says("1 open chain was left out")
    hands.enter("join", "0.05")
    hands.press("Read again")
    hands.says("2 outlines: pick the part")
    hands.wait(lambda: hands.all("[role=dialog] input[type=checkbox]")[0].click() or True)
    hands.says("One outline")
    hands.says("90.00 mm × 40.00 mm")
    hands.press("Take this outline")
    hands.wait(lambda: "⌀14 at 60, 20" in hands.text(".picture"))
    hands.set("job.parts.0.height_mm", "5/8 in")
    assert hands.value("job.parts.0.height_mm") == "15.875"

    # Stock: measured blanks, the warning when what varies most is gripped, and its way out.
    hands.press("Stock")
    hands.says("varies the most")
    hands.wait(lambda: int(hands.text("[data-testid=per_bar]")) == (3000 - 5 - 60 + 2) // (92 + 2))
    assert int(hands.text("[data-testid=bars]")) == -(-245 // 31)
    hands.choose("Clamped over", "Depth, Y")
    hands.wait(lambda: "varies the most" not in hands.text(".picture"))

    # Features: a hole offered from the drawing, one from the side.
    hands.press("Features and tolerances")
    hands.press("Add a feature")
    hands.wait(lambda: hands.all("input[name='job.parts.0.features.0.name']"))
    hands.wait(
        lambda: (
            next(b for b in hands.all("button") if b.text.startswith("Add hole")).click() or True
        )
    )
    hands.wait(lambda: hands.value("job.parts.0.features.1.name").startswith("Hole 14"))
    hands.press("Add a feature")
    hands.wait(lambda: hands.all("input[name='job.parts.0.features.2.name']"))
    hands.set("job.parts.0.features.2.name", "Side thread")
    row = hands.all("table.sheet tbody tr")[2]
    row.find_elements(By.CSS_SELECTOR, "button[aria-label='-Y']")[0].click()
    hands.wait(
        lambda: hands.all("table.sheet tbody tr")[2].find_elements(
            By.CSS_SELECTOR, "button[aria-label='-Y'][aria-pressed=true]"
        )
    )
    for side in ("+Z", "-Z"):
        on = f"button[aria-label='{side}'][aria-pressed=true]"
        hands.all("table.sheet tbody tr")[2].find_element(By.CSS_SELECTOR, on).click()
        hands.wait(
            lambda on=on: (
                not hands.all("table.sheet tbody tr")[2].find_elements(By.CSS_SELECTOR, on)
            )
        )

    # Cuts: pasted from a spreadsheet, a wrong cell named, then walked by keyboard.
    hands.press("2\nCuts")
    hands.press("Add a cut")
    hands.wait(lambda: len(hands.all("table.sheet tbody tr")) == 1)
    hands.press("Paste cuts")
    area = hands.one("textarea[name=table]")
    hands.driver.execute_script(
        "const set = Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set;"
        " set.call(arguments[0], arguments[1]);arguments[0].dispatchEvent(new Event('input',"
        " {bubbles: true}))",
        area,
        TABLE.replace("14\t\t0.08", "deep\t\t0.08"),
    )
    hands.press("Add these cuts")
    hands.says("line 3, depth")
    hands.driver.execute_script(
        "const set = Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set;"
        " set.call(arguments[0], arguments[1]);arguments[0].dispatchEvent(new Event('input',"
        " {bubbles: true}))",
        area,
        TABLE,
    )
    hands.press("Add these cuts")
    hands.wait(lambda: len(hands.all("table.sheet tbody tr")) == 3)
    first = hands.one(f"input[name='{CUT}.axial_depth_mm']")
    first.click()
    first.send_keys("0.25 in", Keys.ENTER)
    hands.wait(
        lambda: (
            hands.driver.switch_to.active_element.get_attribute("name")
            == "job.parts.0.ops.0.cuts.1.axial_depth_mm"
        )
    )
    hands.wait(lambda: hands.value(f"{CUT}.axial_depth_mm") == "6.35")
    hands.says("Force N")
    hands.set("job.parts.0.ops.0.cuts.2.spindle_rpm", "90000")
    hands.says("T2 hole")

    # Setups: a vise needs two, side access one; picking puts the features into ops.
    hands.set("job.parts.0.ops.0.cuts.2.spindle_rpm", "6000")
    hands.press("Fewest setups")
    hands.says("clamped on")
    counts = {
        r.find_element(By.TAG_NAME, "b").text: r.find_elements(By.TAG_NAME, "td")[1].text
        for r in hands.all("table.lines tbody tr")
    }
    assert (counts["vises"], counts["tiers"]) == ("2", "1")
    row = next(r for r in hands.all("table.lines tbody tr") if r.text.startswith("plate"))
    row.find_element(By.TAG_NAME, "button").click()
    hands.wait(
        lambda: len(hands.all(".tabs button[role=tab]")) >= 3 and "-Y up" in hands.text(".tabs")
    )
    hands.wait(lambda: len(hands.all("table.sheet tbody tr")) == 3)  # op 10 kept its cuts
    # An op taken out, and put back as it was.
    next(tab for tab in hands.all(".tabs button[role=tab]") if "Op 20" in tab.text).click()
    hands.press("Remove op")
    hands.wait(lambda: "Op 20" not in hands.text(".tabs"))
    hands.press("Undo")
    hands.wait(
        lambda: (
            "Op 20" in hands.text(".tabs") and hands.text("[data-testid=saved]").startswith("Saved")
        )
    )
    # The plate: what stands in the cutter's way is said, and lower stops and clamps mend it.
    hands.press("4\nLayout")
    hands.one("[data-testid=plan]").click()
    hands.says("the stops at most")
    hands.press("3\nMethod")
    for name, height in (
        ("stops.height_mm", "7"),
        ("clamp.toe_height_mm", "4.5"),
        ("clamp.height_mm", "7"),
    ):
        hands.set(f"route.setups.0.holds.0.station.{name}", height)
    hands.press("4\nLayout")
    hands.plan()
    assert hands.count() > 5
    assert hands.quiet_console() == []


def test_a_solid_is_read_turned_sectioned_and_taken_and_a_kit_made(hands, tmp_path):  # noqa: F811
    hands.new_job("Sensor kit", "40")
    solid = tmp_path / "corner.step"
    solid.write_bytes(step_seed())
    hands.one("input[name=drawing]").send_keys(str(solid))
    hands.says("which way is up?", 60)
    hands.reads(".net", "20.0 mm")
    hands.wait(
        lambda: (
            next(b for b in hands.all("[role=dialog] button") if b.text.startswith("+X up")).click()
            or True
        )
    )
    hands.says("Take it, +X up")
    hands.press("Take it, +X up")
    hands.wait(lambda: hands.value("job.parts.0.height_mm") == "40")
    hands.says("From: STEP corner.step, +X up")
    # The kit: a second part, out of an SVG, two of it in a kit.
    hands.press("Add a part to the kit")
    hands.wait(lambda: hands.all("input[name='job.parts.1.per_kit']"))
    drawing = tmp_path / "cover.svg"
    drawing.write_bytes(SVG)
    hands.bring(drawing)
    hands.says("From: SVG cover.svg")
    hands.wait(lambda: "76.20 mm" in hands.text(".picture"))
    hands.set("job.parts.1.per_kit", "2")
    hands.says("80 in all")
    hands.press("Slot")
    hands.wait(lambda: hands.all("input[name='job.parts.1.outline.shape.length_mm']"))
    hands.set("job.parts.1.outline.shape.length_mm", "2 1/2 in")
    hands.wait(lambda: "63.50 mm" in hands.text(".picture"))
    hands.enter("job.parts.1.outline.shape.width_mm", "90")
    hands.says("must be less than its length")
    # A damaged solid says so and changes nothing.
    solid.write_bytes(step_seed()[:4000])
    hands.one("input[name=drawing]").send_keys(str(solid))
    hands.says("cut short")
    hands.press("3\nMethod")
    hands.says("Ops held here")
    hands.wait(lambda: hands.all("[role=combobox]")[0].click() or True)
    hands.says("Part 2, op 10")


def test_the_shop_is_searched_added_to_changed_in_any_unit_and_retired(hands, tmp_path):  # noqa: F811
    hands.driver.find_element(By.LINK_TEXT, "Shop").click()
    hands.wait(
        lambda: (
            next(b for b in hands.all("button[role=tab]") if b.text.startswith("Cutters")).click()
            or True
        )
    )
    hands.wait(lambda: len(hands.all(".MuiDataGrid-row")) > 10)
    hands.one("input[name=search]").send_keys("tap m8")
    hands.wait(lambda: [r.text.split("\n")[0] for r in hands.all(".MuiDataGrid-row")] == ["Tap M8"])
    hands.all(".MuiDataGrid-row .MuiDataGrid-cell")[0].click()
    hands.wait(lambda: hands.value("entry.pitch_mm") == "1.25")
    hands.press("Add")
    hands.enter("entry-name", "Tap 5/16-24")
    hands.press("Add it")
    hands.wait(lambda: hands.value("entry.name") == "Tap 5/16-24")
    hands.enter("entry.diameter_mm", '5/16"')
    hands.wait(lambda: hands.value("entry.diameter_mm") == "7.9375")
    assert "diameter" in hands.one("aside svg").get_attribute("aria-label") or hands.all(
        "aside svg text"
    )
    hands.enter("entry.pitch_mm", "-1")
    hands.says("greater than or equal to 0")
    hands.enter("entry.pitch_mm", "1.4111")
    hands.says("Thread pitch: 1.25 to 1.4111")  # the history says it
    hands.one("input[name='entry.pitch_mm']").click()
    hands.wait(lambda: "entered by" in hands.value("entry.source"))
    hands.press("Retire")
    hands.wait(
        lambda: "Tap 5/16-24" not in [r.text.split("\n")[0] for r in hands.all(".MuiDataGrid-row")]
    )
    table = tmp_path / "vises.csv"
    titles = (
        'Name,Jaw width [mm],Jaw height [mm],"Opening, largest [mm]","Clamping force, rated'
        ' [N]",Handle torque for it [N·m]'
    )
    table.write_text(f"{titles}\nOld vise,5 in,40,180,20 kN,70\n")
    hands.wait(
        lambda: (
            next(b for b in hands.all("button[role=tab]") if b.text.startswith("Vises")).click()
            or True
        )
    )
    hands.press("Import")
    hands.one("input[name=table]").send_keys(str(table))
    hands.says("This would change")
    hands.press("Store all of it")
    hands.says("Stored")
    hands.press("Close")
    hands.enter("search", "old")
    hands.wait(lambda: "127" in hands.text(".MuiDataGrid-row"))
    # Another unit and back: what was typed is there to the last digit.
    hands.all(".MuiDataGrid-row .MuiDataGrid-cell")[0].click()
    hands.press("mm · N·m")
    hands.wait(lambda: hands.value("entry.jaw_width_mm") == "5")
    hands.enter("entry.jaw_height_mm", "1 9/16")
    hands.wait(lambda: hands.value("entry.jaw_height_mm") == "1.5625")
    hands.press("in · in·lb")
    hands.wait(lambda: hands.value("entry.jaw_height_mm") == "39.6875")
    assert hands.value("entry.jaw_width_mm") == "127"
    assert hands.quiet_console() == []


def test_a_file_that_does_not_fit_says_why_and_the_way_on_is_there(hands, tmp_path):  # noqa: F811
    hands.new_job("Odd files", "12")
    before = hands.text(".picture")

    def load(name: str, data: bytes) -> None:
        (tmp_path / name).write_bytes(data)
        hands.one("input[name=drawing]").send_keys(str(tmp_path / name))

    load("sheet.dxf", b"%PDF-1.7 and so on")
    hands.says("“sheet.dxf” is a PDF")
    load("solid.step", b"not a solid at all")
    hands.says("does not begin as a STEP file does")
    bow = ezdxf.new()
    bow.header["$INSUNITS"] = 4
    bow.modelspace().add_lwpolyline([(0, 0), (40, 30), (40, 0), (0, 30)], close=True)
    bow.saveas(tmp_path / "bow.dxf")
    hands.one("input[name=drawing]").send_keys(str(tmp_path / "bow.dxf"))
    hands.says("crosses itself")
    assert hands.text(".picture") == before  # nothing of all this was taken
    # No units in the file: asked, and what was chosen is what is read.
    plain = ezdxf.new()
    plain.header["$INSUNITS"] = 0
    plain.modelspace().add_lwpolyline([(0, 0), (3, 0), (3, 2), (0, 2)], close=True)
    plain.saveas(tmp_path / "plain.dxf")
    hands.one("input[name=drawing]").send_keys(str(tmp_path / "plain.dxf"))
    hands.says("Which units?")
    hands.press("It is inch")
    hands.says("76.20 mm × 50.80 mm")
    hands.press("Leave it")
    hands.wait(lambda: not hands.all("[role=dialog]"))
    assert hands.text(".picture") == before  # looked at and left
    load(
        "pixels.svg",
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 80 60"><rect width="80"'
        b' height="60"/></svg>',
    )
    hands.says("Which units?")
    hands.press("It is mm")
    hands.says("80.00 mm × 60.00 mm")
    hands.press("Take this outline")
    hands.wait(lambda: "80.00 mm" in hands.text(".picture"))
    # Taken by mistake: one key takes it back, another brings it again, and a page loaded anew still
    # has it.
    hands.one("body").send_keys(Keys.CONTROL, "z")
    hands.wait(lambda: hands.text(".picture") == before)
    hands.one("body").send_keys(Keys.CONTROL, "y")
    hands.wait(lambda: "80.00 mm" in hands.text(".picture"))
    hands.wait(lambda: hands.text("[data-testid=saved]").startswith("Saved"))
    hands.driver.refresh()
    hands.wait(lambda: "80.00 mm" in hands.text(".picture"))


def test_a_recess_is_typed_seen_left_over_and_a_setup_held_in_vises(hands):  # noqa: F811
    """A pocket is added and no cut takes it: said, with where a tool could come from. The setup
    goes into vises; planning counts them and the page calls their parts by name.
    """
    hands.new_job("Sill block", "30")
    hands.press("Holes and pockets")
    hands.press("Add pocket or step")
    hands.set("job.parts.0.recesses.0.at", "20, 10; 40, 30")
    hands.set("job.parts.0.recesses.0.depth_mm", "6")
    hands.press("Blank to finished")
    hands.says("a tool could come from +Z")
    hands.says("Op 10 is held at")
    rows = hands.wait(lambda: [row.text for row in hands.all("[data-testid=touched] tbody tr")])
    assert any(row.startswith("long stop") and "raw" in row for row in rows)
    hands.press("At any height")
    hands.one("svg[aria-label*='cut at']")
    hands.press("3\nMethod")
    hands.choose("Form", "vises")
    hands.says("Vises there are")
    hands.choose("Vise", "Vise, 160 mm jaws")
    hands.set("route.setups.0.form.depth_mm", "4")
    hands.press("4\nLayout")
    hands.plan()
    assert 2 <= hands.count() <= 4
    hands.says("Handle torque")
    hands.press("5\nHold")
    hands.says("fixed jaw, near end")
    hands.says("moving jaw 1")
    hands.press("1\nPart")
    hands.press("Blank to finished")
    rows = hands.wait(lambda: [row.text for row in hands.all("[data-testid=touched] tbody tr")])
    assert any(row.startswith("fixed jaw") for row in rows)
    assert hands.quiet_console() == []


def test_a_file_a_material_and_a_quantity_give_a_design_to_argue_with(hands):  # noqa: F811
    """Nothing else is typed; what was assumed is said, and each of it is one press away."""
    hands.press("New job")
    hands.one("input[name=part]").send_keys(str(PARTS / "flange_bush.step"))
    hands.wait(lambda: hands.button("flange_bush.step").is_enabled())
    hands.choose("Material", "Free-cutting brass")
    hands.enter("quantity", "500")
    hands.wait(lambda: hands.button("Draft it").is_enabled())
    hands.press("Draft it")
    hands.wait(lambda: hands.count() >= 2 and hands.text("[data-testid=plan]") == "Plan", 120)
    assert hands.text("h1") == "flange bush"
    hands.says("complete parts a cycle")
    hands.wait(
        lambda: next(b for b in hands.all("button") if b.text.endswith("assumed")).click() or True
    )
    rows = [row.text for row in hands.all("[role=dialog] tbody tr")]
    assert 4 <= len(rows) <= 10
    assert any("between soft jaws" in row for row in rows)
    bar = next(row for row in hands.all("[role=dialog] tbody tr") if "55 mm round bar" in row.text)
    bar.find_element(By.TAG_NAME, "button").click()
    hands.wait(lambda: "/part" in hands.driver.current_url)
    # what a person sets is no longer assumed
    before = len(rows)
    hands.press("Stock")
    hands.set("job.parts.0.stock.x.allowance_mm", "3")
    hands.says(f"{before - 1} assumed")
    # another file starts anew, and is drafted round what was set
    hands.press("Shape")
    hands.press("Draft stock, ops and cuts")
    hands.says("Drafting flange bush")
    hands.wait(lambda: hands.all("input[name='job.parts.0.height_mm']"), 120)
    hands.press("Stock")
    hands.wait(lambda: hands.value("job.parts.0.stock.x.allowance_mm") == "3")
    assert hands.quiet_console() == []


def test_what_cannot_be_drafted_says_why_and_goes_on_by_hand(hands, tmp_path):  # noqa: F811
    hands.press("New job")
    plain = tmp_path / "cover.svg"
    plain.write_bytes(SVG)
    hands.one("input[name=part]").send_keys(str(plain))
    hands.wait(lambda: hands.all("input[name=thickness_mm]"))
    hands.enter("thickness_mm", "not much")
    hands.wait(lambda: hands.button("Draft it").is_enabled())
    hands.press("Draft it")
    hands.says("length")
    hands.enter("thickness_mm", "30 in")
    hands.press("Draft it")
    hands.says("could not be drafted", 120)
    hands.says("no standard bar or plate is that large")
    hands.press("Go on by hand")
    hands.wait(lambda: hands.all("[data-testid=plan]"))
