"""What all edits of one point of a part share: the unit it is given in, and the place near it that it is drawn to."""

from __future__ import annotations

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.places import PointUnit, art_point
from jointed_crane.core.measures.snapping import Snap, SnapKind, nearest
from jointed_crane.core.model.scene import Part, Scene

#: The scene that an edit was last asked about, and the place found in it: asked once to apply and once to say it.
_SNAP: Memory[tuple[Scene, Snap | None]] = Memory()


class PointEdit(Edit):
    """An edit with a point in one of the units; each kind declares these fields, in the order it wants them.

    `snap_within` (px on the stage, 0 is off) draws the point to the nearest of the places that `snap_to` allows.
    """

    part: str
    point: tuple[float, float]
    unit: PointUnit
    snap_within: float
    snap_to: tuple[SnapKind, ...]
    frame: float | None

    def placed(self, scene: Scene) -> tuple[Part, tuple[float, float]]:
        """The part, which is not locked, and the point in px of its art after snapping."""
        (part,) = unlocked(scene, [self.part])
        snap = self.snap(scene)
        return part, snap.point if snap else art_point(scene, part, self.point, self.unit, self.frame)

    def snap(self, scene: Scene) -> Snap | None:
        known = _SNAP.at(self)
        if known is None or known[0] is not scene:
            part = scene.part(self.part)
            at = art_point(scene, part, self.point, self.unit, self.frame)
            known = _SNAP.put(self, (scene, self.place_near(scene, part, at)))
        return known[1]

    def place_near(self, scene: Scene, part: Part, at: tuple[float, float]) -> Snap | None:
        """The place near a point of the art that this kind of point is drawn to."""
        return nearest(scene, part, at, self.snap_within, self.snap_to, self.frame)
