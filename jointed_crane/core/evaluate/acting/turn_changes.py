"""A chain that is turned by hands for some frames and reaches for others, and never jumps in between.

Nothing of this is stored: at each change the pose that the chain has come to is what it goes on from, whatever is
edited before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.constraints.reaching.chain_pose import ChainPose
from jointed_crane.core.constraints.reaching.chain_turns import Aim, Reached, reached
from jointed_crane.core.evaluate.acting.levelling import Level, Levelling

Floats = npt.NDArray[np.float64]
#: Turns this small are chance where a chain begins to reach from the pose that it has, radians.
_CHANCE = 1e-6


def with_changes(
    pose: ChainPose,
    aim: Aim,
    reaching: Reached,
    levelling: Levelling | None,
    reach: Reach,
    columns: Sequence[int],
    axes: Floats | None = None,
) -> tuple[Reached, Level | None]:
    """One chain over all frames: from each change on it goes on from the pose that it has there.

    Where hands turn the joints they keep what reaching had turned and stretched them by. Where the chain reaches again,
    its goal is taken with the offset at which the end is met, and it bends on the side on which it is bent there, in
    chains that go along a way by the one that leads through that pose.

    Parameters
    ----------
    reaching : the chain as it reaches before the first change
    levelling : what keeps its end level; None where it goes with the chain
    columns : the place among the frames of each change
    axes : array, shape (3, 2, frames), those of the plane in which it turns; None where they are the stage's
    """
    turns, stretch = reaching.turns.copy(), reaching.stretch.copy()
    level = None if levelling is None else levelling.level(turns)
    for change, at in zip(reach.changes, columns, strict=True):
        held, length = turns[:, at].copy(), stretch[at]
        if change.to == "turn":
            turns[:, at:], stretch[at:] = held[:, None], length
        else:
            base = pose.turned(np.broadcast_to(held[:, None], turns.shape), length)
            result = reached(base, _met(aim, base, held, at, float(reach.bends), axes), held=float(length))
            # A chain that is straight there bends by the root of the last digit, which is no way that it has gone.
            gone = np.where(np.abs(result.turns[:, at]) > _CHANCE, result.turns[:, at], 0.0)
            turns[:, at:] = (held[:, None] + result.turns - gone[:, None])[:, at:]
            stretch[at:] = (length * result.stretch / result.stretch[at])[at:]
        if levelling is not None and level is not None:
            level = levelling.going_on(level, change.to, at, turns, held)
        turns[:, at], stretch[at] = held, length
    return Reached(turns, stretch), level


def _met(aim: Aim, base: ChainPose, held: Floats, at: int, bends: float, axes: Floats | None) -> Aim:
    """The aim of a chain whose goal is taken with the offset at which the end lies from it at one frame, its joints
    turned as they are held there already. The offset stays as it is in space, however the plane lies from there on.
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
    through = aim.through
    if is_led:
        through = base.limb.bends(aim.side())[:, at, None]
        # Of a straight chain it is no last digit that says on which side it bends.
        through = np.where(np.abs(through) > _CHANCE, through, 0.0)
    offset = (place - aim.goals[:, at])[:, None]
    offset = offset if axes is None else np.einsum("iaf,ib,bc->af", axes, axes[..., at], offset)
    return replace(aim, goals=aim.goals + offset, through=through)
