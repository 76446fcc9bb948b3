"""What is hit on the way: compiled sweeps against dense sampling, shapely and the solids of an open
library; what stands turned against points of it; and mistakes put into the demo's own program.
"""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from manifold3d import Manifold
from shapely.affinity import rotate, translate
from shapely.geometry import Point, Polygon, box

from tests.core.make.planned import planned
from wedgecraft.core.cutting.path import cut_path
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.make.plates import plate_pieces
from wedgecraft.core.plan.pieces import planned_setup
from wedgecraft.core.plan.programs import setup_program
from wedgecraft.core.plan.route import plan_route
from wedgecraft.core.program.deep import deep_holes
from wedgecraft.core.program.envelope import envelope, tool_numbers
from wedgecraft.core.program.frame import frame
from wedgecraft.core.program.ops import OpProgram, read_op
from wedgecraft.core.program.poses import spun
from wedgecraft.core.program.scene import Scene, _Box, _steps
from wedgecraft.core.program.swept import (
    NONE_MM,
    RAPID,
    RUBS,
    SPOILT,
    against_standing,
    heights_of,
    lowest_near,
    through_part,
)
from wedgecraft.core.program.tooling import tool_shapes
from wedgecraft.core.program.trial import ran, tried
from wedgecraft.core.program.words import ProgramRefused, read
from wedgecraft.core.program.zeros import zero_table
from wedgecraft.core.records.material import MATERIALS
from wedgecraft.core.records.plate import Datum
from wedgecraft.core.records.program import OpText, ProgramRequest
from wedgecraft.core.records.request import Measured, OwnStation
from wedgecraft.core.records.tool import Tool
from wedgecraft.core.workpiece.body import Body, cylinder, prism
from wedgecraft.demo.shop import demo_documents
from wedgecraft.demo.tooling import op_programs

DEMO = Path(__file__).parents[3] / "wedgecraft/demo/programs"
HIT = "what is hit on the way"


@pytest.fixture(scope="module")
def block():
    """A tombstone of two ops whose tools are all known."""
    return planned_setup(planned("Manifold block, by the pallet"), 1)


@pytest.fixture(scope="module")
def ops(block):
    return {k: read_op((DEMO / f"manifold-op{n}.nc").read_text()) for k, n in enumerate((10, 20))}


def _shape(dice):
    outlines = (
        box(0, 0, 20, 8),
        Polygon([(0, 0), (25, 0), (25, 6), (6, 6), (6, 20), (0, 20)]),
        Point(0, 0).buffer(6, quad_segs=5),
    )
    picked = outlines[int(dice.integers(3))]
    turned = rotate(picked, float(dice.uniform(0, 360)), origin=(0, 0))
    return translate(turned, *dice.uniform(-20, 20, 2).tolist())


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 10**9))
@example(340)  # grazes a corner on a steep way
def test_a_tool_meets_what_stands_where_dense_sampling_says_so(seed):
    """Every ring at 400 places of its way, by shapely's distances."""
    dice = np.random.default_rng(seed)
    outline, high = _shape(dice), float(dice.uniform(2, 30))
    way = np.concatenate([[*dice.uniform(-50, 50, 2), dice.uniform(-5, 40)] for _ in range(2)])
    if dice.random() < 0.2:
        way[3:5] = way[:2]  # straight down
    radii, lows = np.array([[4.0, 3.0, 15.0]]), np.array([[0.0, 12.0, 25.0]])
    ring = np.array(outline.exterior.coords)[:-1]
    first, depth = against_standing(
        way[None], np.zeros(1, np.int64), radii, lows, np.zeros(1), ring,
        np.array([0, len(ring)]), np.array([high]), np.array([outline.bounds]),
    )  # fmt: skip
    t = np.linspace(0, 1, 400)[:, None]
    at = (1 - t) * way[:3] + t * way[3:]
    off = shapely.distance(outline, shapely.points(at[:, :2]))
    for s in range(3):
        # how far it is clear: beside, or above, whichever is more
        clear = np.maximum(off - radii[0, s], at[:, 2] + lows[0, s] - high)
        step = np.linalg.norm(way[3:] - way[:3]) / 399
        if clear.min() < -0.05 - step:
            assert first[0, 0, s] == 0
            below = (high - at[:, 2] - lows[0, s])[off < radii[0, s]]
            assert depth[0, 0, s] == pytest.approx(below.max(), abs=step + 0.05)
        elif clear.min() > step:
            assert first[0, 0, s] < 0


def _cut_by(radius, start, end, pointed):
    """All a cutter passes on a straight way, up to above everything."""
    up, deg = (radius, 90) if pointed else (0, None)
    ends = [cylinder(p + [0, 0, up], 200, radius, deg, 0.002).solid for p in (start, end)]
    return Body(Manifold.batch_hull(ends))


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**9))
@example(323484)  # leaves slivers beside a wall
def test_a_workpiece_is_cut_and_met_as_the_solids_of_an_open_library_say(seed):
    """A bored block cut by slopes, plunges and slots; what is left by volume, what a rapid meets by
    what it shares with what is left.
    """
    dice = np.random.default_rng(seed)
    solid = prism(box(0, 0, 40, 30), 0, 20) - cylinder((12, 12, -1), 40, 5, None, 0.002)
    step, whole = 0.1, solid
    grid = heights_of(solid, whole, step)
    pointed = bool(dice.integers(2))
    radii, rises = np.array([[3.0]]), np.array([float(pointed)])
    least = np.full(grid.heights.shape, NONE_MM)
    heights = grid.heights.copy()
    known = {}
    for n in range(8):
        start = np.array([*dice.uniform((-6, -6), (46, 36)), dice.uniform(6, 24)])
        end = np.array([*dice.uniform((-6, -6), (46, 36)), dice.uniform(6, 24)])
        if n % 3 == 0:
            end[:2] = start[:2]
        rapid = n % 2 == 1
        swept = _cut_by(3.0, start, end, pointed)
        first, depth, _ = through_part(
            heights, least, *grid.low, step, np.array([[*start, *end]]), np.array([rapid]),
            np.zeros(1, np.int64), radii, np.zeros((1, 1)), rises, np.ones(1, np.bool_),
        )  # fmt: skip
        shared = solid & swept
        if rapid:
            hit = first[0, 0, RAPID] >= 0
            # a shaving thinner than the grid may be missed, and nothing else
            if shared.volume_mm3 > 3.0 and shared.thickness_mm > 4 * step:
                assert hit, (seed, n, shared.volume_mm3)
            if shared.volume_mm3 < 1e-6:
                assert not hit, (seed, n)
            known[n] = hit
        else:
            solid = solid - swept
        # cell by cell as high as what an open library leaves; walls are half a cell off, and a
        # sliver thinner than a cell may stand beside them
        there = heights_of(solid, whole, step).heights
        low, high = lowest_near(there), -lowest_near(-there)
        off = (heights < low - 0.02) | (heights > high + 0.02)
        assert off.sum() <= 3, (seed, n)
        assert depth.min() >= 0
    assert known


def test_heights_are_those_of_slices_and_what_must_stay_stays():
    body = prism(box(0, 0, 30, 20), 0, 12) - prism(box(5, 5, 25, 15), 4, 20)
    body = body - cylinder((15, 10, -1), 20, 3, None, 0.002)
    grid = heights_of(body, body, 0.5)
    rows, columns = grid.heights.shape
    for i in range(0, rows, 3):
        for j in range(0, columns, 3):
            x, y = (grid.low[k] + (n + 0.5) * grid.step_mm for k, n in ((0, j), (1, i)))
            there = [z for z in (0.01, 4.01, 11.99) if body.slice(z).covers(Point(x, y))]
            want = {0: NONE_MM, 1: 4.0, 2: 12.0, 3: 12.0}[len(there)]
            assert grid.heights[i, j] == pytest.approx(want)
    least = lowest_near(grid.heights)
    ways = {"deep enough": 4.0, "too deep": 3.8}
    radii, lows = np.array([[2.0, 1.9, 4.5]]), np.array([[0.0, 5.0, 7.0]])
    for name, z in ways.items():
        way = np.array([[7.5, 7.5, z, 22.0, 7.5, z]])
        first, depth, _ = through_part(
            grid.heights.copy(), least, *grid.low, grid.step_mm, way, np.zeros(1, np.bool_),
            np.zeros(1, np.int64), radii, lows, np.zeros(1), np.ones(1, np.bool_),
        )  # fmt: skip
        assert (first[0, 0, SPOILT] >= 0) == (name == "too deep")
        # the holder is 7 above the tip and as wide as the pocket's walls are near
        assert first[0, 2, RUBS] == 0
        assert depth[0, 2, RUBS] == pytest.approx(12 - z - 7, abs=0.05)
    # a drill's end: at the rim its cone is higher
    drilled = grid.heights.copy()
    through_part(
        drilled, least, *grid.low, grid.step_mm, np.array([[2.5, 10.0, 20.0, 2.5, 10.0, 6.0]]),
        np.zeros(1, np.bool_), np.zeros(1, np.int64), np.array([[2.0]]), np.zeros((1, 1)),
        np.array([0.5]), np.ones(1, np.bool_),
    )  # fmt: skip
    assert drilled[19, 4] == pytest.approx(6 + 0.5 * np.hypot(0.25, 0.25))
    assert drilled[20, 7] == pytest.approx(6 + 0.5 * np.hypot(1.25, 0.25))


@pytest.mark.parametrize("index", [0.0, 90.0, 137.0])
def test_what_is_turned_away_stands_no_lower_and_hardly_higher_than_it_is(block, index):
    """Points of every box of every face, turned by a general library's rotations."""
    from scipy.spatial.transform import Rotation

    table = zero_table(block)
    scene = Scene(block, table.parts)
    things = scene.at(index)
    outlines = [(Polygon(thing.ring), thing.high_mm) for thing in things]
    tree = shapely.STRtree([outline for outline, _ in outlines])
    request = block.request
    middle = np.array([request.machine.middle_x_mm, request.machine.middle_y_mm,
                       request.machine.middle_z_mm])  # fmt: skip
    out = request.block.across_mm / 2 + request.plate.thickness_mm
    dice = np.random.default_rng(1)
    for face in range(4):
        if scene.faces_up(face, index):
            continue
        turn = Rotation.from_euler("y", index - 90 * face, degrees=True)
        for station in block.on_face(face)[:4]:
            for body in block.design.kinds[station.kind].drawing.bodies:
                if body.name == "part":
                    continue
                spot = np.array(Polygon(body.outer).representative_point().coords[0])
                spun = Rotation.from_euler("z", station.turn, degrees=True).apply([*spot, 0])
                z = dice.uniform(body.low_mm, body.high_mm)
                local = spun + [station.x_mm, station.y_mm, z]
                local += [-request.plate.width_mm / 2, 0, out]
                place = middle + turn.apply(local)
                over = tree.query(Point(place[:2]), predicate="intersects")
                assert max(outlines[k][1] for k in over) >= place[2] - 1e-6
    # nothing stands farther out than the swing says
    swing = max(far for far, _, _ in scene.swing())
    assert max(high for _, high in outlines) <= middle[2] + max(swing, 200 * 2**0.5) + 1e-6
    corner = np.hypot(out + 32.16, 140)
    assert swing <= corner + 1e-6


def _wrong(block, ops, old, new, count=1):
    table = zero_table(block)
    text = frame(block, table, ops).text
    found, many = re.subn(old, new, text, count=count)
    assert many
    return [
        item for item in tried(block, table, ops, found).findings
        if item.check == HIT and item.stands is False
    ], found  # fmt: skip


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        # no retract between two parts: the face mill stays at its depth
        (r"N\d+ G0 Z40\.\n(N\d+ G80\n)N\d+ G90 G21 .*\n", r"\1", "T1 at rapid"),
        (r"G1 Y60\. Z-16\.", "G1 Y60. Z-26.", "T2 cuts"),  # into stops and clamps
        (r"Z-33\.5 R3\. Q8\.", "Z-36. R3. Q8.", "T3 cuts"),  # under the relief, into the plate
        (r"G1 X52\. Z0", "G1 X52. Z-0.5", "what part"),  # into the finished face
        (r"R3\. Q8\.", "R-4. Q8.", "T3 at rapid"),  # rapid into the raw top
        (r"G43 H3 ", "G43 H5 ", "T3"),  # another's length
        (r"(T2 PART 1 .*\n(?:N.*\n)+?N\d+ G17 )G21", r"\1G20", "T2"),  # the wrong unit
        (r"X40\.\nN\d+ Y49\.", "X40. Z-21.\nN1 Y49.", "T5"),  # a hole deeper than it should be
    ],
)  # fmt: skip
def test_a_mistake_on_the_way_is_found_with_its_line(block, ops, old, new, says):
    found, text = _wrong(block, ops, old, new)
    assert found, old
    assert any(says in item.says for item in found), [item.says for item in found]
    first = found[0]
    assert first.line is None or 1 <= first.line <= text.count("\n")
    assert first.at_mm is not None


def test_a_clamp_a_holder_and_the_block_are_met(block, ops):
    """The same program: with a taller clamp, a stubby tool, and a turn of the block with the tool
    still down.
    """
    table = zero_table(block)
    text = frame(block, table, ops).text
    kinds = []
    for kind in block.design.kinds:
        bodies = [
            body.model_copy(update={"high_mm": 18.0}) if body.name == "clamp" else body
            for body in kind.drawing.bodies
        ]
        drawing = kind.drawing.model_copy(update={"bodies": bodies})
        kinds.append(kind.model_copy(update={"drawing": drawing}))
    tall = replace(block, design=block.design.model_copy(update={"kinds": kinds}))
    found = [i for i in tried(tall, table, ops, text).findings if i.stands is False]
    assert [item.check for item in found] == [HIT] * len(found)
    assert "T2 cuts" in found[0].says
    assert "into the clamp of station" in found[0].says
    machine = block.request.machine
    tools = [
        Tool(
            number=tool.number,
            cutter=tool.cutter.model_copy(
                update={"reach_mm": 8.0, "flute_length_mm": 8.0} if tool.number == 2 else {}
            ),
            holder=tool.holder,
        )
        for tool in machine.tools
    ]
    stubby = replace(
        block,
        request=block.request.model_copy(
            update={"machine": machine.model_copy(update={"tools": tools})}
        ),
    )
    found = [i for i in tried(stubby, table, ops, text).findings if i.stands is False]
    assert found
    assert "T2's holder" in found[0].says
    # nobody has said what T4 is: as a pin it meets nothing, and it is not said to be clear
    bare = replace(
        block,
        request=block.request.model_copy(
            update={"machine": machine.model_copy(update={"tools": tools[:3] + tools[4:]})}
        ),
    )
    assert tool_shapes(bare, [4, 77])[77].unsaid == "the cutter and the holder"
    says = [i for i in tried(bare, table, ops, text).findings if i.check == HIT]
    assert any(i.stands is None and "T4" in i.says for i in says)
    # a path beside the written one is not called clear, nor a tool the machine cannot take
    beside = text.replace("G1 Y60. Z-8.", "G41 D2 G1 Y60. Z-8.", 1)
    says = [i for i in tried(block, table, ops, beside).findings if i.check == HIT]
    assert any(i.stands is None and "G41" in i.says for i in says)
    short = tried(_on(block, longest_tool_mm=150), table, ops, text).findings[0]
    assert (short.stands, short.says[:2]) == (False, "T3")
    turned, _ = _wrong(block, ops, r"\nN\d+ G53 G0 Z0\n(N\d+ G90 B90\.)", r"\n\1")
    assert any("block turns with T1" in item.says for item in turned)


def test_our_own_programs_raise_no_false_alarm(block, ops):
    """In either order, by every strategy, with parts missing: 50 of them by hand, 8 here."""
    dice = np.random.default_rng(7)
    for n in range(8):
        strategy = ("one for all", "one per face")[n % 2]
        design = block.design.model_copy(update={"datum": strategy})
        asked = replace(block, design=design)
        table = zero_table(asked)
        count = int(dice.integers(1, len(table.parts) + 1)) if n else len(table.parts)
        only = sorted(dice.permutation(len(table.parts))[:count] + 1)
        program = frame(asked, table, ops, ("by tool", "by station")[n // 2 % 2], only)
        there = table.model_copy(update={"parts": [p for p in table.parts if p.number in only]})
        found = tried(asked, there, ops, program.text).findings
        assert [item for item in found if not item.stands] == [], (n, strategy)


def _on(block, **fields):
    machine = block.request.machine.model_copy(update=fields)
    return replace(block, request=block.request.model_copy(update={"machine": machine}))


@pytest.mark.parametrize(
    ("control", "without", "has"),
    [
        ({"local_shift": False}, r"G52|G68", r"G1 X\S+ Y"),
        ({"turned_coordinates": False}, r"G68|G69", r"G52 X-"),
        ({"subprograms": True}, r"O8100", r"M98 P8001[\s\S]+O8001\n[\s\S]+M99"),
        (
            {
                "subprograms": True,
                "turned_coordinates": False,
                "stops_to_look": True,
                "first_lines": ["(LOCK THE DOOR)", "M1"],
                "last_lines": ["(WASH DOWN)", "G4 X2"],
            },
            r"G68|G69",
            r"\(LOCK THE DOOR\)[\s\S]+T1 M6\nN\d+ M1\n[\s\S]+\(WASH DOWN\)",
        ),
    ],
)
def test_every_control_gets_a_program_that_goes_the_same_way(block, ops, control, without, has):
    """Whatever its control can do: the stand-in, without what this one has not, accepts it."""
    asked = _on(block, **control)
    table = zero_table(asked)
    whole = frame(block, table, ops).text
    text = frame(asked, table, ops).text
    assert not re.search(without, text)
    assert re.search(has, text)
    found = tried(asked, table, ops, text)
    assert found.accepted, found.findings
    if control.get("subprograms"):
        assert text.count("\n") < 0.6 * whole.count("\n")
    if not control.get("local_shift", True):
        with pytest.raises(ProgramRefused, match="no local shift"):
            tried(asked, table, ops, whole)
    # G91 cannot be worked out, and says what would do
    if not control.get("local_shift", True):
        bad = read_op("T1 M6\nS1 M3 F9\nG91 G1 X1\nG90 G0 Z9\nM30")
        with pytest.raises(OutOfRange, match="G52 and G68"):
            frame(asked, table, dict.fromkeys(ops, bad))


def test_a_first_article_goes_over_the_work_first_and_a_part_goes_in_again(block, ops):
    table = zero_table(block)
    part = table.parts[3]
    there = table.model_copy(update={"parts": [part]})
    program = frame(block, table, ops, None, [part.number], 30.0)
    assert program.text.count("M0\n") == 1
    x, y, z = part.at_mm
    raised = part.model_copy(update={"at_mm": (x, y, z + 30)})
    found = tried(block, there, ops, program.text, raised=[raised])
    assert found.accepted, found.findings
    setting, went = ran(block, table, ops, read(program.text))
    stop = program.text.splitlines().index("(RAISED UNTIL HERE. LOOK, THEN AT SIZE)") + 1
    tips = [m.end[2] - setting.lengths[m.tool] for m in went.moves if m.cuts and m.line < stop]
    low = [m.end[2] - setting.lengths[m.tool] for m in went.moves if m.cuts and m.line > stop]
    assert min(tips) == pytest.approx(min(low) + 30)
    assert len(tips) == len(low)
    # the ports again, in parts that are finished but for them: nothing else is cut
    again = {k: OpProgram(tuple(p for p in op.pieces if p.tool == 5)) for k, op in ops.items()}
    program = frame(block, table, again, None, [1, 2, 30])
    assert program.tools == [5]
    some = table.model_copy(update={"parts": [p for p in table.parts if p.number in (1, 2, 30)]})
    assert tried(block, some, again, program.text, again=True).accepted
    # a rapid that needs what the face mill takes away first is red in a raw part, not in a cut one
    low_down = read_op(
        "T5 M6\nS7000 M3\nG0 X14 Y17\nG43 H5 Z40 M8\nZ.5\nG1 Z-5 F800\nG0 Z40 M9\nM30"
    )
    near = dict.fromkeys(ops, low_down)
    text = frame(block, table, near, None, [1]).text
    one = table.model_copy(update={"parts": [p for p in table.parts if p.number == 1]})
    assert tried(block, one, near, text, again=True).accepted
    raw = tried(block, one, near, text).findings[0]
    assert (raw.check, raw.stands) == (HIT, False)


def test_measured_places_are_where_the_program_runs_and_the_drawing_is_not_lost(block):
    station = block.design.stations[5]
    own = OwnStation(
        face=station.face, kind=station.kind, x_mm=station.x_mm, y_mm=station.y_mm,
        turn=station.turn,
        measured=Measured(x_mm=station.x_mm + 0.03, y_mm=station.y_mm - 0.04, z_mm=0.0),
    )  # fmt: skip
    arrangement = block.request.arrangement.model_copy(update={"stations": [own]})
    request = block.request.model_copy(update={"arrangement": arrangement})
    found, drawn = zero_table(replace(block, request=request)), zero_table(block)
    (part,) = [p for p in found.parts if p.measured_off_mm is not None]
    before = next(p for p in drawn.parts if p.number == part.number)
    assert part.station == station.number
    assert part.measured_off_mm == pytest.approx((0.03, -0.04, 0.0), abs=1e-6)
    off = np.subtract(part.at_mm, before.at_mm)
    assert off == pytest.approx((0.03, -0.04, 0.0), abs=1e-6)
    assert any("1 of 52 parts" in note and "0.050 mm" in note for note in found.notes)


def test_a_plate_that_looks_the_same_half_a_turn_round_says_so():
    plate = planned_setup(planned("Vane yoke"), 1)
    assert not any("half a turn" in note for note in zero_table(plate).notes)
    first = plate.design.stations[0]
    wide, deep = plate.request.plate.width_mm, plate.request.plate.depth_mm
    other = first.model_copy(
        update={
            "number": 2, "x_mm": wide - first.x_mm + 0.004, "y_mm": deep - first.y_mm,
            "turn": (first.turn + 180) % 360,
        }
    )  # fmt: skip
    both = plate.design.model_copy(update={"stations": [first, other]})
    notes = zero_table(replace(plate, design=both)).notes
    assert any("half a turn" in note and "0.004" in note for note in notes)


def test_a_deep_hole_in_brass_wants_the_drill_right_out_on_every_peck(block):
    """About 7 diameters: common practice, no source. The drill is 5 mm; nothing is said of
    aluminium, nor where it comes right out.
    """
    pecks = "T5 M6\nS900 M3\nG0 X9 Y9\nG43 H5 Z9\n{} X9 Y9 Z-40 R2 {} F90\nG80\nG0 Z9\nM30"
    chips, right_out, at_once = (
        read_op(pecks.format(code, q)) for code, q in (("G73", "Q5"), ("G83", "Q5"), ("G81", ""))
    )
    kind = block.kinds[0]
    brass = next(m for m in MATERIALS.values() if "brass" in m.name.lower())
    part = kind.sitting.part.model_copy(update={"material": brass})
    sitting = replace(kind.sitting, piece=replace(kind.sitting.piece, part=part))
    of_brass = replace(block, kinds=(replace(kind, sitting=sitting), *block.kinds[1:]))
    for op in (chips, at_once):
        (found,) = deep_holes(of_brass, {0: op})
        assert found.stands is None
        assert "8.0 diameters" in found.says
    assert deep_holes(of_brass, {0: right_out}) == []
    assert deep_holes(block, {0: chips}) == []


def test_two_ops_in_vises_stand_on_parallels_of_their_own_height():
    """Two zeros: Z of either by a plain sum, and the demo's programs for both hit nothing. Taken
    on one height, the second op's cutter is in a jaw.
    """
    document = next(d for d, _ in demo_documents() if d.job.name == "Staff-gauge cover")
    asked = planned_setup(plan_route(document, alternatives=False), 1)
    ops = {k: read_op(text) for k, (_, _, _, text) in enumerate(op_programs(document))}
    table = zero_table(asked)
    assert len(table.zeros) == 2
    machine = asked.request.machine
    ups = [kind.view.station.element.up_mm for kind in asked.kinds]
    assert ups[0] != ups[1]
    for part in table.parts:
        top = asked.kinds[part.kind].sitting.top_mm
        assert part.at_mm[2] == pytest.approx(machine.middle_z_mm + ups[part.kind] + top)
    program = frame(asked, table, ops)
    found = tried(asked, table, ops, program.text).findings
    assert [item for item in found if item.stands is False] == []
    low = table.model_copy(
        update={
            "parts": [
                p.model_copy(update={"at_mm": (*p.at_mm[:2], p.at_mm[2] - 4)}) for p in table.parts
            ],
            "zeros": [
                z.model_copy(update={"at_mm": (*z.at_mm[:2], z.at_mm[2] - 4)}) for z in table.zeros
            ],
        }
    )
    wrong = tried(asked, low, ops, program.text).findings
    assert any("T2 cuts" in item.says and "stop of station" in item.says for item in wrong)


@pytest.mark.parametrize("name", ["Manifold block, by the pallet", "Vane yoke", "Gland plate"])
def test_what_cuts_sweep_hits_nothing_of_what_the_layout_left_room_for(name):
    """Two ways to one answer: layouts keep outlines apart, here tools go along every cut."""
    document = planned(name)
    for number in range(1, len(document.route.setups) + 1):
        asked = planned_setup(document, number)
        ops = {k: envelope(r, asked.request.machine) for k, r in enumerate(asked.kinds)}
        table = zero_table(asked)
        found = tried(asked, table, ops, frame(asked, table, ops).text, ["all"])
        assert not found.accepted
        assert [i for i in found.findings if i.check == HIT and i.stands is False] == []
        for ready, op in zip(asked.kinds, ops.values(), strict=True):
            lowest = {m.tool: m.end[2] for m in op.pieces[-1].cutting}
            assert min(lowest.values()) <= -ready.sitting.cuts[-1].depth_mm + 1e-6


def test_sister_tools_programs_by_number_and_how_a_zero_is_picked_up(block, ops):
    machine = block.request.machine
    mill = machine.tools[1]
    sister = mill.model_copy(update={"number": 12})
    asked = _on(block, tools=[*machine.tools, sister])
    document = planned("Manifold block, by the pallet")
    first, *others = document.route.setups
    first = first.model_copy(update={"machine": asked.request.machine})
    route = document.route.model_copy(update={"setups": [first, *others]})
    known = document.model_copy(update={"route": route})
    texts = [OpText(part=part, op=op, text=text) for part, op, _, text in op_programs(document)]
    answer = setup_program(ProgramRequest(document=known, ops=texts), 1)
    assert answer.program.sisters == [(2, 12)]
    other = setup_program(ProgramRequest(document=known, ops=texts, instead={2: 12}), 1)
    assert other.program.tools == [1, 12, 3, 4, 5, 6]
    assert other.tried.accepted, other.tried.findings
    # programs that are in the control alone are called with every part's zero
    numbers = [text.model_copy(update={"text": f"O{k + 7:04d}"}) for k, text in enumerate(texts)]
    called = setup_program(ProgramRequest(document=known, ops=numbers), 1)
    assert not called.tried.accepted
    assert (called.programmed_s, other.programmed_s) == (None, other.tried.seconds)
    assert "O0007 and O0008" in called.reasons[0]
    calls = [len(re.findall(rf"M98 P{n}\b", called.program.text)) for n in (7, 8)]
    assert calls == [sum(part.kind == k for part in called.table.parts) for k in (0, 1)]
    empty = called.program.text.replace("%\n", "") + "O7\nG0 X0 Y0\nM99\nO8\nG0 X0 Y0\nM99\n"
    setting, went = ran(block, called.table, ops, read(empty))
    there = {move.end[:2] for move in went.moves if move.what == "rapid"}
    for part in called.table.parts:
        near = min(np.hypot(x - part.at_mm[0], y - part.at_mm[1]) for x, y in there)
        assert near < 1e-6
    # what a zero is picked up from is said, step by step, and whether that can be
    for datum, says in (
        (Datum(), None),
        (Datum(x_mm=20, y_mm=20), None),
        (Datum(x_mm=20, picked_up="corner"), "a corner is at X0 Y0"),
        (Datum(picked_up="midway between faces"), "midway between its faces is X140"),
        (Datum(x_mm=140, y_mm=220, picked_up="midway between faces"), None),
        (Datum(picked_up="axis"), None),
    ):
        request = block.request.model_copy(update={"datum": datum})
        table = zero_table(replace(block, request=request))
        steps = {zero.steps[0] for zero in table.zeros}
        assert len(steps) == 1
        assert table.zeros[0].steps[-1].endswith("is Z0")
        doubts = [doubt for doubt in table.doubts if "nobody" not in doubt]
        assert bool(doubts) == (says is not None)
        assert not says or says in doubts[0]
        (piece, *_) = plate_pieces(replace(block, request=request))
        bored = any(p.what == "datum bore" for row in piece.holes for p in row.places)
        assert bored == (datum.from_what == "bore")


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**9), st.floats(0, 360), st.sampled_from(["upright", "lying"]))
def test_steps_of_a_turned_box_cover_it_and_stand_out_by_less_than_a_step(seed, degrees, axis):
    """Against the box's own solid, turned by an open library: no point of it is higher than a step
    over it, and no step is higher than the box plus one step's rise.
    """
    dice = np.random.default_rng(seed)
    low = dice.uniform(-60, 20, 3)
    high = low + dice.uniform(3, 50, 3)
    turn = spun(1 if axis == "upright" else 0, degrees)
    steps = list(
        _steps(_Box("box", 1, tuple(low), tuple(high)), turn, 1 if axis == "upright" else 0)
    )
    solid = Manifold.cube(tuple(high - low)).translate(tuple(low)).transform(turn[:3])
    x0, y0, z0, x1, y1, z1 = solid.bounding_box()
    rise = (z1 - z0) / 6
    areas = [(Polygon(step.ring), step.high_mm) for step in steps]
    assert max(top for _, top in areas) == pytest.approx(z1, abs=1e-4)
    for x, y in zip(dice.uniform(x0, x1, 40), dice.uniform(y0, y1, 40), strict=True):
        hits = solid.ray_cast((x, y, z1 + 9), (x, y, z0 - 9))
        over = [top for area, top in areas if area.covers(Point(x, y))]
        if hits:
            top = max(hit.position[2] for hit in hits)
            assert over, (x, y)
            assert max(over) >= top - 1e-3
        if over:
            # a step is as high as the box somewhere within the step's own run, and no higher
            within = solid.trim_by_plane((0.0, 0.0, 1.0), max(over) - rise - 1e-3)
            assert not within.is_empty()
            assert max(over) <= z1 + 1e-4


@pytest.mark.parametrize("name", ["Vane yoke", "Float-arm hub", "Gland plate"])
def test_what_stands_in_for_a_program_goes_where_the_cuts_axis_goes(name):
    """Every cut of every op: its moves lie on the axis that the plan keeps room for, reach its
    depth, and go at its feed and speed.
    """
    document = planned(name)
    for number in range(1, len(document.route.setups) + 1):
        asked = planned_setup(document, number)
        for ready in asked.kinds:
            sitting = ready.sitting
            numbers = tool_numbers(sitting.cuts, asked.request.machine)
            pieces = envelope(ready, asked.request.machine).pieces
            moves = [move for piece in pieces for move in piece.cutting]
            assert {move.tool for move in moves} == set(numbers)
            for cut, guide, tool in zip(sitting.cuts, sitting.guides, numbers, strict=True):
                axis = cut_path(cut, guide).axis.buffer(0.01)
                own = [m for m in moves if m.tool == tool and m.rpm == round(cut.spindle_rpm)]
                here = [m for m in own if axis.covers(Point(m.end[:2]))]
                assert here, cut.name
                deep = -min(move.end[2] for move in here)
                assert deep >= cut.depth_mm - 1e-6
                per_turn = cut.tool.pitch_mm or cut.feed_per_tooth_mm * cut.tool.teeth
                assert any(
                    move.feed == pytest.approx(per_turn * cut.spindle_rpm, rel=1e-3)
                    for move in here
                )


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10**9))
def test_any_two_parts_that_change_places_or_are_left_out_are_found(block, ops, seed):
    """Stretches of the demo's program, from one part's comment to the next: one dropped, one done
    twice, one with another's zero; and in any other order nothing is wrong with what is cut.
    """
    dice = np.random.default_rng(seed)
    table = zero_table(block)
    only = sorted((dice.permutation(len(table.parts))[:6] + 1).tolist())
    there = table.model_copy(update={"parts": [p for p in table.parts if p.number in only]})
    lines = frame(block, table, ops, "by tool", only).text.splitlines()
    begins = [k for k, line in enumerate(lines) if re.match(r"\(T\d+ PART", line)]

    def stretch(k):
        """Its lines, up to where its shift is taken back."""
        whole = range(begins[k], len(lines))
        return begins[k], next(n for n in whole if lines[n].endswith(" G52 X0 Y0 Z0")) + 1

    def once(changed):
        text = "\n".join(changed) + "\n"
        found = tried(block, there, ops, text).findings
        return [i for i in found if i.check.startswith("every part") and i.stands is False]

    assert once(lines) == []
    start, end = stretch(int(dice.integers(len(begins))))
    number = int(re.search(r"PART (\d+)", lines[start])[1])
    (missing, *_) = once([*lines[:start], *lines[end:]])
    assert missing.part == number
    assert "never gets" in missing.says
    (twice, *_) = once([*lines[:end], *lines[start:end], *lines[end:]])
    assert twice.part == number
    assert "second time" in twice.says
    # two stretches of one tool on one face the other way round: the same cuts
    pairs = [
        k
        for k in range(len(begins) - 1)
        if lines[begins[k]][:4] == lines[begins[k + 1]][:4]
        and not any(" B" in line for line in lines[begins[k] : begins[k + 1]])
    ]
    if not pairs:
        return
    a = pairs[int(dice.integers(len(pairs)))]
    (a0, a1), (b0, b1) = stretch(a), stretch(a + 1)
    assert once([*lines[:a0], *lines[b0:b1], *lines[a1:b0], *lines[a0:a1], *lines[b1:]]) == []
    # their shifts changed over: each is cut where the other stands, once all the same; but with
    # parts of two ops, or turned otherwise, that is another cut
    kinds = {p.number: (p.kind, p.turn_deg) for p in table.parts}
    own = [int(re.search(r"PART (\d+)", lines[k])[1]) for k in (a0, b0)]
    shifts = [next(n for n in range(k, k + 6) if "G52 X" in lines[n]) for k in (a0, b0)]
    changed = list(lines)
    words = [lines[n].split(" ", 1)[1] for n in shifts]
    for n, word in zip(shifts, reversed(words), strict=True):
        changed[n] = f"{lines[n].split(' ', 1)[0]} {word}"
    assert bool(once(changed)) == (kinds[own[0]] != kinds[own[1]])
