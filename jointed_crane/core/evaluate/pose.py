"""What evaluation answers: where everything is, with nothing in it that is not a number."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.scene import Part
from jointed_crane.core.shapes.reshaping import moving_shapes

Floats = npt.NDArray[np.float64]

#: No entry of a pose goes beyond this. A float32 still holds it, and so does the JSON of any reader.
FARTHEST = 1e30


@dataclass(frozen=True)
class Pose:
    """Where everything is, parts in the scene's painting order.

    Attributes
    ----------
    frames : array, shape (frames,)
    world : array, shape (parts, frames, 4, 4), art space to stage, acting on column vectors
    pivot : array, shape (parts, frames, 3), where each part turns about on the stage: the place of its pivot, or of the
        foothold that holds; spin carries the art about its centre but never this point
    opacity : array, shape (parts, frames), the part's own times its parents'
    drawing : array, shape (parts, frames), index of the drawing shown, -1 for none
    shown : array, shape (parts, frames), whether the part and all its parents are shown
    order : array, shape (parts, frames), painting order: lower is further back, equal keeps the scene's order
    keyed : (part id, channel) of every channel that moves
    motion : array, shape (keyed, frames), their motion values, relative to rest
    shaped : the parts whose shapes move, by their ids
    driven : what links add to motion values, by part id and channel, array of shape (frames,); scales and opacity
        become so many times as large and once more
    """

    part_ids: tuple[str, ...]
    frames: Floats
    world: Floats
    pivot: Floats
    opacity: Floats
    drawing: npt.NDArray[np.int64]
    shown: npt.NDArray[np.bool_]
    order: Floats
    keyed: tuple[tuple[str, str], ...]
    motion: Floats
    shaped: Mapping[str, Part]
    driven: Mapping[tuple[str, str], Floats] = field(default_factory=dict)

    @cached_property
    def index(self) -> dict[str, int]:
        """Row of each part by its id."""
        return {part_id: row for row, part_id in enumerate(self.part_ids)}

    def world_of(self, part_id: str, frame_index: int = 0) -> Floats:
        """One part's world matrix, shape (4, 4)."""
        matrix: Floats = self.world[self.index[part_id], frame_index]
        return matrix

    def pivot_of(self, part_id: str, frame_index: int = 0) -> Floats:
        """Where one part turns about on the stage, shape (3,)."""
        place: Floats = self.pivot[self.index[part_id], frame_index]
        return place

    @cached_property
    def motion_index(self) -> dict[tuple[str, str], int]:
        """Row of each channel that moves, by part id and channel."""
        return {name: row for row, name in enumerate(self.keyed)}

    def motion_at(self, frame_index: int = 0) -> dict[str, dict[str, float]]:
        """Motion values by part and channel, for the channels that move."""
        result: dict[str, dict[str, float]] = {}
        for (part_id, channel), value in zip(self.keyed, self.motion[:, frame_index].tolist(), strict=True):
            result.setdefault(part_id, {})[channel] = value
        return result

    def shapes(self) -> dict[str, list[Shape | None]]:
        """The shape of each part whose shape moves, at every frame; None where it shows none."""
        result = {}
        for part_id, part in self.shaped.items():
            added = {channel: values for (owner, channel), values in self.driven.items() if owner == part_id}
            its_motion = moving_shapes(part, self.frames, added)
            if its_motion is not None:
                drawings = self.drawing[self.index[part_id]].tolist()
                result[part_id] = [its_motion.at(drawing, column) for column, drawing in enumerate(drawings)]
        return result

    def is_ever_seen(self, part_id: str) -> bool:
        """Whether a part is shown and not fully clear at some frame."""
        row = self.index[part_id]
        return bool((self.shown[row] & (self.opacity[row] > 0)).any())

    def painting(self, frame_index: int = 0) -> list[str]:
        """Part ids from back to front."""
        return [self.part_ids[row] for row in np.argsort(self.order[:, frame_index], kind="stable")]

    def at(self, frames: Floats, columns: npt.NDArray[np.intp]) -> Pose:
        """The same pose with its columns picked, at the frames that they stand for."""
        return replace(
            self,
            frames=frames,
            world=self.world[:, columns],
            pivot=self.pivot[:, columns],
            opacity=self.opacity[:, columns],
            drawing=self.drawing[:, columns],
            shown=self.shown[:, columns],
            order=self.order[:, columns],
            motion=self.motion[:, columns],
            driven={name: values[columns] for name, values in self.driven.items()},
        )


def gated(values: Floats) -> Floats:
    """The values themselves, or, where some are too large or no numbers at all, copies brought within FARTHEST.

    This is the one gate behind evaluation. The rules refuse what would come this far (`soundness`), but a scene may
    come from an older version, and shapes of curves multiply in ways that no rule foresees.
    """
    flat = values.reshape(-1)
    with np.errstate(over="ignore", invalid="ignore"):
        size = float(np.dot(flat, flat))  # one pass; infinite or no number where any entry is
    if size < FARTHEST:
        return values
    return np.clip(np.nan_to_num(values, nan=0.0, posinf=FARTHEST, neginf=-FARTHEST), -FARTHEST, FARTHEST)
