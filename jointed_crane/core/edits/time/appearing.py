"""The edit by which parts appear and leave at a frame."""

from __future__ import annotations

from dataclasses import dataclass

from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.values_on_screen import with_value
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.cycle_keys import CYCLES


@dataclass(frozen=True)
class ShowFrom(Edit, kind="show_from"):
    """From a frame on parts are shown, or not; what was before that frame stays, where nothing was said it is the
    opposite.
    """

    parts: tuple[str, ...]
    frame: float
    is_shown: bool

    def label(self, scene: Scene) -> str:
        act = "appears" if self.is_shown else "leaves"
        return f"{named(map(scene.part, self.parts))} {act} at frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        return scene.with_parts(self._shown(part) for part in unlocked(scene, self.parts))

    def _shown(self, part: Part) -> Part:
        channel = part.channels.get("shown")
        is_first = channel is None or (channel.place_of(self.frame) == 0 and channel.before not in CYCLES)
        if is_first and self.frame > 0:
            part = with_value(part, "shown", float(not self.is_shown), 0.0)
        return with_value(part, "shown", float(self.is_shown), self.frame)
