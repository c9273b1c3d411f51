"""Where parts lie while their constraints act on them one after the other, and the turns that constraints make.

Everything is an array over parts and frames. Constraints turn in the plane of the stage, about z; what lies in depth
goes along.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Placed:
    """Parts on the stage.

    Attributes
    ----------
    place : array, shape (parts, frames, 3), where each pivot lies, px
    linear : array, shape (parts, frames, 3, 3), A on the stage, about the pivot
    spin : array, shape (parts, frames, 3, 3), what turns the art about its own centre below that; None for nothing
    tail : array, shape (parts, frames, 3), and where that puts the art's zero, px
    turned : array, shape (parts, frames), how far constraints have turned the part so far, radians
    """

    place: Floats
    linear: Floats
    spin: Floats | None
    tail: Floats
    turned: Floats

    def moved(self, by: Floats) -> Placed:
        """The parts elsewhere: by px on the stage, shape (parts, frames, 2)."""
        place = self.place.copy()
        place[..., :2] += by
        return replace(self, place=place)

    def turned_by(self, angle: Floats) -> Placed:
        """The parts turned about their pivots, radians, shape (parts, frames)."""
        return replace(self, linear=rotated(self.linear, angle), turned=self.turned + angle)

    def scaled(self, x: Floats, y: Floats) -> Placed:
        """The parts scaled along the axes of their art about their pivots."""
        art = self.art.copy()
        art[..., 0] *= x[..., None]
        art[..., 1] *= y[..., None]
        return replace(self, linear=art if self.spin is None else art @ np.swapaxes(self.spin, -1, -2))

    @cached_property
    def art(self) -> Floats:
        """The linear parts that carry the art to the stage, shape (parts, frames, 3, 3)."""
        return self.linear if self.spin is None else np.asarray(self.linear @ self.spin)

    def carried(self, points: Floats) -> Floats:
        """Where points of the art, shape (parts, 3), lie on the stage, px, shape (parts, frames, 2)."""
        about = np.einsum("nfij,nj->nfi", self.art, points) + np.einsum("nfij,nfj->nfi", self.linear, self.tail)
        found: Floats = (self.place + about)[..., :2]
        return found


def rotated(linear: Floats, angle: Floats) -> Floats:
    """Linear parts, shape (..., 3, 3), turned on the stage by radians, clockwise on the screen."""
    cosine, sine = np.cos(angle)[..., None], np.sin(angle)[..., None]
    result = linear.copy()
    result[..., 0, :] = cosine * linear[..., 0, :] - sine * linear[..., 1, :]
    result[..., 1, :] = sine * linear[..., 0, :] + cosine * linear[..., 1, :]
    return result


def angle_of(vectors: Floats) -> Floats:
    """The direction of vectors in the plane, shape (..., 2 or 3), radians; 0 for one without length."""
    found: Floats = np.arctan2(vectors[..., 1], vectors[..., 0])
    return found


def length_of(vectors: Floats) -> Floats:
    """The length of vectors in the plane, shape (..., 2 or 3)."""
    found: Floats = np.hypot(vectors[..., 0], vectors[..., 1])
    return found


def shortest(angle: Floats) -> Floats:
    """The turn that ends in the same direction and goes the shortest way, radians, above -pi up to pi."""
    found: Floats = np.pi - np.remainder(np.pi - angle, 2 * np.pi)
    return found
