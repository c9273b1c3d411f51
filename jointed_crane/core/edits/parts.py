"""Edits that bring parts in, take them away, name, hide, lock and order them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jointed_crane.core.edits.edit import Edit, named, unlocked
from jointed_crane.core.edits.placing import inverse_of, rejoined
from jointed_crane.core.errors import RuleError
from jointed_crane.core.hierarchy import ancestors, free_name
from jointed_crane.core.scene import HelperForm, Inherits, Part, Scene, Tag, TurnOrder, Vector
from jointed_crane.core.shown import shown_pivot, shown_world


@dataclass(frozen=True)
class AddParts(Edit, kind="add_parts"):
    """Put new parts in front of all others, in the order given from back to front; names are made unique."""

    parts: tuple[Part, ...]

    def label(self, scene: Scene) -> str:
        return f"Bring in {named(self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        taken = {part.name for part in scene.parts}
        added = []
        for part in self.parts:
            if part.id in scene.index:
                raise RuleError(f"A part with the id {part.id!r} is in the scene already. Nothing was changed.")
            name = free_name(part.name, taken)
            taken.add(name)
            added.append(replace(part, name=name))
        return replace(scene, parts=(*scene.parts, *added))


@dataclass(frozen=True)
class AddHelper(Edit, kind="add_helper"):
    """Add a part without a picture. It becomes the parent of `over`, which stay where they are shown.

    It stands at `place` (px on the stage) or, without one, in the middle of the pivots of `over`.
    """

    id: str
    over: tuple[str, ...] = ()
    place: tuple[float, float] | None = None
    name: str = "Helper"
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Add helper {self.name}"

    def apply(self, scene: Scene) -> Scene:
        if self.id in scene.index:
            raise RuleError(f"A part with the id {self.id!r} is in the scene already. Nothing was changed.")
        children = unlocked(scene, self.over) if self.over else []
        parents = {part.parent for part in children}
        parent = parents.pop() if len(parents) == 1 else None
        place = self.place or self._middle(scene, children)
        world = shown_world(scene, parent, self.frame)
        helper = Part(
            id=self.id, name=free_name(self.name, (p.name for p in scene.parts)), kind="helper", parent=parent
        )
        at = inverse_of(world[:3, :3], helper) @ (np.array([*place, 0.0]) - world[:3, 3])
        helper = helper.with_rest({"move.x": at[0], "move.y": at[1], "move.z": at[2]})
        after = replace(scene, parts=(*scene.parts, helper))
        for child in children:
            after = rejoined(after, child.id, self.id, self.frame)
        return after

    def _middle(self, scene: Scene, children: list[Part]) -> tuple[float, float]:
        if not children:
            return (scene.width / 2, scene.height / 2)
        points = [shown_pivot(scene, part.id, self.frame) for part in children]
        x, y = np.mean(points, axis=0)[:2]
        return (float(x), float(y))


@dataclass(frozen=True)
class DeleteParts(Edit, kind="delete_parts"):
    """Take parts away. Their children stay where they are shown and hang on the nearest parent left."""

    parts: tuple[str, ...]
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Delete {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        doomed = {part.id for part in unlocked(scene, self.parts)}
        after = scene
        for part in scene.parts:
            if part.id in doomed or part.parent not in doomed:
                continue
            left = next((name for name in ancestors(scene, part.id) if name not in doomed), None)
            after = rejoined(after, part.id, left, self.frame)
        return replace(
            after,
            parts=tuple(part for part in after.parts if part.id not in doomed),
            isolated=tuple(part_id for part_id in after.isolated if part_id not in doomed),
        )


@dataclass(frozen=True)
class RenamePart(Edit, kind="rename_part"):
    """Give a part another name; two parts of a scene never share one."""

    part: str
    name: str

    def label(self, scene: Scene) -> str:
        return f"Rename {scene.part(self.part).name} to {self.name.strip()}"

    def apply(self, scene: Scene) -> Scene:
        name = self.name.strip()
        if any(part.name == name and part.id != self.part for part in scene.parts):
            raise RuleError(f"There is a part called {name} already. The old name was kept; choose another.")
        return scene.with_parts([replace(scene.part(self.part), name=name)])


@dataclass(frozen=True)
class SetBenchState(Edit, kind="set_bench_state"):
    """Hide or show, lock or unlock parts on the bench; nothing that is sent out changes. None keeps a state."""

    parts: tuple[str, ...]
    hidden: bool | None = None
    locked: bool | None = None

    def label(self, scene: Scene) -> str:
        if self.hidden is not None:
            act = "Hide" if self.hidden else "Unhide"
        else:
            act = "Lock" if self.locked else "Unlock"
        return f"{act} {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        return scene.with_parts(
            replace(
                part,
                hidden=part.hidden if self.hidden is None else self.hidden,
                locked=part.locked if self.locked is None else self.locked,
            )
            for part in map(scene.part, self.parts)
        )


@dataclass(frozen=True)
class UnscaleHelper(Edit, kind="unscale_helper"):
    """Bring a helper's rest scale to 1 while the parts on it stay where they lie at rest."""

    part: str

    def label(self, scene: Scene) -> str:
        return f"Unscale {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        children = [child.id for child in scene.children.get(part.id, ())]
        seats = {child: scene.part(child).seat for child in children}
        for child in children:
            scene = rejoined(scene, child, part.parent, None)
        scene = scene.with_parts([part.with_rest({f"scale.{axis}": 1.0 for axis in "xyz"})])
        for child in children:
            scene = rejoined(scene, child, part.id, None)
        return scene.with_parts(replace(scene.part(child), seat=seat) for child, seat in seats.items())


@dataclass(frozen=True)
class SetTag(Edit, kind="set_tag"):
    """Give parts a colour in the tree; an empty one takes it away."""

    parts: tuple[str, ...]
    tag: Tag = ""

    def label(self, scene: Scene) -> str:
        return f"Colour {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        return scene.with_parts(replace(scene.part(part_id), tag=self.tag) for part_id in self.parts)


@dataclass(frozen=True)
class Isolate(Edit, kind="isolate"):
    """Show only these parts on the bench; none named shows all again. Nothing that is sent out changes."""

    parts: tuple[str, ...] = ()

    def label(self, scene: Scene) -> str:
        return f"Isolate {named(map(scene.part, self.parts))}" if self.parts else "Show all parts again"

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, isolated=tuple(scene.part(part_id).id for part_id in dict.fromkeys(self.parts)))


@dataclass(frozen=True)
class SilenceFinding(Edit, kind="silence_finding"):
    """Stop reporting a finding of the checks for parts, or report it again."""

    parts: tuple[str, ...]
    finding: str
    silent: bool = True

    def label(self, scene: Scene) -> str:
        return f"{'Silence' if self.silent else 'Report'} “{self.finding}”"

    def apply(self, scene: Scene) -> Scene:
        changed = []
        for part in map(scene.part, self.parts):
            left = {*part.silenced, self.finding} if self.silent else {*part.silenced} - {self.finding}
            changed.append(replace(part, silenced=tuple(sorted(left))))
        return scene.with_parts(changed)


def _parted(scene: Scene, part_ids: tuple[str, ...]) -> tuple[list[Part], list[Part]]:
    """The parts of these ids and all others, each in painting order."""
    picked = {scene.part(part_id).id for part_id in part_ids}
    moving = [part for part in scene.parts if part.id in picked]
    return moving, [part for part in scene.parts if part.id not in picked]


@dataclass(frozen=True)
class Reorder(Edit, kind="reorder"):
    """Change the painting order of parts, which keep their order among themselves."""

    parts: tuple[str, ...]
    to: Literal["front", "forward", "backward", "back"]

    def label(self, scene: Scene) -> str:
        way = {"front": "to the front", "forward": "forward", "backward": "backward", "back": "to the back"}[self.to]
        return f"Bring {named(scene.part(part_id) for part_id in self.parts)} {way}"

    def apply(self, scene: Scene) -> Scene:
        moving, staying = _parted(scene, self.parts)
        if not moving:
            return scene
        lowest, highest = scene.index[moving[0].id], scene.index[moving[-1].id]
        at = {
            "front": len(staying),
            "back": 0,
            "forward": highest - len(moving) + 2,
            "backward": lowest - 1,
        }[self.to]
        at = min(max(at, 0), len(staying))
        return replace(scene, parts=(*staying[:at], *moving, *staying[at:]))


@dataclass(frozen=True)
class PlaceInOrder(Edit, kind="place_in_order"):
    """Paint parts directly in front of another one, or behind everything where `above` is None."""

    parts: tuple[str, ...]
    above: str | None = None

    def label(self, scene: Scene) -> str:
        moved = named(scene.part(part_id) for part_id in self.parts)
        return (
            f"Paint {moved} in front of {scene.part(self.above).name}" if self.above else f"Paint {moved} at the back"
        )

    def apply(self, scene: Scene) -> Scene:
        moving, staying = _parted(scene, self.parts)
        if self.above is not None and scene.part(self.above).id in self.parts:
            raise RuleError(f"{scene.part(self.above).name} cannot be painted in front of itself. Nothing was changed.")
        at = 0 if self.above is None else [part.id for part in staying].index(self.above) + 1
        return replace(scene, parts=(*staying[:at], *moving, *staying[at:]))


@dataclass(frozen=True)
class SetPlacement(Edit, kind="set_placement"):
    """Change how a part's placement is computed: turn order, spin centre (px in art space), what it inherits.

    `size` (px) and `form` say how a helper is drawn, and nothing else: they never scale its children.

    None keeps one of them; `spin_about_art_centre` takes the spin centre back to the middle of the art.
    """

    part: str
    turn_order: TurnOrder | None = None
    spin_centre: Vector | None = None
    spin_about_art_centre: bool = False
    inherits: Inherits | None = None
    size: float | None = None
    form: HelperForm | None = None

    def label(self, scene: Scene) -> str:
        return f"Change placement of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        return scene.with_parts(
            [
                replace(
                    part,
                    turn_order=self.turn_order or part.turn_order,
                    spin_centre=None if self.spin_about_art_centre else self.spin_centre or part.spin_centre,
                    inherits=self.inherits or part.inherits,
                    size=part.size if self.size is None else self.size,
                    form=self.form or part.form,
                )
            ]
        )
