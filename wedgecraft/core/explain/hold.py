"""Figures of clamping: how the part is held, pressed and moved, each with formula, inputs and
sources.
"""

from __future__ import annotations

from wedgecraft.core.clamping.pressure import SINKS_IN
from wedgecraft.core.clamping.screw import NUT_FACTOR, short_form_n
from wedgecraft.core.cutting.milling import KIENZLE
from wedgecraft.core.ground.limits import Figure, FigureInput, given
from wedgecraft.core.records.hold import BoreSqueezed, HoldVerdict
from wedgecraft.core.records.material import HOLDER_YIELD_MPA
from wedgecraft.core.records.plan import CutLoad
from wedgecraft.core.records.screw import SCREWS
from wedgecraft.core.records.view import OpView


def hold_figures(view: OpView, loads: list[CutLoad], hold: HoldVerdict) -> list[Figure]:
    clamp, element = view.station.clamp, view.station.element
    where = "at the toe" if element.is_toe else f"of each {element.kind}"
    way, lever = element.acts, element.formula
    if view.station.sharing.how == "double wedge between two":
        where, lever = "of the wedge on each part", "screw force / (2 tan(angle + rho))"
    seats = (
        "toe force, low end, x tan(down angle); it seats the part, hold counts only the friction it"
        " leaves"
    )
    if not element.is_toe:
        seats = (
            "what one of them presses the part down with; nothing where it presses sideways, or all"
            " over"
        )
    handled = element.drive != "screw"
    if handled:
        seats = "nothing: jaws press sideways"
    friction = element.rubs(clamp)
    form = "T (1 - scatter) / (P/2π + μ d2 / (2 cos 30°) + μ Dkm / 2), μ at its high end; then "
    pressing = [
        given("screw torque", clamp.torque_nm, "N·m"),
        given("torque scatter", clamp.torque_scatter),
        given("screw friction, high", clamp.screw_friction_high),
        given("pitch", SCREWS[clamp.screw].pitch_mm, "mm", "ISO 261"),
        *_sizes(view),
    ]
    if handled:
        form = ""
        pressing = [given("handle torque", clamp.torque_nm, "N·m"), *element.sizes(clamp)]
    if not element.driven:
        form, friction = "", view.station.floor_friction
        pressing = element.sizes(clamp)
    return [
        Figure(
            id="hold_factor",
            label="Clamping, worst case",
            value=hold.result.factor,
            formula=(
                "largest factor on the cutting force for which stops, plate, clamps and friction"
                " still balance it; lowest of all cases"
            ),
            inputs=[
                given(f"preload {where}, low end", hold.preload_low_n, "N", way),
                given("friction where the clamp presses", friction),
                given("friction at the stops", view.station.stops.friction),
                given("friction on the plate", view.station.floor_friction),
                given(
                    "peak force in the plane",
                    max(item.load.in_plane_peak_n for item in loads),
                    "N",
                    KIENZLE,
                ),
                given("peak pull", max(item.load.pull_peak_n for item in loads), "N", KIENZLE),
            ],
            source=(
                "limit equilibrium with friction cones as a linear programme (Murray, Li and Sastry"
                " 1994, chapter 5)"
            ),
        ),
        Figure(
            id="preload",
            label=f"Preload {where}, low end",
            value=hold.preload_low_n,
            unit="N",
            digits=0,
            formula=form + lever,
            inputs=pressing,
            source=(
                "VDI 2230 part 1, long form; statics of the element"
                if form
                else "vise maker's figures"
                if handled
                else "pressure times area"
            ),
        ),
        Figure(
            id="preload_high",
            label=f"Preload {where}, high end",
            value=hold.preload_high_n,
            unit="N",
            digits=0,
            formula=(
                "as the low end, with T (1 + scatter) and μ at its low end"
                if form
                else "as the low end, x (1 + scatter)"
                if handled
                else "as the low end, at the best vacuum"
            ),
            inputs=[
                *pressing[:2],
                *([given("screw friction, low", clamp.screw_friction_low)] if form else []),
            ],
            source=(
                "VDI 2230 part 1, long form; statics of the element"
                if form
                else "vise maker's figures"
                if handled
                else "pressure times area"
            ),
        ),
        Figure(
            id="seating",
            label="Pressing down, low end",
            value=hold.seating_n,
            unit="N",
            digits=0,
            formula=seats,
            inputs=[
                given("preload, low end", hold.preload_low_n, "N", f"{element.drive} torque"),
                given("down angle", clamp.down_angle_deg, "°"),
            ],
            source="statics of the toe",
        ),
        *_least_torque_figure(view, hold),
        *_window_figures(view, hold),
        *_pressure_figure(view, hold),
        *_squeeze_figure(hold),
        *_contact_figures(view, hold),
        *[Figure.model_validate(item.model_dump(exclude={"counted"})) for item in hold.gives],
        Figure(
            id="screw",
            label=f"{element.drive.capitalize()} torque",
            value=clamp.torque_nm,
            unit="N·m",
            digits=1,
            formula="as set",
            inputs=[given(f"{element.drive} torque", clamp.torque_nm, "N·m")],
            source="this job",
        ),
    ]


def _window_figures(view: OpView, hold: HoldVerdict) -> list[Figure]:
    """From where it marks and sinks in, how the short form has the screw's force, and what holds a
    part while a bar turns it.
    """
    clamp, found = view.station.clamp, []
    softer = min(view.part.material.yield_mpa, HOLDER_YIELD_MPA)
    for name, label, value, times in (
        ("marks_from", "Marks the part from", hold.marks_from_nm, 1.0),
        ("sinks_from", "Sinks in from", hold.sinks_from_nm, SINKS_IN),
    ):
        if value is not None:
            found.append(
                Figure(
                    id=name,
                    label=label,
                    value=value,
                    unit="N·m",
                    digits=1,
                    formula=(
                        "screw torque at which clamping alone, at its high end, presses some"
                        f" contact with {times:g} x yield; by bisection"
                    ),
                    inputs=[
                        given(
                            "yield of the softer side",
                            softer,
                            "MPa",
                            "part, or hardened stops and toes",
                        ),
                        given("torque scatter", clamp.torque_scatter),
                    ],
                    source="share-out over the contacts; Tabor 1951 for 2.8 x yield",
                )
            )
    if hold.torque and view.station.element.drive == "screw":
        nominal = SCREWS[clamp.screw].nominal_mm
        found.append(
            Figure(
                id="short_form",
                label="Screw force, short form",
                value=short_form_n(clamp.torque_nm, nominal),
                unit="N",
                digits=0,
                formula="T / (K d), beside the long form, which is what counts",
                inputs=[
                    given("screw torque", clamp.torque_nm, "N·m"),
                    given("nut factor K", NUT_FACTOR, "", "usual for dry steel, from memory"),
                    given("diameter", nominal, "mm", "ISO 261"),
                ],
                source="any handbook of machine design",
            )
        )
    if hold.row is not None:
        found.append(
            Figure(
                id="row_least",
                label="Least-held part of the row",
                value=hold.row.least_n,
                unit="N",
                digits=0,
                formula=(
                    "what it gets in all but one of 100 clampings: F_i = k max(0, d + tilt x_i +"
                    " e_i), the jaw in balance"
                ),
                inputs=[
                    given(
                        "jaw force, low end",
                        sum(part.mean_n for part in hold.row.parts),
                        "N",
                        "screw torque",
                    ),
                    given(
                        "one loose, of 100 clampings",
                        100 * hold.row.chance_loose,
                        "",
                        "Monte Carlo over the blanks",
                    ),
                    given("stiffness of a part", view.station.sharing.part_stiffness_n_mm, "N/mm"),
                    given(
                        "stiffness of the jaw in tilt",
                        view.station.sharing.tilt_stiffness_nmm,
                        "N·mm",
                        "0: free to tilt",
                    ),
                ],
                source=(
                    "equilibrium of a rigid jaw on springs that only push; variation of the blanks"
                    " as entered"
                ),
            )
        )
    for number, item in enumerate(hold.remedies):
        found.append(
            Figure(
                id=f"remedy_{number}",
                label=f"With {item.what}"[:120],
                value=item.factor,
                digits=2,
                formula="the hold check solved again with this one change, all load cases",
                inputs=[
                    given("factor now", hold.result.factor, "", "hold check"),
                    given("factor needed", hold.needed, "", "house rule"),
                ],
                source="limit equilibrium as for the factor itself",
            )
        )
    if hold.indexing is not None:
        found.append(
            Figure(
                id="indexing",
                label="Held while the bar indexes",
                value=hold.indexing,
                unit="x weight",
                digits=1,
                formula=(
                    "largest multiple of its own weight, in 16 directions about the bar, that the"
                    " clamping balances"
                ),
                inputs=[given("preload, low end", hold.preload_low_n, "N", "screw torque")],
                source="the hold check, without a cut",
            )
        )
    if hold.share is not None:
        found.append(
            Figure(
                id="moves",
                label="Part moves at the cutter",
                value=hold.share.moves_mm,
                unit="mm",
                digits=4,
                formula="the most of all cuts, contacts as springs with friction, the part stiff",
                inputs=[given("contacts", len(hold.contacts), "", "station")],
                source="Johnson 1985; Mindlin 1949",
            )
        )
    return found


def _contact_figures(view: OpView, hold: HoldVerdict) -> list[Figure]:
    """One for each contact: its pressure, with the forces and the patch it comes from."""
    if hold.share is None:
        return []
    return [
        Figure(
            id=f"contact_{k}",
            label=f"Pressure, {item.name}"[:120],
            value=item.pressure_mpa,
            unit="MPa",
            digits=0,
            formula="most normal force under any cut, preload at its high end / patch that touches",
            inputs=[
                given(
                    "clamped, low end",
                    item.clamped_n,
                    "N",
                    "share-out over the contacts as springs",
                ),
                given(
                    "most under a cut, high end",
                    item.most_n,
                    "N",
                    "share-out over the contacts as springs",
                ),
                given(
                    "patch that touches",
                    contact.area_mm2,
                    "mm²",
                    "sizes of what touches; a round on a flat: Hertz width",
                ),
                given(
                    "friction used, of what it allows", item.slip_share, "", "share-out, low end"
                ),
                given(
                    "yield of the part",
                    view.part.material.yield_mpa,
                    "MPa",
                    view.part.material.source,
                ),
            ],
            source="Johnson, Contact Mechanics, 1985",
        )
        for k, (item, contact) in enumerate(zip(hold.share.contacts, hold.contacts, strict=True))
    ]


def _pressure_figure(view: OpView, hold: HoldVerdict) -> list[Figure]:
    """Under the contact that presses hardest."""
    if hold.share is None:
        return []
    item = next(item for item in hold.share.contacts if item.name == hold.share.presses_most)
    area = item.most_n / item.pressure_mpa if item.pressure_mpa > 0 else 0.0
    return [
        Figure(
            id="pressure",
            label=f"Pressure, {item.name}"[:120],
            value=item.pressure_mpa,
            unit="MPa",
            digits=0,
            formula=(
                "most normal force under any cut, preload at its high end / patch that touches; a"
                " round on a flat: Hertz width"
            ),
            inputs=[
                given(
                    "normal force, high end",
                    item.most_n,
                    "N",
                    "share-out over the contacts as springs",
                ),
                given("patch that touches", area, "mm²", "sizes of toe, stop and part"),
                given(
                    "yield of the part",
                    view.part.material.yield_mpa,
                    "MPa",
                    view.part.material.source,
                ),
                given(
                    "yield of stops and toes",
                    HOLDER_YIELD_MPA,
                    "MPa",
                    "hardened steel, from memory",
                ),
            ],
            source=(
                "Johnson, Contact Mechanics, 1985; marks from yield on, sinks in at 2.8 times it"
                " (Tabor 1951)"
            ),
        )
    ]


def squeezed_most(hold: HoldVerdict) -> BoreSqueezed | None:
    """The bore that uses most of what it may change by; nothing where the drawing asks nothing."""
    asked = [item for item in hold.squeezed if item.limit_mm]
    return max(asked, key=lambda item: item.changes_mm / (item.limit_mm or 1.0), default=None)


def _squeeze_figure(hold: HoldVerdict) -> list[Figure]:
    """Of that bore."""
    item = squeezed_most(hold)
    if item is None:
        return []
    return [
        Figure(
            id="squeeze",
            label=f"Bore squeezed, {item.feature}"[:120],
            value=item.changes_mm,
            unit="mm",
            digits=4,
            formula=(
                "largest change of a diameter when the clamps let go: plane stress in the section"
                " at the clamp's height"
            ),
            inputs=[
                given("clamp force, high end", item.force_n, "N", "this plan"),
                given("diameter", item.diameter_mm, "mm", "workpiece"),
            ],
            source="finite elements, six-node triangles; a ring by hand as the check",
        )
    ]


def _sizes(view: OpView) -> list[FigureInput]:
    """What else the preload follows from: the element's own sizes, the wedge's, or the toe's
    transmission.
    """
    element, clamp, sharing = (view.station.element, view.station.clamp, view.station.sharing)
    if sharing.how == "double wedge between two":
        return [
            given("wedge angle", sharing.wedge_angle_deg, "°"),
            given("friction at its flanks, high", sharing.wedge_friction_high),
        ]
    return element.sizes(clamp)


def _least_torque_figure(view: OpView, hold: HoldVerdict) -> list[Figure]:
    if hold.least_torque_nm is None:
        return []
    return [
        Figure(
            id="least_torque",
            label="Holds from",
            value=hold.least_torque_nm,
            unit="N·m",
            digits=1,
            formula=(
                "least screw torque, to half a newton metre, at which every load case reaches the"
                " factor needed; found by bisection"
            ),
            inputs=[
                given("factor needed", hold.needed, "", "house rule"),
                given("torque scatter", view.station.clamp.torque_scatter),
            ],
            source="the hold check itself, solved again at each torque",
        )
    ]
