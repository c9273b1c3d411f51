"""How the joints of a chain are bent as it is shown, for what is to lead through that pose."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.constraint import Constraint, of_kind
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.constraints.reaching.limb import Limb
from jointed_crane.core.constraints.reaching.two_bones import two_bones
from jointed_crane.core.edits.shared.named_things import exchanged_for
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.geometry.bearings import plane_of
from jointed_crane.core.geometry.plane import applied, determinant, solved
from jointed_crane.core.hierarchy.chains import chains_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import carried, linear_of, seen_linear_of

Floats = npt.NDArray[np.float64]
#: Bends below this are the last digits of what is straight, degrees.
_STRAIGHT = 1e-9
#: Turns below this are the roots of last digits, radians.
_SAME = 1e-6


def led_through(scene: Scene, part_id: str, made: Constraint, shown: Scene, frame: float | None) -> Scene:
    """The scene with a constraint of a part, by its id, that turns a chain, led through the pose in which another scene
    shows that chain: where its end lies there it takes that pose. Two bones need that only where they would take
    another one, as they may below an unevenly scaled part.
    """
    part = scene.part(part_id)
    for known in of_kind([one for one in part.constraints if one.id == made.id], Reach):
        joints = chains_of(scene.parts)[part.id, known.id]
        if len(joints) > 1:
            chain = _Shown.of(pose_at(shown, frame), [shown.part(joint) for joint in joints], part, known)
            through = replace(known, through=chain.bends() if len(joints) > 2 or chain.is_bent_on() else ())
            scene = scene.with_parts([replace(part, constraints=exchanged_for(part.constraints, known, through))])
    return scene


@dataclass(frozen=True, eq=False)
class _Shown:
    """A chain as it is shown.

    Attributes
    ----------
    bones : array, shape (joints, 2, 1), as each lies in what its joint hangs on
    carrying : array, shape (joints - 1, 2, 2, 1), what carries the space in which the next joint turns
    side : array, shape (1,), on which side it bends in the space of the first joint: 1 is clockwise
    """

    bones: Floats
    carrying: Floats
    side: Floats

    @classmethod
    def of(cls, pose: Pose, joints: list[Part], part: Part, reach: Reach) -> _Shown:
        """The chain of a part that reaches."""
        above = joints[0].parent
        linear = [np.eye(2) if above is None else seen_linear_of(pose.world_of(above))]
        linear += [seen_linear_of(pose.world_of(joint.id)) for joint in joints]
        places = [pose.pivot_of(joint.id)[:2] for joint in joints]
        if reach.tip is None:
            places.append(pose.pivot_of(part.id)[:2])
        else:
            places.append(carried(pose.world_of(part.id), np.array(reach.tip))[:2])
        spaces, art = np.stack(linear[:-1], axis=-1), np.stack(linear[1:], axis=-1)
        bones = solved(spaces, np.diff(places, axis=0).T)
        carrying = np.stack([solved(spaces, art[:, column]) for column in range(2)], axis=1)[..., :-1]
        hangs_on = np.eye(3) if above is None else linear_of(pose.world_of(above))
        side = reach.bends * np.copysign(1.0, determinant(plane_of(hangs_on).T @ hangs_on[:, :2]))
        return cls(np.moveaxis(bones, -1, 0)[..., None], np.moveaxis(carrying, -1, 0)[..., None], np.array([side]))

    def bends(self) -> tuple[float, ...]:
        """The bends of joints but the first, degrees from straight."""
        bends = np.rad2deg(Limb.of_matrices(self.bones, self.carrying).bends(self.side)[:, 0])
        return tuple(np.where(np.abs(bends) <= _STRAIGHT, 0.0, bends).tolist())

    def is_bent_on(self) -> bool:
        """Whether these two bones, bent towards their side, come to where their end lies nearer to straight, too."""
        (first, second), (above,) = self.bones, self.carrying
        turns = two_bones(first, above, second, first + applied(above, second), self.side)
        return self.bends()[0] > 0 and bool((np.abs(turns) > _SAME).any())
