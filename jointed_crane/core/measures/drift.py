"""How far a point that should stand still slides: the path of an art point, its speed, and how far contacts slip."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.measures.standing import standing
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.viewing.projection import carried, on_stage

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Course:
    """Where a point goes.

    Attributes
    ----------
    frames : array, shape (frames,)
    path : array, shape (frames, 2), px on the stage
    """

    frames: Floats
    path: Floats

    @property
    def speeds(self) -> Floats:
        """How far the point has gone since the frame before, px, shape (frames,); 0 at the first."""
        return np.concatenate([[0.0], _gone(self.path)])


def course_of(scene: Scene, part_id: str, point: tuple[float, float], frames: Floats) -> Course:
    """The way of a point of a part, px in art space, over frames in ascending order."""
    return Course(frames, on_stage(_world_of(scene, part_id, frames), np.array(point)))


def course_in_space(scene: Scene, part_id: str, point: tuple[float, float], frames: Floats) -> Floats:
    """The same way in space, px, shape (frames, 3)."""
    return carried(_world_of(scene, part_id, frames), np.array([*point, 0.0]))


def contact_speeds(scene: Scene, part_id: str, frames: Floats) -> Floats:
    """Drift of the point that a part stands on, in px a frame, shape (frames,): how far the foothold that held at the
    frame before has gone on its ground since. Before the first foothold nothing stands, so it is 0.
    """
    return standing(scene, part_id, frames).slips


def _gone(path: Floats) -> Floats:
    """How far it is from each place of a path to the next, px, shape (places - 1,)."""
    return np.asarray(np.hypot(*np.diff(path, axis=0).T), dtype=np.float64)


def _world_of(scene: Scene, part_id: str, frames: Floats) -> Floats:
    """World matrices of one part, shape (frames, 4, 4); nothing is evaluated that has no say in them."""
    film = evaluate(narrowed(scene, [part_id]), frames)
    world: Floats = film.world[film.index[part_id]]
    return world
