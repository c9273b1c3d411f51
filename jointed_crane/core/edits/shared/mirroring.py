"""Mirrors: which values change their sign, and how a part lies beside the one it is the reflection of.

A mirror F of the parent's space acts on A = O R K S as F A = (F O Fx)(Fx R Fx)(Fx K Fx)(Fx S), with Fx along the part's
own x: every factor stays of its kind, and the mirror itself is left in the scale along x. Which channels that turns
round says the column `mirror` of the table of channels, the only place where it is said.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.model.channels import MOVE, SPIN, channel_kind, family_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import linear_of

Floats = npt.NDArray[np.float64]

#: The mirror along x, Fx.
X_MIRROR: Floats = np.diag([-1.0, 1.0, 1.0])


def sign(channel: str) -> int:
    """-1 where a value of the channel turns round under a mirror along the part's own x."""
    return channel_kind(channel).mirror


@dataclass(frozen=True)
class Reflection:
    """How a part lies beside another one whose reflection it is.

    Attributes
    ----------
    is_above : whether their parents are mirror images already; then the part's own numbers are those of the other one
    is_own : whether the art is seen mirrored, so that what turns below the scale, the spin, is as in the other one
    moves : array, shape (3, 3), what becomes of a step along the parent's axes
    """

    is_above: bool
    is_own: bool
    moves: Floats

    def reflected(self, values: Mapping[str, float], is_rest: bool) -> dict[str, float]:
        """Values of the other part as this one takes them for its reflection: rest values or motion values."""
        result = {}
        for name, value in values.items():
            turns = self.is_own if family_of(name) is SPIN else self.is_above
            result[name] = value if turns else sign(name) * value
        if is_rest and self.is_above != self.is_own and "scale.x" in result:
            result["scale.x"] = -result["scale.x"]
        if any(family_of(name) is MOVE for name in values):
            step = self.moves @ [values.get(f"move.{axis}", 0.0) for axis in "xyz"]
            for i, axis in enumerate("xyz"):
                result.pop(f"move.{axis}", None)
                if f"move.{axis}" in values or abs(step[i]) > 1e-12:
                    result[f"move.{axis}"] = float(step[i])
        return result


def reflection_between(scene: Scene, original: Part | None, part: Part) -> Reflection:
    """How a part lies beside its original; where that is not in the scene, as limbs drawn for two sides lie."""
    if original is None or original.id == part.id:
        return Reflection(False, False, X_MIRROR)
    is_above = _is_mirrored(scene, original.parent) != _is_mirrored(scene, part.parent)
    is_own = _is_mirrored(scene, original.id) != _is_mirrored(scene, part.id)
    if is_above or not is_own:
        return Reflection(is_above, is_own, np.eye(3) if is_above else X_MIRROR)
    # The part carries the mirror itself: O' = F O Fx says which way it lies in the parent.
    theirs, own = (rotation_matrices(np.array(result.orientation)) for result in (original, part))
    return Reflection(is_above, is_own, own @ X_MIRROR @ theirs.T)


def _is_mirrored(scene: Scene, part_id: str | None) -> bool:
    return bool(np.linalg.det(linear_of(world_at(scene, part_id, None))) < 0)
