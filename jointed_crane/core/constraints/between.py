"""Between: at a share of the way from one goal to another, or at the weighted mean of many."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

import numpy as np

from jointed_crane.core.basics.limits import MOST_GOALS
from jointed_crane.core.constraints.constraint import (
    ANY,
    Constraint,
    Given,
    Goal,
    Number,
    choice_field,
    goal_field,
)
from jointed_crane.core.constraints.placements import Floats, PlacedParts, part_way
from jointed_crane.core.geometry.bearings import are_level, back, bearings_of, mean, of_turns, product
from jointed_crane.core.geometry.bearings import by_a_share as by_a_share_of
from jointed_crane.core.geometry.plane import angle_of, length_of, shortest


@dataclass(frozen=True, kw_only=True)
class Between(Constraint):
    """The pivot lies between two goals at a share, or at the weighted mean of many; if wished turned and scaled alike.

    Turns between go the shortest way, or as the goals have been turned, whole turns included; those out of the plane of
    the stage always go the shortest way.
    """

    goals: tuple[Goal, ...] = goal_field("from", "to", spots=(-80.0, 80.0))
    turns: bool = choice_field("turn", False)
    scales: bool = choice_field("scale", False)
    is_shortest: bool = choice_field("shortest way", True)
    kind: Literal["between"] = "between"

    WITHOUT = "no longer lies between its goals"
    #: Two goals have a share, more of them a weight each.
    NUMBERS = (
        Number("share", "Share", 0.5, goals=(2, 2)),
        Number("goal", "Weight of goal", 1.0, ends=(0.0, ANY), is_row=True, goals=(3, MOST_GOALS)),
    )
    BACK = MappingProxyType({"place": ("share",)})
    ACT = "Lie between the two picked before"

    def fault(self) -> str | None:
        return None if 2 <= len(self.goals) <= MOST_GOALS else f"lies between 2 to {MOST_GOALS} goals"

    def counts_turns(self) -> bool:
        return self.turns and not self.is_shortest

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        count = len(self.goals)
        weights = weights_of_goals(given.numbers, count)
        by = np.where(weights.any(axis=0), given.numbers["weight"], 0.0)
        placed = placed_between(placed, np.stack(given.places or given.points), weights, by)
        if not (self.turns or self.scales):
            return placed
        linears = np.stack([given.linears(number) for number in range(count)], axis=2)
        if self.turns:
            turns = angle_of(linears[:, 0])
            if not self.is_shortest:
                turns = np.stack([given.whole_turns(number) for number in range(count)])
            turn = mean_turn(turns, self.is_shortest, weights)
            if given.places is None:
                placed = placed.turned_by(by * shortest(turn - placed.heading))
            else:
                bearings = bearings_between(np.moveaxis(linears, 2, 0), turn, weights)
                placed = placed.brought_to(bearings, by)
        if self.scales:
            sizes = np.stack([length_of(linears[:, axis]) for axis in range(2)], axis=1)
            placed = scaled_between(placed, sizes, weights, by)
        return placed


def weights_of_goals(numbers: Mapping[str, Floats], count: int) -> Floats:
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


def placed_between(placed: PlacedParts, goals: Floats, weights: Floats, by: Floats) -> PlacedParts:
    """The pivots at the mean of goals, by a share of the way there.

    Parameters
    ----------
    goals : array, shape (goals, 2, parts, frames) on the stage or (goals, 3, parts, frames) in space, px
    weights : array, shape (goals, parts, frames) or (goals, parts, 1)
    by : array, the weight of the constraint, 0 where no goal counts
    """
    return placed.moved_to((weights[:, None] * goals).sum(axis=0), by)


def mean_turn(turns: Floats, is_shortest: bool, weights: Floats) -> Floats:
    """The mean of turns, radians, shape (goals, parts, frames).

    The shortest way counts the turns of two goals from the first one's by less than half a turn, and those of many from
    the direction of their weighted sum, so that one without a weight has no say; else whole turns count as well.
    """
    if is_shortest:
        about = turns[0]
        if len(turns) > 2:
            about = np.arctan2((weights * np.sin(turns)).sum(axis=0), (weights * np.cos(turns)).sum(axis=0))
        turns = about + shortest(turns - about)
    result: Floats = (weights * turns).sum(axis=0)
    return result


def bearings_between(linears: Floats, turn: Floats, weights: Floats) -> Floats:
    """The mean bearings of goals, shape (3, 3, parts, frames): those that lie level, all seen from one side, by their
    mean turn, of two others at their share of the shortest way, of more at their mean.

    Parameters
    ----------
    linears : array, shape (goals, 3, 3, parts, frames)
    turn : the mean turn about z, radians
    """
    every = np.stack([bearings_of(linear) for linear in linears])
    if len(every) == 2:
        result = product(every[0], by_a_share_of(product(back(every[0]), every[1]), weights[1]))
    else:
        result = mean(every, weights)
    zero = np.zeros_like(turn)
    turned = of_turns(zero, zero, turn)
    for front in (1.0, -1.0):
        level = np.all([are_level(each, front) for each in every], axis=0)
        result = np.where(level, turned * np.array([1.0, front, front])[:, None, None], result)
    return result


def scaled_between(placed: PlacedParts, sizes: Floats, weights: Floats, by: Floats) -> PlacedParts:
    """The parts scaled to the mean of sizes along x and y, shape (goals, 2, parts, frames)."""
    wanted = (weights[:, None] * sizes).sum(axis=0)
    x, y = (by_a_share(*pair, by) for pair in zip(placed.sizes, wanted, strict=True))
    return placed.scaled(x, y)


def by_a_share(own: Floats, wanted: Floats, share: Floats) -> Floats:
    """The factor that brings a size by a share of the way to another; 1 for one that has vanished."""
    with np.errstate(divide="ignore", invalid="ignore"):
        result = np.asarray(part_way(1.0, wanted / own, share))
    return result if own.all() else np.where(own > 0, result, 1.0)
