"""The way back: the numbers that put a part where an edit wants it, through all that its constraints make of it.

A constraint says which of its numbers bring its part's place, turn and size (`Constraint.BACK`), and which goals are
led in its stead. Those of the last that has a say are changed, what they leave is left to the ones before, and at the
end to the part's own values. How much of each is found by Newton's method on what is shown, so that weights,
carriers, links, mirrors and tilted parents are met by whatever they make of it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.constraint import Constraint, number_channel
from jointed_crane.core.constraints.every import NUMBERS
from jointed_crane.core.edits.shared.places import in_parent
from jointed_crane.core.edits.shared.values_on_screen import NewValue, value_on_screen, with_value
from jointed_crane.core.evaluate.pose_at_frame import narrowed, pivot_at, world_at
from jointed_crane.core.geometry.plane import shortest
from jointed_crane.core.model.channels import channel_kind, family_of
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.editing import raised
from jointed_crane.core.viewing.projection import origin_of, seen_linear_of

Floats = npt.NDArray[np.float64]
#: What of a part is brought: where its pivot, or its art's zero, lies; its turn; its sizes along its own axes.
Aspect = Literal["place", "zero", "turn", "size"]
#: How a number is changed: as a user sets it, or for all frames alike.
Manner = Literal["shown", "throughout"]

#: What is nearer than this share of its size to where it is wanted has come there.
_NEAR = 1e-11
#: An unknown that moves what is shown by less has no say, px for a unit.
_NO_SAY = 1e-7
#: Newton's steps; those after the first are for what goes by curves.
_STEPS = 12
#: What steps would still make better by less than this share is as good as it gets.
_LEVEL = 1e-6
#: A step that is this share of the greatest is one by chance: what lies flat is not to leave its plane by it.
_CHANCE = 1e-14
#: How much of one of them is tried, while the whole of it leads away.
_SHARES = (1.0, 0.4, 0.15, 0.05)
#: A place has a say in where something points, and the other way round: each is brought by itself, then all together.
_ROUNDS = 2
#: How far each channel is moved to see what that does.
_PROBE = {"share": 1e-3, "along": 1e-5, "scalex": 1e-3, "scaley": 1e-3}


@dataclass(frozen=True)
class Handle:
    """One unknown: how much of it each channel takes, by part id and channel; and how far it is moved to see."""

    takes: tuple[tuple[str, str, float], ...]
    probe: float = 1.0


def is_placed_by_constraints(part: Part) -> bool:
    """Whether constraints have a say in how a part lies, so that its own values alone do not bring it anywhere."""
    return any(one.is_on for one in part.constraints)


def is_moved_by_constraints(part: Part) -> bool:
    """Whether constraints have a say in where a part's pivot lies, be it by how they turned it where it stood."""
    return any(one.is_on and (one.MOVES or part.footholds) for one in part.constraints)


def aspect_at(scene: Scene, part_id: str, frame: float | None, aspect: Aspect) -> Floats:
    """What is shown of a part: a place on the stage, px, shape (3,); its turn, radians, shape (1,); the logarithms of
    its sizes, shape (2,).
    """
    if aspect == "place":
        return pivot_at(scene, part_id, frame)
    world = world_at(scene, part_id, frame)
    if aspect == "zero":
        return origin_of(world)
    linear = seen_linear_of(world)
    if aspect == "turn":
        return np.asarray(np.arctan2(linear[1:, 0], linear[:1, 0]))
    with np.errstate(divide="ignore"):
        return np.asarray(np.log(np.linalg.norm(linear, axis=0)))


def brought(
    scene: Scene,
    part_id: str,
    wanted: Mapping[Aspect, Floats],
    frame: float | None,
    manner: Manner,
    is_exact: bool = True,
    may_lead: bool = True,
) -> Scene:
    """The scene with a part brought where it is wanted; goals are led to that end only where they may be.

    Raises RuleError with the names of the constraints where no number brings it there; without `is_exact` it comes as
    near as they let it.
    """
    # Nothing else has a say in where it lies, and each step asks what has.
    whole, scene = scene, narrowed(scene, [part_id])
    aim = _Aim(part_id, wanted, frame, manner)
    used: dict[Handle, None] = {}
    for _ in range(_ROUNDS if len(wanted) > 1 else 1):
        for aspect in wanted:
            for handles in groups(scene, scene.part(part_id), aspect, frame, manner):
                if aim.is_near(aim.off(scene, aspect), aspect):
                    break
                if handles and (may_lead or all(part == part_id for part, _, _ in handles[0].takes)):
                    scene, has_a_say = aim.newton(scene, handles, [aspect])
                    used.update(dict.fromkeys(handles) if has_a_say else {})
        if len(wanted) > 1 and used and not aim.is_there(scene):
            scene, _ = aim.newton(scene, list(used), [*wanted])
        if aim.is_there(scene):
            return _given_to(whole, scene)
    if is_exact:
        part = scene.part(part_id)
        names = ", ".join(one.name for one in part.constraints if one.is_on)
        raise RuleError(
            f"{part.name} is placed by {names or 'what it hangs on'}, and none of their numbers puts it there. "
            "Nothing was changed; change their goals, or take them off first."
        )
    return _given_to(whole, scene)


def _given_to(whole: Scene, some: Scene) -> Scene:
    """A scene with those of its parts that were changed in a scene of some of them."""
    return whole.with_parts([part for part in some.parts if part is not whole.part(part.id)])


def values_that_bring(
    scene: Scene, part: Part, wanted: Mapping[Aspect, Floats], frame: float | None
) -> Iterator[NewValue]:
    """What is to be set, as a user sets it, so that a part comes where it is wanted, or as near as it can."""
    yield from values_between(scene, brought(scene, part.id, wanted, frame, "shown", is_exact=False), frame)


def values_between(before: Scene, after: Scene, frame: float | None) -> Iterator[NewValue]:
    """The values that one scene shows otherwise than another, where nothing but values has changed."""
    for part in after.parts:
        known = before.part(part.id)
        if known is part:
            continue
        names = (*part.rest, *part.channels) if frame is None else tuple(part.channels)
        for channel in dict.fromkeys(names):
            value = value_on_screen(part, channel, frame)
            if value != value_on_screen(known, channel, frame):
                yield known, channel, value


def turned_by(scene: Scene, part: Part, degrees: float, frame: float | None) -> Scene | None:
    """The scene with a part turned by degrees as seen on the stage, whole turns included, by the number that has a say
    in its turn; None where none has.
    """
    now = aspect_at(scene, part.id, frame, "turn")
    for handles in groups(scene, part, "turn", frame, "shown"):
        for handle in handles[:1]:
            probed = with_steps(scene, [(handle, handle.probe)], frame, "shown")
            by = shortest(aspect_at(probed, part.id, frame, "turn") - now)
            felt = float(by[0]) / handle.probe
            if abs(felt) > _NO_SAY:
                return with_steps(scene, [(handle, float(np.deg2rad(degrees)) / felt)], frame, "shown")
    return None


@dataclass(frozen=True)
class _Aim:
    """Where a part is wanted, and how that is come to."""

    part_id: str
    wanted: Mapping[Aspect, Floats]
    frame: float | None
    manner: Manner

    def off(self, scene: Scene, *aspects: Aspect) -> Floats:
        """How far what is shown is from what is wanted, one aspect after the other."""
        result = []
        for aspect in aspects:
            off = self.wanted[aspect] - aspect_at(scene, self.part_id, self.frame, aspect)
            if aspect == "turn":
                off = shortest(off)
            if aspect in ("place", "zero"):
                off = off[: _axes(scene)]
            result.append(np.nan_to_num(off, posinf=0.0, neginf=0.0))
        return np.concatenate(result)

    def is_near(self, off: Floats, aspect: Aspect, times: float = 1.0) -> bool:
        """Whether an aspect is off by nothing but rounding."""
        size = max(1.0, float(np.abs(self.wanted[aspect]).max())) if aspect in ("place", "zero") else 1.0
        return bool(np.abs(off).max() <= times * _NEAR * size)

    def is_there(self, scene: Scene) -> bool:
        """Whether all aspects are as wanted."""
        return all(self.is_near(self.off(scene, aspect), aspect, 100) for aspect in self.wanted)

    def newton(self, scene: Scene, handles: list[Handle], aspects: list[Aspect]) -> tuple[Scene, bool]:
        """The scene with unknowns changed until nothing is off, or as little as they can make it; and whether they have
        a say.
        """
        best, now = scene, self.off(scene, *aspects)
        for step in range(_STEPS):
            felt = np.stack([self._felt(best, now, each, aspects) for each in handles], axis=-1)
            if not np.abs(felt).max() > _NO_SAY:
                return best, step > 0
            amounts, *_ = np.linalg.lstsq(felt, now, rcond=1e-9)
            amounts = np.where(np.abs(amounts) > _CHANCE * np.abs(amounts).max(), amounts, 0.0)
            if np.linalg.norm(felt @ amounts) <= _LEVEL * np.linalg.norm(now):
                break  # as near as these can come
            for share in _SHARES:
                steps = zip(handles, (share * amounts).tolist(), strict=True)
                tried = with_steps(best, steps, self.frame, self.manner)
                left = self.off(tried, *aspects)
                if np.linalg.norm(left) < np.linalg.norm(now) * (1 - 1e-3):
                    break
            else:
                break
            best, now = tried, left
            if all(self.is_near(self.off(best, aspect), aspect) for aspect in aspects):
                break
        return best, True

    def _felt(self, scene: Scene, now: Floats, handle: Handle, aspects: list[Aspect]) -> Floats:
        """What one unit of an unknown does to what is off."""
        probed = with_steps(scene, [(handle, handle.probe)], self.frame, self.manner)
        return np.asarray((now - self.off(probed, *aspects)) / handle.probe)


def groups(scene: Scene, part: Part, aspect: Aspect, frame: float | None, manner: Manner) -> Iterator[list[Handle]]:
    """The unknowns that bring an aspect of a part: numbers of the last constraint first, the part's own values after
    all of them. Goals that are led are moved by a hand first of all, and otherwise only where nothing else has a say,
    since others may go by them too.
    """
    is_place = aspect in ("place", "zero")
    acting = [one for one in reversed(part.constraints) if one.is_on]
    led = [_of_goals(scene, one, frame) for one in acting if is_place and one.led(frame)]
    if manner == "shown":
        yield from led
    for one in acting:
        names = [name for name in one.back("place" if is_place else aspect) if name in one.numbers()]
        names = names if scene.depth else [name for name in names if not NUMBERS[name].is_deep]
        if names:
            yield [Handle(((part.id, number_channel(one.id, name), 1.0),), _PROBE.get(name, 1.0)) for name in names]
    own = _own_places(scene, part, frame) if is_place else _own(part, aspect)
    if own:
        yield own
    if manner == "throughout":
        yield from led


def _axes(scene: Scene) -> int:
    """How many axes of the stage places are brought along."""
    return 3 if scene.depth else 2


def _of_goals(scene: Scene, one: Constraint, frame: float | None) -> list[Handle]:
    """Its goals moved together along the stage's axes; marks are nobody's to move."""
    parts = [scene.part(goal.part) for goal in one.led(frame) if goal.part is not None]
    if not parts or any(part.locked for part in parts):
        return []
    every = [_own_places(scene, part, frame) for part in parts]
    return [
        Handle(tuple(take for handles in every if handles for take in handles[axis].takes))
        for axis in range(_axes(scene))
    ]


def _own_places(scene: Scene, part: Part, frame: float | None) -> list[Handle]:
    """The part's own place moved along the stage's axes."""
    result = []
    for way in np.eye(3)[: _axes(scene)]:
        step = in_parent(scene, part, way, frame)
        takes = ((part.id, f"move.{axis}", float(by)) for axis, by in zip("xyz", step, strict=True))
        result.append(Handle(tuple(take for take in takes if take[2] and take[1] not in part.fixed)))
    return result


def _own(part: Part, aspect: Aspect) -> list[Handle]:
    names = {"turn": ("turn.z",), "size": ("scale.x", "scale.y")}[aspect]
    return [Handle(((part.id, name, 1.0),), 1e-3) for name in names if name not in part.fixed]


def with_steps(scene: Scene, steps: Iterable[tuple[Handle, float]], frame: float | None, manner: Manner) -> Scene:
    """The scene with unknowns changed: amounts are added, and multiply what is multiplied (by 1 and the amount)."""
    changed: dict[str, Part] = {}
    for handle, amount in steps:
        for part_id, channel, share in handle.takes if amount else ():
            part = changed.get(part_id) or scene.part(part_id)
            changed[part_id] = _stepped(part, channel, amount * share, frame, manner)
    return scene.with_parts(changed.values())


def _stepped(part: Part, channel: str, by: float, frame: float | None, manner: Manner) -> Part:
    multiplies = channel_kind(channel).joins == "multiply"
    if manner == "shown" or frame is None:
        now = value_on_screen(part, channel, frame)
        return with_value(part, channel, now * (1 + by) if multiplies else now + by, frame)
    now = part.rest_value(channel)
    if family_of(channel).moves == "number" and channel in part.channels:
        part = part.with_channel(channel, raised(part.channels[channel], by))
    return part.with_rest({channel: now * (1 + by) if multiplies else now + by})
