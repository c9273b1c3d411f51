"""What every scene keeps: finite numbers within bounds, sorted keys, parents that exist, no loops."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from types import MappingProxyType

from jointed_crane.core.channels import CHANNELS, channel_kind, is_number
from jointed_crane.core.constraints.kinds import (
    MOST_CHANGES,
    MOST_GOALS,
    MOST_JOINTS,
    AlongPath,
    Between,
    Goal,
    Reach,
    goals_of,
    moments_of,
)
from jointed_crane.core.constraints.referring import own_points
from jointed_crane.core.dependencies import waves
from jointed_crane.core.driving.kinds import MOST_AXES, MOST_LINKS, MOST_POINTS
from jointed_crane.core.driving.order import links_in_order
from jointed_crane.core.errors import RuleError
from jointed_crane.core.kept import KeptPose, Marker
from jointed_crane.core.motion.channel import BARE, Channel
from jointed_crane.core.scene import NO_GROUND, Drawing, Part, Scene
from jointed_crane.core.shape_motion import numbers_of_shape
from jointed_crane.core.shapes import LARGEST, ensure_drawable

LONGEST = 100_000
MOST_PARTS = 5_000
LONGEST_ID = 200
MOST_MARKERS = 500
MOST_POSES = 200
#: Constraints of one part.
MOST_CONSTRAINTS = 50
#: Corners of one drawing's outline.
MOST_CORNERS = 20_000
#: A swing shorter than this cannot be told from noise, frames.
SHORTEST_PERIOD = 0.01
#: Scales that hang on each other multiply; beyond this nothing could be seen or reached again.
LARGEST_SCALE = 1e12
#: Two keys closer than this would make a segment whose slope no float can hold.
CLOSEST_KEYS = 1e-4


def ensure_sound(scene: Scene, before: Scene | None = None) -> Scene:
    """The scene itself; RuleError with a sentence where it breaks a rule.

    Parts that `before` already held are known to be sound and are not looked at again.
    """
    _ensure_stage(scene)
    if len(scene.parts) > MOST_PARTS:
        raise RuleError(f"A scene holds at most {MOST_PARTS} parts; this would make {len(scene.parts)}.")
    if len(scene.index) != len(scene.parts):
        raise RuleError("Two parts would have the same id. Nothing was changed.")
    known = {part.id: part for part in before.parts} if before else {}
    changed = [(part, known.get(part.id)) for part in scene.parts if known.get(part.id) is not part]
    for part, old in changed:
        _ensure_part(part, old)
    _ensure_drawing_ids(scene, changed)
    for part in scene.parts:
        if part.constraints:
            _ensure_constraints(scene, part)
        if part.links:
            _ensure_links(scene, part)
    if any(part.links and (old is None or old.links != part.links) for part, old in changed):
        links_in_order(scene.parts)
    is_same_tree = len(scene.parts) == len(known) and all(
        old and old.parent == part.parent and old.constraints == part.constraints for part, old in changed
    )
    if not is_same_tree or any(old and part.largest_scale > old.largest_scale for part, old in changed):
        ensure_sizes(scene)
    return scene


def _ensure_drawing_ids(scene: Scene, changed: Iterable[tuple[Part, Part | None]]) -> None:
    """A drawing's id is its own in the scene; only parts that share their drawings show one drawing under one id.

    Ids that a part had before are not looked at: scenes from older versions may hold the same one twice.
    """
    fresh: list[tuple[Part, Drawing]] = []
    for part, old in changed:
        if old is None or old.drawings is not part.drawings:
            ids = {drawing.id for drawing in old.drawings} if old else set()
            fresh += [(part, drawing) for drawing in part.drawings if drawing.id not in ids]
            if len({drawing.id for drawing in part.drawings}) != len(part.drawings):
                raise RuleError(f"Two drawings of {part.name} would have the same id. Nothing was changed.")
    if not fresh:
        return
    owners: dict[str, list[Part]] = {}
    for part in scene.parts:
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
    if not 1 <= scene.length <= LONGEST:
        raise RuleError(f"A scene is between 1 and {LONGEST} frames long. Nothing was changed.")
    numerator, denominator = scene.fps
    if numerator < 1 or denominator < 1 or not 1 <= numerator / denominator <= 240:
        raise RuleError("The frame rate lies between 1 and 240 frames a second. Nothing was changed.")
    if scene.ground != NO_GROUND and not re.fullmatch(r"#[0-9a-fA-F]{6}", scene.ground):
        raise RuleError(f"The ground is a colour like #e3edf0 or none, not {scene.ground!r}. Nothing was changed.")
    _ensure_name(scene.name, "scene")
    for mark in scene.marks:
        _ensure_id(mark.id)
        _ensure_name(mark.name, "mark")
        if not all(math.isfinite(number) and abs(number) <= LARGEST for number in mark.place):
            raise RuleError(f"The mark {mark.name} would lie beyond {LARGEST:g} px. Nothing was changed.")
    if len({mark.id for mark in scene.marks}) != len(scene.marks):
        raise RuleError("Two marks would have the same id. Nothing was changed.")
    _ensure_markers(scene)
    _ensure_poses(scene)


def _ensure_markers(scene: Scene) -> None:
    for marker in scene.markers:
        _ensure_id(marker.id)
        _ensure_name(marker.name, "marker")
        if not 0 <= marker.frame <= marker.last <= LONGEST:
            raise RuleError(
                f"{marker.name} stands between frame 0 and {LONGEST} and does not end before it begins. "
                "Nothing was changed."
            )
    _ensure_few(scene.markers, "markers", MOST_MARKERS)


def _ensure_poses(scene: Scene) -> None:
    for pose in scene.poses:
        if "_is_sound" in vars(pose):
            continue
        _ensure_id(pose.id)
        _ensure_name(pose.name, "pose")
        for name, values in pose.values.items():
            _ensure_name(name, "part")
            for channel, value in values.items():
                channel_kind(channel)
                if not -LARGEST <= value <= LARGEST:
                    raise RuleError(f"The pose {pose.name} holds a number beyond {LARGEST:g}. Nothing was changed.")
        vars(pose)["_is_sound"] = True
    _ensure_few(scene.poses, "poses", MOST_POSES)


def _ensure_few(found: Sequence[Marker | KeptPose], what: str, most: int) -> None:
    if len(found) > most:
        raise RuleError(f"A scene keeps at most {most} {what}; this would make {len(found)}. Nothing was changed.")
    if len({one.id for one in found}) != len(found):
        raise RuleError(f"Two {what} would have the same id. Nothing was changed.")


def _ensure_name(name: str, what: str) -> None:
    if not name.strip() or len(name) > 120 or any(ord(letter) < 32 for letter in name):
        raise RuleError(f"The name of a {what} has 1 to 120 letters on one line. Nothing was changed.")


def _ensure_part(part: Part, old: Part | None) -> None:
    """Look at what a part does not share with the part that it was."""
    if old is None or (old.own_values is not part.own_values and old.own_values != part.own_values):
        _ensure_own(part)
    if old is None or old.rest is not part.rest:
        _ensure_rest(part)
    _ensure_numbers_are_own(part)
    for name, channel in part.channels.items():
        known = old.channels.get(name) if old else None
        if channel is not known:
            channel_kind(name)
            _ensure_channel(part, name, channel, known)


def _ensure_constraints(scene: Scene, part: Part) -> None:
    """Constraints have ids of their own, and refer to what is there."""
    if len(part.constraints) > MOST_CONSTRAINTS:
        raise RuleError(f"{part.name} takes {MOST_CONSTRAINTS} constraints at most. Nothing was changed.")
    if len({one.id for one in part.constraints}) != len(part.constraints):
        raise RuleError(f"Two constraints of {part.name} would have the same id. Nothing was changed.")
    for one in part.constraints:
        _ensure_id(one.id)
        _ensure_name(one.name, "constraint")
        goals = goals_of(one)
        if len(goals) > MOST_CHANGES or (isinstance(one, Between) and not 2 <= len(goals) <= MOST_GOALS):
            raise RuleError(f"{one.name} of {part.name} lies between 2 to {MOST_GOALS} goals. Nothing was changed.")
        if isinstance(one, Reach) and not 1 <= one.joints <= MOST_JOINTS:
            raise RuleError(f"{one.name} of {part.name} turns 1 to {MOST_JOINTS} joints. Nothing was changed.")
        if isinstance(one, AlongPath) and not (0 <= one.contour < MOST_CORNERS and one.goal.at == "pivot"):
            raise RuleError(f"{one.name} of {part.name} runs along no contour of a part. Nothing was changed.")
        moments = moments_of(one)
        if list(moments) != sorted(set(moments)) or len(moments) > MOST_CHANGES:
            raise RuleError(
                f"{one.name} of {part.name} changes at one frame after the other, {MOST_CHANGES} times at most. "
                "Nothing was changed."
            )
        ensure_numbers(part, moments)
        ensure_numbers(part, (number for point in own_points(one) for number in point))
        for goal in goals:
            if not _is_there(scene, goal):
                raise RuleError(f"{one.name} of {part.name} would lose its goal. Nothing was changed.")
            ensure_numbers(part, goal.point or ())


def _ensure_numbers_are_own(part: Part) -> None:
    """Numbers of constraints and levers are there only where the part has those."""
    own = set(part.numbers)
    stray = [name for name in (*part.rest, *part.channels, *part.limits) if is_number(name) and name not in own]
    if stray:
        raise RuleError(f"{part.name} has nothing for {channel_kind(stray[0]).label}. Nothing was changed.")


def _ensure_lever(part: Part) -> None:
    if (part.kind == "lever") != (part.lever is not None):
        raise RuleError(f"{part.name} needs a range to be a lever, and has one only then. Nothing was changed.")
    if part.lever is None:
        return
    if not 1 <= len(part.lever.axes) <= MOST_AXES:
        raise RuleError(f"{part.name} has one axis, or two as a pad. Nothing was changed.")
    for axis in part.lever.axes:
        ensure_numbers(part, (axis.low, axis.high, axis.neutral, axis.step))
        if not axis.low <= axis.neutral <= axis.high or axis.low == axis.high or axis.step < 0:
            raise RuleError(
                f"The range of {part.name} goes from a lower to a higher number with neutral within, in steps of 0 or "
                "more. Nothing was changed."
            )


def _has(part: Part, channel: str) -> bool:
    return channel in CHANNELS or channel in part.numbers


def _is_of_shape(part: Part, channel: str) -> bool:
    """Whether a channel moves a shape of the part."""
    return any(channel in numbers_of_shape(drawing.shape) for drawing in part.drawings if drawing.shape is not None)


def _ensure_links(scene: Scene, part: Part) -> None:
    """Links have ids of their own, and join channels that are there."""
    if len(part.links) > MOST_LINKS:
        raise RuleError(f"{part.name} takes {MOST_LINKS} links at most. Nothing was changed.")
    if len({link.id for link in part.links}) != len(part.links):
        raise RuleError(f"Two links of {part.name} would have the same id. Nothing was changed.")
    for link in part.links:
        _ensure_id(link.id)
        source = scene.parts[scene.index[link.source]] if link.source in scene.index else None
        if source is None or not _has(source, link.channel):
            what = "what drives it" if source is None else f"{channel_kind(link.channel).label} of {source.name}"
            raise RuleError(f"A link of {part.name} needs {what}, which is not there. Nothing was changed.")
        if not (_has(part, link.onto) or _is_of_shape(part, link.onto)):
            raise RuleError(f"{part.name} has no {channel_kind(link.onto).label} to drive. Nothing was changed.")
        ensure_numbers(part, (link.amount, *(number for point in link.points for number in point)))
        xs = [x for x, _ in link.points]
        if len(xs) > MOST_POINTS or any(a >= b for a, b in zip(xs, xs[1:], strict=False)):
            raise RuleError(
                f"The curve of a link of {part.name} goes through {MOST_POINTS} points at most, each farther than the "
                "last. Nothing was changed."
            )


def _is_there(scene: Scene, goal: Goal) -> bool:
    """Whether what a goal names is in the scene."""
    if goal.at == "mark":
        return goal.part is None and any(mark.id == goal.named for mark in scene.marks)
    if goal.part not in scene.index or (goal.at == "point") != (goal.point is not None):
        return False
    return goal.at != "eyelet" or scene.part(goal.part).eyelet(goal.named or "") is not None


def _ensure_rest(part: Part) -> None:
    ensure_numbers(part, part.rest.values())
    for name in part.rest:
        if name not in CHANNELS and not is_number(name):
            raise RuleError(f"{channel_kind(name).label} of {part.name} rests in its shape. Nothing was changed.")


def _ensure_own(part: Part) -> None:
    _ensure_id(part.id)
    _ensure_lever(part)
    _ensure_name(part.name, "part")
    if len(part.silenced) > 100 or any(len(name) > 120 for name in part.silenced):
        raise RuleError(f"{part.name} silences at most 100 findings. Nothing was changed.")
    numbers = [*part.pivot, *part.orientation, part.size, *(part.spin_centre or ())]
    for foothold in part.footholds:
        numbers += [foothold.frame, *foothold.point]
    for eyelet in part.eyelets:
        _ensure_id(eyelet.id)
        _ensure_name(eyelet.name, "eyelet")
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
    if "_is_sound" in vars(drawing):
        return
    if drawing.shape is not None:
        ensure_drawable(drawing.shape)
    ensure_numbers(part, [*drawing.box, *drawing.bounds, *drawing.registration])
    _ensure_id(drawing.id)
    _ensure_name(drawing.name, "drawing")
    for left, top, right, bottom in (drawing.box, drawing.bounds):
        if left > right or top > bottom:
            raise RuleError(f"The box of a drawing of {part.name} ends before it begins. Nothing was changed.")
    corners = [number for ring in drawing.outline for corner in ring for number in corner]
    if len(corners) > 2 * MOST_CORNERS or any(len(ring) < 3 for ring in drawing.outline):
        raise RuleError(
            f"An outline of {part.name} has rings of 3 corners and more, {MOST_CORNERS} at most. Nothing was changed."
        )
    ensure_numbers(part, corners)
    vars(drawing)["_is_sound"] = True


def _ensure_id(name: str) -> None:
    if not 1 <= len(name) <= LONGEST_ID or any(ord(letter) < 32 for letter in name):
        raise RuleError(f"An id has 1 to {LONGEST_ID} letters on one line. Nothing was changed.")


def _ensure_channel(part: Part, name: str, channel: Channel, known: Channel | None) -> None:
    """Look at a channel, and at those of its keys that it does not share with the one that was there."""
    if "_is_sound" in vars(channel):  # a channel is frozen, and may have come from elsewhere in the scene
        return
    numbers: list[float] = []
    for key in channel.keys_beside(BARE if known is None else known):
        numbers += (key.frame, key.value, *(key.handle_in or ()), *(key.handle_out or ()))
    if channel.sway:
        numbers += [number for number in vars(channel.sway).values() if number is not None]
        if not (0 <= channel.sway.irregularity <= 1 and channel.sway.fade_in >= 0 and channel.sway.fade_out >= 0):
            raise RuleError(
                f"The sway of {part.name}, {name}, is irregular by 0 to 1 and fades over 0 frames or more. "
                "Nothing was changed."
            )
        if not channel.sway.period >= SHORTEST_PERIOD:
            raise RuleError(
                f"The sway of {part.name}, {name}, needs a period of {SHORTEST_PERIOD} frames or more. "
                "Nothing was changed."
            )
    ensure_numbers(part, numbers)
    if channel.closest_beside(BARE if known is None else known) < CLOSEST_KEYS:
        raise RuleError(f"Two keys of {part.name}, {name}, lie closer than {CLOSEST_KEYS} frames. Nothing was changed.")
    vars(channel)["_is_sound"] = True


def ensure_numbers(part: Part, numbers: Iterable[float]) -> None:
    """RuleError where a number of a part is none, or too large to reckon with."""
    for number in numbers:
        if not -LARGEST <= number <= LARGEST:  # no number compares with what is none
            raise RuleError(
                f"A value of {part.name} would become {number:g}; the largest is {LARGEST:g}. Nothing was changed."
            )
