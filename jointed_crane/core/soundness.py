"""What every scene keeps: finite numbers within bounds, sorted keys, parents that exist, no loops."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

from jointed_crane.core.channels import channel_kind
from jointed_crane.core.errors import RuleError
from jointed_crane.core.hierarchy import waves
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.scene import Part, Scene
from jointed_crane.core.shapes import ensure_drawable

#: No length, angle or factor of a scene goes beyond this; products of a deep chain still fit a float64.
LARGEST = 1e7
LONGEST = 100_000
MOST_PARTS = 5_000
#: Two keys closer than this would make a segment whose slope no float can hold.
CLOSEST_KEYS = 1e-4


def ensure_sound(scene: Scene, before: Scene | None = None) -> Scene:
    """The scene itself; RuleError with a sentence where it breaks a rule.

    Parts that `before` already held are known to be sound and are not looked at again.
    """
    known = {id(part) for part in before.parts} if before else set()
    _ensure_stage(scene)
    if len(scene.parts) > MOST_PARTS:
        raise RuleError(f"A scene holds at most {MOST_PARTS} parts; this would make {len(scene.parts)}.")
    if len(scene.index) != len(scene.parts):
        raise RuleError("Two parts would have the same id. Nothing was changed.")
    for part in scene.parts:
        if id(part) not in known:
            _ensure_part(part)
    if before is None or [part.parent for part in scene.parts] != [part.parent for part in before.parts]:
        waves(scene.parts)
    return scene


def _ensure_stage(scene: Scene) -> None:
    if not (1 <= scene.width <= 16_384 and 1 <= scene.height <= 16_384):
        raise RuleError("A stage is between 1 and 16384 px wide and high. Nothing was changed.")
    if not 1 <= scene.length <= LONGEST:
        raise RuleError(f"A scene is between 1 and {LONGEST} frames long. Nothing was changed.")
    numerator, denominator = scene.fps
    if numerator < 1 or denominator < 1 or not 1 <= numerator / denominator <= 240:
        raise RuleError("The frame rate lies between 1 and 240 frames a second. Nothing was changed.")
    if not re.fullmatch(r"#[0-9a-fA-F]{6}", scene.ground):
        raise RuleError(f"The ground is a colour like #e3edf0, not {scene.ground!r}. Nothing was changed.")
    _ensure_name(scene.name, "scene")
    for mark in scene.marks:
        _ensure_name(mark.name, "mark")
        if not all(math.isfinite(number) and abs(number) <= LARGEST for number in mark.place):
            raise RuleError(f"The mark {mark.name} would lie beyond {LARGEST:g} px. Nothing was changed.")
    if len({mark.id for mark in scene.marks}) != len(scene.marks):
        raise RuleError("Two marks would have the same id. Nothing was changed.")


def _ensure_name(name: str, what: str) -> None:
    if not name.strip() or len(name) > 120 or any(ord(letter) < 32 for letter in name):
        raise RuleError(f"The name of a {what} has 1 to 120 letters on one line. Nothing was changed.")


def _ensure_part(part: Part) -> None:
    _ensure_name(part.name, "part")
    numbers = [*part.pivot, *part.orientation, *part.rest.values(), part.size, *(part.spin_centre or ())]
    for foothold in part.footholds:
        numbers += [foothold.frame, *foothold.point]
    for eyelet in part.eyelets:
        _ensure_name(eyelet.name, "eyelet")
        numbers += eyelet.point
    if len({eyelet.id for eyelet in part.eyelets}) != len(part.eyelets):
        raise RuleError(f"Two eyelets of {part.name} would have the same id. Nothing was changed.")
    for name, limit in part.limits.items():
        channel_kind(name)
        numbers += [end for end in limit if end is not None]
    for name in part.held:
        channel_kind(name)
    for drawing in part.drawings:
        if drawing.shape is not None:
            ensure_drawable(drawing.shape, LARGEST)
        numbers += [*drawing.box, *drawing.bounds, *drawing.registration]
    _ensure_numbers(part, numbers)
    if not 0.9 < math.hypot(*part.orientation) < 1.1:
        raise RuleError(f"The rest orientation of {part.name} is not a rotation. Nothing was changed.")
    if sorted(part.turn_order) != ["X", "Y", "Z"]:
        raise RuleError(f"The turn order of {part.name} names x, y and z once each. Nothing was changed.")
    for name in part.rest:
        channel_kind(name)
    for name, channel in part.channels.items():
        channel_kind(name)
        _ensure_channel(part, name, channel)
    frames = [foothold.frame for foothold in part.footholds]
    if frames != sorted(set(frames)):
        raise RuleError(f"The footholds of {part.name} are not in order. Nothing was changed.")


def _ensure_channel(part: Part, name: str, channel: Channel) -> None:
    numbers = [number for key in channel.keys for number in (key.frame, key.value)]
    numbers += [
        part_of for key in channel.keys for handle in (key.handle_in, key.handle_out) for part_of in handle or ()
    ]
    if channel.sway:
        numbers += [channel.sway.amount, channel.sway.period, channel.sway.phase]
        if channel.sway.period <= 0:
            raise RuleError(f"The sway of {part.name}, {name}, needs a period above 0 frames. Nothing was changed.")
    _ensure_numbers(part, numbers)
    frames = [key.frame for key in channel.keys]
    if any(right - left < CLOSEST_KEYS for left, right in zip(frames, frames[1:], strict=False)):
        raise RuleError(f"Two keys of {part.name}, {name}, lie closer than {CLOSEST_KEYS} frames. Nothing was changed.")


def _ensure_numbers(part: Part, numbers: Iterable[float]) -> None:
    for number in numbers:
        if not math.isfinite(number) or abs(number) > LARGEST:
            raise RuleError(
                f"A value of {part.name} would become {number:g}; the largest is {LARGEST:g}. Nothing was changed."
            )
