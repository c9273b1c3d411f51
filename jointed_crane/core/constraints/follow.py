"""Follow: position, turn and scale of a goal, with an offset."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.between import by_a_share
from jointed_crane.core.constraints.constraint import Constraint, Given, Goal, Number, Spot, choice_field, goal_field
from jointed_crane.core.constraints.numbers import TURN
from jointed_crane.core.constraints.placements import Floats, PlacedParts
from jointed_crane.core.geometry.bearings import are_level, bearings_of, of_turns, product
from jointed_crane.core.geometry.decomposition import turns_of
from jointed_crane.core.geometry.plane import angle_of, length_of, shortest


@dataclass(frozen=True, kw_only=True)
class Follow(Constraint):
    """Position, turn and scale of a goal are taken over, each by choice, with the offset that the numbers say.

    With less than its whole weight the part turns by a share of the shortest way to where the goal's turn puts it:
    where that is half a turn away the part changes sides.
    """

    goal: Goal = goal_field("what", spots=(0.0,))
    position: bool = choice_field("position", True)
    turns: bool = choice_field("turn", True)
    scales: bool = choice_field("scale", True)
    kind: Literal["follow"] = "follow"

    WITHOUT = "no longer follows"
    NUMBERS = (
        Number("x", "Offset x", unit="px"),
        Number("y", "Offset y", unit="px"),
        Number("z", "Offset z", unit="px", is_deep=True),
        TURN,
        Number("turnx", "Offset turn x", unit="deg", mirror="yz", is_deep=True),
        Number("turny", "Offset turn y", unit="deg", mirror="xz", is_deep=True),
        Number("scalex", "Offset scale x", 1.0),
        Number("scaley", "Offset scale y", 1.0),
    )

    BACK = MappingProxyType({"place": ("x", "y", "z"), "turn": ("turn",), "size": ("scalex", "scaley")})
    ACT = "Follow the part picked before"

    def says_place(self) -> bool:
        return self.position

    def on_the_spot(self, spot: Spot) -> dict[str, float]:
        """How the part lies beside the goal."""
        place, there = spot.goal(self.goal)
        if not np.linalg.det(there[:2, :2]) or not np.linalg.det(there):
            raise RuleError(f"{spot.name_of(self.goal.part)} has no size there. Nothing was changed.")
        x, y, z = np.linalg.solve(there, spot.pivot - place).tolist()
        scalex, scaley = (length_of(spot.linear[:, :2]) / length_of(there[:, :2])).tolist()
        found = {"x": x, "y": y, "z": z, "scalex": scalex, "scaley": scaley}
        bearings = bearings_of(np.stack([spot.linear, there], axis=-1)[..., None])
        if are_level(bearings).all():
            turn = np.rad2deg(np.arctan2(*spot.linear[1::-1, 0]) - np.arctan2(*there[1::-1, 0]))
            return found | {"turn": float((turn + 180) % 360 - 180)}
        own, of_goal = np.moveaxis(bearings[..., 0], -1, 0)
        return found | dict(
            zip(("turnx", "turny", "turn"), turns_of(of_goal.T @ own, "XYZ", np.zeros(3)).tolist(), strict=True)
        )

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        numbers, linear = given.numbers, given.linears(0)
        by = numbers["weight"]
        if self.scales:
            placed = following_scale(placed, linear, (numbers["scalex"], numbers["scaley"]), by)
        if self.turns and given.places is not None:
            offset = of_turns(*(np.deg2rad(numbers[name]) for name in ("turnx", "turny", "turn")))
            placed = placed.brought_to(product(bearings_of(linear), offset), by)
        elif self.turns:
            placed = following_turn(placed, linear, np.deg2rad(numbers["turn"]), by)
        if self.position:
            goal = (given.places or given.points)[0]
            placed = following_position(placed, goal, linear, [numbers[axis] for axis in "xyz"[: len(goal)]], by)
        return placed


Pair = tuple[Floats, Floats]


def following_position(
    placed: PlacedParts, goal: Floats, linear: Floats, offset: Sequence[Floats], by: Floats
) -> PlacedParts:
    """The pivots at an offset from goals, on the stage or in space.

    Parameters
    ----------
    goal : array, shape (2, parts, frames) or (3, parts, frames), px
    linear : array, shape (2, 2, parts, frames) or (3, 3, parts, frames), of the part that has the goal
    offset : along each axis, px in the art space of that part
    by : array, the weight of the constraint
    """
    there = goal
    for axis, along in enumerate(offset):
        there = there + linear[:, axis] * along
    return placed.moved_to(there, by)


def following_turn(placed: PlacedParts, linear: Floats, offset: Floats, by: Floats) -> PlacedParts:
    """The parts turned as goals are, radians beyond them."""
    return placed.turned_by(by * shortest(angle_of(linear[:, 0]) + offset - placed.heading))


def following_scale(placed: PlacedParts, linear: Floats, offset: Pair, by: Floats) -> PlacedParts:
    """The parts as large as goals are along their own x and y, times an offset along each."""
    wanted = (length_of(linear[:, axis]) * offset[axis] for axis in range(2))
    x, y = (by_a_share(*pair, by) for pair in zip(placed.sizes, wanted, strict=True))
    return placed.scaled(x, y)
