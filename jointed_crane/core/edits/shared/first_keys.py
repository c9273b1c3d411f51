"""What came before the first key of a channel stays: one more key holds the value that it had."""

from __future__ import annotations

from jointed_crane.core.edits.shared.values_on_screen import new_segment
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.motion.channel import BARE, Key
from jointed_crane.core.motion.editing import with_key


def with_what_came_before(before: Scene, after: Scene) -> tuple[Scene, list[str]]:
    """A scene in which channels that have got their first key at a later frame have one with the value that they had
    where the keys of their part begin, or at frame 0; and what that is to be said in, a sentence for each.
    """
    changed: dict[str, Part] = {}
    said = []
    for part, known in SceneChange(before, after).parts:
        if known is None or part.channels is known.channels:
            continue
        for name, channel in part.channels.items():
            first = channel.frames[0] if channel.at_hand and not known.channels.get(name, BARE).at_hand else None
            begin = None if first is None else _begin(known, first)
            if begin is None:
                continue
            kind = channel_kind(name)
            value = known.rest_value(name) if kind.joins == "replace" else kind.neutral
            if channel.keys[0].value == value:
                continue
            key = Key(begin, value, new_segment(BARE, name, begin))
            changed[part.id] = changed.get(part.id, part).with_channel(name, with_key(channel, key))
            said.append(f"{kind.label} of {part.name} keeps what it was before by a key at frame {begin:g}.")
    return (after.with_parts(changed.values()) if changed else after), said


def _begin(part: Part, first: float) -> float | None:
    """Where the keys of a part begin, or frame 0; None where that is not before its first key on another channel."""
    begun = min((channel.frames[0] for channel in part.channels.values() if channel.at_hand), default=0.0)
    begin = begun if begun < first else 0.0
    return begin if begin < first else None
