"""Edits of the hierarchy: joining parts to a parent and taking them off it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.joints.eyelets import Seat
from jointed_crane.core.edits.placing.poses import MoveAlong, MoveBy
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.staying import kept_as_shown, rejoined
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.hierarchy.dependencies import refuse_loop
from jointed_crane.core.hierarchy.tree import uppermost
from jointed_crane.core.measures.gaps import matching_eyelet
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import carried


@dataclass(frozen=True)
class Join(Edit, kind="join"):
    """Hang parts on a parent, or on the stage itself where `parent` is None.

    With `place` "kept" nothing moves. With "snapped" each part's pivot comes into the parent's eyelet of its name, else
    into the nearest one, and is seated there; a parent without eyelets takes it on its own pivot. Of picked parts that
    hang on each other only the uppermost are joined, so a limb stays together. The end of a chain that is hung
    elsewhere keeps its reach, which turns what is above it there; *Check* says so where that is nothing.
    """

    parts: tuple[str, ...]
    parent: str | None = None
    frame: float | None = None
    place: Literal["kept", "snapped"] = "kept"

    def label(self, scene: Scene) -> str:
        moved = named(scene.part(part_id) for part_id in self.parts)
        return f"Join {moved} to {scene.part(self.parent).name}" if self.parent else f"Detach {moved}"

    def apply(self, scene: Scene) -> Scene:
        picked = {part.id for part in unlocked(scene, self.parts)}
        if self.parent is not None:
            scene.part(self.parent)
            for part_id in picked:
                refuse_loop(scene, part_id, self.parent)
        topmost = [scene.part(part_id) for part_id in uppermost(scene, picked)]
        if all(part.parent == self.parent for part in topmost):
            where = scene.part(self.parent).name if self.parent else "the stage"
            raise RuleError(f"{named(topmost)} already on {where}. Nothing was changed.")
        joined = [part.id for part in topmost if part.parent != self.parent]
        after = rejoined(scene, joined, self.parent, self.frame)
        for part_id in joined if self.place == "snapped" and self.parent is not None else ():
            after = self._snapped(after, part_id, after.part(self.parent or ""))
        return kept_as_shown(scene, after, self.frame) if self.place == "kept" else after

    def _snapped(self, scene: Scene, part_id: str, parent: Part) -> Scene:
        pivot = pivot_at(scene, part_id, self.frame)
        if not parent.eyelets:
            x, y, z = (pivot_at(scene, parent.id, self.frame) - pivot).tolist()
            after = MoveBy((part_id,), (x, y), self.frame).apply(scene)
            return MoveAlong((part_id,), "z", z, frame=self.frame).apply(after) if z else after
        world = world_at(scene, parent.id, self.frame)
        chosen = matching_eyelet(scene, scene.part(part_id)) or min(
            parent.eyelets, key=lambda eyelet: float(np.linalg.norm(carried(world, np.array(eyelet.point)) - pivot))
        )
        return Seat((part_id,), chosen.id, frame=self.frame).apply(scene)
