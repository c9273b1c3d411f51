"""Round joints: how large a circle about a joint each of its two arts holds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.geometry.coordinates import Ring
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.outlines.outline import feet_on_sides
from jointed_crane.core.viewing.projection import on_stage

Floats = npt.NDArray[np.float64]
#: An end is round that follows a circle over so many degrees.
ROUND = 120.0
#: And what follows one over so many is a disc, but for what is drawn across its edge.
WHOLE = 340.0


@dataclass(frozen=True)
class RoundJoint:
    """The two ends of a joint, px on the stage at rest.

    Attributes
    ----------
    child, parent : radius of the largest circle around the pivot inside each art; 0 where the pivot lies outside it
    is_child_round, is_parent_round : whether the art follows that circle over at least 120 degrees
    """

    child: float
    parent: float
    is_child_round: bool
    is_parent_round: bool

    @property
    def difference(self) -> float:
        """How much the larger radius stands out."""
        return abs(self.child - self.parent)

    @property
    def round_radius(self) -> float:
        """Of the larger end that is round; 0 where none is."""
        return max(self.child * self.is_child_round, self.parent * self.is_parent_round)


def inscribed_radius(rings: Sequence[Ring], point: tuple[float, float]) -> float:
    """Radius of the largest circle about a point inside an outline (even-odd rule); 0 where the point is outside."""
    return radius_inside([np.array(ring, dtype=np.float64) for ring in rings], point)


def radius_inside(rings: Sequence[Floats], point: tuple[float, float]) -> float:
    """The same for rings as arrays, shape (corners, 2) each."""
    if not rings or not _is_inside(rings, point):
        return 0.0
    return min(float(distances(ring, np.array([point]))[0]) for ring in rings)


def _is_inside(rings: Sequence[Floats], point: tuple[float, float]) -> bool:
    """Whether a ray to the right crosses the sides an odd number of times."""
    x, y = point
    starts = np.concatenate(rings)
    ends = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    crosses = (starts[:, 1] > y) != (ends[:, 1] > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = starts[:, 0] + (y - starts[:, 1]) * (ends[:, 0] - starts[:, 0]) / (ends[:, 1] - starts[:, 1])
    return bool(np.count_nonzero(crosses & (at > x)) % 2)


@dataclass(frozen=True)
class _End:
    """One of the two arts at a joint: its rings and the joint, px on the stage at rest."""

    rings: Sequence[Floats]
    joint: tuple[float, float]

    @cached_property
    def radius(self) -> float:
        """Of the largest circle about the joint inside it, px."""
        return radius_inside(self.rings, self.joint)

    @cached_property
    def is_round(self) -> bool:
        """Whether it follows that circle over at least 120 degrees."""
        return self.radius > 0 and degrees_followed(self.rings, self.joint, self.radius) >= ROUND

    @cached_property
    def is_disc(self) -> bool:
        """Whether it follows that circle all the way round."""
        return self.radius > 0 and degrees_followed(self.rings, self.joint, self.radius) >= WHOLE


def round_joint(scene: Scene, part: Part) -> RoundJoint | None:
    """The radii of the joint between a part and its parent at rest, or None where one of them shows no art."""
    ends = _ends(scene, part)
    return None if ends is None else _joint(*ends)


def unlike_round_joint(scene: Scene, part: Part, px: float, share: float) -> RoundJoint | None:
    """The joint where both its ends are round and their radii differ by more than so many px and by more than this
    share of the larger one; else None, also where a disc as large as that lies about it. How round they are costs
    most, and is asked last.
    """
    ends = _ends(scene, part)
    if ends is None or not all(end.radius for end in ends):
        return None
    child, parent = ends
    larger = max(child.radius, parent.radius)
    if abs(child.radius - parent.radius) <= max(px, share * larger):
        return None
    if not (child.is_round and parent.is_round) or child.is_disc:  # a wheel is no end of a limb
        return None
    return None if is_patched(scene, part, larger * (1 - share)) else _joint(child, parent)


def is_patched(scene: Scene, part: Part, radius: float) -> bool:
    """Whether a disc that hangs on a part lies about its joint, of so many px on the stage at rest or more."""
    at = pivot_at(scene, part.id, None)
    beside = (_end(scene, other, at) for other in scene.children.get(part.id, ()) if other.drawing)
    return any(end.radius >= radius and end.is_disc for end in beside)


def _joint(child: _End, parent: _End) -> RoundJoint:
    return RoundJoint(child.radius, parent.radius, child.is_round, parent.is_round)


def _ends(scene: Scene, part: Part) -> tuple[_End, _End] | None:
    parent = None if part.parent is None else scene.part(part.parent)
    if parent is None or not part.drawings or not parent.drawings:
        return None
    at = pivot_at(scene, part.id, None)
    return _end(scene, part, at), _end(scene, parent, at)


def _end(scene: Scene, part: Part, at: Floats) -> _End:
    world = world_at(scene, part.id, None)
    assert part.drawing is not None
    return _End([on_stage(world, np.array(ring)) for ring in part.drawing.outline], (float(at[0]), float(at[1])))


def degrees_followed(
    rings: Sequence[Floats], point: tuple[float, float], radius: float, within: float | None = None
) -> float:
    """Over how many degrees an outline runs along a circle, by default within a fiftieth of the radius or half a px."""
    angles = np.deg2rad(np.arange(0, 360, 5))
    around = np.array(point) + radius * np.column_stack([np.cos(angles), np.sin(angles)])
    away = np.min([distances(ring, around) for ring in rings], axis=0)
    return float(5 * np.count_nonzero(away <= (max(0.5, radius / 50) if within is None else within)))


def distances(ring: Floats, points: Floats) -> Floats:
    """Distance of each point to a closed ring, shape (points,)."""
    away = points[:, None] - feet_on_sides(ring, points)
    return np.asarray(np.linalg.norm(away, axis=-1).min(axis=1), dtype=np.float64)


def at_range_ends(scene: Scene, part: Part) -> list[tuple[float, Floats]]:
    """The joint at the ends of its turning range: motion turn in degrees, and the world matrix of the part there.

    A side that is open is looked at 60 degrees away from rest, far enough for a gap to open.
    """
    low, high = part.limits.get("turn.z", (None, None))
    result = []
    for turn in (-60.0 if low is None else low, 60.0 if high is None else high):
        rest = part.at_rest
        turned = scene.at_rest.with_parts([rest.with_rest({"turn.z": rest.rest_value("turn.z") + turn})])
        result.append((turn, evaluate(turned, [0.0]).world_of(part.id)))
    return result
