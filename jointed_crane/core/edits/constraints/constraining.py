"""Edits of constraints: what places a part from others."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, TypeVar

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Constraint, Goal, number_channel, number_channels
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.edits.shared.bends_on_screen import led_through
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.named_things import all_but, exchanged_for, the_one
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.geometry.arc_length import Way
from jointed_crane.core.geometry.bearings import plane_of
from jointed_crane.core.hierarchy.chains import chains_of, whole_chain
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.channels import channel_kind, family_of
from jointed_crane.core.model.levers import Link
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.paths import path_of
from jointed_crane.core.viewing.projection import carried, linear_of, origin_of

Floats = npt.NDArray[np.float64]
Value = TypeVar("Value")


@dataclass(frozen=True)
class Constrain(Edit, kind="constrain"):
    """Give a part a constraint, acting after those it has, with rest values of its numbers by their names.

    A part that follows keeps the offset that it is shown with, and one along a path begins where the path is nearest,
    but for numbers that are given.
    """

    part: str
    constraint: Constraint
    numbers: dict[str, float] = field(default_factory=dict)
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Constrain {scene.part(self.part).name}: {self.constraint.kind}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        name = free_name(self.constraint.name, (other.name for other in part.constraints))
        made = replace(self.constraint, name=name)
        numbers = {**made.on_the_spot(_Spot(scene, part.id, self.frame)), **self.numbers}
        after = scene.with_parts([_with_numbers(replace(part, constraints=(*part.constraints, made)), made, numbers)])
        return led_through(after, part.id, made, scene, self.frame)


#: Names by which people call what stands flat on the ground.
_FEET = {"foot", "feet", "paw", "hoof", "shoe", "boot", "sole"}


def is_foot(part: Part) -> bool:
    """Whether a part is called what stands flat on the ground, which keeps its turn when its limb reaches."""
    return not _FEET.isdisjoint(re.findall(r"[a-z]+", part.name.lower()))


@dataclass(frozen=True)
class MakeReach(Edit, kind="make_reach"):
    """Have a part be reached for: up to so many joints above it turn so that its pivot comes to a helper, which is made
    on the spot where the pivot is shown, so that nothing moves. The chain bends on the side on which it is bent now.
    Without a word on it, feet keep their own turn.
    """

    part: str
    id: str
    joints: int = 2
    keeps_turn: bool | None = None
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Reach with {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        place = zip("xyz", pivot_at(scene, part.id, self.frame).tolist(), strict=True)
        rest = {f"move.{axis}": at for axis, at in place if axis != "z" or at}
        name = free_name(f"{part.name} goal", (other.name for other in scene.parts))
        helper = Part(f"{self.id}-goal", name, "helper", rest=rest, form="cross")
        made = Reach(
            id=self.id,
            name=free_name("Reach", (other.name for other in part.constraints)),
            goal=Goal(part=helper.id),
            joints=self.joints,
            keeps_turn=is_foot(part) if self.keeps_turn is None else self.keeps_turn,
        )
        if fault := made.fault():
            raise RuleError(f"A reach {fault}. Nothing was changed.")
        changed = replace(part, constraints=(*part.constraints, made))
        joints = chains_of(scene.with_parts([changed]).parts)[part.id, made.id]
        if not joints:
            raise RuleError(self._why_none(scene, part, made))
        made = replace(made, bends=self._bends(scene, part, joints))
        changed = replace(part, constraints=(*part.constraints, made))
        after = replace(scene, parts=(*scene.with_parts([changed]).parts, helper))
        return led_through(after, part.id, made, scene, self.frame)

    @staticmethod
    def _why_none(scene: Scene, part: Part, made: Reach) -> str:
        joints = whole_chain({other.id: other for other in scene.parts}, part, made)
        if joints:
            above = scene.part(joints[-1]).name
            return f"{above} turns for another part that reaches already. Nothing was changed; reach with that one."
        return (
            f"{part.name} hangs on no part that could turn for it. Nothing was changed; join it to its limb first, "
            "inheriting all."
        )

    def _bends(self, scene: Scene, part: Part, joints: Sequence[str]) -> Literal[-1, 1]:
        if len(joints) < 2:
            return 1
        first, second, end = (pivot_at(scene, part_id, self.frame) for part_id in (*joints[:2], part.id))
        axes = plane_of(linear_of(world_at(scene, scene.part(joints[0]).parent, self.frame)))
        (tx, ty), (ex, ey) = (end - first) @ axes, (second - first) @ axes
        return -1 if tx * ey - ty * ex < 0 else 1


@dataclass(frozen=True)
class ChangeConstraint(Edit, kind="change_constraint"):
    """Put a constraint in the place of the one of its id; numbers of the same names keep their values and keys."""

    part: str
    constraint: Constraint

    def label(self, scene: Scene) -> str:
        return f"Change {self.constraint.name} of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = constraint_of(part, self.constraint.id)
        constraints = exchanged_for(part.constraints, known, self.constraint)
        after = scene.with_parts([without_stray_numbers(replace(part, constraints=constraints))])
        if known.turned() == self.constraint.turned():
            return after
        return led_through(after, part.id, self.constraint, scene, None)


@dataclass(frozen=True)
class RemoveConstraint(Edit, kind="remove_constraint"):
    """Take a constraint off a part, with its numbers and their keys."""

    part: str
    constraint: str

    def label(self, scene: Scene) -> str:
        part = scene.part(self.part)
        return f"Delete {constraint_of(part, self.constraint).name} of {part.name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = constraint_of(part, self.constraint)
        return scene.with_parts([_with_constraints(part, lambda other: None if other is known else other)])


@dataclass(frozen=True)
class OrderConstraint(Edit, kind="order_constraint"):
    """Have a constraint act at another place in the row of its part's."""

    part: str
    constraint: str
    to: int

    def label(self, scene: Scene) -> str:
        part = scene.part(self.part)
        return f"Move {constraint_of(part, self.constraint).name} of {part.name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = constraint_of(part, self.constraint)
        others = list(all_but(part.constraints, known))
        if not 0 <= self.to <= len(others):
            raise RuleError(f"{part.name} has {len(others) + 1} constraints. Nothing was changed.")
        others.insert(self.to, known)
        return scene.with_parts([replace(part, constraints=tuple(others))])


def constraint_of(part: Part, constraint_id: str) -> Constraint:
    """The constraint of a part by its id; RuleError where it has none."""
    for one in part.constraints:
        if one.id == constraint_id:
            return one
    raise RuleError(f"{part.name} has no such constraint. Nothing was changed.")


@dataclass(frozen=True)
class _Spot:
    """A part and what it is placed from, as one state shows them: what `constraints.constraint.Spot` asks for."""

    scene: Scene
    part_id: str
    frame: float | None

    @property
    def pivot(self) -> Floats:
        return pivot_at(self.scene, self.part_id, self.frame)

    @property
    def linear(self) -> Floats:
        return linear_of(world_at(self.scene, self.part_id, self.frame))

    def goal(self, goal: Goal) -> tuple[Floats, Floats]:
        world = world_at(self.scene, goal.part, self.frame)
        return goal_place(self.scene, goal, self.frame), linear_of(world)

    def way(self, part_id: str, contour: int) -> Way:
        part = self.scene.part(part_id)
        path = path_of(part.at_rest if self.frame is None else part, contour, np.array([self.frame or 0.0]))
        if path is None:
            raise RuleError(
                f"{part.name} has no contour to run along. Nothing was changed; choose a part with a shape."
            )
        world = world_at(self.scene, part_id, self.frame)
        return path.on_stage(linear_of(world)[None], origin_of(world)[None])

    def name_of(self, part_id: str | None) -> str:
        return self.scene.part(part_id or "").name


def without_constraints(scene: Scene, is_lost: Callable[[Goal], bool]) -> Scene:
    """The scene without the constraints that lose a goal."""
    return scene.with_parts(
        _with_constraints(part, lambda one: one.without(is_lost))
        for part in scene.parts
        if any(one.loses(is_lost) for one in part.constraints)
    )


def without_links(scene: Scene, is_lost: Callable[[Link], bool]) -> Scene:
    """The scene without the links that lose what drives them."""
    return scene.with_parts(
        replace(part, links=tuple(link for link in part.links if not is_lost(link)))
        for part in scene.parts
        if any(map(is_lost, part.links))
    )


def _with_constraints(part: Part, left_of: Callable[[Constraint], Constraint | None]) -> Part:
    constraints = (left_of(one) for one in part.constraints)
    return without_stray_numbers(replace(part, constraints=tuple(one for one in constraints if one is not None)))


def without_stray_numbers(part: Part) -> Part:
    """The part without numbers that it does not have, and links onto them."""
    own = set(part.numbers)

    def kept(found: Mapping[str, Value]) -> dict[str, Value]:
        return {name: value for name, value in found.items() if name in own or family_of(name).moves != "number"}

    fixed = tuple(name for name in part.fixed if name in own or family_of(name).moves != "number")
    links = tuple(link for link in part.links if link.onto in own or family_of(link.onto).moves != "number")
    part = replace(part, rest=kept(part.rest), channels=kept(part.channels), limits=kept(part.limits))
    return replace(part, fixed=fixed, links=links)


def _with_numbers(part: Part, constraint: Constraint, numbers: dict[str, float]) -> Part:
    channels = {number_channel(constraint.id, name): value for name, value in numbers.items()}
    own = set(number_channels([constraint]))
    for channel in channels:
        if channel not in own:
            raise RuleError(f"{constraint.name} has no number {channel.rpartition('.')[2]!r}. Nothing was changed.")
    neutral = {channel: value for channel, value in channels.items() if value != channel_kind(channel).neutral}
    return part.with_rest(neutral) if neutral else part


def goal_place(scene: Scene, goal: Goal, frame: float | None) -> Floats:
    """Where a goal is shown, px on the stage, shape (3,)."""
    if goal.part is None:
        return np.array([*the_one(scene.marks, goal.named or "", "mark on the stage").place, 0.0])
    if goal.at == "pivot":
        return pivot_at(scene, goal.part, frame)
    part = scene.part(goal.part)
    point = part.point_of(goal)
    if point is None:
        raise RuleError(f"There is no such point on {part.name}. Nothing was changed.")
    return carried(world_at(scene, part.id, frame), np.array(point))
