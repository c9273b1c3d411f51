"""What an edit is, the register of all kinds, and how a list of them is applied."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.soundness.whole_scene import ensure_sound_after

if TYPE_CHECKING:
    from jointed_crane.core.measures.snapping import Snap

#: Every kind of edit by the name it has in the API and the journal.
EDITS: dict[str, type[Edit]] = {}


@dataclass(frozen=True)
class Edit(ABC):
    """One change, as a frozen value.

    Where an edit has a `frame`, it says which state the user works in and sees: None is Rest,
    a number is that frame of the motion.
    """

    kind: ClassVar[str]
    #: Whether it keys values as they are wanted at a frame, so that what was before a first key may be kept.
    KEYS_VALUES: ClassVar[bool] = False

    def __init_subclass__(cls, kind: str = "", **rest: object) -> None:
        super().__init_subclass__(**rest)
        if kind:
            cls.kind = kind
            EDITS[kind] = cls

    @abstractmethod
    def label(self, scene: Scene) -> str:
        """What the user reads in undo: the act and what it was done to."""

    @abstractmethod
    def apply(self, scene: Scene) -> Scene:
        """The scene after the edit. Pure; RuleError where the rules refuse."""

    def remark(self, scene: Scene) -> str | None:
        """What the user is told of it once it is done, where it does more, or other things, than one would think."""
        return None

    def snap(self, scene: Scene) -> Snap | None:
        """The place that a dragged point is drawn to, or None; only edits of points have one."""
        return None


def applied(scene: Scene, edits: Iterable[Edit]) -> Scene:
    """The scene after all edits in turn; either all of them hold or RuleError is raised."""
    return changed_by(scene, edits).after


def changed_by(scene: Scene, edits: Iterable[Edit]) -> SceneChange:
    """What edits in turn change; either all of them hold or RuleError is raised."""
    after = scene
    for edit in edits:
        after = edit.apply(after)
    change = SceneChange(scene, after)
    ensure_sound_after(change)
    return change


def unlocked(scene: Scene, part_ids: Iterable[str]) -> list[Part]:
    """The parts of these ids; RuleError where one is locked or none is named."""
    parts = [scene.part(part_id) for part_id in dict.fromkeys(part_ids)]
    if not parts:
        raise RuleError("No part is picked. Pick one on the stage or in the joint tree first.")
    for part in parts:
        if part.locked:
            raise RuleError(f"{part.name} is locked. Nothing was changed; unlock it in the joint tree first.")
    return parts


def chosen(scene: Scene, part_ids: Iterable[str]) -> list[Part]:
    """The parts of these ids as `unlocked` gives them; none named means all that are not locked."""
    ids = tuple(part_ids)
    return unlocked(scene, ids) if ids else [part for part in scene.parts if not part.locked]


def named(parts: Iterable[Part]) -> str:
    """The parts in a label: one by its name, many by their number."""
    result = list(parts)
    return result[0].name if len(result) == 1 else f"{len(result)} parts"
