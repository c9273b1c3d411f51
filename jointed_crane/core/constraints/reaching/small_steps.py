"""Joints that turn by small steps until the end of their chain comes no nearer its goal: for what no closed form and no
way holds, a first joint whose range does not let it point at the goal.
"""

from __future__ import annotations

import numpy as np

from jointed_crane.core.constraints.reaching.chain_pose import ChainPose
from jointed_crane.core.geometry.plane import Floats, applied, length_of, solved

#: An end this near its goal has arrived, as a share of the length of the chain; and the steps it takes at most.
NEAR = 1e-12
_STEPS = 100
#: No step turns a joint farther than this, radians.
_FARTHEST_STEP = 0.5
#: An end stays short after so many steps none of which brought it nearer than this share of what it missed before.
_NEARER, _VAIN_STEPS = 0.97, 5


def stepped(chain: ChainPose, start: Floats, goal: Floats, low: Floats, high: Floats, seen: Floats) -> Floats:
    """Turns from which an end comes no nearer its goal by small steps within the ranges, by damped least squares (C.
    Wampler 1986, from memory); axes (joints, points).

    Parameters
    ----------
    goal : array, shape (2, points), seen from the first joints
    seen : array, shape (2, 2, points), what shows the end and its goal on the stage
    """
    length = chain.turned(start, np.ones(1)).length
    best, best_miss = start.copy(), np.full(goal.shape[1], np.inf)
    turns, left, in_vain = start, np.arange(goal.shape[1]), np.zeros(goal.shape[1], dtype=int)
    for _ in range(_STEPS):
        end, rates = chain.end(turns)
        miss = applied(seen, goal - end)
        distance = length_of(miss)
        is_better = distance < best_miss[left]
        in_vain = np.where(distance < _NEARER * best_miss[left], 0, in_vain + 1)
        best[:, left[is_better]] = turns[:, is_better]
        best_miss[left[is_better]] = distance[is_better]
        after = _step(turns, np.stack([applied(seen, rate) for rate in rates]), miss, length, low, high)
        on = np.flatnonzero((distance > NEAR * length) & (in_vain < _VAIN_STEPS))
        if not len(on):
            break
        turns, left, in_vain, length = after[:, on], left[on], in_vain[on], length[on]
        chain, goal, seen, low, high = chain.of(on), goal[:, on], seen[:, :, on], low[:, on], high[:, on]
    return best


def _step(turns: Floats, rates: Floats, miss: Floats, length: Floats, low: Floats, high: Floats) -> Floats:
    """One step of turns; a joint at the end of its range turns back alone."""
    pull = rates[:, 0] * miss[0] + rates[:, 1] * miss[1]
    is_free = ~(((turns <= low) & (pull < 0)) | ((turns >= high) & (pull > 0)))
    columns = rates * is_free[:, None]
    normal = (columns[:, :, None] * columns[:, None]).sum(axis=0)
    normal += (1e-2 * length_of(miss) * length + 1e-300) * np.eye(2)[..., None]
    by = solved(normal, miss)
    step = columns[:, 0] * by[0] + columns[:, 1] * by[1]
    largest = np.abs(step).max(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        step = step * np.where(largest > _FARTHEST_STEP, _FARTHEST_STEP / largest, 1.0)
    result: Floats = np.clip(turns + step, low, high)
    return result
