"""Edits of when keys stand: moved, stretched, played backwards, one part after the other."""

from __future__ import annotations

import random
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import accumulate
from typing import Literal

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.time.going_along import steps_retimed, steps_turned_round, with_all_steps_retimed
from jointed_crane.core.edits.time.keys import KeyAt, with_keys_changed
from jointed_crane.core.evaluate.pose_at_frame import pivot_at
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.editing import moved, rounded, stretched, turned_round

#: In which order parts follow each other: as they were picked, down the joint tree, from left to right or from above
#: by where their pivots lie at rest, or shuffled.
Succession = Literal["picked", "tree", "across", "down", "shuffled"]


@dataclass(frozen=True)
class MoveKeys(Edit, kind="move_keys"):
    """Move keys in time. A key that lands on another of its channel takes its place; handles travel along, and so does
    what takes hold of a part from their frames on.
    """

    keys: tuple[KeyAt, ...]
    by: float

    def label(self, scene: Scene) -> str:
        return f"Move {counted(len(self.keys), 'key')} by {self.by:+g} frames"

    def apply(self, scene: Scene) -> Scene:
        return with_keys_changed(
            scene,
            self.keys,
            lambda channel, frames: moved(channel, frames, self.by),
            steps_retimed(lambda frame: frame + self.by),
        )


@dataclass(frozen=True)
class StretchKeys(Edit, kind="stretch_keys"):
    """Stretch keys in time about a frame by a factor above 0; their handles are stretched alike.

    With `is_whole` each comes to the whole frame nearest to where the stretch takes it.
    """

    keys: tuple[KeyAt, ...]
    about: float
    factor: float
    is_whole: bool = False

    def label(self, scene: Scene) -> str:
        return f"Stretch {counted(len(self.keys), 'key')} to {self.factor:.0%}"

    def apply(self, scene: Scene) -> Scene:
        if self.factor <= 0:
            raise RuleError(
                f"Keys are stretched by a factor above 0, not by {self.factor:g}. Nothing was changed; "
                "reverse them where they are to run backwards."
            )
        return with_keys_changed(
            scene,
            self.keys,
            lambda channel, frames: stretched(channel, frames, self.about, self.factor, self.is_whole),
            steps_retimed(lambda frame: rounded(self.about + (frame - self.about) * self.factor, self.is_whole)),
        )


@dataclass(frozen=True)
class ReverseKeys(Edit, kind="reverse_keys"):
    """Turn keys round in time between the first and the last of them all: the same motion backwards."""

    keys: tuple[KeyAt, ...]

    def label(self, scene: Scene) -> str:
        return f"Reverse {counted(len(self.keys), 'key')}"

    def apply(self, scene: Scene) -> Scene:
        ends = _ends(key.frame for key in self.keys)
        return with_keys_changed(
            scene,
            self.keys,
            lambda channel, frames: turned_round(channel, frames, ends),
            steps_turned_round(ends),
        )


@dataclass(frozen=True)
class Stagger(Edit, kind="stagger"):
    """Let parts follow each other: all keys of each are shifted a step of frames farther than those of the one before
    it; the first stays. A negative step shifts back.

    With `share` the step is so much of the time from the first to the last key of the one before: at 0.8 each sets out
    when the one before is almost done. With `is_whole` each shift comes to a whole frame.
    """

    parts: tuple[str, ...]
    step: float = 0.0
    share: float | None = None
    order: Succession = "picked"
    seed: int = 0
    is_whole: bool = True

    def label(self, scene: Scene) -> str:
        by = f"{self.step:+g} frames" if self.share is None else f"{self.share:.0%} of their moves"
        return f"Stagger {named(scene.part(part_id) for part_id in self.parts)} by {by}"

    def apply(self, scene: Scene) -> Scene:
        parts = self._in_order(scene)
        if not any(channel.keys for part in parts for channel in part.channels.values()):
            raise RuleError("None of these parts has keys to stagger. Nothing was changed; set keys first.")
        shifts = accumulate((self._step_after(part) for part in parts[:-1]), initial=0.0)
        return scene.with_parts(
            _shifted(part, rounded(by, self.is_whole)) for part, by in zip(parts, shifts, strict=True)
        )

    def _step_after(self, part: Part) -> float:
        if self.share is None:
            return self.step
        first, last = _ends(frame for channel in part.channels.values() for frame in channel.frames)
        return self.share * (last - first)

    def _in_order(self, scene: Scene) -> list[Part]:
        parts = unlocked(scene, self.parts)
        if self.order == "tree":
            places = {part_id: place for place, part_id in enumerate(_down_the_tree(scene))}
            return sorted(parts, key=lambda part: places[part.id])
        if self.order in ("across", "down"):
            axis = ("across", "down").index(self.order)
            return sorted(parts, key=lambda part: float(pivot_at(scene, part.id, None)[axis]))
        if self.order == "shuffled":
            random.Random(self.seed).shuffle(parts)
        return parts


def _ends(frames: Iterable[float]) -> tuple[float, float]:
    result = list(frames)
    return (min(result, default=0.0), max(result, default=0.0))


def _shifted(part: Part, by: float) -> Part:
    """All keys of a part so much later, with all that takes hold of it from a frame on."""
    if not by:
        return part
    for name, channel in part.channels.items():
        if channel.keys:
            part = part.with_channel(name, moved(channel, frozenset(channel.frames), by))
    return with_all_steps_retimed(part, lambda frame: frame + by)


def _down_the_tree(scene: Scene) -> Iterator[str]:
    """Ids as the joint tree lists them: nearest to the viewer first, each with what hangs on it below."""
    waiting = list(scene.children.get(None, ()))
    while waiting:
        part = waiting.pop()
        yield part.id
        waiting += scene.children.get(part.id, ())
