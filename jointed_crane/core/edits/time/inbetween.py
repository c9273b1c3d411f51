"""The edit that lays parts between the keys before and after a frame."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import named, unlocked
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.edits.shared.values_on_screen import NewValue, within_limits
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.curves import value_at

#: How far beyond either key a share may go.
_BEYOND = 1.0


@dataclass(frozen=True)
class InBetween(ValueEdit, kind="in_between"):
    """Lay parts at a share of the way from the keys before a frame to the keys after it: 0 is as before, 1 as after, a
    little beyond either is allowed. Each channel that has keys on both sides gets a key.
    """

    parts: tuple[str, ...]
    frame: float
    share: float

    def label(self, scene: Scene) -> str:
        return f"{named(map(scene.part, self.parts))} {self.share:.0%} of the way at frame {self.frame:g}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        if not -_BEYOND <= self.share <= 1 + _BEYOND:
            raise RuleError(f"An in-between lies from -100 to 200 % of the way, not at {self.share:.0%}.")
        parts = unlocked(scene, self.parts)
        result = [new for part in parts for new in self._between(part)]
        if not result:
            raise RuleError(
                f"Nothing of {named(parts)} has keys both before and after frame {self.frame:g}. Nothing was changed; "
                "go to a frame between two keys."
            )
        yield from result

    def _between(self, part: Part) -> Iterator[NewValue]:
        for name, channel in part.channels.items():
            at = channel.place_of(self.frame)
            after = at + (channel.key_at(self.frame) is not None)
            if channel_kind(name).stepped or name in part.fixed or at == 0 or after == len(channel.keys):
                continue
            before, then = (value_at(channel, channel.keys[place].frame) for place in (at - 1, after))
            value = before + (then - before) * self.share
            yield part, name, within_limits(part, name, value, self.frame)
