"""The edit that moves a pivot for the whole motion with the art unmoved at every frame."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.evaluate.footholds import linear_at
from jointed_crane.core.model.channels import MOVE, countable
from jointed_crane.core.model.scene import Inherits, Scene
from jointed_crane.core.motion.channel import BARE, Channel
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.cycles import corners
from jointed_crane.core.motion.fitting import ensure_followable, fitted
from jointed_crane.core.motion.segments import Floats


@dataclass(frozen=True)
class MovePivotThroughout(Edit, kind="move_pivot_throughout"):
    """Move the pivot of a part to another point, px in the art, and leave its art where it was at every frame.

    Its moves get the keys that this takes, as few as stay within a tolerance in px.
    """

    part: str
    point: tuple[float, float]
    tolerance: float = 0.05

    def label(self, scene: Scene) -> str:
        return f"Move pivot of {scene.part(self.part).name} for the whole motion"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        if part.footholds:
            raise RuleError(
                f"{part.name} stands on footholds, which say where it turns. Nothing was changed; move them instead."
            )
        if part.links:
            raise RuleError(
                f"Links drive {part.name}, so its own keys do not say how it turns. Nothing was changed; move its "
                "pivot at one frame."
            )
        if part.parent is not None and part.inherits != Inherits():
            raise RuleError(
                f"{part.name} takes over only some of how its parent lies, so its parent has a say in this. "
                "Nothing was changed; let it take over all, or move the pivot at one frame."
            )
        if self.tolerance <= 0:
            raise RuleError("The tolerance is a length above 0 px. Nothing was changed.")
        if any(name in part.fixed for name in MOVE.names):
            raise RuleError(f"Moves of {part.name} are fixed. Nothing was changed; free them first.")
        step = np.array([*self.point, part.pivot[2]]) - part.pivot
        at_rest = linear_at(part.at_rest, np.zeros(1))[0] @ step
        # Where there is no picture the spin goes about the pivot; it goes on about the point that this was.
        centre = part.spin_centre if part.bounds else part.centre
        moved = replace(part, pivot=(*self.point, part.pivot[2]), spin_centre=centre)
        moved = moved.with_rest_moved(at_rest.tolist())
        frames = [frame for channel in part.channels.values() for frame in channel.frames]
        first, last = min([0.0, *frames]), max([scene.length - 1.0, *frames])
        ensure_followable((last - first) * len(MOVE.names))
        meets = {
            frame for name, channel in part.channels.items() for frame in corners(countable(name, channel), first, last)
        }
        for axis, name in enumerate(MOVE.names):
            curves = PackedCurves((countable(name, part.channels.get(name, BARE)),))

            def course(at: Floats, axis: int = axis, curves: PackedCurves = curves) -> Floats:
                carried = linear_at(part, at) @ step - at_rest
                return np.asarray(values(curves, at)[0] + carried[:, axis], dtype=np.float64)

            still = values(curves, np.array([first]))[0]
            every = np.arange(first, last + 0.25, 0.25)
            if np.abs(course(every) - values(curves, every)[0]).max() > 1e-9 * max(1.0, float(np.abs(still).max())):
                moved = moved.with_channel(name, Channel(fitted(course, first, last, self.tolerance, meets)))
        return scene.with_parts([moved])
