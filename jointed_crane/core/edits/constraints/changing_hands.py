"""Edits of what takes hold of a part from a frame on: who carries it, and whether it reaches or is turned."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import listed
from jointed_crane.core.constraints.carry import Carry, Hold
from jointed_crane.core.constraints.constraint import Constraint, of_kind
from jointed_crane.core.constraints.reach import ReachChange
from jointed_crane.core.edits.constraints.constraining import RemoveConstraint, constraint_of
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.named_things import exchanged_for
from jointed_crane.core.edits.shared.values_on_screen import with_key_here
from jointed_crane.core.hierarchy.chains import chains_of
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import BARE
from jointed_crane.core.motion.editing import rounded


@dataclass(frozen=True)
class CarryFrom(Edit, kind="carry_from"):
    """From a frame on have a part carried by another, or by none, until the next such frame; it never jumps there.

    The part gets a constraint of this id where it has none that carries it.
    """

    part: str
    by: str | None
    frame: float
    id: str

    def label(self, scene: Scene) -> str:
        name = scene.part(self.part).name
        if self.by is None:
            return f"Put down {name} at frame {self.frame:g}"
        return f"{scene.part(self.by).name} carries {name} from frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = next(iter(of_kind(part.constraints, Carry)), None)
        if known is None:
            name = free_name("Carry", (other.name for other in part.constraints))
            made: Carry = Carry(id=self.id, name=name, holds=(Hold(self.frame, self.by),))
            return scene.with_parts([replace(part, constraints=(*part.constraints, made))])
        return _with(scene, part, known, known.changing_by((*known.holds, Hold(self.frame, self.by))))


@dataclass(frozen=True)
class MatchReach(Edit, kind="match_reach"):
    """From a frame on have a chain reach again, or have its joints turned by hand, from the pose that it has there.

    The pose at that frame is matched whatever is edited before it. Where hands take over, the turns of the joints get
    keys there that change nothing, so that what is turned later turns from that pose on and nothing before it moves.
    """

    part: str
    constraint: str
    to: Literal["reach", "turn"]
    frame: float

    def label(self, scene: Scene) -> str:
        what = "reaches" if self.to == "reach" else "is turned by hand"
        return f"{scene.part(self.part).name} {what} from frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = constraint_of(part, self.constraint)
        if not known.turns_joints:
            raise RuleError(f"{known.name} of {part.name} does not reach. Nothing was changed.")
        before = [change.to for change in known.every_change() if change.frame < self.frame]
        if (before[-1] if before else "reach") == self.to:
            what = "reaches" if self.to == "reach" else "is turned by hand"
            raise RuleError(f"{part.name} {what} there already. Nothing was changed.")
        after = _with(scene, part, known, known.changing_by((*known.every_change(), ReachChange(self.frame, self.to))))
        joints = self._without_key(scene) if self.to == "turn" else []
        return after.with_parts(with_key_here(after.part(joint), "turn.z", self.frame) for joint in joints)

    def remark(self, scene: Scene) -> str | None:
        names = [scene.part(joint).name for joint in self._without_key(scene)] if self.to == "turn" else []
        if not names:
            return None
        return f"Turn of {listed(names)}: a key at frame {self.frame:g} from which hands go on; nothing moves by it."

    def _without_key(self, scene: Scene) -> list[str]:
        """The joints of the chain that have no key on their turn at the frame; locked ones get none."""
        joints = chains_of(scene.parts).get((self.part, self.constraint), ())
        parts = (scene.part(joint) for joint in joints)
        return [
            part.id
            for part in parts
            if not part.locked and part.channels.get("turn.z", BARE).key_at(self.frame) is None
        ]


@dataclass(frozen=True)
class MoveChange(Edit, kind="move_change"):
    """Move the frame from which a part is carried by another, or reaches or is turned; one that is there gives way."""

    part: str
    constraint: str
    frame: float
    to: float
    is_whole: bool = True

    def label(self, scene: Scene) -> str:
        return f"{_name(scene, self)} changes at frame {rounded(self.to, self.is_whole):g}"

    def apply(self, scene: Scene) -> Scene:
        part, known, moved, others = _changing(scene, self)
        return _with(
            scene, part, known, known.changing_by((*others, replace(moved, frame=rounded(self.to, self.is_whole))))
        )


@dataclass(frozen=True)
class DropChange(Edit, kind="drop_change"):
    """Take away a frame from which a part changes hands, so that what holds before it goes on; the last one of a part
    that is carried takes the constraint with it.
    """

    part: str
    constraint: str
    frame: float

    def label(self, scene: Scene) -> str:
        return f"{_name(scene, self)} goes on past frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        part, known, _, others = _changing(scene, self)
        if known.needs("change") and not others:
            return RemoveConstraint(self.part, self.constraint).apply(scene)
        return _with(scene, part, known, known.changing_by(others))


def _name(scene: Scene, edit: MoveChange | DropChange) -> str:
    part = scene.part(edit.part)
    return f"{constraint_of(part, edit.constraint).name} of {part.name}"


def _changing(
    scene: Scene, edit: MoveChange | DropChange
) -> tuple[Part, Constraint, Hold | ReachChange, list[Hold | ReachChange]]:
    """The part, its constraint that changes at the edit's frame, what changes there, and what at other frames."""
    (part,) = unlocked(scene, [edit.part])
    known = constraint_of(part, edit.constraint)
    here = next((one for one in known.every_change() if one.frame == edit.frame), None)
    if here is None:
        raise RuleError(f"{known.name} of {part.name} does not change at frame {edit.frame:g}. Nothing was changed.")
    return part, known, here, [one for one in known.every_change() if one is not here]


def _with(scene: Scene, part: Part, known: Constraint, made: Constraint) -> Scene:
    return scene.with_parts([replace(part, constraints=exchanged_for(part.constraints, known, made))])
