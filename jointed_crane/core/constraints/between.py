"""Between: at a share of the way from one goal to another, or at the weighted mean of many."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.constraints.placed_parts import Floats, Placed, part_way
from jointed_crane.core.geometry.plane import shortest


def weights_of_goals(numbers: dict[str, Floats], count: int) -> Floats:
    """How much each goal counts, one leading axis (goals,); they come to 1, or are all 0 where none counts.

    Of two goals the share says it: 0 is the first, 1 the second, and beyond is beyond them.
    """
    if count == 2:
        share = numbers["share"]
        return np.stack([1 - share, share])
    weights = np.stack(np.broadcast_arrays(*(numbers[f"goal{number}"] for number in range(1, count + 1))))
    total = weights.sum(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(total > 0, weights / total, 0.0)


def placed_between(placed: Placed, goals: Floats, weights: Floats, by: Floats) -> Placed:
    """The pivots at the mean of goals, by a share of the way there.

    Parameters
    ----------
    goals : array, shape (goals, 2, parts, frames), px
    weights : array, shape (goals, parts, frames) or (goals, parts, 1)
    by : array, the weight of the constraint
    """
    mean = (weights[:, None] * goals).sum(axis=0)
    return placed.moved_to(mean, np.where(weights.any(axis=0), by, 0.0))


def turned_between(placed: Placed, turns: Floats, is_shortest: bool, weights: Floats, by: Floats) -> Placed:
    """The parts turned to the mean of turns, radians, shape (goals, parts, frames).

    The shortest way counts each turn from the first goal's by less than half a turn; else whole turns count as well.
    """
    if is_shortest:
        turns = turns[0] + shortest(turns - turns[0])
    turn = shortest((weights * turns).sum(axis=0) - placed.heading)
    return placed.turned_by(np.where(weights.any(axis=0), by, 0.0) * turn)


def scaled_between(placed: Placed, sizes: Floats, weights: Floats, by: Floats) -> Placed:
    """The parts scaled to the mean of sizes along x and y, shape (goals, 2, parts, frames)."""
    mean = (weights[:, None] * sizes).sum(axis=0)
    share = np.where(weights.any(axis=0), by, 0.0)
    x, y = (by_a_share(*pair, share) for pair in zip(placed.sizes, mean, strict=True))
    return placed.scaled(x, y)


def by_a_share(own: Floats, wanted: Floats, share: Floats) -> Floats:
    """The factor that brings a size by a share of the way to another; 1 for one that has vanished."""
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.asarray(part_way(1.0, wanted / own, share))
    return found if own.all() else np.where(own > 0, found, 1.0)
