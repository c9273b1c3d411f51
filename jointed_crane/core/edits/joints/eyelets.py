"""Edits of eyelets, and seating: bringing a child's pivot into an eyelet of its parent and keeping it there."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.constraints.constraining import without_constraints
from jointed_crane.core.edits.shared.edit import Edit, chosen, named, unlocked
from jointed_crane.core.edits.shared.places import PointUnit, own_place
from jointed_crane.core.edits.shared.points import PointEdit
from jointed_crane.core.edits.shared.staying import kept_as_shown
from jointed_crane.core.edits.shared.values_on_screen import motion_value, with_value
from jointed_crane.core.edits.shared.way_back import brought, is_placed_by_constraints
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.hierarchy.dependencies import waves
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.measures.gaps import matching_eyelet
from jointed_crane.core.measures.snapping import NO_SNAPPING, Snap, Snapping, nearest
from jointed_crane.core.model.scene import Eyelet, Part, Scene
from jointed_crane.core.viewing.projection import carried, in_art_space
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]
#: A pivot this near its eyelet has come home, px.
_HOME = 1e-9
#: A part that drives what it hangs on moves its own eyelet while it comes there.
_ROUNDS = 30


def _known(part: Part, eyelet_id: str) -> Eyelet:
    eyelet = part.eyelet(eyelet_id)
    if eyelet is None:
        raise RuleError(f"{part.name} has no such eyelet. Nothing was changed.")
    return eyelet


def _place(child: Part, eyelet: Eyelet, parent_world: Floats) -> Floats:
    """An eyelet as a place for a child's pivot, shape (3,): in the parent's art space or, for a child that does not
    take its position from there, on the stage.
    """
    point = np.array(eyelet.point, dtype=np.float64)
    return point if child.inherits.position else carried(parent_world, point)


def _exchanged(part: Part, known: Eyelet, changed: Eyelet) -> Part:
    return replace(part, eyelets=tuple(changed if eyelet is known else eyelet for eyelet in part.eyelets))


@dataclass(frozen=True)
class AddEyelet(PointEdit, kind="add_eyelet"):
    """Add an eyelet to a part at a point; its name is made unique on the part.

    Without a name it takes that of the child whose pivot lies there, within 12 px on the stage.
    """

    part: str
    id: str
    point: tuple[float, float]
    unit: PointUnit = "art"
    name: str = ""
    snapping: Snapping = NO_SNAPPING
    frame: float | None = None
    view: View = STAGE
    z: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Add eyelet to {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        part, point = self.placed(scene)
        name = self.name or self._child_there(scene, part, point) or "Eyelet"
        name = free_name(name, (eyelet.name for eyelet in part.eyelets))
        return scene.with_parts([replace(part, eyelets=(*part.eyelets, Eyelet(self.id, name, point)))])

    def _child_there(self, scene: Scene, part: Part, point: Vector) -> str:
        place = carried(world_at(scene, part.id, self.frame), np.array(point))
        near = [
            (float(np.linalg.norm(pivot_at(scene, child.id, self.frame) - place)), child.name)
            for child in scene.children.get(part.id, ())
        ]
        distance, name = min(near, default=(np.inf, ""))
        return name if distance <= 12.0 else ""


@dataclass(frozen=True)
class MakeJoints(Edit, kind="make_joints"):
    """Put an eyelet on the parent under the pivot of each part, named like the part, and seat the part in it.

    Where the parent has an eyelet of that name in which nothing else is seated, that one comes to the pivot. Nothing
    moves. Ids are `id_prefix` and a number.
    """

    parts: tuple[str, ...]
    id_prefix: str
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Joint for {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        made = 0
        for number, part in enumerate(unlocked(scene, self.parts)):
            if part.parent is None:
                continue
            parent = scene.part(part.parent)
            place = pivot_at(scene, part.id, self.frame)
            world = world_at(scene, parent.id, self.frame)
            x, y, z = (float(value) for value in in_art_space(world, place, parent))
            known = matching_eyelet(scene, replace(part, seat=None))
            if known and any(child.seat == known.id and child.id != part.id for child in scene.children[parent.id]):
                known = None  # it is the seat of another child, which stays where it is
            others = tuple(other for other in parent.eyelets if other is not known)
            name = free_name(part.name, (other.name for other in others))
            eyelet = Eyelet(known.id if known else f"{self.id_prefix}{number}", name, (x, y, z))
            scene = scene.with_parts(
                [replace(parent, eyelets=(*others, eyelet)), replace(scene.part(part.id), seat=eyelet.id)]
            )
            made += 1
        if not made:
            raise RuleError("None of the picked parts has a parent. Nothing was changed; join them first.")
        return scene


@dataclass(frozen=True)
class MoveEyelet(PointEdit, kind="move_eyelet"):
    """Move an eyelet. Children seated in it come along by the same way, so none of them opens a gap."""

    part: str
    eyelet: str
    point: tuple[float, float]
    unit: PointUnit = "art"
    snapping: Snapping = NO_SNAPPING
    frame: float | None = None
    view: View = STAGE
    z: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Move eyelet of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        part, point = self.placed(scene)
        eyelet = _known(part, self.eyelet)
        moved = replace(eyelet, point=point)
        world = world_at(scene, part.id, self.frame)
        changed = [_exchanged(part, eyelet, moved)]
        for child in scene.children.get(part.id, ()):
            if child.seat == eyelet.id:
                changed.append(child.with_rest_moved(_place(child, moved, world) - _place(child, eyelet, world)))
        return scene.with_parts(changed)

    def held_level(self, part: Part) -> float:
        return _known(part, self.eyelet).point[2]

    def place_near(self, scene: Scene, part: Part, at: Vector) -> Snap | None:
        return nearest(scene, part, at, self.snapping, self.frame, self.eyelet, view=self.view)


@dataclass(frozen=True)
class RenameEyelet(Edit, kind="rename_eyelet"):
    """Give an eyelet another name; two eyelets of a part never share one."""

    part: str
    eyelet: str
    name: str

    def label(self, scene: Scene) -> str:
        return f"Rename eyelet of {scene.part(self.part).name} to {self.name.strip()}"

    def apply(self, scene: Scene) -> Scene:
        part = scene.part(self.part)
        eyelet = _known(part, self.eyelet)
        name = self.name.strip()
        if any(other.name == name and other is not eyelet for other in part.eyelets):
            raise RuleError(f"{part.name} has an eyelet called {name} already. The old name was kept; choose another.")
        return scene.with_parts([_exchanged(part, eyelet, replace(eyelet, name=name))])


@dataclass(frozen=True)
class DeleteEyelet(Edit, kind="delete_eyelet"):
    """Take an eyelet away; children seated in it stay where they are and are free."""

    part: str
    eyelet: str

    def label(self, scene: Scene) -> str:
        return f"Delete eyelet of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        eyelet = _known(part, self.eyelet)
        left = tuple(other for other in part.eyelets if other is not eyelet)
        after = without_constraints(scene, lambda goal: goal.part == part.id and goal.named == eyelet.id)
        freed = [replace(child, seat=None) for child in after.children.get(part.id, ()) if child.seat == eyelet.id]
        after = after.with_parts([replace(after.part(part.id), eyelets=left), *freed])
        return kept_as_shown(scene, after, None)


@dataclass(frozen=True)
class Seat(Edit, kind="seat"):
    """Bring the pivots of parts into eyelets of their parents, and keep them there.

    `parts` empty means every part that has an eyelet to lie in. `eyelet` chooses one for all of them; without it each
    part takes the eyelet it is seated in or the one that `pattern` names. In Motion the gap is closed by a key on the
    moves alone; the seat itself and the rest stay as they are. A part that does not inherit its parent's position is
    brought home where the parent is shown now.
    """

    KEYS_VALUES = True

    parts: tuple[str, ...] = ()
    eyelet: str | None = None
    pattern: str = "{name}"
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Seat {named(scene.part(part_id) for part_id in self.parts)}" if self.parts else "Seat all"

    def apply(self, scene: Scene) -> Scene:
        ids = {part.id for part in chosen(scene, self.parts)}
        wanted = self._wanted(scene, ids)
        if not wanted:
            raise RuleError("No part has an eyelet to lie in. Add eyelets to the parents, named like the children.")
        after = self._brought(scene, wanted, nearer_than=-1.0)
        # What is moved may drive the moves of others. No loop is driven, so each round is the last one for some.
        for _ in ids if any(part.links for part in scene.parts) else ():
            before, after = after, self._brought(after, wanted, nearer_than=_HOME)
            if after is before:
                break
        return after

    def _wanted(self, scene: Scene, ids: set[str]) -> list[list[tuple[str, Eyelet]]]:
        """The parts that have an eyelet to lie in, with it; parents before their children, since some seats lie where
        their parent is shown.
        """
        result = []
        for wave in waves(scene.parts):
            own = []
            for part in (scene.parts[place] for place in wave if scene.parts[place].id in ids):
                eyelet = self._eyelet(scene, part)
                if eyelet is not None:
                    own.append((part.id, eyelet))
                elif self.parts:
                    raise RuleError(
                        f"{part.name} has no eyelet to lie in: its parent has none of its name. "
                        "Nothing was changed; add one to the parent or choose one on the joint card."
                    )
            result.append(own)
        return [own for own in result if own]

    def _brought(self, scene: Scene, wanted: list[list[tuple[str, Eyelet]]], nearer_than: float) -> Scene:
        """The scene with those parts seated that lie no nearer than so many px; the scene itself where all do."""
        for own in wanted:
            parts = [(scene.part(part_id), eyelet) for part_id, eyelet in own]
            plain = [pair for pair in parts if not is_placed_by_constraints(pair[0])]
            steps = ((part, eyelet, self._step(scene, part.id, eyelet)) for part, eyelet in plain)
            seated = [self._seated(*each) for each in steps if np.abs(each[2]).max() > nearer_than]
            scene = scene.with_parts(seated) if seated else scene
            for part, eyelet in parts:
                if is_placed_by_constraints(part):
                    scene = self._led_home_or_left(scene, part, eyelet, nearer_than)
        return scene

    def _led_home_or_left(self, scene: Scene, part: Part, eyelet: Eyelet, nearer_than: float) -> Scene:
        """Of all parts those that cannot come home by any number have their own place there alone."""
        try:
            return self._led_home(scene, part, eyelet, nearer_than)
        except RuleError:
            if self.parts:
                raise
        return scene.with_parts([self._seated(part, eyelet, self._step(scene, part.id, eyelet))])

    def _led_home(self, scene: Scene, part: Part, eyelet: Eyelet, nearer_than: float) -> Scene:
        """A part that constraints place, brought into an eyelet by their numbers."""
        for _ in range(_ROUNDS):
            there = carried(world_at(scene, part.parent, self.frame), np.array(eyelet.point))
            off = there - pivot_at(scene, part.id, self.frame)
            if np.abs(off[: 3 if scene.depth else 2]).max() <= max(nearer_than, _HOME):
                break
            scene = brought(scene, part.id, {"place": there}, self.frame, "shown", may_lead=False)
        kept = scene.part(part.id)
        return scene if self.frame is not None else scene.with_parts([replace(kept, seat=eyelet.id)])

    def _eyelet(self, scene: Scene, part: Part) -> Eyelet | None:
        if self.eyelet is None:
            return matching_eyelet(scene, part, self.pattern)
        if part.parent is None:
            raise RuleError(f"{part.name} has no parent to be seated in. Nothing was changed; join it first.")
        return _known(scene.part(part.parent), self.eyelet)

    def _step(self, scene: Scene, part_id: str, eyelet: Eyelet) -> Floats:
        """How far the pivot of a part is from its eyelet, px in the space where the part has its own place."""
        part = scene.part(part_id)
        world = np.eye(4) if part.inherits.position else world_at(scene, part.parent, self.frame)
        return _place(part, eyelet, world) - own_place(scene, part, self.frame)

    def _seated(self, part: Part, eyelet: Eyelet, step: Floats) -> Part:
        if self.frame is None:
            return replace(part, seat=eyelet.id).with_rest_moved(step)
        for axis, by in zip("xyz", step, strict=True):
            if abs(by) > 1e-12:
                now = motion_value(part, f"move.{axis}", self.frame)
                part = with_value(part, f"move.{axis}", now + float(by), self.frame)
        return part


@dataclass(frozen=True)
class Unseat(Edit, kind="unseat"):
    """Free parts from their eyelets; they stay where they are."""

    parts: tuple[str, ...]

    def label(self, scene: Scene) -> str:
        return f"Unseat {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        return scene.with_parts(replace(part, seat=None) for part in unlocked(scene, self.parts))
