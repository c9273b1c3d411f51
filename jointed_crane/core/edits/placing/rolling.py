"""The edit that tumbles a part over the corners of its outline."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_ROLLED
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.places import Floats, own_linear, parent_linear
from jointed_crane.core.edits.shared.values_on_screen import driven_values, motion_value, with_key_here, within_limits
from jointed_crane.core.evaluate.placement import Values, rotation
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.geometry.fields import stacked
from jointed_crane.core.geometry.tumbling import Tumble, hull_of, tumbles
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import Key, SegmentKind
from jointed_crane.core.motion.editing import followed_by


@dataclass(frozen=True)
class Roll(Edit, kind="roll"):
    """Tumble a part over corners of its outline along level ground, from a frame until another, to the right or left as
    seen on the stage, in the plane in which it turns, wherever that lies. It begins on the corner that lies lowest and
    takes equally long over each; it gets keys for its turn alone, and a foothold on each corner.

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
        tipped = rotation_matrices(np.array(part.orientation)) @ _tipping(part, values)
        own = (tipped.T @ own_linear(part, values))[:2, :2]
        plane = (parent_linear(scene, part, self.frame) @ tipped)[:, :2]
        if len(hull) < 3 or np.linalg.matrix_rank(plane @ own, tol=1e-6) < 2:
            raise RuleError(f"{part.name} has no outline with corners to roll over. Nothing was changed.")
        above = _right_and_down(plane, part.name).T @ plane
        right = np.linalg.solve(above, [1.0, 0.0])
        along = right if self.side == "right" else -right
        result = tumbles(hull @ own.T, np.asarray(along, dtype=np.float64), -above[1], self.corners)
        clockwise = np.linalg.det(above) > 0
        return hull, 1 if clockwise == (self.side == "right") else -1, result


def _tipping(part: Part, values: Values) -> Floats:
    """What the turns about x and y make of the plane in which a part turns about z, shape (3, 3); RuleError where that
    turn comes after one of them.
    """
    names = [f"turn.{letter.lower()}" for letter in part.turn_order]
    after = names[names.index("turn.z") + 1 :]
    if any(values[name] for name in after):
        raise RuleError(
            f"{part.name} is tipped within the turn that it would roll by. Nothing was changed; let z come last in the "
            "order of its turns, or tip its rest orientation or its parent."
        )
    result: Floats = stacked(rotation({**values, "turn.z": 0.0}, "turn", part.turn_order), ())
    return result


def _right_and_down(plane: Floats, name: str) -> Floats:
    """Two ways in a plane, level to the right as seen on the stage and square to that as far down as may be, shape (3,
    2); RuleError where the plane lies level, so that nothing in it is lower than anything else.

    Parameters
    ----------
    plane : array, shape (3, 2), two ways in it
    """
    normal = np.cross(plane[:, 0], plane[:, 1])
    normal /= np.linalg.norm(normal)
    if np.abs(normal[:2]).max() < 1e-12:
        return np.eye(3)[:, :2]
    down = np.array([0.0, 1.0, 0.0]) - normal * normal[1]
    steep = float(np.linalg.norm(down))
    if steep < 1e-6:
        raise RuleError(f"{name} lies level, so no corner of it is the lowest. Nothing was changed; tip it first.")
    down /= steep
    right = np.cross(down, normal)
    return np.stack([-right if right[0] < -1e-9 else right, down], axis=1)
