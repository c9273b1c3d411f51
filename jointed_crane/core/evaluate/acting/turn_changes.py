"""A chain that is turned by hands for some frames and reaches for others, and never jumps in between.

Nothing of this is stored: at each change the pose that the chain has come to is what it goes on from, whatever is
edited before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.constraints.reaching.chain_turns import Aim, ChainPose, Reached, reached
from jointed_crane.core.geometry.plane import product, turned

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class EndPose:
    """Linear parts from the first joint of a chain down to the part at its end, each of shape (2, 2, frames), and what
    spins the art of all but the last.
    """

    linear: list[Floats]
    spin: list[Floats]

    def below(self, above: Floats, turns: Floats) -> Floats:
        """The linear part of the end on the stage, its joints turned by radians, shape (joints, frames)."""
        found = above
        for place, linear in enumerate(self.linear):
            found = product(found, turned(linear, turns[place]) if place < len(turns) else linear)
            if place < len(self.spin):
                found = product(found, self.spin[place])
        return found


def with_changes(
    pose: ChainPose,
    aim: Aim,
    reaching: Reached,
    end: EndPose,
    level: Floats | None,
    reach: Reach,
    columns: Sequence[int],
) -> tuple[Reached, Floats | None]:
    """One chain over all frames: from each change on it goes on from the pose that it has there.

    Where hands turn the joints they keep what reaching had turned and stretched them by. Where the chain reaches again,
    its goal is taken with the offset at which the end is met, and it bends on the side on which it is bent there.

    Parameters
    ----------
    reaching : the chain as it reaches before the first change
    level : the linear part that the end keeps on the stage, shape (2, 2, frames); None where it goes with the chain
    columns : the place among the frames of each change
    """
    turns, stretch = reaching.turns.copy(), reaching.stretch.copy()
    flat, level = level, None if level is None else level.copy()
    for change, at in zip(reach.changes, columns, strict=True):
        held, length = turns[:, at].copy(), stretch[at]
        if change.to == "turn":
            turns[:, at:], stretch[at:] = held[:, None], length
        else:
            base = pose.turned(np.broadcast_to(held[:, None], turns.shape), length)
            found = reached(base, _met(aim, base, at, float(reach.bends)), held=float(length))
            turns[:, at:] = (held[:, None] + found.turns - found.turns[:, at, None])[:, at:]
            stretch[at:] = (length * found.stretch / found.stretch[at])[at:]
        if level is not None and flat is not None:
            going = end.below(aim.linear, turns) if change.to == "turn" else flat
            kept = level[..., at].copy()
            if np.linalg.det(going[..., at]):
                follows = np.linalg.inv(going[..., at]) @ kept
                level[..., at:] = product(going[..., at:], follows[..., None])
            level[..., at] = kept
        turns[:, at], stretch[at] = held, length
    return Reached(turns, stretch), level


def _met(aim: Aim, base: ChainPose, at: int, bends: float) -> Aim:
    """The aim of a chain whose goal is taken with the offset at which the end lies from it at one frame."""
    end, _ = base.end(np.zeros(base.linear[:, 0, 0].shape))
    above = aim.linear[..., at]
    place = above @ (base.begins + end)[:, at] + aim.origin[:, at]
    (tx, ty), (ex, ey) = end[:, at], base.bones[0][:, at]
    across = (tx * ey - ty * ex) * np.linalg.det(above)
    size = np.hypot(tx, ty) * np.hypot(ex, ey) * abs(np.linalg.det(above))
    side = bends if abs(across) <= 1e-9 * size else float(np.sign(across))
    return replace(aim, goals=aim.goals + (place - aim.goals[:, at])[:, None], bends=np.array([side]))
