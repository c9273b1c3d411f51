"""What every scene keeps: finite numbers within bounds, sorted keys, parents that exist, no loops."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.basics.limits import (
    LARGEST,
    LARGEST_SCALE,
    LONGEST_SCENE,
    MOST_CONSTRAINTS_IN_ALL,
    MOST_EYELETS,
    MOST_FOOTHOLDS,
    MOST_KEYS,
    MOST_LINKS_IN_ALL,
    MOST_MARKERS,
    MOST_OUTLINE_CORNERS,
    MOST_PARTS,
    MOST_POSES,
)
from jointed_crane.core.hierarchy.dependencies import waves
from jointed_crane.core.hierarchy.link_order import links_in_order
from jointed_crane.core.model.channels import channel_kind, family_of
from jointed_crane.core.model.forms import ensure_drawable
from jointed_crane.core.model.markers import KeptPose, Marker
from jointed_crane.core.model.scene import NO_GROUND, Drawing, Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.model.slots import SLOTTED
from jointed_crane.core.motion.channel import BARE, Channel
from jointed_crane.core.soundness.names_and_numbers import ensure_id, ensure_name, ensure_numbers
from jointed_crane.core.soundness.references import (
    ensure_camera,
    ensure_constraints,
    ensure_cuts,
    ensure_lever,
    ensure_links,
    ensure_numbers_are_own,
)

#: A swing shorter than this cannot be told from noise, frames.
SHORTEST_PERIOD = 0.01
#: Two keys closer than this would make a segment whose slope no float can hold.
CLOSEST_KEYS = 1e-4
#: Values that were looked at and are sound.
_IS_SOUND: Memory[bool] = Memory()


def ensure_sound(scene: Scene) -> Scene:
    """The scene itself; RuleError with a sentence where it breaks a rule."""
    ensure_sound_after(SceneChange(None, scene))
    return scene


def ensure_sound_after(change: SceneChange) -> None:
    """RuleError with a sentence where a scene that was made from a sound one breaks a rule; what they share is known to
    be sound and is not looked at again.
    """
    scene = change.after
    _ensure_stage(scene)
    ensure_cuts(scene)
    if len(scene.parts) > MOST_PARTS:
        raise RuleError(f"A scene holds at most {MOST_PARTS} parts; this would make {len(scene.parts)}.")
    if len(scene.index) != len(scene.parts):
        raise RuleError("Two parts would have the same id. Nothing was changed.")
    for part, old in change.parts:
        _ensure_part(part, old)
    _ensure_totals(change)
    _ensure_drawing_ids(change)
    for part in scene.parts:
        if part.constraints:
            ensure_constraints(scene, part)
        if part.links:
            ensure_links(scene, part)
        if part.level is not None and all(mark.id != part.level for mark in scene.marks):
            raise RuleError(f"{part.name} would lose the mark that is its level. Nothing was changed.")
    if any(part.links and (old is None or old.links != part.links) for part, old in change.parts):
        links_in_order(scene.parts)
    is_same_tree = not change.removed and all(
        old and old.parent == part.parent and old.constraints == part.constraints for part, old in change.parts
    )
    if not is_same_tree or any(old and part.largest_scale > old.largest_scale for part, old in change.parts):
        ensure_sizes(scene)


def _ensure_totals(change: SceneChange) -> None:
    baked = "delete some that are not needed, or bake with a wider tolerance"
    _ensure_total(change, MOST_KEYS, "keys", _key_count, baked)
    _ensure_total(change, MOST_FOOTHOLDS, "footholds", lambda part: len(part.footholds))
    _ensure_total(change, MOST_EYELETS, "eyelets", lambda part: len(part.eyelets))
    _ensure_total(change, MOST_CONSTRAINTS_IN_ALL, "constraints", lambda part: len(part.constraints))
    _ensure_total(change, MOST_LINKS_IN_ALL, "links", lambda part: len(part.links))


def _key_count(part: Part) -> int:
    return sum(len(channel.at_hand) for channel in part.channels.values())


def _ensure_total(
    change: SceneChange,
    most: int,
    of: str,
    counted: Callable[[Part], int],
    advice: str = "delete some that are not needed",
) -> None:
    """They are counted where some are made: a scene that has more from an older version can still lose them."""
    made = sum(counted(part) - (counted(old) if old else 0) for part, old in change.parts)
    if made <= 0:
        return
    count = sum(map(counted, change.after.parts))
    if count > most:
        raise RuleError(f"The scene would have {count} {of}; {most} is the most. Nothing was changed; {advice}.")


def _ensure_drawing_ids(change: SceneChange) -> None:
    """A drawing's id is its own in the scene; only parts that share their drawings show one drawing under one id.

    Ids that a part had before are not looked at: scenes from older versions may hold the same one twice.
    """
    fresh: list[tuple[Part, Drawing]] = []
    for part, old in change.parts:
        if old is None or old.drawings is not part.drawings:
            ids = {drawing.id for drawing in old.drawings} if old else set()
            fresh += [(part, drawing) for drawing in part.drawings if drawing.id not in ids]
            if len({drawing.id for drawing in part.drawings}) != len(part.drawings):
                raise RuleError(f"Two drawings of {part.name} would have the same id. Nothing was changed.")
    if not fresh:
        return
    owners: dict[str, list[Part]] = {}
    for part in change.after.parts:
        for drawing in part.drawings:
            owners.setdefault(drawing.id, []).append(part)
    for part, drawing in fresh:
        others = [other for other in owners[drawing.id] if other is not part]
        if any(part.shares is None or other.shares != part.shares for other in others):
            raise RuleError(
                f"Drawings of {part.name} and {others[0].name} would have the same id {drawing.id[:40]!r}. "
                "Nothing was changed."
            )


def ensure_sizes(scene: Scene, larger: Mapping[str, float] = MappingProxyType({})) -> None:
    """RuleError where parents are missing or in a loop, or scales that hang on each other would multiply beyond
    LARGEST_SCALE. Some parts may become larger than they are, by their ids.
    """
    sizes: dict[str | None, float] = {None: 1.0}
    for wave in waves(scene.parts):
        for part in (scene.parts[place] for place in wave):
            sizes[part.id] = sizes[part.parent] * max(part.largest_scale, larger.get(part.id, 1.0), 1.0)
            if sizes[part.id] > LARGEST_SCALE:
                raise RuleError(
                    f"{part.name} and the parts above it would scale it {sizes[part.id]:.0e} times; "
                    f"{LARGEST_SCALE:.0e} is the most. Nothing was changed."
                )


def _ensure_stage(scene: Scene) -> None:
    if not (1 <= scene.width <= 16_384 and 1 <= scene.height <= 16_384):
        raise RuleError("A stage is between 1 and 16384 px wide and high. Nothing was changed.")
    if not 1 <= scene.length <= LONGEST_SCENE:
        raise RuleError(f"A scene is between 1 and {LONGEST_SCENE} frames long. Nothing was changed.")
    numerator, denominator = scene.fps
    if numerator < 1 or denominator < 1 or not 1 <= numerator / denominator <= 240:
        raise RuleError("The frame rate lies between 1 and 240 frames a second. Nothing was changed.")
    if scene.ground != NO_GROUND and not re.fullmatch(r"#[0-9a-fA-F]{6}", scene.ground):
        raise RuleError(f"The ground is a colour like #e3edf0 or none, not {scene.ground!r}. Nothing was changed.")
    ensure_name(scene.name, "scene")
    for mark in scene.marks:
        ensure_id(mark.id)
        ensure_name(mark.name, "mark")
        if not all(math.isfinite(number) and abs(number) <= LARGEST for number in mark.place):
            raise RuleError(f"The mark {mark.name} would lie beyond {LARGEST:g} px. Nothing was changed.")
    if len({mark.id for mark in scene.marks}) != len(scene.marks):
        raise RuleError("Two marks would have the same id. Nothing was changed.")
    _ensure_markers(scene)
    _ensure_poses(scene)


def _ensure_markers(scene: Scene) -> None:
    for marker in scene.markers:
        ensure_id(marker.id)
        ensure_name(marker.name, "marker")
        if not 0 <= marker.frame <= marker.last <= LONGEST_SCENE:
            raise RuleError(
                f"{marker.name} stands between frame 0 and {LONGEST_SCENE} and does not end before it begins. "
                "Nothing was changed."
            )
    _ensure_few(scene.markers, "markers", MOST_MARKERS)


def _ensure_poses(scene: Scene) -> None:
    for pose in scene.poses:
        if _IS_SOUND.at(pose):
            continue
        ensure_id(pose.id)
        ensure_name(pose.name, "pose")
        for name, values in pose.values.items():
            ensure_name(name, "part")
            for channel, value in values.items():
                channel_kind(channel)
                if not -LARGEST <= value <= LARGEST:
                    raise RuleError(f"The pose {pose.name} holds a number beyond {LARGEST:g}. Nothing was changed.")
        _IS_SOUND.put(pose, True)
    _ensure_few(scene.poses, "poses", MOST_POSES)


def _ensure_few(items: Sequence[Marker | KeptPose], what: str, most: int) -> None:
    if len(items) > most:
        raise RuleError(f"A scene keeps at most {most} {what}; this would make {len(items)}. Nothing was changed.")
    if len({one.id for one in items}) != len(items):
        raise RuleError(f"Two {what} would have the same id. Nothing was changed.")


def _ensure_part(part: Part, old: Part | None) -> None:
    """Look at what a part does not share with the part that it was."""
    if old is None or (old.own_values is not part.own_values and old.own_values != part.own_values):
        _ensure_own(part)
    if old is None or old.rest is not part.rest:
        _ensure_rest(part)
    ensure_numbers_are_own(part)
    for name, channel in part.channels.items():
        known = old.channels.get(name) if old else None
        if channel is not known:
            channel_kind(name)
            _ensure_channel(part, name, channel, known)


def _ensure_rest(part: Part) -> None:
    ensure_numbers(part, part.rest.values())
    for name in part.rest:
        kind = channel_kind(name)
        if family_of(name).moves == "shape":
            raise RuleError(f"{kind.label} of {part.name} rests in its shape. Nothing was changed.")


def _ensure_own(part: Part) -> None:
    ensure_id(part.id)
    ensure_camera(part)
    ensure_lever(part)
    ensure_name(part.name, "part")
    if len(part.silenced) > 100 or any(len(name) > 120 for name in part.silenced):
        raise RuleError(f"{part.name} silences at most 100 findings. Nothing was changed.")
    for what, name in part.slots.items():
        if what not in SLOTTED:
            raise RuleError(f"{part.name} has no {what[:40]!r} that could be a slot. Nothing was changed.")
        ensure_name(name, "slot")
    numbers = [*part.pivot, *part.orientation, part.size, *(part.spin_centre or ())]
    for foothold in part.footholds:
        numbers += [foothold.frame, *foothold.point]
    for eyelet in part.eyelets:
        ensure_id(eyelet.id)
        ensure_name(eyelet.name, "eyelet")
        numbers += eyelet.point
    if len({eyelet.id for eyelet in part.eyelets}) != len(part.eyelets):
        raise RuleError(f"Two eyelets of {part.name} would have the same id. Nothing was changed.")
    for name, limit in part.limits.items():
        channel_kind(name)
        numbers += [end for end in limit if end is not None]
    for name in part.fixed:
        channel_kind(name)
    for drawing in part.drawings:
        _ensure_drawing(part, drawing)
    ensure_numbers(part, numbers)
    if not 0.9 < math.hypot(*part.orientation) < 1.1:
        raise RuleError(f"The rest orientation of {part.name} is not a rotation. Nothing was changed.")
    if sorted(part.turn_order) != ["X", "Y", "Z"]:
        raise RuleError(f"The turn order of {part.name} names x, y and z once each. Nothing was changed.")
    frames = [foothold.frame for foothold in part.footholds]
    if frames != sorted(set(frames)):
        raise RuleError(f"The footholds of {part.name} are not in order. Nothing was changed.")


def _ensure_drawing(part: Part, drawing: Drawing) -> None:
    """Boxes have their sides in order, and an outline rings of three corners and more."""
    if _IS_SOUND.at(drawing):
        return
    if drawing.shape is not None:
        ensure_drawable(drawing.shape)
    ensure_numbers(part, [*drawing.box, *drawing.bounds, *drawing.registration])
    ensure_id(drawing.id)
    ensure_name(drawing.name, "drawing")
    for left, top, right, bottom in (drawing.box, drawing.bounds):
        if left > right or top > bottom:
            raise RuleError(f"The box of a drawing of {part.name} ends before it begins. Nothing was changed.")
    corners = [number for ring in drawing.outline for corner in ring for number in corner]
    if len(corners) > 2 * MOST_OUTLINE_CORNERS or any(len(ring) < 3 for ring in drawing.outline):
        raise RuleError(
            f"An outline of {part.name} has rings of 3 corners and more, {MOST_OUTLINE_CORNERS} at most. Nothing was "
            "changed."
        )
    ensure_numbers(part, corners)
    _IS_SOUND.put(drawing, True)


def _ensure_channel(part: Part, name: str, channel: Channel, known: Channel | None) -> None:
    """Look at a channel, and at those of its keys that it does not share with the one that was there."""
    if _IS_SOUND.at(channel):  # a channel is frozen, and may have come from elsewhere in the scene
        return
    ensure_numbers(part, channel.numbers_beside(known or BARE))
    if channel.sway:
        ensure_numbers(part, (number for number in vars(channel.sway).values() if number is not None))
        if not (0 <= channel.sway.irregularity <= 1 and channel.sway.fade_in >= 0 and channel.sway.fade_out >= 0):
            raise RuleError(
                f"The sway of {part.name}, {name}, is irregular by 0 to 1 and fades over 0 frames or more. "
                "Nothing was changed."
            )
        round_in = channel.sway.period if channel.sway.comes_round is None else channel.sway.comes_round
        if not min(channel.sway.period, round_in) >= SHORTEST_PERIOD:
            raise RuleError(
                f"The sway of {part.name}, {name}, needs a period of {SHORTEST_PERIOD} frames or more. "
                "Nothing was changed."
            )
    if channel.closest_beside(known or BARE) < CLOSEST_KEYS:
        raise RuleError(f"Two keys of {part.name}, {name}, lie closer than {CLOSEST_KEYS} frames. Nothing was changed.")
    _IS_SOUND.put(channel, True)
