"""House rules: what this shop asks for beyond the physics, each with the reason beside it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field

from wedgecraft.core.ground.documents import Document
from wedgecraft.core.ground.units import Length
from wedgecraft.core.records.cut import Cut

Rule = Literal["probable", "worst case"]
#: What a zero is picked up for; the cheapest first.
Strategy = Literal["one for all", "one per face", "one per station"]
STRATEGIES: tuple[Strategy, ...] = ("one for all", "one per face", "one per station")


class HouseRules(Document):
    """Each rule has a default and, as its description, the reason people give for it."""

    safety_factor: Annotated[
        float,
        Field(
            ge=1,
            le=10,
            title="Clamping factor needed",
            description="The load is an estimate and edges wear: twice the cutting force.",
        ),
    ] = 2.0
    safety_factor_interrupted: Annotated[
        float,
        Field(
            ge=1,
            le=10,
            title="Clamping factor, interrupted cut",
            description="An interrupted cut hammers the part loose.",
        ),
    ] = 2.5
    least_grip_mm: Annotated[
        Length,
        Field(
            ge=0,
            le=50,
            title="Least grip in a vise",
            description=(
                "Burrs, chips and a blank out of square take tenths: a part held by less is held by"
                " luck. From memory."
            ),
        ),
    ] = 3.0
    hours_a_day: Annotated[
        float,
        Field(
            gt=0,
            le=24,
            title="Hours a day",
            description="Complete parts a day are counted in these; one shift, from memory.",
        ),
    ] = 8.0
    person_rate_an_hour: Annotated[
        float,
        Field(
            ge=0,
            le=10_000,
            title="Person, rate an hour; 0 unknown",
            description="Loading and setting up are paid whether a machine cuts or not.",
        ),
    ] = 0
    currency: Annotated[
        str,
        Field(
            pattern=r"^[A-Z]{3}$",
            title="Currency",
            description="One for all rates and prices here, by its three letters (ISO 4217).",
        ),
    ] = "EUR"
    tolerance_rule: Annotated[
        Rule,
        Field(
            title="Tolerance adds up as",
            description=(
                "Probable: independent errors rarely all point one way. Worst case: not one part"
                " may be out."
            ),
        ),
    ] = "probable"
    setup_minutes: Annotated[
        float,
        Field(
            ge=0,
            le=10_000,
            title="Setting up an op, minutes",
            description="Jaws or plate on, zero picked up, tools in, first article.",
        ),
    ] = 45
    handling_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=36_000,
            title="Handling a part, seconds",
            description="Unclamp, blow off, deburr, load, torque, for every part and op.",
        ),
    ] = 40
    burr_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=3600,
            title="A burr by hand, seconds",
            description="Taking off one that no cut takes off; from memory.",
        ),
    ] = 20
    screw_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=3600,
            title="Each further screw, seconds",
            description=(
                "Handling counts one screw a part; every screw more is turned and torqued, one that"
                " parts share is saved."
            ),
        ),
    ] = 8
    two_part_vise: Annotated[
        Literal["strict", "computed", "off"],
        Field(
            title="Parts in one vise",
            description=(
                "Strict: a rigid jaw only ever balances on two. Computed: three or four are fine"
                " with light cuts and equal blanks."
            ),
        ),
    ] = "computed"
    datum: Annotated[
        Literal["one for all", "one per face", "one per station", "cheapest in tolerance"],
        Field(
            title="Datum",
            description=(
                "One for all: one zero to pick up, the pattern is in the program. One per station:"
                " each can be nudged by itself."
            ),
        ),
    ] = "one for all"
    pickup_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=3600,
            title="Picking up a datum, seconds",
            description=(
                "Probe X, Y and Z, write and check the offset: once for every zero, each time set."
                " From memory: time your own."
            ),
        ),
    ] = 90
    objective: Annotated[
        Literal["largest count", "kit per cycle", "op 10 and 20 balanced"],
        Field(
            title="Fill the fixture for",
            description=(
                "Largest count: most parts. Kit: all parts of one assembly at every door opening."
                " Balanced: finished parts every time."
            ),
        ),
    ] = "largest count"
    order: Annotated[
        Literal["by tool", "by station"],
        Field(
            title="Program order",
            description=(
                "By tool: a tool change per tool. By station: a bad part is found before the next"
                " is cut."
            ),
        ),
    ] = "by tool"
    loading: Annotated[
        Literal["inside", "outside", "whichever is cheaper"],
        Field(
            title="Loading",
            description=(
                "Outside: the spindle cuts meanwhile. Inside: with few parts a second fixture does"
                " not pay."
            ),
        ),
    ] = "whichever is cheaper"
    tuning: Annotated[
        Literal["tune the cycle", "let it run"],
        Field(
            title="Cycle time",
            description=(
                "Tuning is worth nothing while the operator or another machine is the bottleneck."
            ),
        ),
    ] = "let it run"
    tooling: Annotated[
        Literal["modular", "bespoke"],
        Field(
            title="Fixtures",
            description=(
                "Modular: stands on the shelf already. Bespoke: more parts, and the repeat order is"
                " ready."
            ),
        ),
    ] = "modular"
    grip: Annotated[
        Literal["smooth", "toothed"],
        Field(
            title="Grip",
            description=(
                "Smooth leaves no marks. Toothed inserts hold raw stock with a bite of a few"
                " millimetres."
            ),
        ),
    ] = "smooth"
    make_program_minutes: Annotated[
        float,
        Field(
            ge=0,
            le=10_000,
            title="A piece's program, minutes",
            description="Drawing to program, once for pieces alike. From memory.",
        ),
    ] = 30
    make_setup_minutes: Annotated[
        float,
        Field(
            ge=0,
            le=10_000,
            title="Setting a fixture piece up, minutes",
            description="Clamp, square, pick up: for every side of every piece. From memory.",
        ),
    ] = 12
    make_face_cm2_a_minute: Annotated[
        float,
        Field(
            gt=0,
            le=100_000,
            title="Facing a plate, cm² a minute",
            description="Both faces of every piece are skimmed. From memory.",
        ),
    ] = 250
    make_hole_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=3600,
            title="Drilling a hole, seconds",
            description="Spot, drill, chamfer, move. From memory.",
        ),
    ] = 12
    make_tap_seconds: Annotated[
        float, Field(ge=0, le=3600, title="Tapping a hole, seconds", description="From memory.")
    ] = 12
    make_fit_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=3600,
            title="A fitted bore, seconds",
            description="Ream, gauge some, once more where it is tight. From memory.",
        ),
    ] = 20
    make_sink_seconds: Annotated[
        float, Field(ge=0, le=3600, title="A counterbore, seconds", description="From memory.")
    ] = 12
    make_bench_seconds: Annotated[
        float,
        Field(
            ge=0,
            le=3600,
            title="An insert or a dowel, seconds",
            description="Run in or pressed in by hand, looked at. From memory.",
        ),
    ] = 30
    make_cm3_a_minute: Annotated[
        float,
        Field(
            gt=0,
            le=10_000,
            title="Milling pockets out, cm³ a minute",
            description="Roughing and finishing together, in aluminium. From memory.",
        ),
    ] = 12
    threads: Annotated[
        Literal["direct", "inserts"],
        Field(
            title="Threads of fixtures",
            description=("Direct: quick. Wire inserts: wear slower where screws are used often."),
        ),
    ] = "direct"
    jaw_gap: Annotated[
        Literal["by parallel", "by card"],
        Field(
            title="Jaw gap when cutting soft jaws",
            description=(
                "Parallel: 1/8 in, room to clamp. Card: 0.030 in, more floor under the part."
            ),
        ),
    ] = "by parallel"
    jaws_cut: Annotated[
        Literal["together", "apart"],
        Field(
            title="Soft jaws are cut",
            description=(
                "Together on a parallel: they match. Apart, each with a zero of its own: the gap"
                " is free."
            ),
        ),
    ] = "together"
    jaws_aligned: Annotated[
        Literal["dowels", "side stop", "by a part"],
        Field(
            title="Soft jaws are aligned",
            description=(
                "Dowels: always the same. Side stop: pushed against it. By a part: clamped before"
                " the screws are tight."
            ),
        ),
    ] = "dowels"


def factor_needed(rules: HouseRules, cuts: Iterable[Cut]) -> float:
    """The clamping factor of an op: one interrupted cut asks it of the whole op."""
    interrupted = any(cut.interrupted for cut in cuts)
    return rules.safety_factor_interrupted if interrupted else rules.safety_factor
