"""A chain whose end does not come to its goal."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.constraints.constraint import Goal, number_channel, of_kind
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.geometry.bearings import bearings_of
from jointed_crane.core.model.scene import Part
from jointed_crane.core.viewing.projection import carried, linear_of

NAME = "Does not reach"
#: An end nearer to its goal has come to it, px.
_NEAR = 0.5
#: A miss of which more than this share leads out of the limb's plane is one that no stretching mends.
_OFF_PLANE = 0.7


def find(rig: Rig) -> Iterator[Finding]:
    """Ends that miss their goals, with the frame at which they do so by most. Chains that are blended with hands,
    softened or matched leave their goals on purpose.
    """
    for part in rig.scene.parts:
        for one in of_kind(part.constraints, Reach):
            if not one.is_on or one.changes or _is_blended(part, one):
                continue
            pose = rig.film
            end = pose.pivot[pose.index[part.id]]
            if one.tip is not None:
                end = _carried(pose, part, one.tip)
            ways = _places(rig, one.goal) - end
            off = np.linalg.norm(ways, axis=-1)
            worst = int(off.argmax())
            if off[worst] > _NEAR:
                limb = pose.world_of(part.parent or part.id, worst)
                front = bearings_of(linear_of(limb)[..., None, None])[:, 2, 0, 0]
                aside = abs(float(front @ ways[worst]))
                remedy = (
                    f"the goal lies {aside:.4g} px off the plane in which the limb turns; tip what that hangs on"
                    if aside > _OFF_PLANE * off[worst]
                    else "let it stretch"
                )
                sentence = (
                    f"{one.name} of {part.name} misses its goal by {off[worst]:.4g} px at frame "
                    f"{pose.frames[worst]:.0f}; {remedy}, or bring the goal nearer."
                )
                yield Finding(NAME, part.id, sentence, float(off[worst]), "px")


def _is_blended(part: Part, one: Reach) -> bool:
    weight, soft = (number_channel(one.id, name) for name in ("weight", "soft"))
    driven = {link.onto for link in part.links}
    return weight in part.channels or weight in driven or part.rest.get(weight, 1.0) < 1 or soft in part.rest


def _places(rig: Rig, goal: Goal) -> np.ndarray:
    """Where a goal lies over the film, shape (frames, 3) or (3,)."""
    if goal.part is None:
        return np.array([*next(mark.place for mark in rig.scene.marks if mark.id == goal.named), 0.0])
    part = rig.scene.part(goal.part)
    if goal.at == "pivot":
        return np.asarray(rig.film.pivot[rig.film.index[part.id]])
    return _carried(rig.film, part, part.point_of(goal) or (0.0, 0.0, 0.0))


def _carried(pose: Pose, part: Part, point: tuple[float, float, float]) -> np.ndarray:
    return carried(pose.world[pose.index[part.id]], np.array(point))
