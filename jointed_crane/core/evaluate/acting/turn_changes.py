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
from jointed_crane.core.constraints.reaching.chain_pose import ChainPose
from jointed_crane.core.constraints.reaching.chain_turns import Aim, Reached, reached
from jointed_crane.core.geometry.plane import product, turned

Floats = npt.NDArray[np.float64]
#: Turns this small are chance where a chain begins to reach from the pose that it has, radians.
_CHANCE = 1e-6


@dataclass(frozen=True)
class EndPose:
    """Linear parts from the first joint of a chain down to the part at its end, each of shape (2, 2, frames), and what
    spins the art of all but the last.
    """

    linear: list[Floats]
    spin: list[Floats]

    def below(self, above: Floats, turns: Floats) -> Floats:
        """The linear part of the end on the stage, its joints turned by radians, shape (joints, frames)."""
        result = above
        for place, linear in enumerate(self.linear):
            result = product(result, turned(linear, turns[place]) if place < len(turns) else linear)
            if place < len(self.spin):
                result = product(result, self.spin[place])
        return result


@dataclass(frozen=True)
class Level:
    """The end of a chain as it lies whatever turns above it.

    Attributes
    ----------
    linear : array, shape (2, 2, frames), its linear part in the plane of its chain
    turned : array, shape (frames,), how far it turns for that from where it would lie, radians
    bearing : array, shape (3, 3, frames), how that plane lies; None where it is the stage's own
    """

    linear: Floats
    turned: Floats
    bearing: Floats | None = None

    def in_space(self) -> Floats:
        """The first two columns of its linear part on the stage, shape (3, 2, frames)."""
        assert self.bearing is not None
        result: Floats = np.einsum("iaf,abf->ibf", self.bearing[:, :2], self.linear)
        return result


def with_changes(
    pose: ChainPose,
    aim: Aim,
    reaching: Reached,
    end: EndPose,
    level: Level | None,
    reach: Reach,
    columns: Sequence[int],
) -> tuple[Reached, Level | None]:
    """One chain over all frames: from each change on it goes on from the pose that it has there.

    Where hands turn the joints they keep what reaching had turned and stretched them by. Where the chain reaches again,
    its goal is taken with the offset at which the end is met, and it bends on the side on which it is bent there, in
    chains that go along a way by the one that leads through that pose.

    Parameters
    ----------
    reaching : the chain as it reaches before the first change
    level : how its end keeps lying on the stage; None where it goes with the chain
    columns : the place among the frames of each change
    """
    turns, stretch = reaching.turns.copy(), reaching.stretch.copy()
    flat, lies = level, None if level is None else level.linear.copy()
    back = np.zeros(turns.shape[1]) if level is None else level.turned.copy()
    for change, at in zip(reach.changes, columns, strict=True):
        held, length = turns[:, at].copy(), stretch[at]
        if change.to == "turn":
            turns[:, at:], stretch[at:] = held[:, None], length
        else:
            base = pose.turned(np.broadcast_to(held[:, None], turns.shape), length)
            result = reached(base, _met(aim, base, held, at, float(reach.bends)), held=float(length))
            # A chain that is straight there bends by the root of the last digit, which is no way that it has gone.
            gone = np.where(np.abs(result.turns[:, at]) > _CHANCE, result.turns[:, at], 0.0)
            turns[:, at:] = (held[:, None] + result.turns - gone[:, None])[:, at:]
            stretch[at:] = (length * result.stretch / result.stretch[at])[at:]
        if lies is not None and flat is not None:
            going = end.below(aim.linear, turns) if change.to == "turn" else flat.linear
            kept = lies[..., at].copy()
            if np.linalg.det(going[..., at]):
                follows = np.linalg.inv(going[..., at]) @ kept
                lies[..., at:] = product(going[..., at:], follows[..., None])
            lies[..., at] = kept
            # A turn of the joints takes the end along, or does not.
            back[at:] = back[at] + (0.0 if change.to == "turn" else held.sum() - turns[:, at:].sum(axis=0))
        turns[:, at], stretch[at] = held, length
    return Reached(turns, stretch), None if level is None or lies is None else replace(level, linear=lies, turned=back)


def _met(aim: Aim, base: ChainPose, held: Floats, at: int, bends: float) -> Aim:
    """The aim of a chain whose goal is taken with the offset at which the end lies from it at one frame, its joints
    turned as they are held there already.
    """
    end, _ = base.end(np.zeros(base.linear[:, 0, 0].shape))
    above = aim.linear[..., at]
    place = above @ (base.begins + end)[:, at] + aim.origin[:, at]
    (tx, ty), (ex, ey) = end[:, at], base.bones[0][:, at]
    across = (tx * ey - ty * ex) * np.linalg.det(above)
    size = np.hypot(tx, ty) * np.hypot(ex, ey) * abs(np.linalg.det(above))
    side = bends if abs(across) <= 1e-9 * size else float(np.sign(across))
    low, high = np.minimum(aim.low - held[:, None], 0.0), np.maximum(aim.high - held[:, None], 0.0)
    aim = replace(aim, low=low, high=high, bends=np.array([side]))
    is_led = len(held) > 2 or not np.isnan(aim.through).all()
    through = base.limb.bends(aim.side())[:, at, None] if is_led else aim.through
    return replace(aim, goals=aim.goals + (place - aim.goals[:, at])[:, None], through=through)
