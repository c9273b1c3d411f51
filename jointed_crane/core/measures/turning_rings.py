"""The three circles on which a part turns about its pivot: one for each channel of turn, as it lies in space."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.fields import stacked, turned
from jointed_crane.core.model.scene import Part

Floats = npt.NDArray[np.float64]
_AXES = {"X": 0, "Y": 1, "Z": 2}


@dataclass(frozen=True, eq=False)
class TurningRing:
    """One of the circles.

    Attributes
    ----------
    channel : of turn
    start, quarter : where on it an angle of 0 and of 90 degrees lies from the pivot, shape (3,); of length 1 where
        nothing above stretches
    axis : what it turns about, from `start` to `quarter`, a unit vector or zeros
    """

    channel: str
    start: Floats
    quarter: Floats

    @property
    def axis(self) -> Floats:
        across = np.cross(self.start, self.quarter)
        length = float(np.linalg.norm(across))
        return across / length if length > 1e-12 else np.zeros(3)


def turning_rings(part: Part, frame_linear: Floats, angles: Floats) -> list[TurningRing]:
    """The circles of a part from the outermost turn to the innermost; what turns outside carries those inside.

    Parameters
    ----------
    frame_linear : array, shape (3, 3), what the part takes over from above times its own orientation O
    angles : array, shape (3,), its turns about x, y and z, degrees
    """
    result = []
    outer = frame_linear
    for letter in part.turn_order:
        axis = _AXES[letter]
        start, quarter = outer[:, (axis + 1) % 3], outer[:, (axis + 2) % 3]
        result.append(TurningRing(f"turn.{letter.lower()}", start, quarter))
        outer = outer @ stacked(turned(axis, float(angles[axis])), ())
    return result
