"""Edits of a part's own coordinates: where its registration lies and which way its axes point."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.edits.pictures.drawings import sharing
from jointed_crane.core.edits.placing.axes import with_axes
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.places import PointUnit, parent_linear
from jointed_crane.core.edits.shared.points import PointEdit
from jointed_crane.core.edits.shared.staying import Staying
from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.decomposition import angle_about_z, polar, quaternion, rotation_matrices
from jointed_crane.core.geometry.nine_points import at_fraction
from jointed_crane.core.measures.snapping import NO_SNAPPING, Snap, Snapping, nearest
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.editing import have_same_times, weighted_sum
from jointed_crane.core.outlines.outline import feet_on_sides
from jointed_crane.core.viewing.projection import inverse_of, linear_of, seen_linear_of
from jointed_crane.core.viewing.view import STAGE, View


@dataclass(frozen=True)
class MoveRegistration(PointEdit, kind="move_registration"):
    """Move the zero of a part's art space to a point: px in the art, a fraction of its box, or px on the stage.

    With `keep` "art" nothing moves on the stage: everything measured in the art (pivot, eyelets, footholds, children)
    gets other numbers for the same places. With "registration" the zero and everything measured from it stays, and
    the art slides under it until the point lies on the zero. All drawings of the part move alike.
    """

    part: str
    point: tuple[float, float]
    unit: PointUnit = "art"
    keep: Literal["art", "registration"] = "art"
    snapping: Snapping = NO_SNAPPING
    frame: float | None = None
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Move registration of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        part, (x, y, _) = self.placed(scene)
        by = (x, y)
        members = sharing(scene, part)
        changed = {member.id: _with_art_slid(member, by) for member in members}
        if self.keep == "art":
            for member in members:
                changed[member.id] = _with_points_slid(changed[member.id], by)
            ids = {member.id for member in members}
            for member in members:
                for child in scene.children.get(member.id, ()):
                    if child.inherits.position:
                        child = changed[child.id] if child.id in ids else child
                        changed[child.id] = child.with_rest_moved((-by[0], -by[1]))
            return _with_goals_slid(scene.with_parts(changed.values()), ids, by)
        return scene.with_parts(changed.values())

    def place_near(self, scene: Scene, part: Part, at: Vector) -> Snap | None:
        return nearest(scene, part, at, self.snapping, self.frame, with_own_pivot=True, view=self.view)


def _slid(point: Vector, by: tuple[float, float]) -> Vector:
    return (point[0] - by[0], point[1] - by[1], point[2])


def _with_art_slid(part: Part, by: tuple[float, float]) -> Part:
    """The part with its art at other coordinates: the point `by` becomes the zero."""
    return replace(part, drawings=tuple(drawing.with_zero_moved(by) for drawing in part.drawings))


def _with_points_slid(part: Part, by: tuple[float, float]) -> Part:
    """The part with the same places under the new coordinates."""
    return replace(
        part,
        pivot=_slid(part.pivot, by),
        spin_centre=None if part.spin_centre is None else _slid(part.spin_centre, by),
        eyelets=tuple(replace(eyelet, point=_slid(eyelet.point, by)) for eyelet in part.eyelets),
        footholds=tuple(replace(foothold, point=_slid(foothold.point, by)) for foothold in part.footholds),
        constraints=tuple(one.with_points(lambda point: _slid(point, by)) for one in part.constraints),
    )


def _with_goals_slid(scene: Scene, part_ids: set[str], by: tuple[float, float]) -> Scene:
    """The scene with goals on the art of some parts at the same places under their new coordinates."""

    def slid(goal: Goal) -> Goal:
        is_there = goal.point is not None and goal.part in part_ids
        return replace(goal, point=_slid(goal.point, by)) if is_there and goal.point is not None else goal

    return scene.with_parts(
        replace(part, constraints=tuple(one.with_goals(slid) for one in part.constraints))
        for part in scene.parts
        if part.constraints
    )


@dataclass(frozen=True)
class AlignAxes(Edit, kind="align_axes"):
    """Turn a part's own axes (O) while its art stays: along the stage, a line, the nearest edge of its art, or a view.

    With "line" the x axis points from `start` to `end`, with "edge" along the edge nearest to `start` (px in the art),
    with "stage" along the stage's x axis. In depth the z axis then points as nearly as may be away from the art's
    plane; with "view" all three lie as those of the `view` do.
    """

    part: str
    to: Literal["stage", "line", "edge", "view"] = "stage"
    start: tuple[float, float] = (0.0, 0.0)
    end: tuple[float, float] = (0.0, 0.0)
    frame: float | None = None
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Align axes of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        if scene.depth and (self.to == "view" or self._leaves_plane(scene, part)):
            return with_axes(scene, part, self._in_space(scene, part), self.frame)
        if any(part.rest_value(f"turn.{axis}") or f"turn.{axis}" in part.channels for axis in "xy"):
            raise RuleError(
                f"{part.name} is turned in depth, so its axes cannot be lined up in the plane. Nothing was changed; "
                "turn Depth on for the scene."
            )
        world = seen_linear_of(world_at(scene, part.id, self.frame))
        above = parent_linear(scene, part, self.frame)[:2, :2]
        wanted = np.array([1.0, 0.0]) if self.to == "stage" else world @ self._direction(part)
        try:
            x, y = np.linalg.solve(above, wanted)
        except np.linalg.LinAlgError:
            raise RuleError(f"A part above {part.name} is scaled to nothing here. Nothing was changed.") from None
        own = rotation_matrices(np.array(part.orientation))
        by = float(np.degrees(np.arctan2(y, x) - np.arctan2(own[1, 0], own[0, 0])))
        by = (by + 180.0) % 360.0 - 180.0
        angle = np.deg2rad(by)
        turn = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1.0]])
        turned = replace(part, orientation=quaternion(own @ turn))
        if not (abs(part.orientation[0]) > 1e-12 or abs(part.orientation[1]) > 1e-12):
            # As the axes' turns are counted: what counts whole turns of this part must not see one more or less.
            by = float(np.degrees(angle_about_z(turned.orientation) - angle_about_z(part.orientation)))
        turned = turned.with_rest({"turn.z": part.rest_value("turn.z") - by})
        return scene.with_parts([_with_slide_turned(turned, turn.T)])

    def _leaves_plane(self, scene: Scene, part: Part) -> bool:
        world = world_at(scene, part.id, self.frame)
        return part.is_deep or bool(np.abs(linear_of(world)[2, :2]).max() > 1e-9)

    def _in_space(self, scene: Scene, part: Part) -> np.ndarray:
        """The new axes as columns, in what the part hangs on."""
        above = parent_linear(scene, part, self.frame)
        to_above = inverse_of(above, part)
        if self.to == "view":
            return polar(to_above @ self.view.axes)[0]
        linear = linear_of(world_at(scene, part.id, self.frame))
        way = np.array([1.0, 0.0, 0.0]) if self.to == "stage" else linear[:, :2] @ self._direction(part)
        x = to_above @ way
        x /= np.linalg.norm(x)
        normal = to_above @ np.cross(linear[:, 0], linear[:, 1])
        z = normal - x * (x @ normal)
        if not np.linalg.norm(z) > 1e-9 * np.linalg.norm(normal):  # the line goes straight through the art
            z = np.cross(x, [0.0, 1.0, 0.0] if abs(x[1]) < 0.9 else [1.0, 0.0, 0.0])
        z /= np.linalg.norm(z)
        return np.stack([x, np.cross(z, x), z], axis=1)

    def _direction(self, part: Part) -> np.ndarray:
        way = np.subtract(self.end, self.start)
        if self.to == "edge":
            rings = [np.array(ring) for ring in (part.drawing.outline if part.drawing else ())]
            if not rings:
                raise RuleError(
                    f"{part.name} has no picture, so there is no edge to line up with. Nothing was changed."
                )
            feet = np.concatenate([feet_on_sides(ring, np.array([self.start]))[0] for ring in rings])
            ways = np.concatenate([np.roll(ring, -1, axis=0) - ring for ring in rings])
            way = ways[int(np.argmin(((feet - self.start) ** 2).sum(axis=1)))]
        if not np.hypot(*way) > 1e-9:
            raise RuleError("The line has no length, so it points nowhere. Nothing was changed.")
        return np.asarray(way, dtype=np.float64)


def _with_slide_turned(part: Part, turn: np.ndarray) -> Part:
    """The part with the same slide along axes that lie otherwise: slide' = turn slide, at rest and at every frame.

    RuleError where the keys of x and y stand apart, since no keys then make the same way along turned axes.
    """
    slide = turn @ [part.rest_value(f"slide.{axis}") for axis in "xyz"]
    rest = {f"slide.{axis}": slide[i] for i, axis in enumerate("xyz") if slide[i] or f"slide.{axis}" in part.rest}
    part = part.with_rest(rest)
    x, y = (part.channels.get(f"slide.{axis}") for axis in "xy")
    if x is None and y is None:
        return part
    if x is not None and y is not None and not have_same_times(x, y):
        raise RuleError(
            f"The slides of {part.name} along x and y have keys at different frames or of different kinds, so they "
            "cannot be turned together. Nothing was changed; set keys on both at the same frames."
        )
    for i, axis in enumerate("xy"):
        part = part.with_channel(f"slide.{axis}", weighted_sum([(turn[i, 0], x), (turn[i, 1], y)]))
    return part


@dataclass(frozen=True)
class PlacePivots(Edit, kind="place_pivots"):
    """Place the pivots of many parts at the same fraction of each one's box, say the lower middle (0.5, 1)."""

    parts: tuple[str, ...]
    fraction: tuple[float, float]
    keep: Staying = "art"
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Place pivots of {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        for part in unlocked(scene, self.parts):
            if part.bounds is not None:
                point = at_fraction(part.bounds, self.fraction)
                scene = MovePivot(part.id, point, "art", self.keep, frame=self.frame).apply(scene)
        return scene
