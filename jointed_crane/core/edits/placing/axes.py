"""The edit of how a part's own axes lie at rest, in numbers."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.staying import brought_back, kept_as_shown, lies_elsewhere, refuse_moved
from jointed_crane.core.edits.shared.values_on_screen import driven_values
from jointed_crane.core.evaluate.placement import rotation
from jointed_crane.core.evaluate.pose_at_frame import world_at
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
        return with_axes(scene, part, axes, None)


def with_axes(scene: Scene, part: Part, axes: Floats, frame: float | None) -> Scene:
    """The scene with other axes of a part's own while everything stays as it is shown at a frame, or at rest. RuleError
    where that cannot be: keys of turns mean other turns at other frames, which what is carried or stood on goes by.
    """
    after = scene.with_parts([_laid_otherwise(scene, part, axes, frame)])
    was, now = (world_at(each, part.id, frame) for each in (scene, after))
    if lies_elsewhere(was, now, 10.0):
        after = brought_back(scene, after, part.id, frame)
    after = kept_as_shown(scene, after, frame, but={part.id})
    refuse_moved(scene, after, frame)
    return after


def _laid_otherwise(scene: Scene, part: Part, axes: Floats, frame: float | None) -> Part:
    """The part with other axes of its own while its art stays as it lies at a frame, or at rest: R' = O'^-1 O R, where
    what keys and links add to its rest stays as it is.

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
    shown = driven_values(scene, part, frame)
    turn = axes.T @ rotation_matrices(np.array(part.orientation))
    now = stacked(rotation(shown, "turn", part.turn_order), ())
    wanted = [
        *turns_of(turn @ now, part.turn_order, np.array([shown[name] for name in TURN.names])).tolist(),
        *(turn @ [shown[name] for name in SLIDE.names]).tolist(),
    ]
    rest = {
        name: value - (shown[name] - part.rest_value(name))
        for name, value in zip((*TURN.names, *SLIDE.names), wanted, strict=True)
    }
    kept = {name: value for name, value in rest.items() if value or name in part.rest or name in TURN.names}
    return replace(part, orientation=quaternion(axes)).with_rest(kept)
