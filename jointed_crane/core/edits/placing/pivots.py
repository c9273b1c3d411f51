"""Edits of the point a part turns about: its pivot and its footholds."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.places import PointUnit
from jointed_crane.core.edits.shared.points import PointEdit
from jointed_crane.core.edits.shared.staying import Staying, brought_back, kept_as_shown, refuse_moved
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.measures.round_end import round_end
from jointed_crane.core.measures.round_joints import ROUND
from jointed_crane.core.measures.snapping import NO_SNAPPING, Snapping
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.viewing.view import STAGE, View


@dataclass(frozen=True)
class MovePivot(PointEdit, kind="move_pivot"):
    """Place a part's pivot.

    `point` is px in the art, a fraction of the art's box, or px on the stage (the art point shown there); a coordinate
    that is null stays. With `keep` "art" the art stays where it is shown: p' = p + d, r' = r + A d. With "pivot" the
    pivot stays on the stage and the art slides: p' = p + d. In Motion the point that holds at the frame is moved, which
    may be a foothold: then all stays as it is up to where that begins, and the art goes on from there about its new
    point.
    The point is drawn to the nearest of the places that `snapping` allows.
    """

    part: str
    point: tuple[float | None, float | None]
    unit: PointUnit = "art"
    keep: Staying = "art"
    snapping: Snapping = NO_SNAPPING
    frame: float | None = None
    view: View = STAGE
    z: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Move pivot of {scene.part(self.part).name}"

    def remark(self, scene: Scene) -> str | None:
        part = scene.part(self.part)
        now = self._held(part)
        if now is None:
            return None
        return (
            f"{part.name} stands on this point from frame {now.frame:g}: up to there nothing has changed, "
            "and it goes on about the new point."
        )

    def apply(self, scene: Scene) -> Scene:
        part, point = self.placed(scene)
        after = scene.with_parts([self._moved(part, point)])
        if after.part(self.part).pivot == part.pivot:
            return after
        after = brought_back(scene, after, self.part, self.frame, self.keep)
        if self.keep == "pivot" or not any(one.constraints for one in scene.parts):
            return after
        # Goals that had to go along may; nothing with a picture does.
        led = [one.id for one in after.parts if one is not scene.part(one.id) and one.id != self.part]
        after = kept_as_shown(scene, after, self.frame, led)
        refuse_moved(scene, after, self.frame)
        return after

    def _moved(self, part: Part, point: Vector) -> Part:
        now = self._held(part)
        if now is None:
            return replace(part, pivot=point)
        moved = replace(now, point=point)
        return replace(part, footholds=tuple(moved if known is now else known for known in part.footholds))

    def held_point(self, part: Part) -> tuple[float, float]:
        x, y, _ = part.pivot if (now := self._held(part)) is None else now.point
        return x, y

    def held_level(self, part: Part) -> float:
        return (part.pivot if (now := self._held(part)) is None else now.point)[2]

    def _held(self, part: Part) -> Foothold | None:
        """The foothold that holds at the frame."""
        held = [] if self.frame is None else [known for known in part.footholds if known.frame <= self.frame]
        return held[-1] if held else None


@dataclass(frozen=True)
class SetFoothold(PointEdit, kind="set_foothold"):
    """From a frame onwards the part stands on a point, given and snapped as for `move_pivot`, without a jump."""

    part: str
    frame: float
    point: tuple[float, float]
    unit: PointUnit = "art"
    snapping: Snapping = NO_SNAPPING
    view: View = STAGE
    z: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Foothold of {scene.part(self.part).name} from frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        part, point = self.placed(scene)
        return scene.with_parts([part.with_footholds([*part.footholds, Foothold(float(self.frame), point)])])


@dataclass(frozen=True)
class MoveFoothold(Edit, kind="move_foothold"):
    """Let the foothold that begins at a frame begin at another one; one that begins there gives way."""

    part: str
    frame: float
    to: float

    def label(self, scene: Scene) -> str:
        return f"Move foothold of {scene.part(self.part).name} to frame {self.to:g}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known, others = _begun(part, self.frame)
        return scene.with_parts([part.with_footholds([*others, replace(known, frame=float(self.to))])])


@dataclass(frozen=True)
class RemoveFoothold(Edit, kind="remove_foothold"):
    """Take the foothold away that begins at a frame."""

    part: str
    frame: float

    def label(self, scene: Scene) -> str:
        return f"Delete foothold of {scene.part(self.part).name} at frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        return scene.with_parts([replace(part, footholds=_begun(part, self.frame)[1])])


def _begun(part: Part, frame: float) -> tuple[Foothold, tuple[Foothold, ...]]:
    """The foothold that begins at a frame, and all others; RuleError where none does."""
    known = next((foothold for foothold in part.footholds if foothold.frame == frame), None)
    if known is None:
        raise RuleError(f"{part.name} has no foothold that begins at frame {frame:g}. Nothing was changed.")
    return known, tuple(foothold for foothold in part.footholds if foothold is not known)


@dataclass(frozen=True)
class PivotIntoRoundEnd(Edit, kind="pivot_into_round_end"):
    """Move the pivots of parts into the middles of their round ends, those that lie nearest, while the art stays.

    Joints of round ends close at every angle.
    """

    parts: tuple[str, ...]
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Pivot of {named(scene.part(part_id) for part_id in self.parts)} into the round end"

    def apply(self, scene: Scene) -> Scene:
        for part in unlocked(scene, self.parts):
            drawing = part.drawing
            centre = drawing and round_end(drawing.outline, part.pivot[:2])
            if not centre:
                raise RuleError(
                    f"{part.name} has no round end: nowhere does its outline follow a circle over {ROUND:g} degrees. "
                    "Nothing was changed; place its pivot by hand."
                )
            scene = MovePivot(part.id, centre, frame=self.frame).apply(scene)
        return scene
