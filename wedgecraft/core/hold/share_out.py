"""How the clamping and cutting forces share themselves out between the contacts: springs that only
push, friction that gives way.

Beside the limit of ``hold``, which says what the set-up could carry at most, this says what each
contact gets. Contacts are the springs; the part and what it stands on are stiff beside them.
Locators push back only. Friction holds like a spring up to Coulomb's limit and then slides, first
under the clamping, then, from where that left it, under the cut. Without friction it is the state
of least complementary energy. Stiffness of a patch: a flat round punch on a half-space, ``k = 2 a
E*`` (Johnson, "Contact Mechanics", 1985, 3.4), sideways ``2 (1 - v) / (2 - v)`` of it (Mindlin
1949).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wedgecraft.core.clamping.pressure import SINKS_IN, patch_stiffness
from wedgecraft.core.ground.errors import OutOfRange
from wedgecraft.core.ground.vectors import cross
from wedgecraft.core.records.contact import LoadCase
from wedgecraft.core.records.material import POISSON
from wedgecraft.core.records.share import ContactShare, ShareRequest, ShareResult

Array = NDArray[np.float64]

_SIDEWAYS = 2 * (1 - POISSON) / (2 - POISSON)
_STEPS = 300
#: Forces that change by less than this share of the preload are at rest.
_RESTS = 1e-5


def share_out(request: ShareRequest) -> ShareResult:
    """Give every contact its part of the load. Raises OutOfRange for a contact without a
    direction.

    Four rests under a strap in their middle carry a quarter of it each.

    >>> from wedgecraft.core.records.contact import Contact
    >>> contacts = [
    ...     Contact(name=f"rest {x} {y}", kind="locator", point_mm=(x, y, 0), normal=(0, 0, 1),
    ...             friction=0.2)
    ...     for x in (0, 60) for y in (0, 40)
    ... ]
    >>> contacts.append(
    ...     Contact(name="strap", kind="clamp", point_mm=(30, 20, 20), normal=(0, 0, -1),
    ...             friction=0.2, preload_n=5000)
    ... )
    >>> found = share_out(ShareRequest(contacts=contacts, youngs_mpa=69_000, yield_mpa=275))
    >>> [round(item.clamped_n) for item in found.contacts]
    [1250, 1250, 1250, 1250, 5000]
    """
    low, high = _Springs(request, 1.0), _Springs(request, request.high)
    wrenches = np.array(
        [
            [*load.force_n, *(cross(load.point_mm, load.force_n) + load.moment_nmm)]
            for load in request.loads
        ]
    )
    clamped, cut = low.clamped_and_cut(wrenches.reshape(-1, 6))
    # At the high end only the cuts that press some contact the most: the others press it less there
    # too.
    hardest = (
        np.unique(cut.forces[..., 0].argmax(axis=0)) if len(wrenches) else np.zeros(0, dtype=int)
    )
    pressed = np.concatenate(
        [state.forces[..., 0] for state in high.clamped_and_cut(wrenches.reshape(-1, 6)[hardest])]
    )
    friction = np.array([contact.friction for contact in request.contacts])
    normal, rub = cut.forces[..., 0], np.linalg.norm(cut.forces[..., 1:], axis=-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        slip = np.where(rub > 1e-3 * low.size, rub / (friction * normal), 0.0).max(
            axis=0, initial=0
        )
    most = pressed.max(axis=0)
    areas = np.array([contact.area_mm2 for contact in request.contacts])
    softer = min(request.yield_mpa, request.holder_yield_mpa)
    contacts = [
        ContactShare(
            name=contact.name,
            clamped_n=float(clamped.forces[0, k, 0]),
            most_n=float(most[k]),
            pressure_mpa=float(most[k] / areas[k]),
            pressure_share=float(most[k] / areas[k] / softer),
            pressed=_pressed(float(most[k] / areas[k] / softer)),
            slip_share=float(min(slip[k], 1.0)),
            opens=bool((normal[:, k] <= 0).any()),
        )
        for k, contact in enumerate(request.contacts)
    ]
    give, under = _give(request.loads, cut.motion - clamped.motion)
    return ShareResult(
        contacts=contacts,
        moves_mm=give,
        moves_under=under,
        settled=bool(clamped.settled and cut.settled),
        slips_first=max(contacts, key=lambda item: item.slip_share).name,
        presses_most=max(contacts, key=lambda item: item.pressure_share).name,
    )


def _pressed(share: float) -> Literal["fine", "marks", "sinks in"]:
    if share >= SINKS_IN:
        return "sinks in"
    return "marks" if share >= 1 else "fine"


def _give(loads: list[LoadCase], motions: Array) -> tuple[float, str]:
    most, under = 0.0, ""
    for load, motion in zip(loads, motions, strict=False):
        far = float(np.linalg.norm(motion[:3] + cross(motion[3:], load.point_mm)))
        if far > most:
            most, under = far, load.name
    return most, under


@dataclass(frozen=True)
class _State:
    """Forces (cases, contacts, 3: normal and two sideways), motions (cases, 6), and whether all of
    them came to rest.
    """

    forces: Array
    motion: Array
    settled: bool


class _Springs:
    """The contacts as springs under one size of preload. ``size``: a force to measure small ones
    by, N.
    """

    def __init__(self, request: ShareRequest, scale: float) -> None:
        contacts = request.contacts
        self.clamp = np.array([contact.kind == "clamp" for contact in contacts])
        self.normals = np.array([contact.normal for contact in contacts], dtype=float)
        lengths = np.linalg.norm(self.normals, axis=1)
        if (lengths == 0).any():
            raise OutOfRange("contacts.normal", 0, "a direction other than zero")
        self.normals /= lengths[:, None]
        self.friction = np.array([contact.friction for contact in contacts])
        self.preloads = scale * np.array(
            [contact.preload_n if contact.kind == "clamp" else 0.0 for contact in contacts]
        )
        points = np.array([contact.point_mm for contact in contacts], dtype=float)
        helper = np.eye(3)[np.argmin(np.abs(self.normals), axis=1)]
        first = cross(self.normals, helper)
        first /= np.linalg.norm(first, axis=1)[:, None]
        axes = np.stack(
            [self.normals, first, cross(self.normals, first)], axis=1
        )  # (contacts, 3 axes, 3)
        #: (contacts, 3 axes, 6): what a unit force of each axis does to the part, and how the
        #: part's motion moves the contact.
        self.arms = np.concatenate([axes, cross(points[:, None, :], axes)], axis=2)
        stiff = np.array(
            [
                patch_stiffness(c.area_mm2, request.youngs_mpa, request.holder_youngs_mpa)
                for c in contacts
            ]
        )
        self.stiffness = np.stack(
            [np.where(self.clamp, 0.0, stiff), _SIDEWAYS * stiff, _SIDEWAYS * stiff], axis=1
        )
        weight = np.array(request.weight_n, dtype=float)
        self.still = np.concatenate([weight, cross(request.centre_of_gravity_mm, weight)])
        self.still = self.still + np.einsum("c,cw->w", self.preloads, self.arms[:, 0])
        self.size = float(max(self.preloads.max(initial=0), np.linalg.norm(weight), 1.0))
        self._span = float(max(1.0, np.ptp(points, axis=0).max()))

    def clamped_and_cut(self, wrenches: Array) -> tuple[_State, _State]:
        """The part as clamped, and from there under each cutting wrench (cases, 6)."""
        nothing = np.zeros((1, 6))
        at_rest = self._settle(nothing, np.zeros((1, len(self.normals), 2)))
        if not len(wrenches):
            return at_rest, at_rest
        # Where friction gave way under the clamping it holds from there on.
        moved = np.einsum("cxi,ki->kcx", self.arms[:, 1:], at_rest.motion)
        with np.errstate(divide="ignore", invalid="ignore"):
            slid = moved + at_rest.forces[..., 1:] / self.stiffness[:, 1:]
        return at_rest, self._settle(wrenches, np.repeat(slid, len(wrenches), axis=0))

    def _settle(self, wrenches: Array, slid: Array) -> _State:
        """Where the part comes to rest: friction that slides is a spring as soft as its limit makes
        it, found again and again.

        With those springs given, the rest is the least of a convex energy: Newton's step, as much
        of it as lowers the energy most.
        """
        cases, count = len(wrenches), len(self.normals)
        unit = np.array(
            [1.0] * 3 + [1 / self._span] * 3
        )  # tilts as travel at the part's edge: one size for all six
        flat = (self.arms * unit).reshape(3 * count, 6)
        outer = np.einsum("ri,rj->rij", flat, flat).reshape(3 * count, 36)
        load = (self.still + wrenches) * unit
        stiff, side = np.where(self.clamp, 0.0, self.stiffness[:, 0]), self.stiffness[:, 1]
        grain = 1e-9 * self.stiffness.sum() * np.eye(6)
        weights = np.repeat(np.stack([stiff, side, side], axis=1)[None], cases, axis=0)
        motion, before = np.zeros((cases, 6)), np.zeros((cases, count, 3))
        travel, found, settled = before, before, False
        for step in range(_STEPS):
            matrix = (weights.reshape(cases, -1) @ outer).reshape(cases, 6, 6) + grain
            held = weights.copy()
            held[..., 0] = 0.0
            held[..., 1:] *= slid
            wanted = np.linalg.solve(matrix, (load + held.reshape(cases, -1) @ flat)[..., None])[
                ..., 0
            ]
            ahead = (wanted @ flat.T).reshape(cases, count, 3)
            if step:
                part = self._part_of(motion, wanted, travel, ahead, weights, slid, load, stiff)[
                    :, None
                ]
                wanted = motion + part * (wanted - motion)
                ahead = travel + part[..., None] * (ahead - travel)
            motion, travel = wanted, ahead
            rub = travel[..., 1:] - slid
            normal = np.where(self.clamp, self.preloads, stiff * np.maximum(0.0, -travel[..., 0]))
            length, limit = np.linalg.norm(rub, axis=-1), self.friction * normal
            soft = np.where(side * length > limit, limit / np.maximum(length, 1e-15), side)
            found = np.concatenate([normal[..., None], -soft[..., None] * rub], axis=-1)
            if step and np.abs(found - before).max() < _RESTS * self.size:
                settled = True
                break
            before = found
            if step > _STEPS // 4:  # sliding and sticking can swing for ever: half way from here on
                soft = (soft + weights[..., 1]) / 2
            weights = np.stack([np.where(travel[..., 0] < 0, stiff, 0.0), soft, soft], axis=-1)
        return _State(found, motion * unit, settled)

    def _part_of(
        self,
        motion: Array,
        wanted: Array,
        travel: Array,
        ahead: Array,
        weights: Array,
        slid: Array,
        load: Array,
        stiff: Array,
    ) -> Array:
        """How much of each case's step lowers its energy most, of a few sizes."""

        cases = len(motion)
        press, press_step = travel[..., 0], ahead[..., 0] - travel[..., 0]
        rub = (travel[..., 1:] - slid).reshape(cases, -1)
        rub_step = (ahead[..., 1:] - travel[..., 1:]).reshape(cases, -1)
        soft = weights[..., 1:].reshape(cases, -1)
        # friction and the load are a square of the size; where contacts open is not
        still, along, square = (
            np.einsum("kc,kc,kc->k", soft, a, b)
            for a, b in ((rub, rub), (rub, rub_step), (rub_step, rub_step))
        )
        worked, works = (load * motion).sum(axis=1), (load * (wanted - motion)).sum(axis=1)

        def energy(size: float) -> Array:
            pressed = np.minimum(0.0, press + size * press_step) ** 2 @ stiff
            rubbed = still + size * (2 * along + size * square)
            found: Array = 0.5 * (pressed + rubbed) - (worked + size * works)
            return found

        whole = energy(1.0)
        if (whole <= energy(0.0) + 1e-12 * np.abs(whole)).all():
            return np.ones(len(motion))
        sizes = np.array([1.0, 0.7, 0.4, 0.2, 0.1, 0.03, 0.01])
        found: Array = sizes[np.argmin(np.array([whole, *map(energy, sizes[1:])]), axis=0)]
        return found
