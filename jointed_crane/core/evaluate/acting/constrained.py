"""The constraints of a plan at work: what they make of the parts of a wave, in the order in which they act."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeVar, cast

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.along_path import length_along, placed_along
from jointed_crane.core.constraints.between import (
    placed_between,
    scaled_between,
    turned_between,
    weights_of_goals,
)
from jointed_crane.core.constraints.carry import Carrier, carried, displacement
from jointed_crane.core.constraints.follow import following_position, following_scale, following_turn
from jointed_crane.core.constraints.placed_parts import Placed
from jointed_crane.core.constraints.point_at import pointed
from jointed_crane.core.constraints.span import spanned
from jointed_crane.core.constraints.stay_above import lifted
from jointed_crane.core.evaluate.acting.chains import Chains
from jointed_crane.core.evaluate.acting.goals import Moment
from jointed_crane.core.evaluate.packing.packed_constraints import Acting, GoalRows, Ruled
from jointed_crane.core.evaluate.packing.plan import Wave
from jointed_crane.core.evaluate.placement import Local
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import (
    columns_of_rows,
    matrices_of_rows,
    product,
    put_column,
    put_matrix,
    rotation,
    unstacked,
    unstacked_column,
)
from jointed_crane.core.geometry.plane import angle_of, length_of
from jointed_crane.core.model.constraints import (
    AlongPath,
    Between,
    Carry,
    Constraint,
    Follow,
    PointAt,
    Span,
    StayAbove,
)
from jointed_crane.core.shapes.paths import path_of

Floats = npt.NDArray[np.float64]
Kind = TypeVar("Kind", bound=Constraint)


@dataclass
class Rules:
    """The constraints of a plan over some frames."""

    moment: Moment

    @cached_property
    def chains(self) -> Chains:
        """Those that turn joints before their wave is placed."""
        return Chains(self.moment)

    def place(self, own: Local, wave: Wave, acting: Acting, world: World) -> None:
        """Put parts of a wave that constraints act on in the world; `own` is where they lie without."""
        rows, here = acting.rows, acting.here
        taken = known = Placed(own.place, own.linear, own.spin, own.tail, 0.0).of_rows(here)
        shape = (acting.count, self.moment.frame_count)
        if acting.level:
            level = self._levelled(taken.of_rows(acting.level_at), acting.level)
            taken = taken.with_rows(acting.level_at, level, shape)
        for at, group in acting.groups:
            if len(group.rows) == acting.count:
                taken = self._act(group, taken, world)
            else:
                taken = taken.with_rows(at, self._act(group, taken.of_rows(at), world), shape)
        put_column(world.origin, rows, taken.origin)
        if taken.place is not known.place:
            put_column(world.place, rows, taken.place)
        if taken.linear is not known.linear:
            put_matrix(world.linear, rows, taken.art)
        if world.plain:
            turn = rotation(2, np.asarray(taken.turned))
            put_matrix(world.plain, rows, product(turn, matrices_of_rows(own.plain, here)))

    def _levelled(self, placed: Placed, rows: Sequence[int]) -> Placed:
        """Ends of chains that keep their linear parts whatever turns above them."""
        level = np.stack([self.chains.level[row] for row in rows], axis=2)
        (a, b), (c, d) = level
        (own_a, _, depth_x), (own_c, _, depth_y), last = placed.linear
        turned = angle_of(level[:, 0]) - np.arctan2(own_c, own_a)
        return replace(placed, linear=[[a, b, depth_x], [c, d, depth_y], last], turned=turned)

    def _act(self, group: Ruled, placed: Placed, world: World) -> Placed:
        first = group.constraints[0]
        terms, numbers = self.moment.plan.terms_of(group), self.moment.numbers(group)
        if isinstance(first, Carry):
            return self._carried(group, placed, numbers["weight"], world)
        points = [self.moment.points(each, world) for each in terms.goals]
        if isinstance(first, Between):
            return self._between(group, placed, points, numbers, world)
        if isinstance(first, PointAt):
            return pointed(placed, terms.art[0], points[0], np.deg2rad(numbers["offset"]), numbers["weight"])
        if isinstance(first, Follow):
            return self._follow(first, placed, terms.goals[0], points[0], numbers, world)
        if isinstance(first, AlongPath):
            return self._along(group, placed, numbers, world)
        if isinstance(first, Span):
            return spanned(placed, terms.art, points, numbers)
        return self._stay_above(group, placed, points, numbers)

    def _between(
        self, group: Ruled, placed: Placed, points: Sequence[Floats], numbers: dict[str, Floats], world: World
    ) -> Placed:
        rule = cast(Between, group.constraints[0])
        weights, by = weights_of_goals(numbers, len(points)), numbers["weight"]
        placed = placed_between(placed, np.stack(points), weights, by)
        if rule.turns or rule.scales:
            goals = self.moment.plan.terms_of(group).goals
            linears = np.stack([self.moment.linears(each, world) for each in goals], axis=2)
            if rule.turns:
                turns = angle_of(linears[:, 0])
                if not rule.is_shortest:
                    turns = np.stack([self.moment.whole_turns(each) for each in group.goals])
                placed = turned_between(placed, turns, rule.is_shortest, weights, by)
            if rule.scales:
                sizes = np.stack([length_of(linears[:, axis]) for axis in range(2)], axis=1)
                placed = scaled_between(placed, sizes, weights, by)
        return placed

    def _follow(
        self,
        rule: Follow,
        placed: Placed,
        goals: GoalRows,
        points: Floats,
        numbers: dict[str, Floats],
        world: World,
    ) -> Placed:
        linear, by = self.moment.linears(goals, world), numbers["weight"]
        if rule.scales:
            placed = following_scale(placed, linear, (numbers["scalex"], numbers["scaley"]), by)
        if rule.turns:
            placed = following_turn(placed, linear, np.deg2rad(numbers["turn"]), by)
        if rule.position:
            placed = following_position(placed, points, linear, (numbers["x"], numbers["y"]), by)
        return placed

    def _along(self, group: Ruled, placed: Placed, numbers: dict[str, Floats], world: World) -> Placed:
        points, directions = np.zeros((2, 2, len(group.rows), self.moment.frame_count))
        turns = False
        for place, (_, one) in enumerate(_pairs(group, AlongPath)):
            turns = one.turns
            row = np.array(self.moment.plan.row_of[cast(str, one.goal.part)])
            added = {channel: values for (owner, channel), values in self.moment.added.items() if owner == row}
            path = path_of(self.moment.plan.parts[row], one.contour, self.moment.frames, added)
            if path is None:  # no picture any more, so nowhere to run
                points[0, place], points[1, place] = columns_of_rows(placed.place[:2], np.array(place))
                continue
            linear, origin = self.moment.matrices(world.linear, row), self.moment.columns(world.origin, row)
            way = path.on_stage(np.moveaxis(linear, -1, 0), origin.T)
            own = {name: values[place] for name, values in numbers.items()}
            found = way.at(length_along(way.length, path.is_closed, own))
            points[:, place], directions[:, place] = (values.T for values in found)
        return placed_along(placed, points, directions, turns, numbers)

    def _carried(self, group: Ruled, placed: Placed, by: Floats, world: World) -> Placed:
        frame_count = self.moment.frame_count
        found = [displacement(self._carriers(one, world), frame_count) for _, one in _pairs(group, Carry)]
        linear, shift = (np.stack(each) for each in zip(*found, strict=True))
        return carried(placed, unstacked(linear), unstacked_column(shift), by)

    def _carriers(self, one: Carry, world: World) -> Iterable[Carrier]:
        for hold in one.holds:
            column = self.moment.column(hold.frame)
            if hold.part is None:
                yield Carrier(column)
                continue
            row = np.array(self.moment.plan.row_of[hold.part])
            linear, origin = self.moment.matrices(world.linear, row, 3), self.moment.columns(world.origin, row, 3)
            yield Carrier(column, np.moveaxis(linear, -1, 0), origin.T)

    def _stay_above(self, group: Ruled, placed: Placed, points: Sequence[Floats], numbers: dict[str, Floats]) -> Placed:
        direction = np.deg2rad(numbers["direction"])
        if len(points) == 2:
            direction = angle_of(points[1] - points[0])
        carried = np.stack([placed.carried(corner) for corner in self.moment.plan.terms_of(group).art], axis=1)
        side = np.array([[one.side] for _, one in _pairs(group, StayAbove)])
        return lifted(placed, carried, points[0], direction + np.where(side < 0, np.pi, 0.0), numbers["weight"])


def _pairs(group: Ruled, kind: type[Kind]) -> list[tuple[int, Kind]]:
    """Rows and constraints of a group whose constraints are of one kind."""
    pairs = zip(group.rows.tolist(), group.constraints, strict=True)
    return [(row, one) for row, one in pairs if isinstance(one, kind)]
