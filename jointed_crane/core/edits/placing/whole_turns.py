"""Whole turns between two frames, as one act: a wheel goes round twice, a vane three times the other way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.placing.poses import sense_of_turns
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.values_on_screen import motion_value, with_key_here, within_limits
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import SegmentKind
from jointed_crane.core.motion.editing import bridged


@dataclass(frozen=True)
class TurnRound(Edit, kind="turn_round"):
    """Let parts go round so many whole turns between two frames, clockwise as seen on the stage where the number is
    positive: from the pose shown at the first frame to the one shown at the last.

    What lies between gives way. All later keys count the turns along, so nothing looks otherwise before and after; only
    a part that changes its foothold meanwhile comes elsewhere.
    """

    parts: tuple[str, ...]
    turns: int
    frame: float
    until: float
    channel: Literal["turn.z", "spin.z"] = "turn.z"
    segment: SegmentKind = "eased"

    def label(self, scene: Scene) -> str:
        way = "clockwise" if self.turns > 0 else "anticlockwise"
        who = named(scene.part(part_id) for part_id in self.parts)
        return f"{who}: {counted(abs(self.turns), 'turn')} {way}, frames {self.frame:g} to {self.until:g}"

    def apply(self, scene: Scene) -> Scene:
        if not self.frame < self.until:
            raise RuleError(
                f"A turn goes from an earlier frame to a later one, not from {self.frame:g} to {self.until:g}. "
                "Nothing was changed."
            )
        parts = unlocked(scene, self.parts)
        return scene.with_parts(self._gone_round(part, sense_of_turns(scene, part, self.frame)) for part in parts)

    def _gone_round(self, part: Part, sense: int) -> Part:
        kind = channel_kind(self.channel)
        if self.channel in part.fixed:
            raise RuleError(f"{kind.label} of {part.name} is fixed. Nothing was changed; free it first.")
        degrees = 360.0 * self.turns * sense
        end = motion_value(part, self.channel, self.until) + degrees
        if within_limits(part, self.channel, end, self.frame) != end:
            raise RuleError(
                f"{part.name} would turn to {end:g} deg, out of its range. Nothing was changed; widen the range first."
            )
        part = with_key_here(with_key_here(part, self.channel, self.until), self.channel, self.frame)
        channel = bridged(part.channels[self.channel], self.frame, self.until, degrees, self.segment)
        return part.with_channel(self.channel, channel)
