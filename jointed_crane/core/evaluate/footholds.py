"""The points that a part stands on one after the other, and how far that carries it: p_k and D_k.

A part steps onto a foothold where it is shown, so A in D_k = D_(k-1) + A(F_k) (p_k - p_(k-1)) is its linear part in its
parent's space as it is shown at F_k. For most parts that is their own O R K S; what inherits partly, or is turned by
constraints, is looked at as it is placed; where carriers take the step along as well, it is what they make the shown
one of.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.constraints.constraint import WEIGHT, Constraint, number_channel
from jointed_crane.core.evaluate.link_values import Motions, added, with_added
from jointed_crane.core.evaluate.packing.plan import Plan, packed_plan
from jointed_crane.core.evaluate.placement import Setting, foothold_shifts, linear_part
from jointed_crane.core.evaluate.values import effective, rotations
from jointed_crane.core.geometry.fields import Column, Entry, stacked, stacked_column, unstacked_column
from jointed_crane.core.hierarchy.dependencies import reached
from jointed_crane.core.model.scene import Inherits, Part
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

    def before(self, frame: float) -> Standing:
        """Those alone that hold before a frame."""
        count = int(np.searchsorted(self.holds, frame, side="left"))
        return Standing(self.holds[:count], self.points[: count + 1], self.shifts[: count + 1])


#: What all rows stand on, by those of them that do.
Standings = Mapping[int, Standing]
#: The linear parts of all rows of a plan on the stage at ascending frames where these stand on footholds, what of each
#: spins the art about its centre, both of shape (parts, frames, 3, 3), and where what they stand on lies, of shape
#: (parts, frames, 3).
Placed = Callable[[Plan, Floats, Standings], tuple[Floats, Floats, Floats]]

#: A step that is answered by less than this share of what others are leads nowhere: what stays above a line, say.
_NO_ANSWER = 1e-8
#: The footholds of parts alone, and those of all rows of a plan.
_STANDING: Memory[Standing] = Memory()
_STANDINGS: Memory[Standings] = Memory()


def stands_of(part: Part) -> tuple[Floats, Floats]:
    """The frames from which footholds hold, shape (n,), and the pivot and the points, px in art space, (n + 1, 3)."""
    holds = np.array([foothold.frame for foothold in part.footholds])
    return holds, np.array([part.pivot, *(foothold.point for foothold in part.footholds)])


def standings_of(plan: Plan, placed: Placed) -> Standings:
    """What all parts of a plan stand on, held with it."""
    if not plan.standing:
        return {}
    return _STANDINGS.of(plan, lambda: _standings(plan, placed))


def _standings(plan: Plan, placed: Placed) -> Standings:
    result = {row: _by_itself(plan, row) for row in plan.standing}
    shown = {row: result[row] for row in plan.standing if _is_shown_otherwise(plan, row)}
    if not shown:
        return result
    frames = np.unique(np.concatenate([standing.holds for standing in shown.values()]))
    # How constraints turn a part may hang on where it stands, so that one foothold follows from those before it.
    for together in frames[:, None] if plan.is_constrained else (frames,):
        known = {**result, **{row: standing.before(together[0]) for row, standing in shown.items()}}
        world, spin, _ = placed(plan, together, known)
        for row, standing in shown.items():
            if any(one.is_on and one.TAKES_ALONG for one in plan.parts[row].constraints):
                answers = _answers(plan, placed, together, known, row)
                linear = _undone(answers, _above(plan, row, world)) @ world[row]
            else:
                linear = _in_parent(plan, row, world)
            linear = linear @ np.swapaxes(spin[row], -1, -2)
            shifts, steps = standing.shifts.copy(), np.diff(standing.points, axis=0)
            for number in np.flatnonzero(np.isin(standing.holds, together)).tolist():
                at = np.searchsorted(together, standing.holds[number])
                shifts[number + 1] = shifts[number] + linear[at] @ steps[number]
            shown[row] = result[row] = replace(standing, shifts=shifts)
    return result


def _answers(plan: Plan, placed: Placed, frames: Floats, known: Standings, row: int) -> Floats:
    """How far the point that a carried part stands on goes on the stage by each px that D_k takes it in its parent's
    space, shape (frames, 3, 3): who carries it takes its steps along, too. What stops it at a line takes none along,
    and none away: it lifts the part by as much whatever point that stands on.
    """
    part = plan.parts[row]
    if any(one.is_on and one.STOPS for one in part.constraints):
        let_go = replace(
            part, constraints=tuple(replace(one, is_on=one.is_on and not one.STOPS) for one in part.constraints)
        )
        free = replace(packed_plan(tuple(let_go if each is part else each for each in plan.parts)), marks=plan.marks)
        known = {free.row_of[plan.parts[each].id]: standing for each, standing in known.items()}
        plan, row = free, free.row_of[part.id]
    steps = (0.0, *np.eye(3))
    stepped = (replace(known[row], shifts=known[row].shifts + step) for step in steps)
    there, *beside = (placed(plan, frames, {**known, row: standing})[2][row] for standing in stepped)
    return np.stack([place - there for place in beside], axis=-1)


def _undone(answers: Floats, above: Floats) -> Floats:
    """How far D_k takes a part for each px on the stage, shape (frames, 3, 3), or not at all where it leads nowhere.
    Without what places the part the answer is what it hangs on, `above`, of the same shape.
    """
    expected, sizes = (np.linalg.norm(one, 2, axis=(1, 2)) for one in (above, answers))
    least = _NO_ANSWER * np.maximum(1.0, expected / np.where(sizes, sizes, 1.0))
    return np.asarray(np.linalg.pinv(answers, least), dtype=np.float64)


def _is_shown_otherwise(plan: Plan, row: int) -> bool:
    """Whether a part lies in its parent otherwise than its own O R K S."""
    return row not in plan.constraints.chained and steps_as_shown(plan.parts[row])


def steps_as_shown(part: Part) -> bool:
    """Whether something beside its own O R K S, and what reaches, has a say in how a part lies in its parent."""
    takes_part = part.parent is not None and part.inherits != Inherits()
    return takes_part or any(one.is_on and not _takes_along_whole(part, one) for one in part.constraints)


def _takes_along_whole(part: Part, one: Constraint) -> bool:
    """Whether a constraint takes a part along with all of its weight throughout, so that its step is taken along as it
    is; a share of that takes another share of where the part stands than of how it lies.
    """
    weight = number_channel(one.id, WEIGHT.name)
    moves = weight in part.channels or any(link.onto == weight for link in part.links)
    return one.TAKES_ALONG and not moves and part.rest_value(weight) == 1.0


def _in_parent(plan: Plan, row: int, world: Floats) -> Floats:
    """The linear parts of a part in what its place is measured in, shape (frames, 3, 3). Where its parent has vanished
    nothing can be stepped off there.
    """
    result: Floats = np.linalg.pinv(_above(plan, row, world)) @ world[row]
    return result


def _above(plan: Plan, row: int, world: Floats) -> Floats:
    """The linear parts of what a part's place is measured in, shape (frames, 3, 3)."""
    part = plan.parts[row]
    if part.parent is None or not part.inherits.position:
        return np.broadcast_to(np.eye(3), world[row].shape)
    result: Floats = world[plan.row_of[part.parent]]
    return result


def _by_itself(plan: Plan, row: int) -> Standing:
    """The footholds of a part as its own channels have them, and links where some drive it."""
    part = plan.parts[row]
    holds, points = stands_of(part)
    if not part.links:  # nothing else has a say in them, so that they stay with the frozen part
        return _STANDING.of(part, lambda: Standing(holds, points, foothold_shifts(points, linear_at(part, holds))))
    drivers = reached([part.id], lambda part_id: plan.parts[plan.row_of[part_id]].drivers)
    alone = packed_plan(tuple(_free(plan.parts[plan.row_of[driver]]) for driver in drivers))
    motion = curve_values(alone.curves, holds)
    more = added(Motions(alone, motion, holds, {}, is_at_rest=False))
    values = with_added(alone, effective(alone, motion), more, len(holds))
    shifts = foothold_shifts(points, _linear(alone, values, len(holds))[alone.row_of[part.id]])
    return Standing(holds, points, shifts)


def _free(part: Part) -> Part:
    """The part with its channels and what drives them, and nothing that places it."""
    return replace(part, parent=None, constraints=())


def linear_at(part: Part, frames: Floats) -> Floats:
    """A = O R K S of one part at ascending frames, shape (frames, 3, 3), as its own channels have it."""
    plan = packed_plan((replace(_free(part), links=()),))
    result: Floats = _linear(plan, effective(plan, curve_values(plan.curves, frames)), len(frames))[0]
    return result


def _linear(plan: Plan, values: dict[str, Entry], count: int) -> Floats:
    """A = O R K S of all parts of a plan with effective values over some frames, shape (parts, frames, 3, 3)."""
    linear = linear_part(Setting(values, plan.orientation, rotations(plan, values, "turn")))
    return stacked(linear, (len(plan.parts), count))


def footholds(plan: Plan, frames: Floats, values: dict[str, Entry], standings: Standings) -> tuple[Column, Column]:
    """p_k in art space and D_k in parent space at every frame, px, where effective values place the parts.

    What reaches turns joints about their pivots, whatever point they stand on: D_k tells of them where their pivot has
    come to, so that a change of their foothold changes nothing in the chain.
    """
    if not plan.standing:
        return plan.pivot, [0.0, 0.0, 0.0]
    shape = (len(plan.parts), len(frames))
    pivot = stacked_column(plan.pivot, shape)
    shift = np.zeros((*shape, 3))
    chained = plan.constraints.chained.intersection(plan.standing)
    linear = _linear(plan, values, len(frames)) if chained else None
    for row in plan.standing:
        standing = standings[row]
        current = np.searchsorted(standing.holds, frames, side="right")
        shift[row] = standing.shifts[current]
        if linear is not None and row in chained:
            shift[row] += np.einsum("fij,fj->fi", linear[row], standing.points[0] - standing.points[current])
        else:
            pivot[row] = standing.points[current]
    return unstacked_column(pivot), unstacked_column(shift)
