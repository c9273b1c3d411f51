"""A view: where one looks from, which way, and through what lens.

The camera's own axes are those of the stage for the stage's own camera: x right, y down, z towards the viewer, so it
looks along -z. What lies at a depth D before it is seen at centre + focal (x, y) / D by a perspective view (the pinhole
camera; Hartley and Zisserman, Multiple View Geometry, 2nd edition, section 6.1), and at centre + scale (x, y) by a
parallel one.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LARGEST
from jointed_crane.core.geometry.coordinates import UPRIGHT, Quaternion, Vector
from jointed_crane.core.geometry.decomposition import quaternion, rotation_matrices

Floats = npt.NDArray[np.float64]
Side = Literal["front", "back", "top", "below", "left", "right"]

#: Turns of the camera that looks at a side of the stage: its axes x, y and z as columns, in those of the stage.
_SIDES: dict[Side, list[list[float]]] = {
    "front": [[1, 0, 0], [0, 1, 0], [0, 0, 1]],
    "back": [[-1, 0, 0], [0, 1, 0], [0, 0, -1]],
    "top": [[1, 0, 0], [0, 0, -1], [0, 1, 0]],
    "below": [[1, 0, 0], [0, 0, 1], [0, -1, 0]],
    "left": [[0, 0, -1], [0, 1, 0], [1, 0, 0]],
    "right": [[0, 0, 1], [0, 1, 0], [-1, 0, 0]],
}
#: Sensor width that focal lengths in mm are said for, mm.
_SENSOR = 36.0
#: A view from around goes no higher and no lower, degrees: straight up there is no way round.
_STEEPEST = 89.9


@dataclass(frozen=True)
class View:
    """A camera.

    Attributes
    ----------
    place : where it stands, px on the stage
    orientation : how its own axes lie on the stage, a unit quaternion
    focal : of a perspective view the depth at which a px is seen as a px; None sees in parallel
    scale : of a parallel view how many px one is seen as
    centre : where it looks straight at, px of the view
    near : what lies less deep is not seen by a perspective view, px
    """

    place: Vector = (0.0, 0.0, 0.0)
    orientation: Quaternion = UPRIGHT
    focal: float | None = None
    scale: float = 1.0
    centre: tuple[float, float] = (0.0, 0.0)
    near: float = 1.0

    def __post_init__(self) -> None:
        numbers = (*self.place, *self.orientation, self.focal or 1.0, self.scale, *self.centre, self.near)
        length = sum(number * number for number in self.orientation)
        sizes = (self.scale, self.near, 1.0 if self.focal is None else self.focal)
        if not (all(abs(number) <= LARGEST for number in numbers) and abs(length - 1) < 1e-6 and min(sizes) > 1e-6):
            raise RuleError(
                "A view has a place, a unit quaternion, and a focal length, scale and near plane above 0. "
                "Nothing was changed."
            )

    @cached_property
    def axes(self) -> Floats:
        """Its own axes as columns, in those of the stage, shape (3, 3)."""
        result: Floats = rotation_matrices(np.array([self.orientation]))[0]
        return result

    @cached_property
    def matrix(self) -> Floats:
        """From places on the stage (x, y, z, 1) to those in the view, times what their third number says, shape (3, 4).

        The third number is the depth of a perspective view, and 1 of a parallel one.
        """
        if self == STAGE:
            return _OF_STAGE
        inverse = self.axes.T
        camera = np.concatenate([inverse, -inverse @ np.array(self.place)[:, None]], axis=1)
        across, down, towards = camera
        x, y = self.centre
        if self.focal is None:
            unit = np.array([0.0, 0.0, 0.0, 1.0])
            return np.stack([self.scale * across + x * unit, self.scale * down + y * unit, unit])
        depth = -towards
        return np.stack([self.focal * across + x * depth, self.focal * down + y * depth, depth])

    @cached_property
    def depths(self) -> Floats:
        """The depth of a place on the stage before the camera as a linear form of (x, y, z, 1), px, shape (4,)."""
        towards = self.axes[:, 2]
        return np.array([*-towards, float(towards @ np.array(self.place))])

    def sight_of(self, place: Floats) -> Floats:
        """The way one looks onto a place in space, a unit vector, shape (3,)."""
        if self.focal is None:
            return -self.axes[:, 2]
        way = place - np.array(self.place)
        length = float(np.linalg.norm(way))
        return np.asarray(way / length if length > 0 else -self.axes[:, 2])

    def line_of_sight(self, place: tuple[float, float]) -> tuple[Floats, Floats]:
        """A point in space that is seen at a place of the view, and the way on from there, both of shape (3,)."""
        x, y = (float(value - middle) for value, middle in zip(place, self.centre, strict=True))
        across, down, towards = self.axes.T
        if self.focal is None:
            return np.array(self.place) + (across * x + down * y) / self.scale, -towards
        return np.array(self.place), (across * x + down * y) / self.focal - towards


#: The stage's own camera: as the stage lies when nothing is set.
STAGE = View()
_OF_STAGE = np.array([[1.0, 0.0, 0.0, 0.0], [0.0, 1.0, 0.0, 0.0], [0.0, 0.0, 0.0, 1.0]])


@lru_cache(maxsize=64)  # asked for again at every move of a drag
def straight(
    side: Side, at: Vector = (0.0, 0.0, 0.0), centre: tuple[float, float] = (0.0, 0.0), scale: float = 1.0
) -> View:
    """The parallel view of one side of the stage that shows a place in its centre."""
    return View(at, quaternion(np.array(_SIDES[side], dtype=np.float64)), None, scale, centre)


def looking(
    place: Vector,
    goal: Vector,
    focal: float,
    centre: tuple[float, float] = (0.0, 0.0),
    roll: float = 0.0,
    near: float = 1.0,
) -> View:
    """A perspective view from a place towards a goal, the stage's y downwards in it as far as may be; then turned by
    `roll` degrees about the line of sight. Straight up or down, its top lies towards -z.
    """
    towards = np.array(place, dtype=np.float64) - np.array(goal, dtype=np.float64)
    length = float(np.linalg.norm(towards))
    towards = towards / length if length > 0 else np.array([0.0, 0.0, 1.0])
    across = np.cross([0.0, 1.0, 0.0], towards)
    if float(np.linalg.norm(across)) < 1e-9:
        across = np.array([1.0, 0.0, 0.0])
    across /= np.linalg.norm(across)
    down = np.cross(towards, across)
    cosine, sine = np.cos(np.deg2rad(roll)), np.sin(np.deg2rad(roll))
    axes = np.stack([cosine * across + sine * down, cosine * down - sine * across, towards], axis=1)
    return View(place, quaternion(axes), focal, 1.0, centre, near)


@lru_cache(maxsize=64)
def from_around(goal: Vector, yaw: float, pitch: float, distance: float) -> View:
    """A perspective view onto a goal, which is seen in its centre as large as it is: `yaw` degrees to the right of the
    front, `pitch` degrees above it, so many px away.
    """
    across, up = np.deg2rad(yaw), np.deg2rad(min(max(pitch, -_STEEPEST), _STEEPEST))
    way = np.array([np.sin(across) * np.cos(up), -np.sin(up), np.cos(across) * np.cos(up)])
    x, y, z = (np.array(goal) + distance * way).tolist()
    return looking((x, y, z), goal, distance)


def focal_of_lens(millimetres: float, width: float) -> float:
    """The focal length of a view so many px wide for a lens in mm before a sensor of 36 mm, px."""
    return millimetres / _SENSOR * width


def lens_of_angle(degrees: float) -> float:
    """The focal length in mm, before a sensor of 36 mm, that sees an angle from left to right."""
    return float(_SENSOR / 2 / np.tan(np.deg2rad(degrees) / 2))


def angle_of_lens(millimetres: float) -> float:
    """The angle that a lens sees from left to right, degrees."""
    return float(np.rad2deg(2 * np.arctan(_SENSOR / 2 / millimetres)))
