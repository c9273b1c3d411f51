"""The points that a part stands on one after the other, and how far that carries it: p_k and D_k."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.evaluate.driven import Motions, added, with_added
from jointed_crane.core.evaluate.packing.plan import Plan, packed_plan
from jointed_crane.core.evaluate.placement import Setting, foothold_shifts, linear_part
from jointed_crane.core.evaluate.values import effective, rotations
from jointed_crane.core.geometry.fields import Column, Entry, stacked, stacked_column, unstacked_column
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.curves import values as curve_values

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Standing:
    """The footholds of one part.

    Attributes
    ----------
    holds : array, shape (n,), the frames from which they hold
    points : array, shape (n + 1, 3), the pivot and the points, px in art space
    shifts : array, shape (n + 1, 3), D_k, px in parent space
    """

    holds: Floats
    points: Floats
    shifts: Floats


#: The footholds of parts, and of those that links drive by their rows.
_STANDING: Memory[Standing] = Memory()
_DRIVEN_STANDING: Memory[dict[int, Standing]] = Memory()


def stands_of(part: Part) -> tuple[Floats, Floats]:
    """The frames from which footholds hold, shape (n,), and the pivot and the points, px in art space, (n + 1, 3)."""
    holds = np.array([foothold.frame for foothold in part.footholds])
    return holds, np.array([part.pivot, *(foothold.point for foothold in part.footholds)])


def standing_of(part: Part) -> Standing:
    """The footholds of a part, computed once and held with the frozen part: nothing else has a say in them."""

    def found() -> Standing:
        holds, points = stands_of(part)
        return Standing(holds, points, foothold_shifts(points, linear_at(part, holds)))

    return _STANDING.of(part, found)


def _driven_standing(plan: Plan, row: int) -> Standing:
    """The footholds of a part that links drive, held with the plan: what drives it has a say in them."""
    held = _DRIVEN_STANDING.of(plan, dict)
    if row not in held:
        holds, points = stands_of(plan.parts[row])
        motion = curve_values(plan.curves, holds)
        more = added(Motions(plan, motion, holds, {}, is_at_rest=False))
        values = with_added(plan, effective(plan, motion), more, len(holds))
        held[row] = Standing(holds, points, foothold_shifts(points, _linear(plan, values, len(holds))[row]))
    return held[row]


def linear_at(part: Part, frames: Floats) -> Floats:
    """A = O R K S of one part at ascending frames, shape (frames, 3, 3), as its own channels have it."""
    plan = packed_plan((replace(part, parent=None, constraints=(), links=()),))
    found: Floats = _linear(plan, effective(plan, curve_values(plan.curves, frames)), len(frames))[0]
    return found


def _linear(plan: Plan, values: dict[str, Entry], count: int) -> Floats:
    """A = O R K S of all parts of a plan with effective values over some frames, shape (parts, frames, 3, 3)."""
    linear = linear_part(Setting(values, plan.orientation, rotations(plan, values, "turn")))
    return stacked(linear, (len(plan.parts), count))


def footholds(plan: Plan, frames: Floats) -> tuple[Column, Column]:
    """p_k in art space and D_k in parent space at every frame, px."""
    if not plan.standing:
        return plan.pivot, [0.0, 0.0, 0.0]
    shape = (len(plan.parts), len(frames))
    pivot = stacked_column(plan.pivot, shape)
    shift = np.zeros((*shape, 3))
    for row in plan.standing:
        standing = _driven_standing(plan, row) if plan.parts[row].links else standing_of(plan.parts[row])
        current = np.searchsorted(standing.holds, frames, side="right")
        pivot[row] = standing.points[current]
        shift[row] = standing.shifts[current]
    return unstacked_column(pivot), unstacked_column(shift)
