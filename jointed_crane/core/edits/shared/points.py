"""What all edits of one point of a part share: the unit it is given in, and the place near it that it is drawn to."""

from __future__ import annotations

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.places import PointUnit, art_place, art_point, point_in
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.measures.snapping import Snap, Snapping, nearest
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.view import STAGE, View

#: The scene that an edit was last asked about, and the place found in it: asked once to apply and once to say it.
_SNAP: Memory[tuple[Scene, Snap | None]] = Memory()


class PointEdit(Edit):
    """An edit with a point in one of the units, drawn to the nearest of the places that its snapping allows.

    Each kind declares these fields, in the order it wants them; the last two, for scenes that have depth, only where
    they mean something. Units of the stage are px of the `view`; `z` is px in the art, null leaves it.
    """

    part: str
    point: tuple[float | None, float | None]
    unit: PointUnit
    snapping: Snapping
    frame: float | None
    view: View = STAGE
    z: float | None = None

    def placed(self, scene: Scene) -> tuple[Part, Vector]:
        """The part, which is not locked, and the point in px of its art after snapping."""
        (part,) = unlocked(scene, [self.part])
        snap = self.snap(scene)
        at = self._at(scene, part)
        return part, at if snap is None else (*snap.point, at[2] if snap.z is None else snap.z)

    def snap(self, scene: Scene) -> Snap | None:
        known = _SNAP.at(self)
        if known is None or known[0] is not scene:
            part = scene.part(self.part)
            at = self._at(scene, part)
            known = _SNAP.put(self, (scene, self.place_near(scene, part, at)))
        return known[1]

    def _at(self, scene: Scene, part: Part) -> Vector:
        x, y = self.point
        level = self.held_level(part) if self.z is None else self.z
        if x is None or y is None:
            stays_x, stays_y = point_in(scene, part, self.held_point(part), self.unit, self.frame, self.view)
            x, y = stays_x if x is None else x, stays_y if y is None else y
        if self.unit == "stage" and scene.depth:
            return art_place(scene, part, (x, y), level, self.frame, self.view)
        return (*art_point(scene, part, (x, y), self.unit, self.frame, self.view), level)

    def held_point(self, part: Part) -> tuple[float, float]:
        """The point that is moved, px in the art: what stays of it where only one coordinate is given."""
        return part.pivot[0], part.pivot[1]

    def held_level(self, part: Part) -> float:
        """The z of the point that is moved, px in the art."""
        return 0.0

    def place_near(self, scene: Scene, part: Part, at: Vector) -> Snap | None:
        """The place near a point of the art that this kind of point is drawn to."""
        return nearest(scene, part, at, self.snapping, self.frame, view=self.view)
