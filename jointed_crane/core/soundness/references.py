"""What constraints, levers and links keep: they refer to what is there, change in order, and have ids of their own."""

from __future__ import annotations

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import (
    LONGEST_SCENE,
    MOST_AXES,
    MOST_CHANGES,
    MOST_CONSTRAINTS,
    MOST_CUTS,
    MOST_LINK_POINTS,
    MOST_LINKS,
)
from jointed_crane.core.constraints.constraint import Goal
from jointed_crane.core.model.channels import channel_kind, family_of
from jointed_crane.core.model.levers import CLOSEST_POINTS
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.reshaping import numbers_of_shape
from jointed_crane.core.soundness.names_and_numbers import ensure_id, ensure_name, ensure_numbers


def ensure_constraints(scene: Scene, part: Part) -> None:
    """Constraints have ids of their own, and refer to what is there."""
    _ensure_ids(part, [one.id for one in part.constraints], MOST_CONSTRAINTS, "constraints")
    for one in part.constraints:
        ensure_name(one.name, "constraint")
        goals = one.every_goal()
        if fault := one.fault():
            raise RuleError(f"{one.name} of {part.name} {fault}. Nothing was changed.")
        moments = one.moments()
        if list(moments) != sorted(set(moments)) or len(moments) > MOST_CHANGES:
            raise RuleError(
                f"{one.name} of {part.name} changes at one frame after the other, {MOST_CHANGES} times at most. "
                "Nothing was changed."
            )
        ensure_numbers(part, moments)
        ensure_numbers(part, (number for point in one.own_points() for number in point))
        for goal in goals:
            if not is_there(scene, goal):
                raise RuleError(f"{one.name} of {part.name} would lose its goal. Nothing was changed.")
            ensure_numbers(part, goal.point or ())


def ensure_numbers_are_own(part: Part) -> None:
    """Numbers of constraints and levers are there only where the part has those."""
    own = set(part.numbers)
    stray = [
        name
        for name in (*part.rest, *part.channels, *part.limits)
        if family_of(name).moves == "number" and name not in own
    ]
    if stray:
        raise RuleError(f"{part.name} has nothing for {channel_kind(stray[0]).label}. Nothing was changed.")


def ensure_lever(part: Part) -> None:
    """A lever has axes with ranges, and nothing else has."""
    if part.kind == "lever" and part.lever is None:
        raise RuleError(
            f"{part.name} is a lever without a range. Nothing was changed; give it a lowest and a highest value."
        )
    if part.lever is None:
        return
    if part.kind != "lever":
        raise RuleError(f"{part.name} is no lever, so it has no range of one. Nothing was changed.")
    if not 1 <= len(part.lever.axes) <= MOST_AXES:
        raise RuleError(f"{part.name} has one axis, or two as a pad. Nothing was changed.")
    for axis in part.lever.axes:
        ensure_numbers(part, (axis.low, axis.high, axis.neutral, axis.step))
        if not axis.low <= axis.neutral <= axis.high or axis.low == axis.high or axis.step < 0:
            raise RuleError(
                f"The range of {part.name} goes from a lower to a higher number with neutral within, in steps of 0 or "
                "more. Nothing was changed."
            )


def ensure_camera(part: Part) -> None:
    """A camera says how it sees, and nothing else does."""
    if (part.kind == "camera") != (part.camera is not None):
        raise RuleError(f"{part.name} says how a camera sees and is none, or the other way round. Nothing was changed.")
    if part.camera is not None:
        ensure_numbers(part, (part.camera.near,))
        if not part.camera.near > 1e-3:
            raise RuleError(f"The near plane of {part.name} lies more than 0.001 px before it. Nothing was changed.")


def ensure_cuts(scene: Scene) -> None:
    """Cuts stand in order, one on a frame, and name cameras that are there."""
    frames = [cut.frame for cut in scene.cuts]
    if len(frames) > MOST_CUTS or frames != sorted(set(frames)):
        raise RuleError(f"A scene has at most {MOST_CUTS} cuts, one on a frame and in order. Nothing was changed.")
    for cut in scene.cuts:
        if not 0 <= cut.frame <= LONGEST_SCENE:
            raise RuleError(f"A cut stands between frame 0 and {LONGEST_SCENE}. Nothing was changed.")
        if cut.camera is not None and (cut.camera not in scene.index or scene.part(cut.camera).camera is None):
            raise RuleError("A cut would lose its camera. Nothing was changed; take the cut away first.")


def ensure_links(scene: Scene, part: Part) -> None:
    """Links have ids of their own, and join channels that are there."""
    _ensure_ids(part, [link.id for link in part.links], MOST_LINKS, "links")
    for link in part.links:
        source = scene.parts[scene.index[link.source]] if link.source in scene.index else None
        if source is None or not (_has(source, link.channel) or _is_of_shape(source, link.channel)):
            what = "what drives it" if source is None else f"{channel_kind(link.channel).label} of {source.name}"
            raise RuleError(f"A link of {part.name} needs {what}, which is not there. Nothing was changed.")
        if not (_has(part, link.onto) or _is_of_shape(part, link.onto)):
            raise RuleError(f"{part.name} has no {channel_kind(link.onto).label} to drive. Nothing was changed.")
        ensure_numbers(part, (link.amount, *(number for point in link.points for number in point)))
        xs = [x for x, _ in link.points]
        if len(xs) > MOST_LINK_POINTS or any(b - a < CLOSEST_POINTS for a, b in zip(xs, xs[1:], strict=False)):
            raise RuleError(
                f"The curve of a link of {part.name} goes through {MOST_LINK_POINTS} points at most, each farther than "
                "the last. Nothing was changed."
            )


def _ensure_ids(part: Part, ids: list[str], most: int, what: str) -> None:
    """There are not too many of a part's things, and each has an id of its own."""
    if len(ids) > most:
        raise RuleError(f"{part.name} takes {most} {what} at most. Nothing was changed.")
    if len(set(ids)) != len(ids):
        raise RuleError(f"Two {what} of {part.name} would have the same id. Nothing was changed.")
    for one in ids:
        ensure_id(one)


def _has(part: Part, channel: str) -> bool:
    return family_of(channel).is_everywhere or channel in part.numbers


def _is_of_shape(part: Part, channel: str) -> bool:
    """Whether a channel moves a shape of the part."""
    return any(channel in numbers_of_shape(drawing.shape) for drawing in part.drawings if drawing.shape is not None)


def is_there(scene: Scene, goal: Goal) -> bool:
    """Whether what a goal names is in the scene."""
    if goal.at == "mark":
        return goal.part is None and any(mark.id == goal.named for mark in scene.marks)
    if goal.part not in scene.index or (goal.at == "point") != (goal.point is not None):
        return False
    return goal.at != "eyelet" or scene.part(goal.part).eyelet(goal.named or "") is not None
