"""What a dragging hand sets, as columns of numbers: previews of values make no scene, however many parts are picked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.basics.limits import LARGEST
from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.edits.shared.values_on_screen import key_for
from jointed_crane.core.model.channels import SCALE, channel_kind
from jointed_crane.core.model.scene import Part, Scene, largest_factor
from jointed_crane.core.motion.channel import BARE, Channel, Key
from jointed_crane.core.motion.editing import ready_for_key
from jointed_crane.core.soundness.names_and_numbers import ensure_numbers
from jointed_crane.core.soundness.whole_scene import CLOSEST_KEYS, ensure_sizes

#: Whether a curve takes a key at the last frame that was asked for: a drag asks again and again.
_TAKES_KEY: Memory[bool] = Memory()


@dataclass(frozen=True)
class Numbers:
    """Values that edits would set in one state, and nothing else.

    Attributes
    ----------
    values : values as they are shown, by part and channel
    puts : what each part would hold by channel: a key in Motion, a rest value at rest
    """

    values: dict[str, dict[str, float]]
    puts: dict[str, dict[str, Key | float]]


def numbers_of(scene: Scene, edits: Sequence[Edit], frame: float | None) -> Numbers | None:
    """What edits would set, by numbers alone; None where they do or may do more than that, so that a scene has to be
    made to see it. RuleError where the rules refuse, as `applied` does.
    """
    if len(edits) != 1 or not isinstance(edits[0], ValueEdit) or edits[0].frame != frame:
        return None
    result = Numbers({}, {})
    larger: dict[str, float] = {}
    for part, channel, value in edits[0].new_values(scene):
        curve = part.channels.get(channel, BARE)
        # A number in a row changes pictures or their order; what stands on footholds is carried by other frames.
        kind = channel_kind(channel)
        if kind.moves == "shape" or kind.stepped or (part.footholds and frame is not None):
            return None
        if frame is None:
            put: Key | float = float(value)
        elif _takes_key(curve, frame):
            put = key_for(curve, channel, value, frame)
        else:
            return None
        ensure_numbers(part, (put if isinstance(put, float) else put.value,))
        if kind.family == SCALE.name:
            larger[part.id] = max(_size(part, channel, put), larger.get(part.id, 0.0))
        if part.id not in result.values:
            result.values[part.id], result.puts[part.id] = {}, {}
        result.values[part.id][channel], result.puts[part.id][channel] = value, put
    if any(size > scene.part(part_id).largest_scale for part_id, size in larger.items()):
        ensure_sizes(scene, larger)
    return result


def _takes_key(curve: Channel, frame: float) -> bool:
    """Whether a key at a frame changes nothing else of a curve, and may stand there."""
    held = _TAKES_KEY.at(curve, frame)
    if held is None:
        is_free = curve.gap_at(frame) >= CLOSEST_KEYS and ready_for_key(curve, frame) is curve
        held = _TAKES_KEY.put(curve, is_free and abs(frame) <= LARGEST, frame)
    return held


def _size(part: Part, channel: str, put: Key | float) -> float:
    """How large a part may become by what it would hold."""
    curve = part.channels.get(channel)
    if isinstance(put, Key):
        return abs(part.rest_value(channel)) * largest_factor(Channel((put,), sway=curve.sway if curve else None))
    return abs(put) * largest_factor(curve)
