"""Edits that set values of channels and do nothing else, so that a preview of one needs no scene made for it."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable

from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.edits.shared.values_on_screen import NewValue, with_value
from jointed_crane.core.model.scene import Part, Scene


class ValueEdit(Edit):
    """An edit that sets values as they are shown: rest values where its frame is None, keys at the frame in Motion."""

    KEYS_VALUES = True
    frame: float | None

    @abstractmethod
    def new_values(self, scene: Scene) -> Iterable[NewValue]:
        """What is set, ranges and fixed channels heeded. RuleError where the rules refuse."""

    def apply(self, scene: Scene) -> Scene:
        changed: dict[str, Part] = {}
        for part, channel, value in self.new_values(scene):
            changed[part.id] = with_value(changed.get(part.id, part), channel, value, self.frame)
        return scene.with_parts(changed.values())
