"""The edit that tumbles a part over the corners of its outline."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_ROLLED
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.places import own_linear, parent_linear
from jointed_crane.core.edits.shared.values_on_screen import driven_values, motion_value, with_key_here, within_limits
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.geometry.tumbling import Tumble, hull_of, tumbles
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import Key, SegmentKind
from jointed_crane.core.motion.editing import followed_by


@dataclass(frozen=True)
class Roll(Edit, kind="roll"):
    """Tumble a part over corners of its outline along level ground, from a frame until another, to the right or left as
    seen on the stage. It begins on the corner that lies lowest and takes equally long over each; it gets keys for its
    turn alone, and a foothold on each corner.

    Turns and footholds that it had between the two frames give way; later keys go on from where it comes to lie.
    """

    part: str
    frame: float
    until: float
    corners: int = 1
    side: Literal["right", "left"] = "right"
    segment: SegmentKind = "eased"

    def label(self, scene: Scene) -> str:
        return f"Roll {scene.part(self.part).name} over {self.corners} corners to the {self.side}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        if not 1 <= self.corners <= MOST_ROLLED or self.until - self.frame < 0.01 * self.corners:
            raise RuleError(
                f"A part rolls over 1 to {MOST_ROLLED} corners, from an earlier frame to a later one. "
                "Nothing was changed."
            )
        if "turn.z" in part.fixed:
            raise RuleError(f"Turn of {part.name} is fixed. Nothing was changed; free it first.")
        if "turn.z" in part.channels and part.channels["turn.z"].sway:
            raise RuleError(f"Turn of {part.name} sways. Nothing was changed; turn the sway into keys first.")
        hull, sense, result = self._tumbles(scene, part)
        frames = np.linspace(self.frame, self.until, self.corners + 1).tolist()
        part = with_key_here(part, "turn.z", self.frame)
        gone = np.rad2deg(np.cumsum([0.0, *(tumble.angle for tumble in result)]))
        turns = motion_value(part, "turn.z", self.frame) + sense * gone
        end = float(turns[-1])
        if within_limits(part, "turn.z", end, self.until) != end:
            raise RuleError(f"{part.name} would turn to {end:g} deg, out of its range. Nothing was changed.")
        keys = [Key(frame, float(turn), self.segment) for frame, turn in zip(frames, turns, strict=True)]
        part = part.with_channel("turn.z", followed_by(part.channels["turn.z"], keys))
        stands = [
            Foothold(frame, (*hull[tumble.corner].tolist(), 0.0)) for frame, tumble in zip(frames, result, strict=False)
        ]
        kept = [known for known in part.footholds if not self.frame <= known.frame < self.until]
        return scene.with_parts([part.with_footholds([*kept, *stands])])

    def _tumbles(self, scene: Scene, part: Part) -> tuple[np.ndarray, int, list[Tumble]]:
        """The corners in art space, the sign of a turn that rolls this way, and what it tumbles over."""
        values = driven_values(scene, part, self.frame)
        drawing = part.drawings[part.drawing_number(values["drawing"])] if part.drawings else None
        rings = drawing.outline if drawing else ()
        hull = hull_of([np.array(ring) for ring in rings]) if rings else np.empty((0, 2))
        own, above = own_linear(part, values)[:2, :2], parent_linear(scene, part, self.frame)[:2, :2]
        if len(hull) < 3 or abs(np.linalg.det(above @ own)) < 1e-12:
            raise RuleError(f"{part.name} has no outline with corners to roll over. Nothing was changed.")
        right = np.linalg.solve(above, [1.0, 0.0])
        along = right if self.side == "right" else -right
        result = tumbles(hull @ own.T, np.asarray(along, dtype=np.float64), -above[1], self.corners)
        upright = rotation_matrices(np.array(part.orientation))[:2, :2]
        clockwise = np.linalg.det(above) * np.linalg.det(upright) > 0
        return hull, 1 if clockwise == (self.side == "right") else -1, result
