"""The edit of a hand that moves parts on the stage: what reaches or is spanned is led by its goals."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Constraint, Goal
from jointed_crane.core.edits.constraints.constraining import goal_place
from jointed_crane.core.edits.placing.poses import moved, when
from jointed_crane.core.edits.shared.edit import named, unlocked
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.edits.shared.values_on_screen import NewValue
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.core.hierarchy.tree import uppermost
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import seen_from, steps_in_space
from jointed_crane.core.viewing.view import STAGE, View


@dataclass(frozen=True)
class Lead(ValueEdit, kind="lead"):
    """Move parts by px of a view as a hand does that takes hold of them `at` a place on it: of a part that reaches
    its goal is moved, of one that is spanned the end that is nearer to that place, or both where it is not said.
    """

    parts: tuple[str, ...]
    by: tuple[float, float]
    at: tuple[float, float] | None = None
    frame: float | None = None
    past_limits: bool = False
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Move {named(scene.part(part_id) for part_id in self.parts)} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        led = [part_id for part in unlocked(scene, self.parts) for part_id in self._led(scene, part)]
        for part_id in uppermost(scene, [part.id for part in unlocked(scene, led)]):
            by = steps_in_space(self.by, pivot_at(scene, part_id, self.frame), self.view)
            yield from moved(scene, scene.part(part_id), by, self.frame, self.past_limits)

    def _led(self, scene: Scene, part: Part) -> list[str]:
        """Ids of the parts that move for a part."""
        for one in part.constraints:
            goals = one.led(self.frame) if one.is_on else ()
            if self.at is not None and len(goals) > 1:
                far = [np.linalg.norm(self._seen(goal_place(scene, goal, self.frame)) - self.at) for goal in goals]
                goals = (goals[int(np.argmin(far))],)
            if goals:
                return [_part_of(part, one, goal) for goal in goals]
        return [part.id]

    def _seen(self, place: np.ndarray) -> np.ndarray:
        return seen_from(place, self.view)


def _part_of(part: Part, one: Constraint, goal: Goal) -> str:
    if goal.part is None:
        raise RuleError(f"{one.name} of {part.name} is held by a mark. Nothing was changed; move the mark instead.")
    return goal.part
