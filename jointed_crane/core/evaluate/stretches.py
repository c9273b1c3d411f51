"""Many frames looked at a stretch at a time, so that they take no more memory than few."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.evaluation import evaluate
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.model.channels import countable
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.cycles import corners

Floats = npt.NDArray[np.float64]
#: Parts times frames that are evaluated together.
_AT_ONCE = 200_000


def film(scene: Scene, frames: Floats) -> Iterator[Pose]:
    """The poses of a scene at any frames, a stretch at a time; whatever looks at many frames looks at them so.

    Parameters
    ----------
    frames : array, shape (frames,)
    """
    for stretch in in_stretches(frames, len(scene.parts)):
        yield evaluate(scene, stretch)


def in_stretches(frames: Floats, part_count: int) -> list[Floats]:
    """Frames in stretches, each to be evaluated by itself for so many parts."""
    return np.array_split(frames, 1 + len(frames) * part_count // _AT_ONCE)


def corners_of(parts: Iterable[Part], first: float, last: float) -> list[float]:
    """Frames between two at which the course of what goes by some parts may have a corner or a jump, ascending."""
    result: set[float] = set()
    for part in parts:
        for name, channel in part.channels.items():
            result.update(corners(countable(name, channel, part.rest_value(name)), first, last))
        result.update(foothold.frame for foothold in part.footholds)
        for one in part.constraints:
            result.update(one.moments())
    return sorted(frame for frame in result if first < frame < last)
