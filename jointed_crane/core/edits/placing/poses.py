"""Edits of where parts lie: turns, moves, scales and typed values, at rest or as keys at a frame."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.edits.shared.edit import named, unlocked
from jointed_crane.core.edits.shared.places import art_place, in_parent, parent_linear
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.edits.shared.turns_in_space import turned_about
from jointed_crane.core.edits.shared.values_on_screen import NewValue, value_on_screen, within_ends, within_limits
from jointed_crane.core.edits.shared.way_back import (
    is_moved_by_constraints,
    is_placed_by_constraints,
    turned_by,
    values_between,
    values_that_bring,
)
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.hierarchy.tree import uppermost
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import in_art_space, inverse_of, linear_of, steps_in_space
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]
#: The smallest step in which turns can be made, degrees.
FINEST_STEP = 0.01

#: In which sense turns of parts are seen at the last frame that was asked for, by their ids.
_SENSES: Memory[dict[str, int]] = Memory()


def when(frame: float | None) -> str:
    return "at rest" if frame is None else f"at frame {frame:g}"


def stepped(part: Part, steps: Mapping[str, float], frame: float | None, past_limits: bool) -> Iterator[NewValue]:
    """Values shown with steps added to them; fixed channels and steps of nothing leave no trace."""
    for channel, by in steps.items():
        if abs(by) > 1e-12 and channel not in part.fixed:
            value = value_on_screen(part, channel, frame) + by
            yield part, channel, within_limits(part, channel, value, frame, past_limits)


def turned(
    scene: Scene, part: Part, degrees: float, frame: float | None, past_limits: bool = False
) -> Iterator[NewValue]:
    """The part turned about its own pivot by degrees as seen on the stage; `scene` says how its parent lies."""
    result = turned_by(scene, part, degrees, frame) if is_placed_by_constraints(part) else None
    if result is not None:
        yield from _within(values_between(scene, result, frame), frame, past_limits)
        return
    yield from stepped(part, {"turn.z": sense_of_turns(scene, part, frame) * degrees}, frame, past_limits)


def sense_of_turns(scene: Scene, part: Part, frame: float | None) -> int:
    """The sign of the turn that is seen clockwise: under a mirrored parent a positive one is seen the other way."""
    if part.parent is None:
        return 1
    held = _SENSES.of(scene, dict, frame)
    sense = held.get(part.id)
    if sense is None:
        above = parent_linear(scene, part, frame)
        sense = held[part.id] = -1 if above[0, 0] * above[1, 1] < above[0, 1] * above[1, 0] else 1
    return sense


def moved(scene: Scene, part: Part, by: Floats, frame: float | None, past_limits: bool = False) -> Iterator[NewValue]:
    """The part moved by a step in space, px, shape (3,); `scene` says how its parent lies. What constraints place is
    moved by their numbers, as far as they let it.
    """
    if is_moved_by_constraints(part):
        there = pivot_at(scene, part.id, frame) + by
        result = [*_within(values_that_bring(scene, part, {"place": there}, frame), frame, past_limits)]
        if result:
            yield from result
            return
    step = in_parent(scene, part, by, frame)
    yield from stepped(
        part, {f"move.{axis}": float(by) for axis, by in zip("xyz", step, strict=True)}, frame, past_limits
    )


def _within(values: Iterable[NewValue], frame: float | None, past_limits: bool) -> Iterator[NewValue]:
    for part, channel, value in values:
        yield part, channel, within_limits(part, channel, value, frame, past_limits)


def scaled(
    part: Part, factors: tuple[float, float], frame: float | None, past_limits: bool = False
) -> Iterator[NewValue]:
    """The part with its scales multiplied."""
    for channel, factor in zip(("scale.x", "scale.y"), factors, strict=True):
        if factor != 1.0 and channel not in part.fixed:
            value = value_on_screen(part, channel, frame) * factor
            yield part, channel, within_limits(part, channel, value, frame, past_limits)


@dataclass(frozen=True)
class SetValues(ValueEdit, kind="set_values"):
    """Set channels of parts: rest values in Rest, keys at the frame in Motion; no other channel is touched.

    A fixed channel is refused. `past_limits` goes beyond a range on purpose, but nothing is more than opaque.
    """

    parts: tuple[str, ...]
    values: Mapping[str, float]
    frame: float | None = None
    past_limits: bool = False

    def label(self, scene: Scene) -> str:
        what = ", ".join(f"{channel_kind(name).label} {value:g}" for name, value in self.values.items())
        return f"{named(scene.part(part_id) for part_id in self.parts)}: {what} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        for part in unlocked(scene, self.parts):
            for channel, value in self.values.items():
                if channel in part.fixed:
                    raise RuleError(
                        f"{channel_kind(channel).label} of {part.name} is fixed. Nothing was changed; free it first."
                    )
                value = within_ends(part, channel, value, self.frame)
                yield part, channel, within_limits(part, channel, value, self.frame, self.past_limits)


@dataclass(frozen=True)
class TurnBy(ValueEdit, kind="turn_by"):
    """Turn parts about their own pivots by degrees as seen on the stage (positive is clockwise); never wrapped.

    With a `step` other than 0 the turn of the last of them comes to the nearest multiple of it, in degrees; the others
    turn by as much. In depth `about` says what they turn about: "x", "y" and "z" are their own turns, "sight" the
    line of sight of a `view` onto each.
    """

    parts: tuple[str, ...]
    degrees: float
    frame: float | None = None
    past_limits: bool = False
    step: float = 0.0
    about: Literal["stage", "x", "y", "z", "sight"] = "stage"
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Turn {named(scene.part(part_id) for part_id in self.parts)} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        parts = unlocked(scene, self.parts)
        if self.step and not FINEST_STEP <= self.step <= 360:
            raise RuleError(f"A step of turns lies between {FINEST_STEP} and 360 degrees. Nothing was changed.")
        degrees = self._stepped(scene, parts[-1]) if self.step else self.degrees
        for part in parts:
            if self.about == "stage":
                yield from turned(scene, part, degrees, self.frame, self.past_limits)
            elif self.about == "sight":
                values = turned_about(scene, part, self._sight(scene, part), degrees, self.frame)
                yield from _within(values, self.frame, self.past_limits)
            else:
                yield from stepped(part, {f"turn.{self.about}": degrees}, self.frame, self.past_limits)

    def _sight(self, scene: Scene, part: Part) -> Floats:
        """The line of sight onto a part's pivot, towards whoever looks: a turn about it is seen clockwise."""
        return -self.view.sight_of(pivot_at(scene, part.id, self.frame))

    def _stepped(self, scene: Scene, part: Part) -> float:
        if self.about == "sight":
            return round(self.degrees / self.step) * self.step
        sign = sense_of_turns(scene, part, self.frame) if self.about == "stage" else 1
        shown = value_on_screen(part, f"turn.{'z' if self.about == 'stage' else self.about}", self.frame)
        return sign * (round((shown + sign * self.degrees) / self.step) * self.step - shown)


@dataclass(frozen=True)
class MoveBy(ValueEdit, kind="move_by"):
    """Move parts by px of a view, in its plane. Of parts that hang on each other only the uppermost move; the rest
    follow.
    """

    parts: tuple[str, ...]
    by: tuple[float, float]
    frame: float | None = None
    past_limits: bool = False
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Move {named(scene.part(part_id) for part_id in self.parts)} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        for part_id in uppermost(scene, [part.id for part in unlocked(scene, self.parts)]):
            by = steps_in_space(self.by, pivot_at(scene, part_id, self.frame), self.view)
            yield from moved(scene, scene.part(part_id), by, self.frame, self.past_limits)


@dataclass(frozen=True)
class MoveAlong(ValueEdit, kind="move_along"):
    """Move parts by px along an axis: of the stage, of what each hangs on ("parent", by its move), or its own ("own",
    by its slide). Of parts that hang on each other only the uppermost move; the rest follow.
    """

    parts: tuple[str, ...]
    axis: Literal["x", "y", "z"]
    px: float
    of: Literal["stage", "parent", "own"] = "stage"
    frame: float | None = None
    past_limits: bool = False

    def label(self, scene: Scene) -> str:
        return f"Move {named(scene.part(part_id) for part_id in self.parts)} along {self.axis} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        for part_id in uppermost(scene, [part.id for part in unlocked(scene, self.parts)]):
            part = scene.part(part_id)
            if self.of == "stage":
                by = np.where(np.array(["x", "y", "z"]) == self.axis, self.px, 0.0)
                yield from moved(scene, part, by, self.frame, self.past_limits)
            else:
                family = "move" if self.of == "parent" else "slide"
                yield from stepped(part, {f"{family}.{self.axis}": self.px}, self.frame, self.past_limits)


@dataclass(frozen=True)
class ScaleBy(ValueEdit, kind="scale_by"):
    """Multiply the scales of parts about their own pivots, along their own axes."""

    parts: tuple[str, ...]
    factors: tuple[float, float]
    frame: float | None = None
    past_limits: bool = False

    def label(self, scene: Scene) -> str:
        return f"Scale {named(scene.part(part_id) for part_id in self.parts)} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        for part in unlocked(scene, self.parts):
            yield from scaled(part, self.factors, self.frame, self.past_limits)


@dataclass(frozen=True)
class ScaleToward(ValueEdit, kind="scale_toward"):
    """Scale parts as a hand does that takes the first one at `start` and pulls to `now` (both px of a view).

    Along x or y the factor is the ratio of the distances from the pivot along the part's own axis; with "both" it is
    the share of the pull along the line from the pivot to `start`. Every part takes the same factors.
    """

    parts: tuple[str, ...]
    start: tuple[float, float]
    now: tuple[float, float]
    axes: Literal["x", "y", "both"] = "both"
    frame: float | None = None
    past_limits: bool = False
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Scale {named(scene.part(part_id) for part_id in self.parts)} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        return ScaleBy(self.parts, self.factors(scene), self.frame, self.past_limits).new_values(scene)

    def factors(self, scene: Scene) -> tuple[float, float]:
        """Factors of the scale along the part's own x and y."""
        part = scene.part(unlocked(scene, self.parts)[0].id)
        start, now = self._arms(scene, part)
        if self.axes == "both":
            reach = float(start[:2] @ start[:2])
            factor = float(now[:2] @ start[:2]) / reach if reach > 1e-12 else float("nan")
            result = (factor, factor)
        else:
            axis = "xy".index(self.axes)
            factor = float(now[axis] / start[axis]) if abs(start[axis]) > 1e-9 else float("nan")
            result = (factor, 1.0) if axis == 0 else (1.0, factor)
        if not all(np.isfinite(result)):
            raise RuleError(f"The pull on {part.name} starts on its pivot, so there is no distance to scale.")
        return result

    def _arms(self, scene: Scene, part: Part) -> list[Floats]:
        """From the pivot to where the hand took hold and to where it is, px in the art."""
        pivot = pivot_at(scene, part.id, self.frame)
        if scene.depth:
            x, y, z = in_art_space(world_at(scene, part.id, self.frame), pivot, part).tolist()
            places = (art_place(scene, part, at, z, self.frame, self.view) for at in (self.start, self.now))
            return [np.subtract(place, (x, y, z)) for place in places]
        stage_to_art = inverse_of(linear_of(world_at(scene, part.id, self.frame)), part)
        return [stage_to_art @ (np.array([*at, pivot[2]]) - pivot) for at in (self.start, self.now)]
