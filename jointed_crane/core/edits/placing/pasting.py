"""Laying a copied pose on parts, as it is or mirrored to the other side."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, chosen
from jointed_crane.core.edits.shared.mirroring import reflection_between
from jointed_crane.core.edits.shared.values_on_screen import value_on_screen, with_value, within_limits
from jointed_crane.core.hierarchy.sides import other_side
from jointed_crane.core.model.channels import MOVE, channel_kind, family_of
from jointed_crane.core.model.markers import PoseValues
from jointed_crane.core.model.scene import Part, Scene

#: Values closer than this are the same.
_SAME = 1e-12


@dataclass(frozen=True)
class PastePose(Edit, kind="paste_pose"):
    """Lay a copied pose on parts: values by part name and channel, as keys at a frame or as rest values.

    `parts` empty means all parts whose names the pose holds. With `mirrored` each part takes the pose of its other
    side as a reflection, also where its limb is a mirrored copy. A pose of one part alone fits any part. Channels that
    show the value already get no key, and places at rest are never pasted. With a share each value goes so much of the
    way from how the part lies to the pose, or beyond it.
    """

    KEYS_VALUES = True

    pose: PoseValues
    parts: tuple[str, ...] = ()
    mirrored: bool = False
    frame: float | None = None
    share: float = 1.0

    def label(self, scene: Scene) -> str:
        return "Put a pose on mirrored" if self.mirrored else "Put a pose on"

    def apply(self, scene: Scene) -> Scene:
        named = {part.name: part for part in scene.parts}
        changed = []
        for part in chosen(scene, self.parts):
            source = self._source(part)
            if source is None:
                continue
            values: Mapping[str, float] = {channel_kind(name).name: value for name, value in self.pose[source].items()}
            if self.mirrored:
                reflection = reflection_between(scene, named.get(source), part)
                values = reflection.reflected(values, is_rest=self.frame is None)
            changed.append(self._posed(part, values))
        if not changed:
            raise RuleError("None of these parts is named in the copied pose. Nothing was changed.")
        return scene.with_parts(changed)

    def _source(self, part: Part) -> str | None:
        """The name in the pose that a part takes its values from."""
        if len(self.pose) == 1 and self.parts:
            return next(iter(self.pose))
        wanted = other_side(part.name) if self.mirrored else part.name
        return wanted if wanted in self.pose else None

    def _posed(self, part: Part, values: Mapping[str, float]) -> Part:
        for name, value in values.items():
            if name in part.fixed or (self.frame is None and family_of(name) is MOVE):
                continue
            shown = value_on_screen(part, name, self.frame)
            value = shown + self.share * (value - shown)
            if abs(shown - value) > _SAME:
                part = with_value(part, name, within_limits(part, name, value, self.frame), self.frame)
        return part
