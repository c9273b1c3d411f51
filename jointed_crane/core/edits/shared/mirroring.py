"""Mirrors: which values change their sign, and how a part lies beside the one it is the reflection of.

A mirror F of the parent's space acts on A = O R K S as F A = (F O Fx)(Fx R Fx)(Fx K Fx)(Fx S), with Fx along the part's
own x: every factor stays of its kind, and the mirror itself is left in the scale along x. From front to back it is Fz,
so that nothing in the plane of the art changes its sign. Which channels a mirror turns round says the column `mirror`
of the table of channels, the only place where it is said; of numbers of constraints, `turns_round` says whether.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.constraint import Constraint, number_channel
from jointed_crane.core.evaluate.pose_at_frame import world_at
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.model.channels import MOVE, SPIN, channel_kind, family_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import linear_of

Floats = npt.NDArray[np.float64]

#: The axis of its own along which a part is mirrored.
Along = Literal["x", "z"]
#: The mirrors along them, Fx and Fz.
OWN_MIRRORS: Mapping[Along, Floats] = {"x": np.diag([-1.0, 1.0, 1.0]), "z": np.diag([1.0, 1.0, -1.0])}


def sign(channel: str, along: str = "x") -> int:
    """-1 where a value of the channel turns round under a mirror along an axis of the part's own."""
    return -1 if along in channel_kind(channel).mirror else 1


def turns_round(one: Constraint, reflection: Floats) -> bool:
    """Whether what a constraint turns, and tells the sides by, goes the other way round on a reflected limb: about an
    axis of the stage where the mirror holds that, and always where it goes by how parts lie.

    Parameters
    ----------
    reflection : array, shape (3, 3), on the stage
    """
    return one.heading is None or bool(reflection[one.heading, one.heading] > 0)


def turned_numbers(part: Part, reflection: Floats) -> Iterator[tuple[str, bool]]:
    """The numbers of constraints that change their sign on a reflected limb, by their channels, and whether each is a
    direction on the stage. Bearings of mirrored art keep its x and its front, so that they differ by a mirror along y.
    """
    for one in part.constraints:
        if turns_round(one, reflection):
            for number in one.NUMBERS:
                if "y" in number.mirror:
                    yield number_channel(one.id, number.name), number.is_on_stage


@dataclass(frozen=True)
class Reflection:
    """How a part lies beside another one whose reflection it is.

    Attributes
    ----------
    is_above : whether what they take over is mirrored already; then the part's own numbers are those of the other one
    is_own : whether the art is seen mirrored, so that what turns below the scale, the spin, is as in the other one
    moves : array, shape (3, 3), what becomes of a step along the parent's axes
    along : the axis along which the part itself carries the mirror
    turned : the numbers of constraints that change their sign where the art is seen mirrored
    """

    is_above: bool
    is_own: bool
    moves: Floats
    along: Along = "x"
    turned: frozenset[str] = field(default_factory=frozenset)

    def reflected(self, values: Mapping[str, float], is_rest: bool) -> dict[str, float]:
        """Values of the other part as this one takes them for its reflection: rest values or motion values."""
        result = {}
        for name, value in values.items():
            if self.is_own and channel_kind(name).family == "constraint":
                result[name] = -value if name in self.turned else value
                continue
            as_it_is = self.is_own if family_of(name) is SPIN else self.is_above
            result[name] = value if as_it_is else sign(name, self.along) * value
        scale = f"scale.{self.along}"
        if is_rest and self.is_above != self.is_own and scale in result:
            result[scale] = -result[scale]
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
        return Reflection(False, False, OWN_MIRRORS["x"])
    hangs_mirrored = _is_mirrored(scene, original.parent) != _is_mirrored(scene, part.parent)
    is_above = hangs_mirrored and part.inherits.scale
    theirs, own = (linear_of(world_at(scene, each.id, None)) for each in (original, part))
    is_own = bool(np.linalg.det(theirs) * np.linalg.det(own) < 0)
    turned: frozenset[str] = frozenset()
    if is_own:
        turned = frozenset(name for name, _ in turned_numbers(part, own @ np.linalg.inv(theirs)))
    along: Along = "x"
    moves = np.eye(3) if hangs_mirrored else OWN_MIRRORS["x"]
    if is_own and not is_above:
        along = "z" if part.rest_value("scale.z") * original.rest_value("scale.z") < 0 else "x"
        if not hangs_mirrored:
            # The part carries the mirror itself: O' = F O Fx says which way it lies in the parent.
            lie, lies = (rotation_matrices(np.array(each.orientation)) for each in (original, part))
            moves = lies @ OWN_MIRRORS[along] @ lie.T
    return Reflection(is_above, is_own, moves, along, turned)


def _is_mirrored(scene: Scene, part_id: str | None) -> bool:
    return bool(np.linalg.det(linear_of(world_at(scene, part_id, None))) < 0)
