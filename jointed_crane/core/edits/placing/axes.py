"""The edit of how a part's own axes lie at rest, in numbers."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.evaluate.placement import rotation
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.decomposition import quaternion, rotation_matrices, turns_of
from jointed_crane.core.geometry.fields import stacked
from jointed_crane.core.model.channels import SLIDE, TURN
from jointed_crane.core.model.scene import Part, Scene

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class SetAxes(Edit, kind="set_axes"):
    """Lay a part's own axes (O) at rest: turns about x, y and z in degrees, made in the part's order of turns.

    With `keep` "art" the art stays as it lies at rest, and its turns are counted from the new axes; with "axes" it
    turns along with them.
    """

    part: str
    turns: Vector
    keep: Literal["art", "axes"] = "art"

    def label(self, scene: Scene) -> str:
        return f"Lay the axes of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        values = dict(zip(TURN.names, self.turns, strict=True))
        axes = stacked(rotation(values, "turn", part.turn_order), ())
        if self.keep == "axes":
            return scene.with_parts([replace(part, orientation=quaternion(axes))])
        return scene.with_parts([with_axes(part, axes)])


def with_axes(part: Part, axes: Floats) -> Part:
    """The part with other axes of its own while its art stays as it lies at rest: R' = O'^-1 O R.

    RuleError where keys of its slide would lead along other ways.

    Parameters
    ----------
    axes : array, shape (3, 3), a rotation
    """
    if any(name in part.channels for name in SLIDE.names):
        raise RuleError(
            f"{part.name} has keys of its slide, which goes along its own axes and would go elsewhere. "
            "Nothing was changed; turn those keys into keys of its move, or lay the axes before sliding."
        )
    turn = axes.T @ rotation_matrices(np.array(part.orientation))
    now = stacked(rotation({name: part.rest_value(name) for name in TURN.names}, "turn", part.turn_order), ())
    near = np.array([part.rest_value(name) for name in TURN.names])
    rest = dict(zip(TURN.names, turns_of(turn @ now, part.turn_order, near).tolist(), strict=True))
    slide = turn @ [part.rest_value(name) for name in SLIDE.names]
    rest |= {name: value for name, value in zip(SLIDE.names, slide.tolist(), strict=True) if value or name in part.rest}
    return replace(part, orientation=quaternion(axes)).with_rest(rest)
