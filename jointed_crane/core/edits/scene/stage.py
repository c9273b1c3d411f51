"""Edits of the scene itself: its name, its stage and its time."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.model.scene import Scene


@dataclass(frozen=True)
class RenameScene(Edit, kind="rename_scene"):
    """Give the scene another name."""

    name: str

    def label(self, scene: Scene) -> str:
        return f"Rename scene to {self.name.strip()}"

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, name=self.name.strip())


@dataclass(frozen=True)
class SetStage(Edit, kind="set_stage"):
    """Change the stage: size in px, ground (a colour or "none"), frame rate, length in frames, and whether what is
    nearer hides what is farther; None keeps one.
    """

    width: float | None = None
    height: float | None = None
    ground: str | None = None
    fps: tuple[int, int] | None = None
    length: int | None = None
    depth: bool | None = None

    def label(self, scene: Scene) -> str:
        if self.depth is not None:
            return f"Turn depth {'on' if self.depth else 'off'}"
        return "Change the stage"

    def apply(self, scene: Scene) -> Scene:
        wanted = {
            "width": self.width,
            "height": self.height,
            "ground": self.ground.lower() if self.ground else None,
            "fps": self.fps,
            "length": self.length,
            "depth": self.depth,
        }
        return replace(scene, **{name: value for name, value in wanted.items() if value is not None})  # type: ignore[arg-type]
