"""Goals outside a limb that is copied mirrored, for constraints that say where the limb lies: mirrored too."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.edits.constraints.constraining import goal_place
from jointed_crane.core.edits.placing.settling import with_motion_changed
from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.hierarchy.sides import other_side
from jointed_crane.core.hierarchy.tree import ancestors, free_name
from jointed_crane.core.model.channels import MOVE
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import in_art_space, inverse_of, linear_of, space_to_art

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class MirroredGoals:
    """What copies refer to instead of goals outside.

    Attributes
    ----------
    made : the parts that were made to be goals
    names : what the goals are called that lie outside
    by_goal : the goals that take their places
    on_stage : arrays, shape (3, 3), the reflection of each original's limb on the stage, by its id
    """

    made: list[Part] = field(default_factory=list)
    names: list[str] = field(default_factory=list)
    by_goal: dict[Goal, Goal] = field(default_factory=dict)
    on_stage: dict[str, Floats] = field(default_factory=dict)

    def given_to(self, copy: Part) -> Part:
        """A copy whose constraints refer to the mirrored goals, where they bring it to them."""
        constraints = (
            one.with_goals(lambda goal: self.by_goal.get(goal, goal)) if one.MIRRORS_GOALS else one
            for one in copy.constraints
        )
        return replace(copy, constraints=tuple(constraints))


def mirrored_goals(
    scene: Scene, originals: Iterable[Part], mirrors: Mapping[str, Floats], id_prefix: str, frame: float | None
) -> MirroredGoals:
    """The goals outside what is mirrored, mirrored as they lie at a frame, or at rest.

    Parameters
    ----------
    mirrors : arrays, shape (4, 4), the reflection in the space of the parent of each root, by its id
    """
    result, inside = MirroredGoals(), {part.id for part in originals}
    for part in originals:
        root = root_of(scene, part, mirrors)
        mirror = _on_stage(scene, root, mirrors[root.id], frame)
        result.on_stage[part.id] = mirror[:3, :3]
        for goal in (goal for one in part.constraints if one.MIRRORS_GOALS for goal in one.every_goal()):
            if goal.part not in inside and goal not in result.by_goal:
                made = _mirrored(scene, goal, mirror, f"{id_prefix}goal{len(result.made)}", result.made, frame)
                result.made.append(made)
                result.by_goal[goal] = Goal(part=made.id)
                result.names.append(_name(scene, goal))
    return result


def root_of(scene: Scene, part: Part, mirrors: Mapping[str, Floats]) -> Part:
    """The root of the limb that a part is of."""
    return scene.part(next(above for above in (part.id, *ancestors(scene, part.id)) if above in mirrors))


def _on_stage(scene: Scene, root: Part, mirror: Floats, frame: float | None) -> Floats:
    world = world_at(scene, root.parent, frame)
    return np.asarray(world @ mirror @ space_to_art(world, root), dtype=np.float64)


def _name(scene: Scene, goal: Goal) -> str:
    if goal.part is None:
        return next(mark.name for mark in scene.marks if mark.id == goal.named)
    return scene.part(goal.part).name


def _mirrored(
    scene: Scene, goal: Goal, mirror: Floats, made_id: str, others: Sequence[Part], frame: float | None
) -> Part:
    """A helper in the mirrored place of a goal: beside a helper, with its keys where the axis lies along what it moves
    in, else on what has the goal.
    """
    at = np.array([*goal_place(scene, goal, frame), 1.0])
    known = None if goal.part is None else scene.part(goal.part)
    is_free = known is not None and known.kind == "helper" and goal.at == "pivot" and not scene.children.get(known.id)
    parent = None if known is None else known.parent if is_free else known.id
    world = world_at(scene, parent, frame)
    holder = known or scene.parts[0]
    place = in_art_space(world, (mirror @ at)[:3], holder)
    name = _name(scene, goal)
    wanted = other_side(name) if other_side(name) != name else f"{name} mirrored"
    name = free_name(wanted, (part.name for part in (*scene.parts, *others)))
    helper = Part(made_id, name, "helper", parent, form="cross")
    if known is not None and is_free and not (known.constraints or known.links or known.footholds):
        flip = inverse_of(linear_of(world), holder) @ mirror[:3, :3] @ linear_of(world)
        moves = [channel for channel in MOVE.names if channel in known.channels]
        if not moves or np.allclose(np.abs(flip), np.eye(3), atol=1e-9):
            rest = np.array([known.rest_value(f"move.{axis}") for axis in "xyz"])
            shown = in_art_space(world, at[:3], holder)
            place = place - flip @ (shown - rest)  # where it rests, given where it is now
            for axis, channel in enumerate(MOVE.names):
                if channel in moves:
                    keyed = with_motion_changed(known, channel, over=float(flip[axis, axis]))
                    helper = helper.with_channel(channel, keyed.channels[channel])
    return helper.with_rest({f"move.{axis}": float(value) for axis, value in zip("xyz", place, strict=True) if value})
