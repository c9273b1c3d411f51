"""Edits of the painting order."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, named
from jointed_crane.core.model.scene import Part, Scene


def _parted(scene: Scene, part_ids: tuple[str, ...]) -> tuple[list[Part], list[Part]]:
    """The parts of these ids and all others, each in painting order."""
    picked = {scene.part(part_id).id for part_id in part_ids}
    moving = [part for part in scene.parts if part.id in picked]
    return moving, [part for part in scene.parts if part.id not in picked]


@dataclass(frozen=True)
class Reorder(Edit, kind="reorder"):
    """Change the painting order of parts, which keep their order among themselves."""

    parts: tuple[str, ...]
    to: Literal["front", "forward", "backward", "back"]

    def label(self, scene: Scene) -> str:
        way = {"front": "to the front", "forward": "forward", "backward": "backward", "back": "to the back"}[self.to]
        return f"Bring {named(scene.part(part_id) for part_id in self.parts)} {way}"

    def apply(self, scene: Scene) -> Scene:
        moving, staying = _parted(scene, self.parts)
        if not moving:
            return scene
        lowest, highest = scene.index[moving[0].id], scene.index[moving[-1].id]
        at = {
            "front": len(staying),
            "back": 0,
            "forward": highest - len(moving) + 2,
            "backward": lowest - 1,
        }[self.to]
        at = min(max(at, 0), len(staying))
        return replace(scene, parts=(*staying[:at], *moving, *staying[at:]))


@dataclass(frozen=True)
class PlaceInOrder(Edit, kind="place_in_order"):
    """Paint parts directly in front of another one, or behind everything where `above` is None."""

    parts: tuple[str, ...]
    above: str | None = None

    def label(self, scene: Scene) -> str:
        moved = named(scene.part(part_id) for part_id in self.parts)
        return (
            f"Paint {moved} in front of {scene.part(self.above).name}" if self.above else f"Paint {moved} at the back"
        )

    def apply(self, scene: Scene) -> Scene:
        moving, staying = _parted(scene, self.parts)
        if self.above is not None and scene.part(self.above).id in self.parts:
            raise RuleError(f"{scene.part(self.above).name} cannot be painted in front of itself. Nothing was changed.")
        at = 0 if self.above is None else [part.id for part in staying].index(self.above) + 1
        return replace(scene, parts=(*staying[:at], *moving, *staying[at:]))
